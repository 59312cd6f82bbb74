// A list that is opened to choose from brings what is chosen to who asked (rule 15).

import { withTyped } from './form-values.js';
import { Refused, note } from './notes.js';
import { fillIn, linkOf, openLink } from './opening.js';
import { carriedInto, carriedTo, demandReferred, notSent } from './records-changed.js';
import { NO_CHANGES } from './records.js';
import { cut, entriesOf, touched, withEntries, withEntry } from './session.js';
import { targetOf } from './targets.js';
import { changedByHand } from './shown-at-once.js';
import { without } from './values.js';

/** A field of a form opens the list that it is filled from. @param {WiredApp} app @param {Session} session @param {any} event */
export function openField(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  return openLink(app, session, index, linkOf(app, entry.screen, 'field', event.field), null);
}

/** Bring a record home: the list that was opened to choose, and all above it, leaves. @param {WiredApp} app @param {Session} session @param {number} index @param {Asking} asking @param {string} source @param {any} key @returns {Taken} */
export function bring(app, session, index, asking, source, key) {
  const records = app.shown(session, source);
  const record = records?.byKey(key) ?? null;
  if (!records || !record)
    throw new Refused('no such record', `sources[${source}]`, { source, key });
  const { link, brings, owner } = asking;
  const field = brings.field || records.source.key;
  if (!records.types.has(field))
    throw new Refused('no such field', `links[${link.id}].brings`, { field });
  session = withEntries(session, cut(entriesOf(session), index));
  const asker = touched(entriesOf(session)[owner]);
  session = { ...withEntry(session, owner, asker), slid: false };
  const value = record.value(field);
  const [after, notes] = given(app, session, asking, value);
  return [after, [note('brought', '', { link: link.id, screen: asker.screen, value }), ...notes]];
}

/** Give a value to who asked. @param {WiredApp} app @param {Session} session @param {Asking} asking @param {any} value @returns {Taken} */
function given(app, session, { owner, link, brings }, value) {
  const { on, part = '' } = link.trigger;
  if (on === 'field') return [withTyped(app, session, owner, part, value), []];
  if (on === 'fact') return intoFact(app, session, entriesOf(session)[owner], part, value);
  if (brings.argument) return intoArgument(app, session, owner, link, brings.argument, value);
  const declared = app.values.get(brings.value ?? '');
  if (!declared) throw new Refused('brings nowhere', `links[${link.id}].brings`, { link: link.id });
  const to = value === null ? null : carriedTo(declared.id, declared.type ?? 'text', value);
  const values = without(session.values, declared.id);
  if (to !== null) values[declared.id] = to;
  return [{ ...session, values }, [note('set', '', { value: declared.id, to })]];
}

/** A fact takes it as a change in place does. @param {WiredApp} app @param {Session} session @param {Entry} asker @param {string} field @param {any} value @returns {Taken} */
function intoFact(app, session, asker, field, value) {
  const source = app.sourceOf(asker);
  /** @type {any} */
  const key = app.keyOf(asker);
  const records = app.records(session, source);
  const kind = records?.types.get(field);
  if (!records || !app.recordOf(session, asker) || kind === undefined)
    throw new Refused('no such record', `sources[${source}]`, { source, key });
  if (field === records.source.key) throw new Refused('key stays', `sources[${source}]`, { field });
  const to = value === null ? null : carriedInto(source, field, kind, value);
  demandReferred(app, session, source, field, to);
  const changed = [{ key, fields: { [field]: to } }];
  const [after, notes] = changedByHand(app, session, source, { ...NO_CHANGES, changed });
  const said = note('changed', 'field', { source, key, field, to });
  return [after, [said, ...notSent(app, source), ...notes]];
}

/** An argument of the screen that asked; not the one that says which record it is about. @param {WiredApp} app @param {Session} session @param {number} owner @param {any} link @param {string} name @param {any} value @returns {Taken} */
function intoArgument(app, session, owner, link, name, value) {
  const asker = entriesOf(session)[owner];
  const screen = app.screens.get(asker.screen);
  const where = `links[${link.id}].brings`;
  const parameter = screen.parameters?.find((/** @type {any} */ each) => each.name === name);
  if (!parameter || value === null) throw new Refused('brings nowhere', where, { link: link.id });
  if (screen.kind !== 'list' && screen.key === name)
    throw new Refused('key stays', where, { field: name });
  const made = fillIn(parameter, value, ['link', link.id, screen.id], where);
  const args = { ...asker.arguments, [name]: made };
  return [withEntry(session, owner, { ...asker, arguments: args }), []];
}
