// What a form scrolls: its fields one under another (rule 10).

import { ITEM } from './app.js';
import { faultsOf, formOf, valueIn } from './form-values.js';
import { noRecord, statePiece, words } from './pieces.js';
import { query } from './query.js';
import { fieldsOfLabel } from './say.js';
import { NOT_LOADED } from './session.js';
import { BUTTON, CHOICE, FAULT, GAP, INPUT, INPUT_LINE, LABEL, isNarrow } from './sizes.js';
import { writeAt } from './unsent.js';
import { held, isEmpty, shown } from './values.js';

const OFFERED = 4;
/** Up to so many records are all offered where they stand; of more, the nearest few. */
const IN_PLACE = 12;
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
  const write = writeAt(session, entry);
  const tried = entry.view.tried ? faultsOf(app, session, entry) : {};
  const faults = { ...tried, ...write?.faults };
  const theirs = write?.theirs ?? {};
  /** @type {Piece[]} */
  const pieces = [{ kind: 'gap', part: '', height: GAP }];
  if (write) {
    const height = FAULT + GAP + (Object.keys(theirs).length ? CHOICE : 0);
    pieces.push({ kind: 'sent', part: '', height, lines: [saidOf(app, write)] });
  }
  for (const field of screen.fields ?? []) {
    const fault = held(faults, field.field);
    const offered = choicesOf(app, session, entry, field);
    let height = LABEL + GAP + (fault ? FAULT : 0) + CHOICE * offered.length;
    if (Object.hasOwn(theirs, field.field)) height += FAULT + CHOICE;
    if (hasInput(app, session, screen, field))
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

/** What a form says of what it has sent. @param {WiredApp} app @param {Write} write @returns {string} */
function saidOf(app, write) {
  switch (write.state) {
    case 'unsent':
      return app.words('It was not sent: {why}', { why: app.words(write.why) });
    case 'refused':
      return write.why || app.words('It was refused.');
    case 'quicker':
      return app.words('Somebody else has changed this as well.');
    default:
      return app.words('Being sent…');
  }
}

/** The link by which a field opens the list that it is filled from, or null (15). @param {WiredApp} app @param {any} screen @param {any} field */
export const openingLink = (app, screen, field) =>
  field.opens ? app.link(screen.id, 'field', field.field) : null;

/** Whether a field is typed into: not where it is switched, or all there is can be pressed. @param {WiredApp} app @param {Session} session @param {any} screen @param {any} field */
export const hasInput = (app, session, screen, field) =>
  !field.choices?.length &&
  !isSwitch(app, screen.source, field.field) &&
  openingLink(app, screen, field) === null &&
  !offersAll(app, session, field);

/** Whether the records that a field chooses among are so few that all are offered. @param {WiredApp} app @param {Session} session @param {any} field */
function offersAll(app, session, field) {
  const records = field.choicesFrom ? app.records(session, field.choicesFrom) : null;
  return records !== null && records.length > 0 && records.length <= IN_PLACE;
}

/** What a field that holds a value says: the label of a record that it names, never its key. @param {WiredApp} app @param {Session} session @param {any} screen @param {any} field @param {any} value @returns {string} */
export function saidIn(app, session, screen, field, value) {
  if (isEmpty(value)) return '';
  const link = openingLink(app, screen, field);
  const listing = link?.brings ? app.listing(link.to, link.brings.list ?? '') : null;
  const source = link?.brings ? (listing?.source ?? '') : (field.choicesFrom ?? '');
  const by = link?.brings?.field ?? '';
  const records = source ? app.records(session, source) : null;
  if (!records || Array.isArray(value) || (by && by !== records.source.key)) return shown(value);
  const record = records.byKey(value);
  return record ? app.say(source).value(records.source.label, record) : shown(value);
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
  if (openingLink(app, formOf(app, entry), field)) return [];
  const records = field.choicesFrom ? app.records(session, field.choicesFrom) : null;
  const all = offersAll(app, session, field);
  const typed = records ? valueIn(app, session, entry, field.field) : null;
  if (!records || (Array.isArray(typed) && !all)) return [];
  const { key, label } = records.source;
  const named = (/** @type {Found | null} */ record) =>
    app.say(field.choicesFrom).value(label, record);
  const chosen = typed === null || all ? null : records.byKey(typed);
  if (chosen) return [[typed, named(chosen)]];
  const listing = { search: [...fieldsOfLabel(label), key], limit: all ? IN_PLACE : OFFERED };
  const asked = {
    arguments: {},
    values: {},
    choices: {},
    sort: null,
    search: all || isEmpty(typed) ? '' : shown(typed),
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
  const rows = query(records, { search: fieldsOfLabel(label), limit: LOOKED_THROUGH }, asked);
  const wanted = text.trim().toLowerCase();
  const called = Array.from({ length: rows.length }, (_, at) => at).filter(
    (at) => app.say(id).value(label, rows.at(at)).toLowerCase() === wanted,
  );
  return called.length === 1 && rows.found === rows.length ? rows.keyAt(called[0]) : null;
}
