// Which records a list shows, and in what order (7.1).

import { keeping } from './conditions.js';
import { shown } from './values.js';
import { stackRows } from './rows.js';

export const OTHERS = 'Others';
const PAST_LIMIT = '{shown} shown, {found} found, {all} in all';

/** The rows of a list, as positions in its records. */
export class Rows {
  /**
   * @param {Records} records
   * @param {Int32Array} positions
   * @param {number} found how many passed the conditions and the search
   * @param {number} kept how many passed the conditions
   * @param {{at: number, title: string}[]} groups where each begins, and its title
   */
  constructor(records, positions, found, kept, groups = []) {
    this.records = records;
    this.positions = positions;
    this.found = found;
    this.kept = kept;
    this.groups = groups;
    /** @type {Int32Array | undefined} */
    this.index = undefined;
  }

  get length() {
    return this.positions.length;
  }

  /** Where on the list a key stands, or null. @param {any} key @returns {number | null} */
  indexOf(key) {
    const row = this.records.rowOf(key);
    if (row === null) return null;
    this.index ??= this.indexed();
    return this.index[row] < 0 ? null : this.index[row];
  }

  /** Where on the list each record stands, or -1. */
  indexed() {
    const index = new Int32Array(this.records.length).fill(-1);
    this.positions.forEach((row, at) => {
      index[row] = at;
    });
    return index;
  }

  /** @param {number} index */
  keyAt(index) {
    return this.records.keyAt(this.positions[index]);
  }

  /** @param {number} index */
  at(index) {
    return this.records.at(this.positions[index]);
  }

  /** Only the first rows, of as many found and kept. @param {number} count */
  first(count) {
    const groups = this.groups.filter((group) => group.at < count);
    return new Rows(this.records, this.positions.slice(0, count), this.found, this.kept, groups);
  }
}

/** @param {Records} records @param {any} listing @param {Asked} asked */
export function query(records, listing, asked) {
  const keeps = listing.where?.length ? keeping(records, listing.where, asked) : null;
  const words = asked.search.toLowerCase().split(/\s+/).filter(Boolean);
  const texts = words.length ? records.textsOf(listing.search ?? []) : [];
  const { rows } = records;
  let positions = records.order(asked.sort ?? listing.sort ?? []);
  if (keeps) positions = positions.filter((at) => keeps(rows[at]));
  const kept = positions.length;
  if (words.length)
    positions = positions.filter((at) => words.every((word) => texts[at].includes(word)));
  const found = positions.length;
  const grouped =
    listing.groupBy || listing.groups?.length
      ? inGroups(records, listing, asked, positions)
      : { positions, groups: [] };
  const made = new Rows(records, grouped.positions, found, kept, grouped.groups);
  return listing.limit !== undefined && listing.limit < found ? made.first(listing.limit) : made;
}

/** The rows group by group, each in the order they had. @param {Records} records @param {any} listing @param {Asked} asked @param {Int32Array} positions */
function inGroups(records, listing, asked, positions) {
  /** @type {(at: number) => number} */
  let groupOf;
  /** @type {string[]} */
  let titles;
  if (listing.groups?.length) {
    const tests = listing.groups.map((/** @type {any} */ group) =>
      keeping(records, group.where ?? [], asked),
    );
    titles = [...listing.groups.map((/** @type {any} */ group) => group.title), OTHERS];
    groupOf = (at) => {
      const number = tests.findIndex((/** @type {any} */ test) => test(records.rows[at]));
      return number < 0 ? tests.length : number;
    };
  } else if (records.type(listing.groupBy) !== undefined) {
    const numbers = new Int32Array(records.length);
    titles = [];
    const known = new Map();
    for (const at of records.order([{ field: listing.groupBy }])) {
      const value = records.value(records.rows[at], listing.groupBy);
      const told = JSON.stringify(value ?? null);
      if (!known.has(told)) known.set(told, titles.push(shown(value) || '–') - 1);
      numbers[at] = known.get(told);
    }
    groupOf = (at) => numbers[at];
  } else {
    return { positions, groups: [] };
  }
  const numbers = new Map(Array.from(positions, (at) => [at, groupOf(at)]));
  const sorted = Array.from(positions, (at, index) => ({
    at,
    index,
    number: numbers.get(at) ?? 0,
  }));
  sorted.sort((a, b) => a.number - b.number || a.index - b.index);
  const groups = [];
  for (let index = 0; index < sorted.length; index += 1) {
    if (!index || sorted[index].number !== sorted[index - 1].number) {
      groups.push({ at: index, title: titles[sorted[index].number] });
    }
  }
  return { positions: Int32Array.from(sorted, (each) => each.at), groups };
}

/** The rows of a list as they now are: with those asked for and not come, and groups that are closed. */
export class Listed {
  /** @param {any} listing @param {Rows} rows @param {Rows} asked @param {Set<number>} closed */
  constructor(listing, rows, asked = rows, closed = new Set()) {
    this.listing = listing;
    this.rows = rows;
    this.asked = asked;
    this.closed = closed;
    /** @type {Map<number, RowStack>} */
    this.stacks = new Map();
  }

  /** With the groups of these titles not as they are at first. @param {string[]} turned */
  withTurned(turned) {
    const isClosed = this.listing.groupsStart === 'closed';
    const closed = this.rows.groups.flatMap(({ title }, number) =>
      isClosed !== turned.includes(title) ? [number] : [],
    );
    return new Listed(this.listing, this.rows, this.asked, new Set(closed));
  }

  /** Whether a row is in a closed group. @param {number} at */
  isHidden(at) {
    return (
      this.closed.size > 0 && this.closed.has(this.rows.groups.findLastIndex((e) => e.at <= at))
    );
  }

  /** The first row that is in no closed group, or null. */
  get first() {
    if (!this.closed.size) return this.rows.length ? 0 : null;
    return this.rows.groups.find((_, number) => !this.closed.has(number))?.at ?? null;
  }

  /** What the list says of the rows that it does not show. @param {WiredApp} app */
  counts(app) {
    const { length: shown, found, kept: all } = this.rows;
    return app.words(this.listing.pastLimit || PAST_LIMIT, { shown, found, all });
  }

  /** How the rows stack in a column so many dp wide. @param {number} width @param {(row: any) => boolean} isShort */
  stack(width, isShort) {
    let stack = this.stacks.get(width);
    if (!stack) {
      stack = stackRows(this.listing, this.rows, width, this.closed, isShort);
      this.stacks.set(width, stack);
    }
    return stack;
  }
}

/** Whether a list has a bar over its rows. @param {any} listing */
export const hasBar = (listing) => Boolean(listing.search?.length || listing.orders?.length);

/** Whether the person can open and close the groups of a list. @param {any} listing */
export const hasClosingGroups = (listing) =>
  Boolean(listing.groupBy || listing.groups?.length) &&
  listing.layout !== 'strip' &&
  (listing.groupsStart ?? 'fixed') !== 'fixed';
