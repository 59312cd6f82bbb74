// What is typed in a form, and what is at fault in it (rule 10).

import { Refused } from './notes.js';
import { entriesOf, withView } from './session.js';
import { isOfForm } from './unsent.js';
import { Unfit, carry, held, isEmpty, same, shown, without } from './values.js';

/** What is typed in a field cannot be saved; its text tells the person why. */
const ONE_OF = 'must be one of {choices}';

class AtFault extends Error {}

/** The form that an entry shows. @param {WiredApp} app @param {Entry} entry */
export function formOf(app, entry) {
  const screen = app.screens.get(entry.screen);
  if (screen?.kind !== 'form')
    throw new Refused('no form', `screens[${entry.screen}]`, { screen: entry.screen });
  return screen;
}

/** What a field holds before anything is typed. @param {WiredApp} app @param {Session} session @param {Entry} entry @param {any} field */
export function valueBefore(app, session, entry, field) {
  if (app.keyOf(entry) !== null) return app.recordOf(session, entry)?.value(field.field) ?? null;
  const given = field.argument ? (held(entry.arguments, field.argument) ?? null) : null;
  const shared = field.value ? (held(session.values, field.value) ?? null) : null;
  return given ?? shared ?? field.default ?? null;
}

/** What a field of an open form now holds. @param {WiredApp} app @param {Session} session @param {Entry} entry @param {string} name */
export function valueIn(app, session, entry, name) {
  const typed = held(entry.view.draft, name);
  if (typed !== undefined) return typed;
  return valueBefore(
    app,
    session,
    entry,
    formOf(app, entry).fields.find((/** @type {any} */ each) => each.field === name),
  );
}

/** A session with a value in a field of an open form; what is as it was makes no draft. @param {WiredApp} app @param {Session} session @param {number} index @param {string} name @param {any} to */
export function withTyped(app, session, index, name, to) {
  const entry = entriesOf(session)[index];
  const field = formOf(app, entry).fields?.find((/** @type {any} */ each) => each.field === name);
  if (!field)
    throw new Refused('no such field', `screens[${entry.screen}].fields`, { field: name });
  const draft = without(entry.view.draft, name);
  const before = valueBefore(app, session, entry, field);
  const meant = asMeant(app, entry, name, to);
  if (!same(meant, before) && !(isEmpty(to) && isEmpty(before))) draft[name] = to;
  return withView(session, index, { draft });
}

/** What was typed, as its field's type has it, where it says such a value. @param {WiredApp} app @param {Entry} entry @param {string} name @param {any} to */
function asMeant(app, entry, name, to) {
  const kind = app.asRead.get(formOf(app, entry).source)?.types.get(name);
  try {
    return typeof to === 'string' && kind !== undefined ? carry(to, kind, true) : to;
  } catch (unfit) {
    if (!(unfit instanceof Unfit)) throw unfit;
    return to;
  }
}

/** What is wrong with each field at fault, in words. @param {WiredApp} app @param {Session} session @param {Entry} entry @returns {Record<string, string>} */
export function faultsOf(app, session, entry) {
  /** @type {Record<string, string>} */
  const faults = {};
  for (const field of formOf(app, entry).fields ?? []) {
    try {
      demandOwnKey(app, session, entry, field, checked(app, session, entry, field));
    } catch (fault) {
      if (!(fault instanceof AtFault)) throw fault;
      faults[field.field] = fault.message;
    }
  }
  return faults;
}

/** The value of a field as it would be written. @param {WiredApp} app @param {Session} session @param {Entry} entry @param {any} field */
export function checked(app, session, entry, field) {
  const value = valueIn(app, session, entry, field.field);
  if (isEmpty(value)) {
    if (field.required) throw new AtFault(app.words('is required'));
    return null;
  }
  const kind = app.asRead.get(formOf(app, entry).source)?.types.get(field.field);
  if (kind === undefined) throw new AtFault(app.words('is no field of the records'));
  const written = converted(app, value, kind);
  if (
    field.choices?.length &&
    !field.choices.some((/** @type {any} */ each) => same(each, written))
  ) {
    throw new AtFault(app.words(ONE_OF, { choices: field.choices.map(shown).join(', ') }));
  }
  if (
    field.choicesFrom &&
    (app.records(session, field.choicesFrom)?.rowOf(written) ?? null) === null
  ) {
    throw new AtFault(app.words(ONE_OF, { choices: field.choicesFrom }));
  }
  demandWithin(app, field, written);
  return written;
}

/** @param {WiredApp} app @param {any} value @param {string} kind */
function converted(app, value, kind) {
  try {
    return carry(value, kind, true);
  } catch (unfit) {
    if (!(unfit instanceof Unfit)) throw unfit;
    const text = kind === 'date' ? 'must be a date, YYYY-MM-DD' : 'must be {type}';
    throw new AtFault(app.words(text, { type: app.words(kind) }));
  }
}

/** The key of a record stays as it is; that of a new one is no other's. @param {WiredApp} app @param {Session} session @param {Entry} entry @param {any} field @param {any} value */
function demandOwnKey(app, session, entry, field, value) {
  const records = app.records(session, formOf(app, entry).source);
  if (!records || field.field !== records.source.key) return;
  if (app.keyOf(entry) !== null) {
    if (Object.hasOwn(entry.view.draft, field.field))
      throw new AtFault(app.words('stays as it is'));
  } else if (value !== null && records.rowOf(value) !== null)
    throw new AtFault(app.words('is taken'));
}

/** A number lies within least and most; of a text or a list it is the length. @param {WiredApp} app @param {any} field @param {any} value */
function demandWithin(app, field, value) {
  const measured =
    typeof value === 'string'
      ? Array.from(value).length
      : Array.isArray(value)
        ? value.length
        : Number(value);
  const letters = typeof value === 'string' ? ' characters' : '';
  const { least, most } = field;
  if (least !== undefined && measured < least)
    throw new AtFault(app.words(`must be at least {least}${letters}`, { least, count: least }));
  if (most !== undefined && measured > most)
    throw new AtFault(app.words(`must be at most {most}${letters}`, { most, count: most }));
}

/** The first form with a draft that is open before and not after, or null. @param {Session} before @param {Session} after @param {number | null} saved the entry on display whose draft was saved @param {number | null} asker the one that something may have been brought to @returns {Entry | null} */
export function draftLost(before, after, saved = null, asker = null) {
  for (const [name, chain] of Object.entries(before.chains)) {
    const now = held(after.chains, name);
    if (now === chain) continue;
    for (const [index, entry] of chain.entries.entries()) {
      const hasDraft = Object.keys(entry.view.draft).length > 0;
      if (!hasDraft || (index === saved && name === before.section)) continue;
      // What is being sent, or was not, has what was typed.
      const isSent = after.writes.some(
        (each) => isOfForm(each.form, name, entry) && same(each.form?.draft, entry.view.draft),
      );
      if (isSent) continue;
      const there = now?.entries[index];
      if (!there || there.screen !== entry.screen || !same(there.arguments, entry.arguments))
        return entry;
      const isAsker = index === asker && name === before.section;
      if (!Object.keys(there.view.draft).length && !isAsker) return entry;
    }
  }
  return null;
}
