// Typed values, and when one may be carried over as another (rules 1 and 2.1).
//
// A value is a text, a whole number, a number, yes/no, a date (ISO 8601 text), a date and time
// (RFC 3339 text in UTC) or a list of one of these. null is the absent value; 0, '' and false
// are values like any other.

export const LIST = 'list of ';
const WHOLE = /^\s*[+-]?[0-9]+(_[0-9]+)*\s*$/;
const NUMBER = /^\s*[+-]?([0-9]+\.?[0-9]*|\.[0-9]+)([eE][+-]?[0-9]+)?\s*$/;
const DATE = /^([0-9]{4})-([0-9]{2})-([0-9]{2})$/;
const TIME =
  /^([0-9]{4}-[0-9]{2}-[0-9]{2})[Tt ]([0-9]{2}):([0-9]{2})(?::([0-9]{2})(?:[.,]([0-9]{1,6}))?)?(Z|z|[+-][0-9]{2}:[0-9]{2})?$/;

/** A value that does not fit a type: what came, and what was wanted. */
export class Unfit extends Error {
  /** @param {unknown} came @param {string} wanted */
  constructor(came, wanted) {
    super(`${wanted} was wanted`);
    this.came = came;
    this.wanted = wanted;
  }
}

/**
 * A value as another type, only where nothing is lost.
 * @param {any} value
 * @param {string} to
 * @param {boolean} convert whether text may be read as another type, and anything written as text
 * @returns {any}
 */
export function carry(value, to, convert = false) {
  if (!to.startsWith(LIST)) return carryScalar(value, to, convert);
  if (!Array.isArray(value)) throw new Unfit(value, to);
  return value.map((each) => carryScalar(each, to.slice(LIST.length), convert));
}

/** @param {any} value @param {string} to @param {boolean} convert @returns {Scalar} */
function carryScalar(value, to, convert) {
  const kind = typeof value;
  if (to === 'text' || to === 'picture') {
    if (kind === 'string') return value;
    if (convert && (kind === 'number' || kind === 'boolean')) return shown(value);
  } else if (to === 'whole number' || to === 'number') {
    const number = convert && kind === 'string' ? readNumber(value) : value;
    if (typeof number === 'number' && Number.isFinite(number)) {
      if (to === 'number' || Number.isInteger(number)) return number;
    }
  } else if (to === 'yes/no') {
    if (kind === 'boolean') return value;
    if (convert && ['yes', 'no', 'true', 'false'].includes(value)) {
      return value === 'yes' || value === 'true';
    }
  } else if (to === 'date' && kind === 'string' && isDate(value)) {
    return value;
  } else if (to === 'date and time' && kind === 'string' && asTime(value)) {
    return asTime(value);
  }
  throw new Unfit(value, to);
}

/** @param {string} text @returns {number | string} */
function readNumber(text) {
  return WHOLE.test(text) || NUMBER.test(text) ? Number(text.replaceAll('_', '')) : text;
}

/** Whether a text is a calendar date of ISO 8601, YYYY-MM-DD. @param {string} text */
export function isDate(text) {
  const found = DATE.exec(text);
  if (!found || found[1] === '0000') return false;
  const [year, month, day] = found.slice(1).map(Number);
  const date = new Date(Date.UTC(2000, month - 1, day));
  date.setUTCFullYear(year, month - 1, day);
  return date.getUTCMonth() === month - 1 && date.getUTCDate() === day;
}

/**
 * A date and time of RFC 3339 as it is held, in UTC; '' where a text is none.
 * @param {string} text
 */
export function asTime(text) {
  const found = TIME.exec(text);
  if (!found || !isDate(found[1])) return '';
  const [, day, hour, minute, second = '00', part = '', offset = 'Z'] = found;
  if (Number(hour) > 23 || Number(minute) > 59 || Number(second) > 59) return '';
  const away = /^[+-]/.test(offset) ? Number(offset.slice(1, 3)) * 60 + Number(offset.slice(4)) : 0;
  const at = new Date(`${day}T${hour}:${minute}:${second}Z`);
  at.setUTCMinutes(at.getUTCMinutes() - (offset[0] === '-' ? -away : away));
  const micro = part.padEnd(6, '0');
  return `${at.toISOString().slice(0, 19) + (Number(micro) ? `.${micro}` : '')}Z`;
}

/** A value as a person reads it; the absent value is an en dash. @param {any} value @returns {string} */
export function shown(value) {
  if (value === null || value === undefined) return '–';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return Array.isArray(value) ? value.map(shown).join(', ') : String(value);
}

/** Whether there is nothing to show: none, or a text of no letters. @param {any} value */
export function isEmpty(value) {
  return value === null || value === undefined || value === '';
}

/** Whether two values, or two lists or dictionaries of them, are equal. @param {any} a @param {any} b @returns {boolean} */
export function same(a, b) {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const names = Object.keys(a);
  return (
    names.length === Object.keys(b).length &&
    names.every((name) => Object.hasOwn(b, name) && same(a[name], b[name]))
  );
}

/**
 * What a dictionary holds under a name, and nothing that it inherits.
 * @template T
 * @param {Record<string, T>} things
 * @param {string} name
 * @returns {T | undefined}
 */
export function held(things, name) {
  return things && Object.hasOwn(things, name) ? things[name] : undefined;
}

/**
 * A dictionary without one of its names.
 * @template T
 * @param {Record<string, T>} things
 * @param {...string} names
 * @returns {Record<string, T>}
 */
export function without(things, ...names) {
  return Object.fromEntries(Object.entries(things).filter(([name]) => !names.includes(name)));
}
