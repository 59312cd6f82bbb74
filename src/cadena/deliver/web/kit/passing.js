// What is said for a moment after an act (rule 8).

import { displayOf } from './display.js';
import { Refused, note } from './notes.js';
import { askingWrite, withWrite, wordsForWrite } from './unsent.js';

/** How long it is said, in ms. */
const STAYS = 4000;

/** A session in which a text is said of a record. @param {WiredApp} app @param {Session} session @param {string | undefined} text @param {string} source @param {any} key @param {Found | null} before the record as it was, for one that is gone @returns {Taken} */
export function saying(app, session, text, source, key, before = null) {
  if (!text) return [session, []];
  const record = app.records(session, source)?.byKey(key) ?? before;
  const said = app.say(source).fill(text, record);
  return sayingText(session, said);
}

/** A session in which a text is said; of none nothing is. @param {Session} session @param {string} said @returns {Taken} */
export function sayingText(session, said) {
  if (!said) return [session, []];
  const passing = { text: said, until: session.clock + STAYS };
  return [{ ...session, passing }, [note('said', '', { text: said })]];
}

/** What is said now: of an act, or that a record was removed and can be put back. @param {WiredApp} app @param {Session} session @returns {string | null} */
export function saidNow(app, session) {
  const { passing, removal } = session;
  if (passing) return passing.text;
  if (removal) return app.words('{title} removed', { title: removal.title });
  const write = session.writes.length ? askingWrite(session, displayOf(app, session)) : null;
  return write && wordsForWrite(app, session, write);
}

/** What is said goes, and with it what was offered to be undone. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function putAway(app, session) {
  if (!session.passing && !session.removal) {
    const write = askingWrite(session, displayOf(app, session));
    if (!write) throw new Refused('nothing is said');
    return [withWrite(session, { ...write, away: true }), [note('closed', 'said')]];
  }
  return [{ ...session, passing: null, removal: null }, [note('closed', 'said')]];
}
