// How values are said: by the format of their field, in the app's locale; and what stands out.

import { passes } from './conditions.js';
import { asTime, isDate, isEmpty, shown } from './values.js';

const APART = ' · ';
const YEAR = /(?:^|[^a-z])year$|[a-z]Year$/;
const FIELD = /\{([^{}]*)\}/g;
/** @type {any} */
const NOBODY = {};

/** The fields that a text names, in order. @param {string} text */
export const fieldsIn = (text) => Array.from(text.matchAll(FIELD), (found) => found[1]);

/** The fields that a label is made of: itself, or those that its text names. @param {string} label */
export const fieldsOfLabel = (label) => (fieldsIn(label).length ? fieldsIn(label) : [label]);

/** What a label of several fields says; empty where all of them are. @param {string} label @param {(name: string) => any} value */
export function called(label, value) {
  if (fieldsIn(label).every((name) => isEmpty(value(name)))) return '';
  return label
    .replace(FIELD, (_, name) => (isEmpty(value(name)) ? '' : shown(value(name))))
    .split(/\s+/)
    .filter(Boolean)
    .join(' ');
}

/** How the values of one source are said. */
export class Sayings {
  /**
   * @param {any} source
   * @param {string} locale BCP 47; empty writes values as they are
   * @param {(text: string) => string} words what the app says by itself, in its language
   * @param {(path: string) => any} far how what a path ends at is said, or null
   * @param {(field: string) => string | null} label the path to the label of what a field refers to
   */
  constructor(source, locale, words, far, label) {
    this.source = source;
    this.calledBy = fieldsIn(source.label ?? '').length ? source.label : null;
    this.locale = locale;
    this.words = words;
    this.labelOf = label;
    this.far = far;
    /** @type {Map<string, any>} */
    this.fields = new Map(
      (source.fields ?? []).map((/** @type {any} */ field) => [field.name, field]),
    );
  }

  /** @param {string} name */
  field(name) {
    return this.fields.get(name) ?? this.far(name) ?? NOBODY;
  }

  /** What a field is called: its own label, or its name in plain words. @param {string} name */
  label(name) {
    const plain = name.replaceAll('_', ' ').replaceAll('.', ' ');
    // What it refers to is said by its label, and not by a key.
    return this.field(name).label || (this.labelOf(name) ? plain.replace(/ id$/, '') : plain);
  }

  /** One field of a record as it is said; the field's own words when it is empty. @param {string} name @param {Found | null} record @param {number} depth @returns {string} */
  value(name, record, depth = 0) {
    const field = this.field(name);
    const value = record?.value(name) ?? null;
    if (name === this.calledBy) return this.called(record) || '–';
    const path = this.labelOf(name);
    if (path && !isEmpty(value) && !isEmpty(record?.value(path)))
      return this.value(path, record, depth);
    if (isEmpty(value)) {
      const words = field.whenEmpty ?? '–';
      if (depth > 3) return words;
      return words.replace(FIELD, (/** @type {string} */ _, /** @type {string} */ other) =>
        this.value(other, record, depth + 1),
      );
    }
    const said = this.written(value, field, name);
    const unit = (value === 1 && field.unitOfOne) || field.unit;
    return unit ? `${said} ${unit}` : said;
  }

  /** What a label of several fields says. @param {Found | null} record */
  called(record) {
    return called(this.calledBy, (name) => record?.value(name) ?? null);
  }

  /** @param {any} value @param {any} field @param {string} name @returns {string} */
  written(value, field, name) {
    if (Array.isArray(value))
      return value.map((each) => this.written(each, field, name)).join(', ');
    if (typeof value === 'boolean') return this.words(value ? 'yes' : 'no');
    // The digits of years are not grouped.
    if (Number.isInteger(value) && field.decimals === undefined && YEAR.test(name))
      return String(value);
    if (typeof value === 'number') return number(value, field.decimals, this.locale);
    if (field.date && field.date !== 'as written' && typeof value === 'string') {
      return date(value, field.date, this.locale);
    }
    return shown(value);
  }

  /** Fill a text from a record; parts left out take their dot along. @param {string} text @param {Found | null} record */
  fill(text, record) {
    const names = fieldsIn(text);
    if (!names.length) return text;
    if (text === this.calledBy) return this.called(record);
    if (!names.some((name) => this.says(name, record))) return '';
    return text
      .split(APART)
      .filter((piece) => {
        const inside = fieldsIn(piece);
        return !inside.length || inside.some((name) => this.value(name, record));
      })
      .map((piece) => piece.replace(FIELD, (_, name) => this.value(name, record)))
      .join(APART);
  }

  /** Whether a field has something to say: a value, or words or a field in its place. @param {string} name @param {Found | null} record */
  says(name, record) {
    if (!isEmpty(record?.value(name))) return true;
    return (this.field(name).whenEmpty ?? '–') !== '–' && this.value(name, record) !== '';
  }

  /** Whether a text says nothing of a record, by what its fields hold. @param {string} text @param {Found} record */
  isUnsaid(text, record) {
    const names = fieldsIn(text);
    return names.length ? names.every((name) => this.isUnsaidField(name, record, 0)) : !text;
  }

  /** @param {string} name @param {Found} record @param {number} depth @returns {boolean} */
  isUnsaidField(name, record, depth) {
    const words = this.fields.get(name)?.whenEmpty ?? '–';
    const isBare = isEmpty(record.value(name));
    if (words === '' || words === '–' || depth > 3) return isBare;
    const others = fieldsIn(words);
    return (
      others.length > 0 &&
      isBare &&
      others.every((other) => this.isUnsaidField(other, record, depth + 1))
    );
  }

  /** The first rule of all by which a record stands out, or undefined (7.9). @param {Found} record */
  ground(record) {
    const rules = this.source.standsOut ?? [];
    return rules
      .map((/** @type {any} */ { field }) => this.standingOut(field, record))
      .find((/** @type {any} */ each) => each);
  }

  /** The first rule by which the value of a field stands out, or null. @param {string} name @param {Found | null} record */
  standingOut(name, record) {
    const rules = this.source.standsOut ?? [];
    return (
      rules.find(
        (/** @type {any} */ rule) =>
          rule.field === name &&
          passes(
            record?.value(name) ?? null,
            rule.test ?? 'is',
            rule.constant ?? null,
            this.field(name).type ?? 'text',
          ),
      ) ?? null
    );
  }
}

/** @param {number} value @param {number | undefined} decimals @param {string} locale */
function number(value, decimals, locale) {
  if (!locale) return decimals === undefined ? shown(value) : value.toFixed(decimals);
  const digits = decimals === undefined ? {} : { minimumFractionDigits: decimals };
  return new Intl.NumberFormat(locale, { maximumFractionDigits: 20, ...digits }).format(value);
}

/** A date of ISO 8601, or a date and time of RFC 3339, as the locale has it. @param {string} value @param {'short' | 'medium' | 'long'} length @param {string} locale */
function date(value, length, locale) {
  const time = asTime(value);
  if (!time && !isDate(value)) return value;
  const format = new Intl.DateTimeFormat(locale || 'en', {
    dateStyle: length,
    timeZone: 'UTC',
    ...(time && { timeStyle: length }),
  });
  return format.format(new Date(time || `${value}T00:00:00Z`));
}
