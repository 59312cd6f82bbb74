// The records of one source: each found by its key, never by its position (rules 1 and 8).

import { LIST, asTime, held, isDate } from './values.js';

/** @type {Changes} */
export const NO_CHANGES = Object.freeze({ changed: [], gone: [], added: [] });
/** @type {Record<string, string>} */
const OF_KEY = {
  text: 'string',
  picture: 'string',
  'whole number': 'number',
  number: 'number',
  'yes/no': 'boolean',
  date: 'string',
  'date and time': 'string',
};
let serials = 0;

/** One record, with what its references lead to. */
export class Found {
  /** @param {Records} records @param {Record<string, any>} row */
  constructor(records, row) {
    this.records = records;
    this.row = row;
  }

  /** The value of a field, or of a path; null where it is not there. @param {string} name */
  value(name) {
    return this.records.value(this.row, name);
  }

  get key() {
    return held(this.row, this.records.source.key) ?? null;
  }
}

/** Typed records with a key. */
export class Records {
  /**
   * @param {any} source
   * @param {Map<string, string>} types the type of each field, in order
   * @param {Record<string, any>[]} rows
   * @param {{far?: Far, typeOf?: (path: string) => string | undefined, isOfOthers?: (path: string) => boolean, only?: Set<string>}} more
   */
  constructor(source, types, rows, more = {}) {
    this.source = source;
    this.types = types;
    this.rows = rows;
    this.far = more.far;
    this.farType = more.typeOf;
    this.isOfOthers = more.isOfOthers;
    this.only = more.only;
    serials += 1;
    this.serial = serials;
    /** @type {Map<string, Map<any, number>>} */
    this.places = new Map();
    /** @type {Map<string, Map<any, number[]>>} */
    this.allPlaces = new Map();
    /** @type {Map<string, Int32Array>} */
    this.orders = new Map();
    /** @type {Map<string, string[]>} */
    this.lowered = new Map();
  }

  get length() {
    return this.rows.length;
  }

  /** The type of a field or of a path; none where it leads nowhere. @param {string} name @returns {string | undefined} */
  type(name) {
    return this.types.get(name) ?? this.farType?.(name);
  }

  /** @param {Record<string, any>} row @param {string} name */
  value(row, name) {
    const isOwn = this.types.has(name);
    const isLeft = this.only && !this.only.has(isOwn ? name : name.split('.')[0]);
    if (isLeft && (isOwn || !this.isOfOthers?.(name))) return null;
    if (isOwn) return held(row, name) ?? null;
    return this.far ? this.far(row, name) : null;
  }

  /** Where each value of a field first stands. @param {string} field */
  placesBy(field) {
    let places = this.places.get(field);
    if (!places) {
      places = new Map();
      for (let at = this.rows.length - 1; at >= 0; at -= 1) places.set(this.rows[at][field], at);
      this.places.set(field, places);
    }
    return places;
  }

  /** Where each value of a field stands, in an order. @param {string} field @param {Sort[]} sort @returns {Map<any, number[]>} */
  allPlacesBy(field, sort) {
    const name = JSON.stringify([field, sort]);
    let all = this.allPlaces.get(name);
    if (!all) {
      all = new Map();
      for (const at of sort.length ? this.order(sort) : this.rows.keys()) {
        const places = all.get(this.rows[at][field]);
        if (places) places.push(at);
        else all.set(this.rows[at][field], [at]);
      }
      this.allPlaces.set(name, all);
    }
    return all;
  }

  /** The row that holds a key, or null. @param {any} key @returns {number | null} */
  rowOf(key) {
    if (typeof key !== OF_KEY[this.types.get(this.source.key) ?? '']) return null;
    return this.placesBy(this.source.key).get(key) ?? null;
  }

  /** @param {any} key */
  canBeKey(key) {
    const kind = this.types.get(this.source.key);
    if (kind === undefined || typeof key !== OF_KEY[kind]) return false;
    if (kind === 'whole number') return Number.isInteger(key);
    return kind === 'date' ? isDate(key) : kind === 'date and time' ? asTime(key) !== '' : true;
  }

  /** A key that no record has: the next number, or a text; null for keys of other types. @param {string} stem */
  unusedKey(stem) {
    const kind = this.types.get(this.source.key);
    if (kind === 'whole number') {
      return (
        this.rows.reduce(
          (most, row) => Math.max(most, row[this.source.key] ?? 0),
          this.rows.length ? -Infinity : 0,
        ) + 1
      );
    }
    if (kind !== 'text' && kind !== 'picture') return null;
    let number = this.rows.length + 1;
    while (this.rowOf(`${stem}-${number}`) !== null) number += 1;
    return `${stem}-${number}`;
  }

  /** @param {number} row */
  keyAt(row) {
    return this.rows[row][this.source.key] ?? null;
  }

  /** @param {number} row */
  at(row) {
    return new Found(this, this.rows[row]);
  }

  /** @param {Record<string, any>} row */
  found(row) {
    return new Found(this, row);
  }

  /** @param {any} key @returns {Found | null} */
  byKey(key) {
    const row = this.rowOf(key);
    return row === null ? null : this.at(row);
  }

  /** The fields named, joined and in lower case: what a search reads. @param {string[]} names */
  textsOf(names) {
    const at = names.join('\n');
    let texts = this.lowered.get(at);
    if (!texts) {
      const kinds = names.map(
        (name) => /** @type {[string, string | undefined]} */ ([name, this.type(name)]),
      );
      const known = kinds.filter(([, kind]) => kind !== undefined);
      texts = this.rows.map((row) =>
        known
          .map(([name, kind]) => columnText(this.value(row, name), kind))
          .join('\n')
          .toLowerCase(),
      );
      this.lowered.set(at, texts);
    }
    return texts;
  }

  /** All rows in an order: text in any case, what is empty last, equals as they were read. @param {Sort[]} sort @returns {Int32Array} */
  order(sort) {
    const by = sort.filter((each) => this.type(each.field) !== undefined);
    const name = JSON.stringify(by);
    let order = this.orders.get(name);
    if (!order) {
      order = Int32Array.from(this.rows.keys());
      const columns = by.map((each) =>
        this.rows.map((row) => sorting(this.value(row, each.field), this.type(each.field))),
      );
      const signs = by.map((each) => (each.descending ? -1 : 1));
      order.sort((a, b) => {
        for (let at = 0; at < columns.length; at += 1) {
          const [one, other] = [columns[at][a], columns[at][b]];
          if (one === other) continue;
          if (one === null) return 1;
          if (other === null) return -1;
          const compared = compare(one, other) * signs[at];
          if (compared) return compared;
        }
        return a - b;
      });
      this.orders.set(name, order);
    }
    return order;
  }

  /** The same records with every other field empty; the key stays. @param {string[]} names */
  withOnly(names) {
    return new Records(this.source, this.types, this.rows, {
      far: this.far,
      typeOf: this.farType,
      isOfOthers: this.isOfOthers,
      only: new Set([...names, this.source.key]),
    });
  }

  /** The records as they are once changes by key are made. @param {Changes} changes */
  withChanges({ changed, gone, added }) {
    const key = this.source.key;
    let { rows } = this;
    if (added.length) {
      const names = [...this.types.keys()];
      const whole = added.map((row) =>
        Object.fromEntries(names.map((name) => [name, held(row, name) ?? null])),
      );
      rows = [
        ...rows,
        ...whole.filter((row) => row[key] !== null && this.rowOf(row[key]) === null),
      ];
    }
    const grown = new Records(this.source, this.types, rows);
    if (gone.length) {
      const going = new Set(gone.map((each) => grown.rowOf(each)));
      rows = rows.filter((_, at) => !going.has(at));
    }
    const left = gone.length ? new Records(this.source, this.types, rows) : grown;
    if (!changed.length) return left;
    rows = [...rows];
    for (const change of changed) {
      const at = left.rowOf(change.key);
      if (at !== null) rows[at] = { ...rows[at], ...change.fields };
    }
    return new Records(this.source, this.types, rows);
  }
}

/** Letters that do not decompose, and what they are taken for. @type {Record<string, string>} */
const LETTERS = { ß: 'ss', æ: 'ae', œ: 'oe', ø: 'o', ł: 'l', đ: 'd', ı: 'i' };
const EACH = /[ßæœøłđı]/g;

/** What a field sorts by. @param {any} value @param {string | undefined} kind */
function sorting(value, kind) {
  if (typeof value !== 'string') return value;
  return kind === 'date and time' ? value.replace('Z', '') : sortedBy(value) || null;
}

/** What a text is sorted by: without regard to case or to marks (7.1). @param {string} text */
function sortedBy(text) {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: what is ASCII needs no more.
  if (/^[\x00-\x7f]*$/.test(text)) return text.toLowerCase();
  return text
    .normalize('NFD')
    .replace(/\p{Mn}/gu, '')
    .toLowerCase()
    .replace(EACH, (letter) => LETTERS[letter]);
}

/** By the code points of texts, as they are; lists one value after another. @param {any} one @param {any} other @returns {number} */
export function compare(one, other) {
  if (Array.isArray(one)) {
    for (let at = 0; at < Math.min(one.length, other.length); at += 1) {
      const compared = compare(one[at], other[at]);
      if (compared) return compared;
    }
    return one.length - other.length;
  }
  if (typeof one === 'string') {
    const at = firstDifferent(one, other);
    return (one.codePointAt(at) ?? -1) - (other.codePointAt(at) ?? -1);
  }
  return one < other ? -1 : one > other ? 1 : 0;
}

/** @param {string} one @param {string} other */
function firstDifferent(one, other) {
  let at = 0;
  while (at < one.length && one[at] === other[at]) at += 1;
  const isPair = at > 0 && /[\uD800-\uDBFF]/.test(one[at - 1] ?? '');
  return isPair ? at - 1 : at;
}

/** A value as a column of its type writes it. @param {any} value @param {string | undefined} kind @returns {string} */
export function columnText(value, kind = 'text') {
  if (value === null || value === undefined) return '';
  if (kind.startsWith(LIST)) {
    return value
      .map((/** @type {any} */ each) => columnText(each, kind.slice(LIST.length)))
      .join(' ');
  }
  if (kind === 'number' && Number.isInteger(value)) return `${value}.0`;
  if (kind === 'date and time') {
    const [time, part = ''] = value.replace('T', ' ').replace('Z', '').split('.');
    return `${time}.${part.padEnd(6, '0')}`;
  }
  return String(value);
}

/** Changes with later ones on top; a record is named once in each part. @param {Changes} before @param {Changes} later @param {string} key @param {(key: Scalar) => boolean} isKnown @returns {Changes} */
export function mergedChanges(before, later, key, isKnown) {
  let { gone, added } = before;
  /** @type {Map<Scalar, Record<string, any>>} */
  const edits = new Map(before.changed.map((change) => [change.key, change.fields]));
  if (later.gone.length) gone = [...new Set([...gone, ...later.gone])];
  if (later.added.length) {
    const arrived = new Map(later.added.map((row) => [row[key], row]));
    gone = gone.filter((each) => !arrived.has(each));
    added = added.filter((row) => !arrived.has(row[key]));
    for (const [each, row] of arrived) {
      edits.delete(each);
      // One that was read and came again stands where it stood, as it now is.
      if (isKnown(each)) edits.set(each, row);
      else added = [...added, row];
    }
  }
  for (const change of later.changed) {
    edits.set(change.key, { ...edits.get(change.key), ...change.fields });
  }
  const changed = [...edits].map(([each, fields]) => ({
    key: each,
    fields: Object.fromEntries(Object.entries(fields).filter(([name]) => name !== key)),
  }));
  return { changed, gone, added };
}

/** Changes without that some records are gone. @param {Changes} changes @param {Scalar[]} keys @returns {Changes} */
export const withBack = (changes, keys) => ({
  ...changes,
  gone: changes.gone.filter((each) => !keys.includes(each)),
});
