// When a value passes a test (7.1).

import { LIST, asTime, held, isDate, isEmpty } from './values.js';
import { columnText } from './records.js';

const LARGEST = 2 ** 63;
/** @type {Record<string, (have: any, wanted: any) => boolean>} */
const ORDERED = {
  is: (have, wanted) => have === wanted,
  under: (have, wanted) => have < wanted,
  over: (have, wanted) => have > wanted,
  'at least': (have, wanted) => have >= wanted,
  'at most': (have, wanted) => have <= wanted,
};

/** Whether a value can be compared with those of a field of a type. @param {any} value @param {string} kind */
function comparable(value, kind) {
  if (kind === 'date') return typeof value === 'string' && isDate(value);
  if (kind === 'date and time') return typeof value === 'string' && asTime(value) !== '';
  if (kind === 'text' || kind === 'picture') return typeof value === 'string';
  if (kind === 'yes/no') return typeof value === 'boolean';
  return (
    (kind === 'whole number' || kind === 'number') &&
    typeof value === 'number' &&
    Math.abs(value) < LARGEST
  );
}

/** What a field of a type is really compared with; null where nothing could pass or fail. @param {string} test @param {any} wanted @param {string} kind */
function wantedOf(test, wanted, kind) {
  if (test === 'is one of') {
    return Array.isArray(wanted) ? wanted.filter((each) => comparable(each, kind)) : [];
  }
  if (test === 'contains') {
    if (kind.startsWith(LIST)) return comparable(wanted, kind.slice(LIST.length)) ? wanted : null;
    return ['string', 'number', 'boolean'].includes(typeof wanted)
      ? String(wanted).toLowerCase()
      : null;
  }
  return comparable(wanted, kind) ? wanted : null;
}

/**
 * Whether one value passes a test.
 * @param {any} have
 * @param {string} test
 * @param {any} wanted
 * @param {string} kind the type of the field
 * @returns {boolean}
 */
export function passes(have, test, wanted, kind) {
  if (test === 'is empty' || test === 'is filled') return isEmpty(have) === (test === 'is empty');
  if (wanted === null || wanted === undefined) return false;
  const compared = wantedOf(test, wanted, kind);
  if (compared === null) return test === 'is not';
  if (test === 'is not') return have !== timed(compared, kind);
  if (have === null || have === undefined) return false;
  if (test === 'is one of')
    return compared.some((/** @type {any} */ each) => timed(each, kind) === have);
  if (test === 'contains') {
    if (kind.startsWith(LIST)) return have.includes(timed(compared, kind.slice(LIST.length)));
    return columnText(have, kind).toLowerCase().includes(compared);
  }
  return ORDERED[test](bare(have, kind), bare(timed(compared, kind), kind));
}

/** A date and time as it is held. @param {any} value @param {string} kind */
const timed = (value, kind) => (kind === 'date and time' ? asTime(value) : value);

/** Without the Z, texts of times stand in the order of the times. @param {any} value @param {string} kind */
const bare = (value, kind) => (kind === 'date and time' ? value.replace('Z', '') : value);

/** What a condition compares with. @param {any} condition @param {Record<string, any>} args @param {Record<string, any>} values @param {Record<string, any>} choices */
export function comparedWith(condition, args, values, choices) {
  if (condition.argument) return held(args, condition.argument) ?? null;
  if (condition.choice) return held(choices, condition.choice) ?? null;
  if (condition.value) return held(values, condition.value) ?? null;
  return condition.constant ?? null;
}

/**
 * A test of whole records: all conditions at once.
 * @param {Records} records
 * @param {any[]} conditions
 * @param {{arguments: any, values: any, choices: any}} of
 * @returns {(row: Record<string, any>) => boolean}
 */
export function keeping(records, conditions, of) {
  const tests = conditions.map((condition) => {
    const kind = records.type(condition.field);
    if (kind === undefined) return () => false;
    const test = condition.test ?? 'is';
    const wanted = comparedWith(condition, of.arguments, of.values, of.choices);
    const mayBeNone = Boolean(condition.argument || condition.choice || condition.value);
    if (wanted === null && mayBeNone && test !== 'is empty' && test !== 'is filled') {
      // None of a list is a list that holds nothing: marks not made yet.
      return () => test !== 'is one of';
    }
    return (/** @type {any} */ row) =>
      passes(records.value(row, condition.field), test, wanted, kind);
  });
  return (row) => tests.every((test) => test(row));
}
