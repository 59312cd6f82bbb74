// What a form scrolls: its fields one under another (rule 10).

import { ITEM } from './app.js';
import { faultsOf, valueIn } from './form-values.js';
import { noRecord, statePiece, words } from './pieces.js';
import { query } from './query.js';
import { NOT_LOADED } from './session.js';
import { BUTTON, CHOICE, FAULT, GAP, INPUT, INPUT_LINE, LABEL, isNarrow } from './sizes.js';
import { held, isEmpty, shown } from './values.js';

const OFFERED = 4;
const LOOKED_THROUGH = 1000;

/** A label, a place to type or choices, and after a save that failed the fault of each field. @param {WiredApp} app @param {Session} session @param {Entry} entry @param {any} screen @param {number} width @returns {Piece[]} */
export function formPieces(app, session, entry, screen, width) {
  const key = app.keyOf(entry);
  if (key !== null && !app.recordOf(session, entry)) {
    const load = app.late.has(screen.source) ? (held(entry.loads, ITEM) ?? NOT_LOADED) : null;
    if (load && (load.state === 'loading' || load.state === 'failed'))
      return [statePiece(app, load, ITEM)];
    return [words(noRecord(app, key))];
  }
  const faults = entry.view.tried ? faultsOf(app, session, entry) : {};
  /** @type {Piece[]} */
  const pieces = [{ kind: 'gap', part: '', height: GAP }];
  for (const field of screen.fields ?? []) {
    const fault = held(faults, field.field);
    const offered = choicesOf(app, session, entry, field);
    let height = LABEL + GAP + (fault ? FAULT : 0) + CHOICE * offered.length;
    if (!field.choices?.length && !isSwitch(app, screen.source, field.field))
      height += INPUT + ((field.lines ?? 1) - 1) * INPUT_LINE;
    else if (!offered.length) height += INPUT;
    pieces.push({
      kind: 'form field',
      part: field.field,
      height,
      block: field,
      lines: fault ? [fault] : [],
    });
  }
  if (isNarrow(width)) pieces.push({ kind: 'save', part: '', height: 2 * (BUTTON + 8) + GAP });
  return pieces;
}

/** Whether a field is switched on and off. @param {WiredApp} app @param {string} source @param {string} field */
export const isSwitch = (app, source, field) =>
  app.asRead.get(source)?.types.get(field) === 'yes/no';

/** What a field of a form offers to choose, each with its words: all, or the nearest few. @param {WiredApp} app @param {Session} session @param {Entry} entry @param {any} field @returns {[any, string][]} */
export function choicesOf(app, session, entry, field) {
  if (field.choices?.length) {
    return field.choices
      .filter((/** @type {any} */ each) => !Array.isArray(each))
      .map((/** @type {any} */ each) => [each, shown(each)]);
  }
  const records = field.choicesFrom ? app.records(session, field.choicesFrom) : null;
  const typed = records ? valueIn(app, session, entry, field.field) : null;
  if (!records || Array.isArray(typed)) return [];
  const { key, label } = records.source;
  const named = (/** @type {Found | null} */ record) =>
    app.say(field.choicesFrom).value(label, record);
  const chosen = typed === null ? null : records.byKey(typed);
  if (chosen) return [[typed, named(chosen)]];
  const listing = { search: [label, key], limit: OFFERED };
  const asked = {
    arguments: {},
    values: {},
    choices: {},
    sort: null,
    search: isEmpty(typed) ? '' : shown(typed),
  };
  const rows = query(records, listing, asked);
  return Array.from({ length: rows.length }, (_, at) => [rows.keyAt(at), named(rows.at(at))]);
}

/** The key that was typed, or that of the only record whose label it is; null where several are. @param {WiredApp} app @param {Records} records @param {any} typed */
export function keyOrLabel(app, records, typed) {
  if (records.rowOf(typed) !== null) return typed;
  const { id, label } = records.source;
  const text = shown(typed);
  const asked = { arguments: {}, values: {}, choices: {}, sort: null, search: text };
  const rows = query(records, { search: [label], limit: LOOKED_THROUGH }, asked);
  const wanted = text.trim().toLowerCase();
  const called = Array.from({ length: rows.length }, (_, at) => at).filter(
    (at) => app.say(id).value(label, rows.at(at)).toLowerCase() === wanted,
  );
  return called.length === 1 && rows.found === rows.length ? rows.keyAt(called[0]) : null;
}
