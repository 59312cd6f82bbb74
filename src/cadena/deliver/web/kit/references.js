// References between sources, and the paths that follow them (rule 13).

import { LIST, held } from './values.js';

const MOST_STEPS = 4;

/** What fields refer to, of all the sources of an app. */
export class References {
  /** @param {Map<string, any>} sources */
  constructor(sources) {
    this.sources = sources;
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

  /** The field that a path ends at, or null. @param {string} source @param {string} path @param {number} steps @returns {any} */
  fieldAt(source, path, steps = 0) {
    const own = this.sources
      .get(source)
      ?.fields?.find((/** @type {any} */ each) => each.name === path);
    if (own) return own;
    const step = this.followed(source, path);
    return step && steps < MOST_STEPS ? this.fieldAt(step.refers.to, step.rest, steps + 1) : null;
  }

  /** The type of what a path ends at, or undefined. @param {string} source @param {string} path */
  typeAt(source, path) {
    const end = path.includes('.') ? this.fieldAt(source, path) : null;
    return end ? (end.type ?? 'text') : undefined;
  }

  /** How what a path ends at is said. @param {string} source @param {string} path */
  fieldNamed(source, path) {
    const end = path.includes('.') ? this.fieldAt(source, path) : null;
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

  /** The sources that references lead to from one. @param {string} source @param {Set<string>} found */
  reached(source, found = new Set()) {
    for (const { refers } of this.sources.get(source)?.fields ?? []) {
      if (refers && this.sources.has(refers.to) && !found.has(refers.to)) {
        found.add(refers.to);
        this.reached(refers.to, found);
      }
    }
    return found;
  }

  /** What a path leads to from a row; a record that is not there leads to nothing. @param {Map<string, Records | null>} others @param {string} source @param {any} row @param {string} path @param {number} steps @returns {any} */
  led(others, source, row, path, steps) {
    if (this.typeOf(source, path) !== undefined) return held(row, path) ?? null;
    const step = this.followed(source, path);
    const to = step && others.get(step.refers.to);
    if (!step || !to || steps >= MOST_STEPS) return null;
    const value = held(row, step.field) ?? null;
    const by = step.refers.by || to.source.key;
    const at =
      value === null || !this.isAlike(source, step.field, to, by)
        ? undefined
        : to.placesBy(by).get(value);
    return at === undefined
      ? null
      : this.led(others, step.refers.to, to.rows[at], step.rest, steps + 1);
  }

  /** The type of a field of a source itself. @param {string} source @param {string} field @returns {string | undefined} */
  typeOf(source, field) {
    const own = this.sources
      .get(source)
      ?.fields?.find((/** @type {any} */ each) => each.name === field);
    return own && (own.type ?? 'text');
  }

  /** Whether a field holds values of the type that it is looked up by. @param {string} source @param {string} field @param {Records} to @param {string} by */
  isAlike(source, field, to, by) {
    const plain = (/** @type {string | undefined} */ kind) => (kind === 'picture' ? 'text' : kind);
    const [one, other] = [this.typeOf(source, field), to.types.get(by)];
    return one !== undefined && plain(one) === plain(other) && !one.startsWith(LIST);
  }
}
