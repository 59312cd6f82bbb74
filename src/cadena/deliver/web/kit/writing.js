// Sources that are written to: what is sent, and what an answer makes of it (rule 9.1).

import { afterSaving } from './after-saving.js';
import { madeFor } from './asking.js';
import { calledAgain } from './calling-again.js';
import { formOf } from './form-values.js';
import { Refused, note } from './notes.js';
import { saying, sayingText } from './passing.js';
import { applyChanges } from './records-changed.js';
import { NO_CHANGES } from './records.js';
import { drawn, happens } from './seeded.js';
import {
  NO_VIEW,
  cutBack,
  entriesOf,
  newEntry,
  withEntries,
  withEntry,
  withView,
} from './session.js';
import { targetOf } from './targets.js';
import {
  ASKS,
  GONE,
  NOT_KNOWN,
  NO_ANSWER,
  UNDER_WAY,
  called,
  isOfForm,
  newWrite,
  withWrite,
  withoutWrite,
  writeOf,
} from './unsent.js';
import { same, without } from './values.js';

const MOST_CONFIRMED = 50;
/** Ms after which the stand-in says that it can be asked again. */
const AGAIN_AFTER = 1000;

/** What is being sent is not changed meanwhile, and is sent once. @param {Session} session @param {number} index */
export function demandNotSent(session, index) {
  const write = writeOf(session, index);
  if (!write) return;
  const where = `screens[${entriesOf(session)[index].screen}]`;
  if (UNDER_WAY.includes(write.state)) throw new Refused('being sent', where);
  if (write.state === 'quicker') throw new Refused('somebody was quicker', where);
}

/** What was refused of a field is said until something else is typed in it. @param {Session} session @param {number} index @param {string} field @returns {Session} */
export function withoutFault(session, index, field) {
  const write = writeOf(session, index);
  if (!write || !Object.hasOwn(write.faults, field)) return session;
  return withWrite(session, { ...write, faults: without(write.faults, field) });
}

/** Send what a form holds; it stays open until that is confirmed. @param {WiredApp} app @param {Session} session @param {number} index @param {any} form @param {any} key @param {Record<string, any>} fields @returns {Taken} */
export function saveAtService(app, session, index, form, key, fields) {
  demandNotSent(session, index);
  const entry = entriesOf(session)[index];
  const earlier = writeOf(session, index);
  const record = key === null ? null : app.recordOf(session, entry);
  const write = newWrite({
    number: earlier ? earlier.number : session.calls + 1,
    source: form.source,
    kind: key === null ? 'create' : 'change',
    key,
    fields,
    was: Object.fromEntries(Object.keys(fields).map((name) => [name, record?.value(name) ?? null])),
    form: {
      section: session.section,
      screen: entry.screen,
      arguments: entry.arguments,
      draft: entry.view.draft,
    },
    done: earlier?.done ?? false,
    made: earlier?.made ?? null,
  });
  return send(app, earlier ? withoutWrite(session, earlier) : session, write);
}

/** Send what waited for its turn, or for its undo to lapse. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function sendWaiting(app, session) {
  /** @type {Note[]} */
  const notes = [];
  for (let write of session.writes) {
    if (write.state === 'held') {
      const { removal } = session;
      if (removal?.source === write.source && removal.keys.includes(/** @type {any} */ (write.key)))
        continue;
      if ((app.records(session, write.source)?.rowOf(write.key) ?? null) !== null) {
        session = withoutWrite(session, write);
        continue;
      }
      write = { ...write, state: 'queued' };
      session = withWrite(session, write);
    }
    if (write.state === 'queued' && !isBehind(session, write)) {
      const [after, said] = send(app, session, write);
      session = after;
      notes.push(...said);
    }
  }
  return [session, notes];
}

/** Whether something earlier of the same record is not answered yet. @param {Session} session @param {Write} write */
function isBehind(session, write) {
  const at = session.writes.findIndex((each) => each.number === write.number);
  return session.writes
    .slice(0, at)
    .some((each) => each.key !== null && each.source === write.source && each.key === write.key);
}

/** Send a write, or once more. @param {WiredApp} app @param {Session} session @param {Write} write @returns {Taken} */
function send(app, session, write) {
  const source = app.late.get(write.source);
  const call = Math.max(session.calls, write.number - 1) + 1;
  const due = source.served === 'stand-in' ? session.clock + (source.standIn?.delay ?? 300) : null;
  const sent = {
    ...write,
    state: 'sending',
    call,
    due,
    why: '',
    faults: {},
    theirs: {},
    away: false,
  };
  const after = { ...withWrite(session, sent), calls: call };
  return [after, [note('sent', write.kind, { ...about(sent), due })]];
}

/** What the stand-in answers to a write, told by its seed and the number of the call alone. @param {WiredApp} app @param {Session} session @param {Write} write @returns {Taken} */
export function writeAnsweredByStandIn(app, session, write) {
  const source = app.late.get(write.source);
  if (!source) return [withoutWrite(session, write), []];
  if (write.state === 'later') return send(app, session, write);
  const { seed = 1, failsOneIn = 0, refusesOneIn = 0, quickerOneIn = 0 } = source.standIn ?? {};
  const number = write.call;
  if (happens(seed, 'fails', number, failsOneIn)) {
    const how = drawn(seed, 'how', number) % 3;
    if (how === 0) return later(session, write, AGAIN_AFTER);
    // It was done, and nobody was told.
    if (how === 1) [session, write] = doneUnheard(app, session, write);
    return unsent(session, write, NO_ANSWER);
  }
  const records = app.records(session, write.source);
  if (write.kind === 'change' && (records?.rowOf(write.key) ?? null) === null)
    return isGone(app, session, write);
  const fields = Object.keys(write.fields).sort();
  if (fields.length && happens(seed, 'refuses', number, refusesOneIn)) {
    const field = fields[drawn(seed, 'field', number) % fields.length];
    return isRefused(app, session, write, { [field]: app.words('is not taken') }, '');
  }
  if (write.kind === 'change' && happens(seed, 'quicker', number, quickerOneIn)) {
    const theirs = theirsOf(seed, write, number);
    if (Object.keys(theirs).length) return wasQuicker(app, session, write, theirs);
  }
  return confirmed(app, session, write, null);
}

/** A real service has answered a write, or has failed to. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function written(app, session, event) {
  const { request, outcome = 'done', record = null, faults = {}, why = '', after = null } = event;
  const write = session.writes.find((each) => each.call === request && each.state === 'sending');
  if (!write) return [session, [note('late', 'unknown', { call: request })]];
  if (outcome === 'done') return confirmed(app, session, write, record);
  if (outcome === 'refused') return isRefused(app, session, write, faults, why);
  if (outcome === 'quicker') return wasQuicker(app, session, write, record ?? {});
  if (outcome === 'gone') return isGone(app, session, write);
  if (outcome === 'later' && after !== null) return later(session, write, after);
  return unsent(session, write, why || NO_ANSWER);
}

/** Send once more what has not been. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export const sendAgain = (app, session, event) =>
  send(app, session, demanded(session, event.write, ['unsent', 'refused']));

/** What was not sent is not to be: what showed already goes back. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function giveUp(app, session, event) {
  const write = demanded(session, event.write, ASKS);
  let after = withoutWrite(session, write);
  if (app.sources.get(write.source)?.served === 'service' && NOT_KNOWN.includes(write.why)) {
    // Whether the service has taken it is not known: it is asked, and what it says counts.
    after = calledAgain(app, after, write.source);
  } else if (write.form === null && !write.done) {
    after = goneBack(app, after, write);
  }
  return [after, [note('given up', '', about(write))]];
}

/** Back to what was typed in a form that was left, and has not been sent. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function goBackTo(app, session, event) {
  const { form: at } = demanded(session, event.write, ASKS);
  if (!at || !session.chains[at.section] || !app.screens.has(at.screen))
    throw new Refused('nothing was typed');
  return [openedAgain(session, at), [note('back to', '', { screen: at.screen })]];
}

/** The form on display again, with what was typed in it. @param {Session} session @param {FormAt} at @returns {Session} */
function openedAgain(session, at) {
  const here = { ...session, section: at.section, slid: false };
  const entries = entriesOf(here);
  const found = entries.findIndex((entry) => isOfForm(at, at.section, entry));
  if (found >= 0) return withEntries(here, entries.slice(0, found + 1));
  const view = { ...NO_VIEW, draft: at.draft };
  return withEntries(here, [...entries, newEntry(at.screen, at.arguments, { view })]);
}

/** Of what somebody else has changed as well: mine counts, or theirs. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function settleConflict(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  let write = writeOf(session, index);
  const { field = '', take } = event;
  const isAsked = write?.state === 'quicker';
  if (!write || !isAsked || (field && !Object.hasOwn(write.theirs, field)))
    throw new Refused('nothing to settle');
  const fields = field ? [field] : Object.keys(write.theirs);
  const others = (/** @type {Record<string, any>} */ some) =>
    Object.fromEntries(Object.entries(some).filter(([name]) => !fields.includes(name)));
  const left = others(write.theirs);
  if (take === 'mine') {
    const { theirs } = write;
    const was = { ...write.was, ...Object.fromEntries(fields.map((name) => [name, theirs[name]])) };
    write = { ...write, theirs: left, was };
  } else {
    session = withView(session, index, { draft: others(entry.view.draft) });
    write = { ...write, theirs: left, fields: others(write.fields) };
  }
  const said = note('settled', take, { fields });
  if (Object.keys(left).length) return [withWrite(session, write), [said]];
  if (!Object.keys(write.fields).length) return [withoutWrite(session, write), [said]];
  const [after, notes] = send(app, session, write);
  return [after, [said, ...notes]];
}

/** @param {Session} session @param {number} number @param {string[]} states @returns {Write} */
function demanded(session, number, states) {
  const write = session.writes.find(
    (each) => each.number === number && states.includes(each.state),
  );
  if (!write) throw new Refused('nothing is unsent');
  return write;
}

/** @param {Write} write */
const about = ({ source, key, call }) => ({ source, key, call });

/** It is sent again by itself, once the service has said that it may be. @param {Session} session @param {Write} write @param {number} after @returns {Taken} */
function later(session, write, after) {
  const due = session.clock + after;
  const waits = withWrite(session, { ...write, state: 'later', due });
  return [waits, [note('not written', 'later', { ...about(write), due })]];
}

/** @param {Session} session @param {Write} write @param {string} why @returns {Taken} */
function unsent(session, write, why) {
  const after = withWrite(session, { ...write, state: 'unsent', due: null, why });
  return [after, [note('not written', 'unsent', { ...about(write), why })]];
}

/** The record is not there any more: what was typed stays where it was typed. @param {WiredApp} app @param {Session} session @param {Write} write @returns {Taken} */
function isGone(app, session, write) {
  const notes = [note('not written', 'gone', about(write))];
  if (write.form !== null)
    return [withWrite(session, { ...write, state: 'unsent', due: null, why: GONE }), notes];
  const told = { title: called(app, session, write), why: GONE };
  const text = app.words('{title} was not sent: {why}', told);
  let after = withoutWrite(session, write);
  const records = app.records(session, write.source);
  if (write.key !== null && (records?.rowOf(write.key) ?? null) !== null) {
    const changes = { ...NO_CHANGES, gone: [write.key] };
    const [without, said] = applyChanges(app, after, write.source, changes, true);
    after = without;
    notes.push(...said);
  }
  // Of a removal that is what was wanted.
  if (write.kind === 'remove') return [after, notes];
  const [passed, words] = sayingText(after, text);
  return [passed, [...notes, ...words]];
}

/** A form says at which field; an act goes back, and says so. @param {WiredApp} app @param {Session} session @param {Write} write @param {Record<string, string>} faults @param {string} why @returns {Taken} */
function isRefused(app, session, write, faults, why) {
  const form = write.form === null ? null : app.screens.get(write.form.screen);
  const there = new Set((form?.fields ?? []).map((/** @type {any} */ each) => each.field));
  // What is wrong with what no field shows is said of the whole.
  const others = Object.entries(faults).filter(([name]) => !there.has(name));
  faults = without(faults, ...others.map(([name]) => name));
  const say = app.say(write.source);
  const told = others.map(([name, text]) => `${say.label(name)}: ${text}`);
  why = [why, ...told].filter(Boolean).join('; ');
  const said = note('not written', 'refused', { ...about(write), faults, why });
  if (write.form !== null)
    return [withWrite(session, { ...write, state: 'refused', due: null, faults, why }), [said]];
  const title = called(app, session, write);
  const back = goneBack(app, withoutWrite(session, write), write);
  const text = why ? '{title} was refused: {why}' : '{title} was refused';
  const [after, words] = sayingText(back, app.words(text, { title, why }));
  return [after, [said, ...words]];
}

/** What somebody else has changed meanwhile is as they have it; what both have is asked. @param {WiredApp} app @param {Session} session @param {Write} write @param {Record<string, any>} there @returns {Taken} */
function wasQuicker(app, session, write, there) {
  const of = without(there, app.sources.get(write.source)?.key);
  const both = Object.fromEntries(
    Object.entries(of).filter(
      ([name, value]) =>
        Object.hasOwn(write.fields, name) &&
        !same(value, write.was[name] ?? null) &&
        !same(value, write.fields[name]),
    ),
  );
  const title = called(app, session, write);
  const notes = [note('not written', 'quicker', { ...about(write), fields: Object.keys(both) })];
  if (write.kind === 'remove') session = goneBack(app, session, write);
  if (write.key !== null) {
    const changes = { ...NO_CHANGES, changed: [{ key: write.key, fields: of }] };
    const [after, said] = applyChanges(app, session, write.source, changes, true);
    session = after;
    notes.push(...said);
  }
  if (write.form === null) {
    const text = app.words('Somebody was quicker: {title}', { title });
    const [after, words] = sayingText(withoutWrite(session, write), text);
    return [after, [...notes, ...words]];
  }
  if (!Object.keys(both).length) {
    // What others have changed is not what was typed here: that is sent on top of it.
    const was = Object.fromEntries(
      Object.keys(write.fields).map((name) => [
        name,
        Object.hasOwn(of, name) ? of[name] : (write.was[name] ?? null),
      ]),
    );
    const [after, sent] = send(app, session, { ...write, was });
    return [after, [...notes, ...sent]];
  }
  return [withWrite(session, { ...write, state: 'quicker', due: null, theirs: both }), notes];
}

/** What the stand-in lets somebody else have changed: a field that is written. @param {number} seed @param {Write} write @param {number} number @returns {Record<string, any>} */
function theirsOf(seed, write, number) {
  const fields = Object.keys(write.fields).sort();
  if (!fields.length) return {};
  const name = fields[drawn(seed, 'which field', number) % fields.length];
  const was = write.was[name] ?? null;
  if (typeof was === 'boolean') return { [name]: !was };
  if (typeof was === 'number') return { [name]: was + 1 };
  return typeof was === 'string' ? { [name]: `${was} *` } : {};
}

/** What was under way when the process ended: the service may have taken it. @param {WiredApp} app @param {Session} session @returns {Session} */
export function unheard(app, session) {
  for (const write of session.writes) {
    const source = app.late.get(write.source);
    if (write.state !== 'sending' || source?.served !== 'stand-in') continue;
    if (drawn(source.standIn?.seed ?? 1, 'ended', write.call) % 2) {
      const [after, done] = doneUnheard(app, session, write);
      session = withWrite(after, done);
    }
  }
  return session;
}

/** A write that the service has taken, of which nobody was told. @param {WiredApp} app @param {Session} session @param {Write} write @returns {[Session, Write]} */
function doneUnheard(app, session, write) {
  const [after, made] = taken(app, session, write, null);
  return [after, { ...write, done: true, made }];
}

/** The records as they are once a write is done: as the answer says, else as was sent. @param {WiredApp} app @param {Session} session @param {Write} write @param {Record<string, any> | null} record @returns {[Session, any, Note[]]} */
function taken(app, session, write, record) {
  const records = app.records(session, write.source);
  if (!records) return [session, write.key, []];
  const name = records.source.key;
  const came = record ?? {};
  /** @type {any} */
  let { key } = write;
  /** @type {any} */
  let changes = NO_CHANGES;
  if (write.kind === 'create') {
    key = came[name] ?? write.made ?? write.fields[name] ?? null;
    // Which key it has is for the service to say: the list is called for anew.
    if (key === null && app.sources.get(write.source).served === 'service')
      return [calledAgain(app, session, write.source), null, []];
    key ??= records.unusedKey(write.source);
    if (key !== null)
      changes = { ...NO_CHANGES, added: [{ ...write.fields, ...came, [name]: key }] };
  } else if (records.rowOf(key) === null) {
    return [session, key, []];
  } else if (write.kind === 'remove') {
    changes = { ...NO_CHANGES, gone: [key] };
  } else {
    // What was changed later, and is still to be sent, stays as it shows.
    const waits = session.writes.filter(
      (each) => each.number > write.number && each.source === write.source && each.key === key,
    );
    const skipped = new Set([name, ...waits.flatMap((each) => Object.keys(each.fields))]);
    const fields = Object.fromEntries(
      Object.entries({ ...write.fields, ...came }).filter(([each]) => !skipped.has(each)),
    );
    if (Object.keys(fields).length) changes = { ...NO_CHANGES, changed: [{ key, fields }] };
  }
  const [after, notes] = applyChanges(app, session, write.source, changes, true);
  return [after, key, notes];
}

/** The service has taken it: a form goes on as after saving (10). @param {WiredApp} app @param {Session} session @param {Write} write @param {Record<string, any> | null} record @returns {Taken} */
function confirmed(app, session, write, record) {
  const [changed, key, notes] = taken(app, session, write, record);
  let after = withoutWrite(changed, write);
  if (app.sources.get(write.source)?.served === 'service') {
    const last = { source: write.source, key, calls: changed.calls };
    after = { ...after, confirmed: [...after.confirmed, last].slice(-MOST_CONFIRMED) };
  }
  const said = note('written', write.kind, { ...about(write), key });
  if (write.form === null) return [after, [said, ...notes]];
  const [left, more] = formLeft(app, after, write.form, key);
  return [left, [said, ...notes, ...more]];
}

/** The form of a write goes on, where it is still open, in whichever section. @param {WiredApp} app @param {Session} session @param {FormAt} at @param {any} key @returns {Taken} */
function formLeft(app, session, at, key) {
  const here = session.section;
  const entries = session.chains[at.section]?.entries ?? [];
  const index = entries.findIndex((entry) => isOfForm(at, at.section, entry));
  const form = app.screens.get(at.screen);
  if (index < 0 || form?.kind !== 'form') return [session, []];
  const placed = { ...session, section: at.section };
  const isNew = app.keyOf(entries[index]) === null;
  if (key === null) {
    const entry = entries[index];
    const view = { ...entry.view, draft: {}, tried: false };
    const home = cutBack(withEntry(placed, index, { ...entry, view }), Math.max(1, index));
    return [{ ...home, section: here }, []];
  }
  const wanted = isNew ? madeFor(app, placed, index, formOf(app, entries[index])) : null;
  const [left, notes] = afterSaving(app, placed, index, form, key, wanted);
  const [after, said] = saying(app, left, form.says, form.source, key);
  return [{ ...after, section: here }, [...notes, ...said]];
}

/** What an act had changed is as it was, where it still is as the act had made it. @param {WiredApp} app @param {Session} session @param {Write} write @returns {Session} */
function goneBack(app, session, write) {
  const records = app.records(session, write.source);
  if (!records || write.key === null) return session;
  if (write.kind === 'remove') {
    const was = session.changes[write.source];
    const gone = was.gone.filter((/** @type {any} */ each) => each !== write.key);
    return { ...session, changes: { ...session.changes, [write.source]: { ...was, gone } } };
  }
  const now = records.byKey(write.key);
  const fields = Object.fromEntries(
    Object.entries(write.fields)
      .filter(([name, value]) => same(now?.value(name) ?? null, value))
      .map(([name]) => [name, write.was[name] ?? null]),
  );
  if (!Object.keys(fields).length) return session;
  const changes = { ...NO_CHANGES, changed: [{ key: write.key, fields }] };
  return applyChanges(app, session, write.source, changes, true)[0];
}
