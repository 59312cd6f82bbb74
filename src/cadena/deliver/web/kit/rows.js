// Rows one under another, in one column or several: where each lies.

import {
  FOOT,
  GROUP,
  HEADS,
  ROWS,
  STRIP_PICTURE,
  STRIP_TILE,
  STRIP_TWO_LINES,
  TILE_GAP,
  TILE_TEXT,
  isNarrow,
} from './sizes.js';
import { columnsShown } from './table-columns.js';

/** Where each row lies, in dp from the top of the first. */
export class RowStack {
  /**
   * @param {number} count how many rows
   * @param {number | Float64Array} height of every line of rows, or that of each row
   * @param {{begins?: number[], columns?: number, width?: number, closed?: Set<number>, heads?: number}} more
   *   where groups begin, rows side by side, how wide these are together, closed groups, and how
   *   tall the heads above the first row are, which stay in view
   */
  constructor(
    count,
    height,
    { begins = [], columns = 1, width = 0, closed = new Set(), heads = 0 } = {},
  ) {
    this.heads = heads;
    this.count = count;
    this.columns = columns;
    this.width = width;
    this.begins = begins;
    this.closed = closed;
    this.each = typeof height === 'number' ? height : 0;
    /** @type {Float64Array | null} */
    this.tops = null;
    if (begins.length || width || typeof height !== 'number') this.lay(height);
    this.total = this.top(count);
  }

  /** @param {number | Float64Array} height */
  lay(height) {
    const tops = new Float64Array(this.count + 1);
    let [y, group, lineTop] = [0, -1, 0];
    for (let at = 0; at < this.count; at += 1) {
      if (this.begins[group + 1] === at) group += 1;
      const begin = group < 0 ? 0 : this.begins[group];
      if ((at - begin) % this.columns === 0) {
        lineTop = y;
        const high = typeof height === 'number' ? height : height[at];
        y += this.closed.has(group) ? 0 : high;
        if (at === begin && group >= 0) y += GROUP;
      }
      tops[at] = lineTop;
    }
    tops[this.count] = y;
    this.tops = tops;
  }

  /** The number of the group of a row. @param {number} index */
  groupOf(index) {
    return lastUpTo(this.begins, index);
  }

  /** @param {number} index */
  isHidden(index) {
    return this.closed.size > 0 && this.closed.has(this.groupOf(index));
  }

  /** The first row of the group of a row. @param {number} index */
  begin(index) {
    return this.begins.length ? this.begins[this.groupOf(index)] : 0;
  }

  /** The row after the last of the group of a row. @param {number} index */
  end(index) {
    return this.begins.length ? (this.begins[this.groupOf(index) + 1] ?? this.count) : this.count;
  }

  /** The nearest row that is not hidden, this one or after it; before it for -1. @param {number} index @param {number} step @returns {number | null} */
  shown(index, step = 1) {
    let at = index;
    while (at >= 0 && at < this.count && this.isHidden(at)) {
      const begin = this.begin(at);
      at = step < 0 ? begin - 1 : this.end(begin);
    }
    return at >= 0 && at < this.count ? at : null;
  }

  /** Where a row begins, with its group's title; of the one after the last, where all end. @param {number} index */
  top(index) {
    return this.heads + (this.tops ? this.tops[index] : this.each * index);
  }

  /** The room above a row that the title of its group takes. @param {number} index */
  lead(index) {
    return this.begins.length && index - this.begin(index) < this.columns ? GROUP : 0;
  }

  /** @param {number} index */
  bottom(index) {
    const after =
      this.columns > 1 && this.tops ? firstOver(this.tops, this.tops[index]) : index + 1;
    return this.top(Math.min(after, this.count));
  }

  /** @param {number} index */
  height(index) {
    return this.bottom(index) - this.top(index);
  }

  /** Where a row lies in rows so wide, without the title above it. @param {number} index @param {number} width */
  place(index, width) {
    const lead = this.lead(index);
    const [y, height] = [this.top(index) + lead, this.height(index) - lead];
    if (!this.width) return { x: 0, y, width, height };
    const each = (width - TILE_GAP * (this.columns + 1)) / this.columns;
    const column = (index - this.begin(index)) % this.columns;
    return {
      x: TILE_GAP + column * (each + TILE_GAP),
      y: y + TILE_GAP,
      width: each,
      height: height - TILE_GAP,
    };
  }

  /** The first row of the line at a height, the nearest outside; -1 when there are none. @param {number} y */
  at(y) {
    const down = y - this.heads;
    let found = this.each ? Math.floor(down / this.each) : 0;
    if (this.tops) {
      found = firstOver(this.tops.subarray(0, this.count), down) - 1;
      if (this.columns > 1 && found > 0) found = firstFrom(this.tops, this.tops[found]);
    }
    found = Math.min(Math.max(found, 0), this.count - 1);
    return this.isHidden(found) ? this.begin(found) : found;
  }
}

/** @param {ArrayLike<number>} sorted @param {number} value @returns {number} */
function firstOver(sorted, value) {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sorted[middle] <= value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** @param {ArrayLike<number>} sorted @param {number} value */
function firstFrom(sorted, value) {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sorted[middle] < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** @param {number[]} sorted @param {number} value */
const lastUpTo = (sorted, value) => firstOver(sorted, value) - 1;

/**
 * @param {any} listing
 * @param {Rows} rows
 * @param {number} width
 * @param {Set<number>} closed
 * @param {(row: any) => boolean} isShort whether the subtitle of a record says nothing
 */
export function stackRows(listing, rows, width, closed, isShort) {
  const begins = rows.groups.map((group) => group.at);
  if (listing.layout === 'grid') {
    const columns = Math.max(
      1,
      Math.floor((width - TILE_GAP) / (Math.max(listing.tile ?? 132, 48) + TILE_GAP)),
    );
    const tile = (width - TILE_GAP * (columns + 1)) / columns;
    const picture = listing.row?.picture ? tile * 0.75 : 0;
    return new RowStack(rows.length, picture + TILE_TEXT + TILE_GAP, {
      begins,
      columns,
      width,
      closed,
    });
  }
  if (columnsShown(listing, width).length)
    return new RowStack(rows.length, sizesOf(listing).oneLine, { begins, closed, heads: HEADS });
  const heights = rowHeights(listing, rows, width > 0 && isNarrow(width), isShort);
  return new RowStack(rows.length, heights, { begins, closed });
}

/** How high the rows of a list are (7.9). @param {any} listing */
const sizesOf = (listing) => ROWS[listing.density ?? 'regular'];

/** A picture makes each row tall, a subtitle that says nothing makes one short. @param {any} listing @param {Rows} rows @param {boolean} narrow @param {(row: any) => boolean} isShort @returns {number | Float64Array} */
function rowHeights(listing, rows, narrow, isShort) {
  const foot = narrow ? footOf(listing) : 0;
  const { withPicture, twoLines, oneLine } = sizesOf(listing);
  if (listing.row?.picture && !narrow) return withPicture;
  if (!listing.row?.subtitle) return oneLine + foot;
  let anyShort = false;
  const heights = Float64Array.from(rows.positions, (at) => {
    const short = isShort(rows.records.rows[at]);
    anyShort ||= short;
    return (short ? oneLine : twoLines) + foot;
  });
  return anyShort ? heights : twoLines + foot;
}

/** How tall the foot of a narrow row is, in dp. @param {any} listing */
export const footOf = (listing) => (listing.row?.badge || listing.actions?.length ? FOOT : 0);

/** How tall a strip across is, in dp. @param {any} listing */
export function stripHeight(listing) {
  const bare = listing.row?.subtitle ? STRIP_TWO_LINES : STRIP_TILE;
  return (listing.row?.picture ? STRIP_PICTURE : bare) + TILE_GAP;
}
