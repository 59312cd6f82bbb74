// References between sources, and the paths that follow them (rule 13).

import { compare } from './records.js';
import { called, fieldsIn } from './say.js';
import { LIST, held } from './values.js';

const MOST_STEPS = 4;
const MILLION = 1_000_000;
const FROM_OTHERS = /^(?:\(([^()]+)\))?\.(count|many|sum|least|most|first)(?:\.(.+))?$/;
const COUNTS = ['count', 'many'];
const SUMMED = ['whole number', 'number'];
const ORDERED = [...SUMMED, 'date', 'date and time'];
/** Of which types each can be told; the others of all. @type {Record<string, string[]>} */
const OF_TYPES = { sum: SUMMED, least: ORDERED, most: ORDERED };

/** What fields refer to, of all the sources of an app. */
export class References {
  /** @param {Map<string, any>} sources */
  constructor(sources) {
    this.sources = sources;
    /** @type {Map<string, any>} */
    this.known = new Map();
  }

  /** The first step of a path over a reference: its field, what it refers to, and the rest; or null. @param {string} source @param {string} path */
  followed(source, path) {
    const fields = this.sources.get(source)?.fields ?? [];
    const field = fields.find(
      (/** @type {any} */ each) => each.refers && path.startsWith(`${each.name}.`),
    );
    return field
      ? { field: field.name, refers: field.refers, rest: path.slice(field.name.length + 1) }
      : null;
  }

  /** The first step of a path to the records that refer to those of a source, and what is told of them; or null. @param {string} source @param {string} path */
  fromOthers(source, path) {
    const name = `${source}\n${path}`;
    let step = this.known.get(name);
    if (step === undefined) {
      step = this.stepToOthers(source, path);
      this.known.set(name, step);
    }
    return step;
  }

  /** The same, found anew. @param {string} source @param {string} path */
  stepToOthers(source, path) {
    for (const other of this.sources.get(source)?.others ?? []) {
      const found = path.startsWith(other.to) && FROM_OTHERS.exec(path.slice(other.to.length));
      if (!found) continue;
      const referring = this.sources
        .get(other.to)
        .fields.filter((/** @type {any} */ each) => each.refers?.to === source)
        .filter((/** @type {any} */ each) => [undefined, each.name].includes(found[1]));
      if (referring.length !== 1 || referring[0].name !== other.field) continue;
      const [, , gives, rest = ''] = found;
      if ((rest !== '') !== COUNTS.includes(gives)) return { ...other, gives, rest };
    }
    return null;
  }

  /** The field that a path ends at, or null. @param {string} source @param {string} path @param {number} steps @returns {any} */
  fieldAt(source, path, steps = 0) {
    const own = this.sources
      .get(source)
      ?.fields?.find((/** @type {any} */ each) => each.name === path);
    if (own) return own;
    if (steps >= MOST_STEPS) return null;
    const step = this.followed(source, path);
    if (step) return this.fieldAt(step.refers.to, step.rest, steps + 1);
    const from = this.fromOthers(source, path);
    if (!from) return this.isLabel(source, path) ? { name: path, type: 'text' } : null;
    if (COUNTS.includes(from.gives)) {
      const [unitOfOne, unit] = from.gives === 'many' ? from.words : ['', ''];
      return { type: 'whole number', label: from.label, unit, unitOfOne };
    }
    const end = this.fieldAt(from.to, from.rest, steps + 1);
    const isOne =
      end && (OF_TYPES[from.gives] ?? [end.type ?? 'text']).includes(end.type ?? 'text');
    return isOne ? end : null;
  }

  /** Whether a path is a text with fields of a source: a label. @param {string} source @param {string} path */
  isLabel(source, path) {
    const names = fieldsIn(path);
    return names.length > 0 && names.every((name) => this.typeOf(source, name) !== undefined);
  }

  /** The type of what a path ends at, or undefined. @param {string} source @param {string} path */
  typeAt(source, path) {
    const end = /[.{]/.test(path) ? this.fieldAt(source, path) : null;
    return end ? (end.type ?? 'text') : undefined;
  }

  /** How what a path ends at is said. @param {string} source @param {string} path */
  fieldNamed(source, path) {
    const end = /[.{]/.test(path) ? this.fieldAt(source, path) : null;
    return end && { ...end, name: path, label: end.label || end.name, whenEmpty: '' };
  }

  /** What a field refers to, or undefined. @param {string} source @param {string} field */
  refers(source, field) {
    return this.sources.get(source)?.fields?.find((/** @type {any} */ each) => each.name === field)
      ?.refers;
  }

  /** The path to the label of what a field refers to, or null. @param {string} source @param {string} field */
  labelPath(source, field) {
    const refers = this.refers(source, field);
    const to = refers && this.sources.get(refers.to);
    return to ? `${field}.${to.label}` : null;
  }

  /** The sources that paths lead to from one. @param {string} source @param {Set<string>} found */
  reached(source, found = new Set()) {
    const { fields = [], others = [] } = this.sources.get(source) ?? {};
    for (const { to } of [
      ...fields.map((/** @type {any} */ each) => each.refers ?? {}),
      ...others,
    ]) {
      if (this.sources.has(to) && !found.has(to)) {
        found.add(to);
        this.reached(to, found);
      }
    }
    return found;
  }

  /** What a path leads to from a row; a record that is not there leads to nothing. @param {Map<string, Records | null>} others @param {string} source @param {any} row @param {string} path @param {number} steps @returns {any} */
  led(others, source, row, path, steps) {
    if (this.typeOf(source, path) !== undefined) return held(row, path) ?? null;
    if (steps >= MOST_STEPS) return null;
    const step = this.followed(source, path);
    const from = step ? null : this.fromOthers(source, path);
    if (from) return this.toldOfOthers(others, source, row, path, from, steps);
    if (!step)
      return this.isLabel(source, path) ? called(path, (name) => held(row, name)) || null : null;
    const to = others.get(step.refers.to);
    if (!to) return null;
    const value = held(row, step.field) ?? null;
    const by = step.refers.by || to.source.key;
    const at =
      value === null || !this.isAlike(source, step.field, step.refers.to, by)
        ? undefined
        : to.placesBy(by).get(value);
    return at === undefined
      ? null
      : this.led(others, step.refers.to, to.rows[at], step.rest, steps + 1);
  }

  /** What a path tells of the records that refer to one. @param {Map<string, Records | null>} others @param {string} source @param {any} row @param {string} path @param {any} from @param {number} steps @returns {any} */
  toldOfOthers(others, source, row, path, from, steps) {
    const to = others.get(from.to);
    const by = from.by || this.sources.get(source).key;
    if (!to || !this.isAlike(from.to, from.field, source, by)) return null;
    const value = held(row, by) ?? null;
    const sort = from.gives === 'first' ? from.sort : [];
    /** @type {number[]} */
    const at = value === null ? [] : (to.allPlacesBy(from.field, sort).get(value) ?? []);
    if (COUNTS.includes(from.gives)) return at.length;
    const values = at.map((each) => this.led(others, from.to, to.rows[each], from.rest, steps + 1));
    return told(from.gives, values, this.typeAt(source, path));
  }

  /** The type of a field of a source itself. @param {string} source @param {string} field @returns {string | undefined} */
  typeOf(source, field) {
    const own = this.sources
      .get(source)
      ?.fields?.find((/** @type {any} */ each) => each.name === field);
    return own && (own.type ?? 'text');
  }

  /** Whether a field holds values of the type that it is looked up by. @param {string} source @param {string} field @param {string} to @param {string} by */
  isAlike(source, field, to, by) {
    const plain = (/** @type {string | undefined} */ kind) => (kind === 'picture' ? 'text' : kind);
    const [one, other] = [this.typeOf(source, field), this.typeOf(to, by)];
    return one !== undefined && plain(one) === plain(other) && !one.startsWith(LIST);
  }
}

/** What is said of the values of several records; what is empty is passed over, but by the first. A sum of numbers is one of their millionths, so that it is the same in whatever order. @param {string} gives @param {any[]} values @param {string | undefined} type */
function told(gives, values, type) {
  if (gives === 'first') return values[0] ?? null;
  const there = values.filter((each) => each !== null);
  if (gives === 'sum') {
    if (type !== 'number') return there.reduce((sum, each) => sum + each, 0);
    const parts = there.map((each) => Math.floor(each * MILLION + 0.5));
    const sum = parts.reduce((all, each) => all + each, 0);
    if (Number.isSafeInteger(sum) || !parts.every(Number.isFinite)) return sum / MILLION;
    return Number(parts.reduce((all, each) => all + BigInt(each), 0n)) / MILLION;
  }
  if (!there.length) return null;
  const isLess = (/** @type {any} */ one, /** @type {any} */ other) =>
    compare(one, other) < 0 === (gives === 'least');
  return there.reduce((one, other) =>
    compare(one, other) !== 0 && isLess(other, one) ? other : one,
  );
}
