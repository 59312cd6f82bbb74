// Forms: typing, saving and leaving (rule 10).

import { madeFor } from './asking.js';
import { bring } from './bringing.js';
import { checked, faultsOf, formOf, withTyped } from './form-values.js';
import { Refused, note } from './notes.js';
import { firstFormOf, openAfterSaving } from './opening.js';
import { saying } from './passing.js';
import { applyChanges, notSent } from './records-changed.js';
import { NO_CHANGES } from './records.js';
import { cutBack, entriesOf, withEntry, withView } from './session.js';
import { targetOf } from './targets.js';
import { without } from './values.js';

/** A field is given a value; what is as it was before makes no draft. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function typeIn(app, session, event) {
  const { index } = targetOf(app, session, event);
  return [withTyped(app, session, index, event.field, event.to ?? null), []];
}

/** Write the record, or name every field at fault and write nothing; then go on. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function save(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
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
  /** @type {Changes} */
  let changes;
  /** @type {any} */
  let key = known;
  if (known === null) {
    key = keyOfNew(records, form, written, where);
    written = { ...written, [records.source.key]: key };
    changes = { ...NO_CHANGES, added: [written] };
  } else {
    // What was not typed stays as it is, which of a late source is not known in whole.
    const fields = Object.fromEntries(
      Object.entries(without(written, records.source.key)).filter(([name]) =>
        Object.hasOwn(entry.view.draft, name),
      ),
    );
    changes = {
      ...NO_CHANGES,
      changed: Object.keys(fields).length ? [{ key: known, fields }] : [],
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

/** Go on from a form: what was made for a list to choose from is brought home (15). @param {WiredApp} app @param {Session} session @param {number} index @param {any} form @param {any} key @param {{at: number, asking: Asking} | null} wanted @returns {Taken} */
function afterSaving(app, session, index, form, key, wanted) {
  const entry = entriesOf(session)[index];
  session = withEntry(session, index, {
    ...entry,
    view: { ...entry.view, draft: {}, tried: false },
  });
  if (wanted) return bring(app, session, wanted.at, wanted.asking, form.source, key);
  const link = app.link(form.id, 'saved', '');
  if (link) return openAfterSaving(app, session, index, link, form.source, key);
  if (index === 0) return [session, []];
  const first = firstFormOf(app, session, index, form.source, key);
  return [cutBack(session, Math.max(1, first)), []];
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
