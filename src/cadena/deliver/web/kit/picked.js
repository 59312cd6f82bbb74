// What is picked on lists, and what becomes of it (rule 14).

import { displayOf } from './display.js';
import { entriesOf, withEachEntry, withView } from './session.js';
import { held, without } from './values.js';

/** The keys that are picked on a list. @param {Entry} entry @param {string} part @returns {Scalar[]} */
export const pickedOn = (entry, part) => held(entry.view.picked, part) ?? [];

/** Whether what is picked on a list screen has taken the place of its own buttons. @param {WiredApp} app @param {Entry} entry */
export const hidesButtons = (app, entry) =>
  Object.keys(entry.view.picked).length > 0 && app.screens.get(entry.screen)?.kind === 'list';

/** The entries on display on which something is picked: what back lets go first. @param {WiredApp} app @param {Session} session @returns {number[]} */
export function pickedOnDisplay(app, session) {
  const { layer, slid, panes } = displayOf(app, session);
  const top = layer ?? slid;
  return (top ? [top] : panes)
    .map((pane) => pane.entry)
    .filter((at) => at !== null)
    .filter((at) => Object.keys(entriesOf(session)[at].view.picked).length);
}

/** A session with nothing picked on some of its entries. @param {Session} session @param {number[]} entries */
export const allLetGo = (session, entries) =>
  entries.reduce((after, index) => withView(after, index, { picked: {} }), session);

/** What is picked is let go once its record is gone; of late sources nothing is judged gone. @param {WiredApp} app @param {Session} session @param {string} source of this one alone, where it is named */
export function withoutGonePicks(app, session, source = '') {
  return withEachEntry(session, (chain, index, entry) => {
    const parts = Object.entries(entry.view.picked);
    if (!parts.length) return entry;
    let { picked } = entry.view;
    for (const [part, keys] of parts) {
      const of = app.listing(entry.screen, part)?.source ?? '';
      if (app.late.has(of) || (source && of !== source)) continue;
      const records = app.isSeveral(entry.screen, part) ? app.records(session, of) : null;
      const there = records ? keys.filter((key) => records.rowOf(key) !== null) : [];
      if (there.length === keys.length) continue;
      picked = without(picked, part);
      if (there.length) picked[part] = there;
    }
    return picked === entry.view.picked ? entry : { ...entry, view: { ...entry.view, picked } };
  });
}
