// Forms: typing, saving and leaving (rule 10).

import { afterSaving } from './after-saving.js';
import { madeFor } from './asking.js';
import { checked, faultsOf, formOf, withTyped } from './form-values.js';
import { Refused, note } from './notes.js';
import { saying } from './passing.js';
import { applyChanges, notSent } from './records-changed.js';
import { NO_CHANGES } from './records.js';
import { cutBack, withView } from './session.js';
import { targetOf } from './targets.js';
import { takes } from './unsent.js';
import { without } from './values.js';
import { demandNotSent, saveAtService, withoutFault } from './writing.js';

/** A field is given a value; what is as it was before makes no draft. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function typeIn(app, session, event) {
  const { index } = targetOf(app, session, event);
  demandNotSent(session, index);
  const typed = withoutFault(session, index, event.field);
  return [withTyped(app, typed, index, event.field, event.to ?? null), []];
}

/** Write the record, or name every field at fault and write nothing; then go on. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function save(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  demandNotSent(session, index);
  const form = formOf(app, entry);
  const where = `screens[${form.id}].fields`;
  const faults = faultsOf(app, session, entry);
  if (Object.keys(faults).length) {
    return [withView(session, index, { tried: true }), [note('not saved', '', { faults }, where)]];
  }
  const records = app.records(session, form.source);
  if (!records)
    throw new Refused('no such source', `screens[${form.id}].source`, { source: form.source });
  /** @type {Record<string, any>} */
  let written = Object.fromEntries(
    (form.fields ?? []).map((/** @type {any} */ field) => [
      field.field,
      checked(app, session, entry, field),
    ]),
  );
  /** @type {any} */
  const known = app.keyOf(entry);
  if (known !== null && app.recordOf(session, entry) === null) {
    throw new Refused('record is gone', '', { source: form.source, key: known });
  }
  // What was not typed stays as it is, which of a late source is not known in whole.
  const typed = Object.fromEntries(
    Object.entries(without(written, records.source.key)).filter(([name]) =>
      Object.hasOwn(entry.view.draft, name),
    ),
  );
  if (takes(app, form.source, known === null ? 'create' : 'change'))
    return saveAtService(app, session, index, form, known, known === null ? written : typed);
  /** @type {Changes} */
  let changes;
  /** @type {any} */
  let key = known;
  if (known === null) {
    key = keyOfNew(records, form, written, where);
    written = { ...written, [records.source.key]: key };
    changes = { ...NO_CHANGES, added: [written] };
  } else {
    changes = {
      ...NO_CHANGES,
      changed: Object.keys(typed).length ? [{ key: known, fields: typed }] : [],
    };
  }
  const said = note('saved', known === null ? 'new' : '', { source: form.source, key });
  const [changed, notes] = applyChanges(app, session, form.source, changes);
  const wanted = known === null ? madeFor(app, session, index, form) : null;
  const [left, more] = afterSaving(app, changed, index, form, key, wanted);
  const [after, passing] = saying(app, left, form.says, form.source, key);
  return [after, [said, ...notSent(app, form.source), ...notes, ...more, ...passing]];
}

/** The key of a new record: as typed, or made. @param {Records} records @param {any} form @param {Record<string, any>} written @param {string} where @returns {Scalar} */
function keyOfNew(records, form, written, where) {
  const name = records.source.key;
  /** @type {any} */
  const typed = written[name] ?? null;
  if (typed !== null && !Array.isArray(typed)) return typed;
  const key = records.unusedKey(form.source);
  if (key === null)
    throw new Refused('no next key', where, { field: name, type: records.types.get(name) });
  return key;
}

/** Leave a form; what was typed goes, once that was agreed to. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function cancel(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const form = formOf(app, entry);
  if (index === 0)
    return [
      withView(session, index, { draft: {}, tried: false }),
      [note('emptied', '', { screen: form.id })],
    ];
  return [cutBack(session, index), [note('closed', 'cancelled', { screen: form.id })]];
}
