// Several rows at once: picking them, and doing one thing to all of them (rule 14).

import { doneToSeveral } from './actions.js';
import { Refused, note } from './notes.js';
import { sayingText } from './passing.js';
import { pickedOn } from './picked.js';
import { entriesOf, withView } from './session.js';
import { targetOf } from './targets.js';
import { without } from './values.js';

/** Pick a row, or let it go. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function pick(app, session, event) {
  const { index } = targetOf(app, session, event);
  return pickOrLetGo(app, session, index, event.list ?? '', event.key);
}

/** A row is picked; once more, and it is let go. @param {WiredApp} app @param {Session} session @param {number} index @param {string} part @param {any} key @returns {Taken} */
export function pickOrLetGo(app, session, index, part, key) {
  const entry = entriesOf(session)[index];
  const picked = pickedOn(entry, part);
  if (picked.includes(key)) {
    session = marked(session, index, part, key);
    const others = picked.filter((each) => each !== key);
    return withPicked(session, index, part, others);
  }
  const { rows } = listedOf(app, session, entry, part);
  if (rows.indexOf(key) === null)
    throw new Refused('row not listed', `screens[${entry.screen}]`, { key });
  return withPicked(marked(session, index, part, key), index, part, [...picked, key]);
}

/** Pick all between the row picked last, where it is shown, and this one. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function pickTo(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const part = event.list ?? '';
  const listed = listedOf(app, session, entry, part);
  const picked = pickedOn(entry, part);
  const to = listed.rows.indexOf(event.key);
  if (to === null)
    throw new Refused('row not listed', `screens[${entry.screen}]`, { key: event.key });
  const last = picked.length ? listed.rows.indexOf(picked[picked.length - 1]) : null;
  const start = last ?? to;
  const step = start <= to ? 1 : -1;
  const keys = [];
  for (let at = start; at !== to + step; at += step)
    if (!listed.isHidden(at)) keys.push(listed.rows.keyAt(at));
  const named = keys.filter((each) => each !== null);
  session = marked(session, index, part, event.key);
  return withPicked(session, index, part, [...new Set([...picked, ...named])]);
}

/** Pick all that a list shows; of a late source, all that has come. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function pickAll(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const part = event.list ?? '';
  const listed = listedOf(app, session, entry, part);
  const keys = Array.from({ length: listed.rows.length }, (_, at) => at)
    .filter((at) => !listed.isHidden(at))
    .map((at) => listed.rows.keyAt(at))
    .filter((key) => key !== null);
  if (!keys.length) throw new Refused('no rows to pick', `screens[${entry.screen}]`);
  return withPicked(session, index, part, [...new Set([...pickedOn(entry, part), ...keys])]);
}

/** Let go of all that is picked on a list. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function letGo(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const part = event.list ?? '';
  if (!pickedOn(entry, part).length)
    throw new Refused('nothing is picked', `screens[${entry.screen}]`);
  return withPicked(session, index, part, []);
}

/** An action is done to all that is picked at once, which is then let go. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function actOnPicked(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const { part, button } = app.action(entry.screen, event.action) ?? { part: '', button: {} };
  const picked = pickedOn(entry, part);
  const where = `screens[${entry.screen}]`;
  if (!button.several) throw new Refused('not for several', where, { action: event.action });
  if (!picked.length) throw new Refused('nothing is picked', where);
  const { source } = app.listing(entry.screen, part);
  let [after, notes] = doneToSeveral(app, session, button.does, source, picked);
  if (entriesOf(after)[index]?.screen === entry.screen)
    [after] = withPicked(after, index, part, []);
  const said = app.words(button.several.says ?? '', { count: picked.length });
  const [spoken, how] = sayingText(after, said);
  return [spoken, [...notes, ...how]];
}

/** A session in which keys go on from a row that was picked, or let go. @param {Session} session @param {number} index @param {string} part @param {any} key */
const marked = (session, index, part, key) =>
  withView(session, index, {
    marker: { ...entriesOf(session)[index].view.marker, [part]: key },
  });

/** @param {Session} session @param {number} index @param {string} part @param {Scalar[]} keys @returns {Taken} */
function withPicked(session, index, part, keys) {
  const picked = without(entriesOf(session)[index].view.picked, part);
  if (keys.length) picked[part] = keys;
  const said = keys.length
    ? note('picked', '', { part, count: keys.length })
    : note('let go', '', { part });
  return [withView(session, index, { picked }), [said]];
}

/** @param {WiredApp} app @param {Session} session @param {Entry} entry @param {string} part @returns {Listed} */
function listedOf(app, session, entry, part) {
  const listed = app.listed(session, entry, part);
  if (!listed) throw new Refused('no rows to pick', `screens[${entry.screen}]`);
  return listed;
}
