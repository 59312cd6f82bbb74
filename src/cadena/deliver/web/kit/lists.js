// Lists: scroll, search, order, groups, and moving along them by key (rule 7).

import { rowChosen } from './asking.js';
import { barsOf, columnOf } from './column.js';
import { Refused, note } from './notes.js';
import { hasClosingGroups } from './query.js';
import { entriesOf, rowRef, withEachEntry, withView } from './session.js';
import { EDGE, TILE_GAP } from './sizes.js';
import { targetOf } from './targets.js';
import { held, without } from './values.js';

/** The size of the part of a screen that scrolls. @param {WiredApp} app @param {Entry} entry @param {Area} area */
export function viewOf(app, entry, area) {
  const isPicking = Object.keys(entry.view.picked).length > 0;
  const bars = barsOf(app, entry.screen, area.width, isPicking);
  return [area.width, Math.max(0, area.height - bars.top - bars.bottom)];
}

/** The row that a list keeps in view: the chosen one, else the one it led on from. @param {WiredApp} app @param {Session} session @param {number} index */
function rowToShow(app, session, index) {
  const entry = entriesOf(session)[index];
  let row = rowChosen(app, session, index);
  if (!row) {
    const part = Object.keys(entry.view.last).find((each) => app.listing(entry.screen, each));
    row = part === undefined ? null : rowRef(part, entry.view.last[part]);
  }
  const listing = row && app.listing(entry.screen, row.part);
  return listing && (listing.keepInView ?? true) ? row : null;
}

/**
 * How far an entry on display is scrolled (7.2, 7.3). The anchor says; in a view of another size
 * than the one it was scrolled in, the row to keep in view is shown by the least that shows it.
 * @param {WiredApp} app
 * @param {Session} session
 * @param {number} index
 * @param {Area} area
 * @param {Column} [laid]
 */
export function offsetOf(app, session, index, area, laid) {
  const entry = entriesOf(session)[index];
  const [width, height] = viewOf(app, entry, area);
  const column = laid ?? columnOf(app, session, entry, width);
  const anchor = entry.view.scroll;
  let offset = within(anchor ? column.offsetOf(anchor) : 0, column, height);
  if (!anchor?.seen || anchor.seen[0] !== width || anchor.seen[1] !== height) {
    const row = rowToShow(app, session, index);
    const extent = row && extentToShow(column, row.part, row.key, height);
    if (extent) offset = within(leastShowing(offset, extent, height), column, height);
  }
  return offset;
}

/** @param {number} offset @param {Column} column @param {number} height */
const within = (offset, column, height) => Math.max(0, Math.min(offset, column.total - height));

/** What is to be in view for a row: with the title of its group, where both have room. @param {Column} column @param {string} part @param {any} key @param {number} height @returns {[number, number] | null} */
function extentToShow(column, part, key, height) {
  const extent = column.extentOf(part, key);
  if (!extent || extent[1] - extent[0] <= height) return extent;
  return [extent[0] + column.lead(part, key), extent[1]];
}

/** @param {number} offset @param {[number, number]} extent @param {number} height */
const leastShowing = (offset, [top, bottom], height) =>
  Math.min(bottom > offset + height ? bottom - height : offset, top);

/** The session with an entry scrolled so far, as far as its content allows. @param {WiredApp} app @param {Session} session @param {number} index @param {Area} area @param {number} offset */
export function scrolled(app, session, index, area, offset) {
  const entry = entriesOf(session)[index];
  const [width, height] = viewOf(app, entry, area);
  const column = columnOf(app, session, entry, width);
  const anchor = column.firstInView(within(offset, column, height));
  return withView(session, index, { scroll: anchor && { ...anchor, seen: [width, height] } });
}

/** The session with an entry scrolled by the least that shows a row. @param {WiredApp} app @param {Session} session @param {number} index @param {Area} area @param {string} part @param {any} key */
export function shownRow(app, session, index, area, part, key) {
  const entry = entriesOf(session)[index];
  const [width, height] = viewOf(app, entry, area);
  const column = columnOf(app, session, entry, width);
  const extent = extentToShow(column, part, key, height);
  const offset = offsetOf(app, session, index, area, column);
  if (!extent || leastShowing(offset, extent, height) === offset) return session;
  return scrolled(app, session, index, area, leastShowing(offset, extent, height));
}

/** Scroll by some dp, to some dp from the top, or so that a row is the first in view. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function scroll(app, session, event) {
  const { index, area, entry } = targetOf(app, session, event);
  const part = event.list ?? '';
  if (part && app.listing(entry.screen, part).layout === 'strip')
    return scrollStrip(app, session, index, area, event);
  let offset;
  if ((event.row ?? null) !== null) {
    const extent = columnOf(app, session, entry, area.width).extentOf(part, event.row);
    if (!extent) throw new Refused('row not shown', `screens[${entry.screen}]`, { key: event.row });
    [offset] = extent;
  } else if ((event.to ?? null) !== null) {
    offset = event.to;
  } else if ((event.by ?? null) !== null) {
    offset = offsetOf(app, session, index, area) + event.by;
  } else {
    throw new Refused('scroll to nothing');
  }
  return [scrolled(app, session, index, area, offset), []];
}

/** @param {WiredApp} app @param {Session} session @param {number} index @param {Area} area @param {any} event @returns {Taken} */
function scrollStrip(app, session, index, area, event) {
  const entry = entriesOf(session)[index];
  const listed = app.listed(session, entry, event.list);
  if (!listed?.rows.length) throw new Refused('strip is empty', placeOf(entry, event.list));
  const each = (listed.listing.tile ?? 132) + TILE_GAP;
  let offset;
  if ((event.row ?? null) !== null) {
    const at = listed.rows.indexOf(event.row);
    if (at === null)
      throw new Refused('row not on strip', placeOf(entry, event.list), { key: event.row });
    offset = at * each;
  } else {
    offset = event.to ?? acrossOf(app, session, index, area.width, event.list) + (event.by ?? 0);
  }
  offset = Math.max(0, Math.min(offset, stripWidth(listed) - area.width));
  const at = Math.min(Math.floor(offset / each), listed.rows.length - 1);
  const anchor = {
    part: event.list,
    key: listed.rows.keyAt(at),
    above: offset - at * each,
    index: at,
    seen: [area.width, 0],
  };
  return [withView(session, index, { across: { ...entry.view.across, [event.list]: anchor } }), []];
}

/** How wide the tiles of a strip are together. @param {Listed} listed */
export const stripWidth = (listed) =>
  listed.rows.length * ((listed.listing.tile ?? 132) + TILE_GAP) + 2 * EDGE - TILE_GAP;

/** How far a strip is scrolled: by its anchor, and so that its chosen tile shows. @param {WiredApp} app @param {Session} session @param {number} index @param {number} width @param {string} part */
export function acrossOf(app, session, index, width, part) {
  const entry = entriesOf(session)[index];
  const listed = app.listed(session, entry, part);
  if (!listed?.rows.length) return 0;
  const each = (listed.listing.tile ?? 132) + TILE_GAP;
  const anchor = held(entry.view.across, part);
  let offset = 0;
  if (anchor) {
    const at = listed.rows.indexOf(anchor.key) ?? Math.min(anchor.index, listed.rows.length - 1);
    offset = at * each + anchor.above;
  }
  if (!anchor?.seen || anchor.seen[0] !== width || anchor.seen[1] !== 0) {
    const row = rowChosen(app, session, index);
    const key = held(entry.view.choice, part) ?? (row?.part === part ? row.key : null);
    const at = key === null ? null : listed.rows.indexOf(key);
    if (at !== null) offset = leastShowing(offset, [at * each, (at + 1) * each + EDGE], width);
  }
  return Math.max(0, Math.min(offset, Math.max(0, stripWidth(listed) - width)));
}

/** Show another page; each is scrolled as it was left. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function turnPage(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const { view } = entry;
  const names = app.pages(entry.screen).map((page) => page.id);
  const here = names.includes(view.page) ? view.page : names[0];
  const turned = without(view.turned, here, event.to);
  if (view.scroll) turned[here] = view.scroll;
  const scroll = held(view.turned, event.to) ?? null;
  return [
    withView(session, index, { page: event.to, turned, scroll }),
    [note('page', '', { page: event.to })],
  ];
}

/** A search starts at the top, unless the chosen row is among what was found (7.3). @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function search(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const part = event.list ?? '';
  if (!app.listing(entry.screen, part).search?.length)
    throw new Refused('no search', placeOf(entry, part));
  const texts = without(entry.view.search, part);
  if (event.text) texts[part] = event.text;
  return [withView(session, index, { search: texts, scroll: null }), []];
}

/** Take an order; none asked for means the list's own (7.7). @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function sort(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const part = event.list ?? '';
  const by = event.by ?? [];
  const listing = app.listing(entry.screen, part);
  for (const { field } of by) {
    if (!app.canSort(listing, field))
      throw new Refused('no such order', placeOf(entry, part), { field });
  }
  const orders = without(entry.view.sort, part);
  if (by.length) orders[part] = by;
  return [withView(session, index, { sort: orders, scroll: unsettled(entry.view.scroll) }), []];
}

/** An anchor that no longer answers for the chosen row being in view. @param {Anchor | null} anchor */
const unsettled = (anchor) => anchor && { ...anchor, seen: null };

/** After the records of a source came again, its lists bring their chosen rows into view. @param {WiredApp} app @param {Session} session @param {string} source */
export function unsettle(app, session, source) {
  return withEachEntry(session, (chain, index, entry) => {
    const { view } = entry;
    const isOf = (/** @type {string} */ part) => app.listing(entry.screen, part)?.source === source;
    const parts = [...(app.listings.get(entry.screen)?.keys() ?? [])];
    if (!parts.some(isOf) || (!view.scroll && !Object.keys(view.across).length)) return entry;
    const across = Object.fromEntries(
      Object.entries(view.across).map(([part, anchor]) => [
        part,
        isOf(part) ? { ...anchor, seen: null } : anchor,
      ]),
    );
    return { ...entry, view: { ...view, scroll: unsettled(view.scroll), across } };
  });
}

/** @param {Entry} entry @param {string} part */
const placeOf = (entry, part) =>
  part ? `screens[${entry.screen}].blocks[${part}]` : `screens[${entry.screen}]`;

/** The row that a key leads to, and the row it leads from (7.4). @param {WiredApp} app @param {Session} session @param {number} index @param {Area} area @param {any} event */
export function goalOf(app, session, index, area, event) {
  const entry = entriesOf(session)[index];
  const part = event.list ?? '';
  const listed = app.listed(session, entry, part);
  if (!listed?.rows.length) throw new Refused('list is empty', placeOf(entry, part));
  const isStrip = listed.listing.layout === 'strip';
  if (isStrip && (event.to === 'up' || event.to === 'down'))
    throw new Refused('strip goes across', placeOf(entry, part));
  const stack =
    columnOf(app, session, entry, area.width).rows(part)?.stack ?? app.stack(listed, area.width);
  const { rows } = listed;
  const here = standing(app, session, index, part);
  const at = here === null ? null : rows.indexOf(here);
  const goal = goalFrom(stack, at, event.to, viewOf(app, entry, area)[1] - stack.heads);
  const seen = notHidden(stack, goal, at);
  if (seen === null) throw new Refused('groups are closed', placeOf(entry, part));
  return { goal: rows.keyAt(seen), here };
}

/** @param {RowStack} stack @param {number | null} at @param {string} to @param {number} height */
function goalFrom(stack, at, to, height) {
  const last = stack.count - 1;
  if (to === 'home') return 0;
  if (to === 'end') return last;
  if (to === 'page down') {
    const first = at ?? 0;
    return Math.min(last, Math.max(first + 1, stack.at(stack.top(first) + height - 1)));
  }
  if (at === null) return 0;
  switch (to) {
    case 'left':
      return Math.max(0, at - 1);
    case 'right':
      return Math.min(last, at + 1);
    case 'up':
      return at >= stack.columns ? at - stack.columns : at;
    case 'down':
      return lineBelow(stack, at);
    default:
      return Math.max(0, Math.min(at - 1, stack.at(stack.top(at + 1) - height + 1)));
  }
}

/** The goal, or the next row that shows on the way there and beyond; else the one before. @param {RowStack} stack @param {number} goal @param {number | null} at */
function notHidden(stack, goal, at) {
  const step = goal === stack.count - 1 || (at !== null && goal < at) ? -1 : 1;
  return stack.shown(goal, step) ?? stack.shown(goal, -step);
}

/** The row below one in a grid, or the last of a shorter line. @param {RowStack} stack @param {number} at */
function lineBelow(stack, at) {
  const below = stack.at(stack.bottom(at) + 1e-6);
  if (below <= at) return at;
  let goal = Math.min(below + at - stack.at(stack.top(at)), stack.count - 1);
  while (stack.top(goal) > stack.top(below)) goal -= 1;
  return goal;
}

/** The row that a list is at: the marked, else the chosen, else the last opened one (7.4). @param {WiredApp} app @param {Session} session @param {number} index @param {string} part */
export function standing(app, session, index, part) {
  const { view } = entriesOf(session)[index];
  const row = rowChosen(app, session, index);
  return (
    held(view.marker, part) ?? (row?.part === part ? row.key : (held(view.last, part) ?? null))
  );
}

/** Move the marker to a row, and show it. @param {WiredApp} app @param {Session} session @param {number} index @param {Area} area @param {string} part @param {any} key @returns {Taken} */
export function mark(app, session, index, area, part, key) {
  const marker = { ...entriesOf(session)[index].view.marker, [part]: key };
  const marked = withView(session, index, { marker });
  return [shownRow(app, marked, index, area, part, key), [note('marked', '', { key })]];
}

/** Open or close a group; what is above it in view stays where it is (7.1). @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function showGroup(app, session, event) {
  const { index, area, entry } = targetOf(app, session, event);
  const part = event.list ?? '';
  const where = `screens[${entry.screen}].blocks[${part}]`;
  const listed = app.listed(session, entry, part);
  if (!hasClosingGroups(app.listing(entry.screen, part)) || !listed)
    throw new Refused('groups stay', where);
  if (held(entry.view.search, part)) throw new Refused('groups are searched', where);
  const number = listed.rows.groups.findIndex((group) => group.title === event.title);
  if (number < 0) throw new Refused('no such group', where, { group: event.title });
  if (!listed.closed.has(number) === event.open)
    return [session, [note('group', 'already', { group: event.title })]];
  const turned = held(entry.view.groups, part) ?? [];
  const others = turned.filter((title) => title !== event.title);
  const now = others.length === turned.length ? [...turned, event.title] : others;
  const groups = without(entry.view.groups, part);
  if (now.length) groups[part] = now;
  const offset = offsetOf(app, session, index, area);
  if (offset || entry.view.scroll) session = scrolled(app, session, index, area, offset);
  return [
    withView(session, index, { groups }),
    [note('group', event.open ? 'opened' : 'closed', { group: event.title })],
  ];
}
