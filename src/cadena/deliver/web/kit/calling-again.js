// What has come of a source is called for anew (rule 9).

import { withEachEntry } from './session.js';

/** After a refresh, all that has come of a source is to be called for anew. @param {WiredApp} app @param {Session} session @param {string} source */
export function calledAgain(app, session, source) {
  if (!app.late.has(source)) return session;
  return withEachEntry(session, (chain, index, entry) => {
    const loads = Object.entries(entry.loads);
    if (!loads.length) return entry;
    const isOf = (/** @type {string} */ part) =>
      (app.listing(entry.screen, part)?.source ?? app.sourceOf(entry)) === source;
    return {
      ...entry,
      loads: Object.fromEntries(
        loads.map(([part, load]) => [
          part,
          isOf(part) ? { ...load, state: 'loading', request: 0, again: load.brought } : load,
        ]),
      ),
    };
  });
}
