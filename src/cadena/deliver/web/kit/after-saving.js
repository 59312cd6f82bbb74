// How an app goes on from a form that was saved (rule 10).

import { bring } from './bringing.js';
import { firstFormOf, openAfterSaving } from './opening.js';
import { cutBack, entriesOf, withEntry } from './session.js';

/** Go on from a form: what was made for a list to choose from is brought home (15). @param {WiredApp} app @param {Session} session @param {number} index @param {any} form @param {any} key @param {{at: number, asking: Asking} | null} wanted @returns {Taken} */
export function afterSaving(app, session, index, form, key, wanted) {
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
