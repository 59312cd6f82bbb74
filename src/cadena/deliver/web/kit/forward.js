// Going forward to what back took away (rule 17).

import { Refused, note } from './notes.js';
import { isMissing, pared } from './saved-state.js';
import { LAYERS, entriesOf, onBase, touched, withEntries } from './session.js';
import { same } from './values.js';

/** A session after back, with what that took away ahead of it. @param {WiredApp} app @param {Session} before @param {Session} after @param {number} length @returns {Session} */
export function withAhead(app, before, after, length) {
  if (!app.platform.forward) return after;
  const all = entriesOf(before);
  if (length && all[length - 1].by === 'rule') return { ...after, ahead: [] };
  const entries = all.slice(length).map((entry) => takenAway(app, entry));
  return { ...after, ahead: [...before.ahead, { section: before.section, length, entries }] };
}

/** What was typed is gone, it was asked for; so is what lives as long as its view. @param {WiredApp} app @param {Entry} entry */
function takenAway(app, entry) {
  const view = pared(app, entry.screen, entry.view, (lifetime) => lifetime !== 'view');
  return touched({ ...entry, view: { ...view, draft: {}, tried: false }, loads: {} });
}

/** Whether there is anything to go forward to. @param {Session} session */
export const canGoForward = (session) => goneForward(session) !== null;

/** Take one step forward. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function goForward(app, session) {
  const after = goneForward(session);
  if (!after) throw new Refused('nothing ahead');
  if (after.section !== session.section)
    return [after, [note('forward', 'to section', { section: after.section })]];
  return [after, [note('forward', '', { screen: entriesOf(after).at(-1)?.screen })]];
}

/** @param {Session} session @returns {Session | null} */
function goneForward(session) {
  const ahead = session.ahead.at(-1);
  if (!ahead) return null;
  const after = { ...session, slid: false, focus: -1, ahead: session.ahead.slice(0, -1) };
  const { section, length, entries } = ahead;
  if (!entries.length) {
    const isThere = section !== session.section && session.chains[section]?.entries.length;
    return isThere ? { ...after, section } : null;
  }
  if (section !== session.section) return null;
  const now = entriesOf(session);
  if (LAYERS.includes(entries[0].opened)) return withEntries(after, onBase(now, entries, length));
  const hasRoom = now.length >= length && now.slice(length).every((entry) => entry.by === 'rule');
  return hasRoom ? withEntries(after, [...now.slice(0, length), ...entries]) : null;
}

/** Once something else has been opened, or another section, nothing is ahead any more; nor is a screen that would have closed with its record. @param {WiredApp} app @param {Session} before @param {Session} after @returns {Session} */
export function withoutAhead(app, before, after) {
  if (!after.ahead.length) return after;
  if (after.ahead === before.ahead && !same(byHand(before), byHand(after)))
    return { ...after, ahead: [] };
  if (after.changes === before.changes) return after;
  const kept = [];
  for (const each of after.ahead.toReversed()) {
    const gone = each.entries.findIndex(
      (entry) => isMissing(app, after, entry) && !isMissing(app, before, entry),
    );
    const entries = gone < 0 ? each.entries : each.entries.slice(0, gone);
    if (entries.length || !each.entries.length) kept.unshift({ ...each, entries });
    if (gone >= 0) break;
  }
  return { ...after, ahead: kept };
}

/** What of the chain on display does not come and go by rule. @param {Session} session */
const byHand = (session) => [
  session.section,
  ...entriesOf(session)
    .filter((entry) => entry.by !== 'rule')
    .map((entry) => [entry.screen, entry.arguments, entry.opened]),
];
