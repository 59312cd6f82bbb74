// What is to be written to services, and is not confirmed yet (rule 9.1).

import { entriesOf } from './session.js';
import { same } from './values.js';

export const NO_ANSWER = 'no answer came';
export const FAILED = 'the service has failed';
export const NOT_ALLOWED = 'it is not allowed';
export const TOO_MUCH = 'too much was asked of the service';
export const NOT_NOW = 'the service does not answer now';
export const NOT_FROM_HERE = 'nothing is sent to a service from here';
export const GONE = 'it is not there any more';
export const REFUSED = 'the service refused it';
const QUICKER = 'somebody was quicker';
export const UNDER_WAY = ['sending', 'later', 'queued'];
/** What a person has to do something about. */
export const ASKS = ['unsent', 'refused', 'quicker'];

/** After which the service may have taken it all the same. */
export const NOT_KNOWN = [NO_ANSWER, FAILED];

/** Whether a source is written to in this way. @param {WiredApp} app @param {string} source @param {string} kind */
export const takes = (app, source, kind) => app.writes.get(source)?.has(kind) ?? false;

/** Something to be written, as it is at first. @param {Partial<Write>} write @returns {Write} */
export const newWrite = (write) => ({
  number: 0,
  source: '',
  kind: 'change',
  key: null,
  fields: {},
  was: {},
  state: 'sending',
  call: 0,
  due: null,
  form: null,
  why: '',
  faults: {},
  theirs: {},
  done: false,
  made: null,
  away: false,
  ...write,
});

/** @param {Session} session @param {Write} write @returns {Session} */
export function withWrite(session, write) {
  const isThere = session.writes.some((each) => each.number === write.number);
  const writes = isThere
    ? session.writes.map((each) => (each.number === write.number ? write : each))
    : [...session.writes, write];
  return { ...session, writes };
}

/** @param {Session} session @param {Write} write @returns {Session} */
export const withoutWrite = (session, write) => ({
  ...session,
  writes: session.writes.filter((each) => each.number !== write.number),
});

/** Whether an entry of a section is the form that something was saved in. @param {FormAt | null} form @param {string} section @param {Entry} entry */
export const isOfForm = (form, section, entry) =>
  form !== null &&
  form.section === section &&
  form.screen === entry.screen &&
  same(form.arguments, entry.arguments);

/** What the form that is open at a place has sent, until that is confirmed or given up. @param {Session} session @param {number | null} index @returns {Write | null} */
export function writeOf(session, index) {
  const entry = index === null ? undefined : entriesOf(session)[index];
  if (!entry) return null;
  return session.writes.find((each) => isOfForm(each.form, session.section, entry)) ?? null;
}

/** The same of an entry, in whichever section. @param {Session} session @param {Entry} entry @returns {Write | null} */
export const writeAt = (session, entry) =>
  session.writes.find((each) => each.form && isOfForm(each.form, each.form.section, entry)) ?? null;

/** What was not sent, and is said beside the screens: whose form is not on display. @param {Session} session @param {Display} display @returns {Write | null} */
export function askingWrite(session, display) {
  const isShown = (/** @type {Write} */ write) =>
    display.shown.some((pane) => pane.entry !== null && writeOf(session, pane.entry) === write);
  const asks = (/** @type {Write} */ write) => ASKS.includes(write.state) && !write.away;
  return session.writes.find((each) => asks(each) && !isShown(each)) ?? null;
}

/** What is said of a write that was not sent. @param {WiredApp} app @param {Session} session @param {Write} write */
export function wordsForWrite(app, session, write) {
  const why = app.words(write.why || (write.state === 'quicker' ? QUICKER : REFUSED));
  return app.words('{title} was not sent: {why}', { title: called(app, session, write), why });
}

/** The record of a write, by its label. @param {WiredApp} app @param {Session} session @param {Write} write @returns {string} */
export function called(app, session, write) {
  const base = app.asRead.get(write.source);
  const record =
    write.key === null ? null : (app.records(session, write.source)?.byKey(write.key) ?? null);
  const value = (/** @type {string} */ name) =>
    Object.hasOwn(write.fields, name) ? write.fields[name] : (record?.value(name) ?? null);
  if (base && (record || Object.keys(write.fields).length)) {
    const said = app
      .say(write.source)
      .value(base.source.label, /** @type {any} */ ({ ...record, value }));
    if (said && said !== '–') return said;
  }
  const { title, id } = /** @type {any} */ (app.sources.get(write.source));
  return write.key === null ? title || id : String(write.key);
}
