// What acts change shows at once, before a service has taken it (rule 9.1).

import { applyChanges } from './records-changed.js';
import { NO_CHANGES } from './records.js';
import { newWrite, takes } from './unsent.js';

/** Make changes that show at once, and send them where the source is written to. @param {WiredApp} app @param {Session} session @param {string} source @param {Changes} changes @returns {Taken} */
export function changedByHand(app, session, source, changes) {
  const records = app.records(session, source);
  const [after, notes] = applyChanges(app, session, source, changes);
  /** @type {Write[]} */
  const made = [];
  let number = session.calls;
  for (const { key, fields } of takes(app, source, 'change') ? changes.changed : []) {
    const record = records?.byKey(key) ?? null;
    const was = Object.fromEntries(
      Object.keys(fields).map((name) => [name, record?.value(name) ?? null]),
    );
    number += 1;
    made.push(newWrite({ number, source, kind: 'change', key, fields, was, state: 'queued' }));
  }
  for (const key of takes(app, source, 'remove') ? changes.gone : []) {
    number += 1;
    made.push(newWrite({ number, source, kind: 'remove', key, state: 'held' }));
  }
  if (!made.length) return [after, notes];
  return [{ ...after, calls: number, writes: [...after.writes, ...made] }, notes];
}

/** What acts have changed shows on, whatever has come of the records meanwhile. @param {WiredApp} app @param {Session} session @param {string} source @returns {Session} */
export function stillShown(app, session, source) {
  const records = app.records(session, source);
  const acts = session.writes.filter(
    (each) =>
      each.source === source &&
      each.form === null &&
      each.key !== null &&
      (records?.rowOf(each.key) ?? null) !== null,
  );
  if (!records || !session.writes.some((each) => each.source === source && each.form === null))
    return session;
  const gone = acts.filter((each) => each.kind === 'remove').map((each) => each.key);
  const changed = acts
    .filter((each) => each.kind !== 'remove' && !gone.includes(each.key))
    .map(({ key, fields }) => ({ key, fields }));
  const changes = /** @type {any} */ ({ ...NO_CHANGES, changed, gone });
  return applyChanges(app, session, source, changes, true)[0];
}
