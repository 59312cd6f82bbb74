// A list in columns: which of them are shown in how much room, and how wide each is.

import { fieldsIn } from './say.js';
import { COLUMN_GAP, EDGE, HIDDEN, MORE, NARROW, PICK } from './sizes.js';

/** The columns of a list so wide; none where it is laid out otherwise, or where not even two have room: then rows are shown. @param {any} listing @param {number} width @param {boolean} isPicking @returns {{column: any, x: number, width: number}[]} */
export function columnsShown(listing, width, isPicking = false) {
  if (listing.layout !== 'columns' || width < NARROW) return [];
  const [picks, acts] = [(listing.several ?? 'no') !== 'no', Boolean(listing.actions?.length)];
  // Which there are does not change with what is picked.
  let room = width - (picks ? PICK : EDGE) - (acts ? MORE : EDGE);
  const columns = listing.columns ?? [];
  let [some, beside] = [fitting(columns, room), 0];
  if (some.length < columns.length) {
    // Beside the last it is said how many are not there.
    beside = HIDDEN;
    some = fitting(columns, room - beside);
  }
  if (some.length < 2) return [];
  let x = isPicking || listing.several === 'with boxes' ? PICK : EDGE;
  room = width - x - beside - (acts && !isPicking ? MORE : EDGE);
  return widths(some, room - COLUMN_GAP * (some.length - 1)).map((wide, at) => {
    const made = { column: some[at], x, width: wide };
    x += wide + COLUMN_GAP;
    return made;
  });
}

/** The first columns that have room, by the least that each is wide. @param {any[]} columns @param {number} room */
function fitting(columns, room) {
  let end = -COLUMN_GAP;
  return columns.filter((each) => {
    end += (each.least ?? 96) + COLUMN_GAP;
    return end <= room;
  });
}

/** How wide columns are together in a room: by their shares, and none under its least. @param {any[]} columns @param {number} room */
function widths(columns, room) {
  const made = columns.map((each) => each.least ?? 96);
  const share = (/** @type {number} */ at) => columns[at].share ?? 1;
  let [free, atShare] = [room, [...columns.keys()]];
  while (atShare.length) {
    const shares = atShare.reduce((sum, at) => sum + share(at), 0);
    const short = atShare.filter((at) => (free * share(at)) / shares < made[at]);
    if (!short.length) {
      for (const at of atShare) made[at] = (free * share(at)) / shares;
      break;
    }
    free -= short.reduce((sum, at) => sum + made[at], 0);
    atShare = atShare.filter((at) => !short.includes(at));
  }
  return made;
}

/** The field whose order a press on a head takes: the first that its column shows. @param {any} column @returns {string} */
export const sortsBy = (column) => fieldsIn(column.shows)[0] ?? column.shows;

/** The order that a press on a head takes: by its field, and once more the other way round. @param {any[]} sort @param {string} field */
export const orderByHead = (sort, field) => {
  const isTaken = sort[0]?.field === field && !sort[0].descending;
  return [isTaken ? { field, descending: true } : { field }];
};
