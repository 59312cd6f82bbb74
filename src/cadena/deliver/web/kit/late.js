// Sources that answer late: what is called for, and what an answer changes (rule 9).

import { ITEM } from './app.js';
import { columnOf } from './column.js';
import { comparedWith } from './conditions.js';
import { displayOf } from './display.js';
import { offsetOf, viewOf } from './lists.js';
import { placeOf } from './neighbours.js';
import { Refused, note } from './notes.js';
import { applyChanges } from './records-changed.js';
import { NO_CHANGES } from './records.js';
import { drawn, happens } from './seeded.js';
import { NOT_LOADED, entriesOf, withChain, withEntry } from './session.js';
import { targetOf } from './targets.js';
import { stillShown } from './shown-at-once.js';
import { takes } from './unsent.js';
import { held, same } from './values.js';
import { sendWaiting, writeAnsweredByStandIn } from './writing.js';

const LONGEST_WAIT = 86_400_000;
const MOST_ANSWERS = 10_000;

/** Make the requests that what is on display needs, and that are not under way. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function call(app, session) {
  /** @type {Note[]} */
  const notes = [];
  if (!app.late.size || session.phase !== 'running') return [session, notes];
  for (const pane of displayOf(app, session).shown) {
    for (const need of needsOf(app, session, pane.entry ?? 0, pane.area)) {
      const [after, said] = asked(app, session, pane.entry ?? 0, need.part, need.source, need.page);
      session = after;
      notes.push(said);
    }
  }
  for (const { entry: index } of app.hasNeighbours ? displayOf(app, session).shown : []) {
    const need = beyond(app, session, index ?? 0);
    if (!need) continue;
    const [after, said] = asked(app, session, need.owner, need.part, need.source, need.page);
    session = after;
    notes.push(said);
  }
  return [session, notes];
}

/** The next page of the list that a detail goes along, while the last rows of it are at hand (16). @param {WiredApp} app @param {Session} session @param {number} index */
function beyond(app, session, index) {
  const place = placeOf(app, session, index);
  if (!place || place.at < place.listed.rows.length - 2) return null;
  const { owner, row } = place;
  const entry = entriesOf(session)[owner];
  const source = app.late.get(app.listing(entry.screen, row.part).source);
  const load = held(entry.loads, row.part) ?? NOT_LOADED;
  if (!source || load.state !== 'shown' || !load.more) return null;
  return { owner, part: row.part, source, page: load.brought };
}

/** The parts of an open screen that need a call, and the page to ask for. @param {WiredApp} app @param {Session} session @param {number} index @param {Area} area */
function needsOf(app, session, index, area) {
  const entry = entriesOf(session)[index];
  const needs = [];
  const about = app.late.get(app.sourceOf(entry));
  if (about && app.keyOf(entry) !== null) {
    const load = held(entry.loads, ITEM) ?? NOT_LOADED;
    if (load.state === 'loading' && !load.request)
      needs.push({ part: ITEM, source: about, page: 0 });
  }
  for (const [part, listing] of app.listings.get(entry.screen) ?? []) {
    const source = app.late.get(listing.source);
    if (!source) continue;
    const load = held(entry.loads, part) ?? NOT_LOADED;
    const wanted = app.asks(source, entry, part);
    if (load.state === 'loading' && !load.request) {
      needs.push({
        part,
        source,
        page: same(wanted, [load.search, load.sort]) ? pageOf(load) : 0,
      });
    } else if (!same(wanted, askedLast(session, load))) {
      needs.push({ part, source, page: 0 });
    } else if (load.state === 'shown' && load.more && isNearEnd(app, session, index, area, part)) {
      needs.push({ part, source, page: load.brought });
    }
  }
  return needs;
}

/** The page to ask for: the first that is asked for anew, else the last that had come. @param {Load} load */
const pageOf = (load) => (load.again ? load.brought - load.again : Math.max(0, load.brought - 1));

/** What the newest call for a list asks for, whether it is under way, failed or has come. @param {Session} session @param {Load} load */
function askedLast(session, load) {
  const underWay = session.requests.find((each) => each.number === load.request);
  return underWay ? [underWay.search, underWay.sort] : (load.failed ?? [load.search, load.sort]);
}

/** Whether less than one more view is left below what is in view. @param {WiredApp} app @param {Session} session @param {number} index @param {Area} area @param {string} part */
function isNearEnd(app, session, index, area, part) {
  const entry = entriesOf(session)[index];
  const [width, height] = viewOf(app, entry, area);
  const column = columnOf(app, session, entry, width);
  const rows = column.segments.find((each) => each.part === part && each.listed);
  if (!rows || rows.kind === 'strip') return true;
  return rows.top + rows.height < offsetOf(app, session, index, area, column) + 2 * height;
}

/** Make one request; a newer one for the same thing outdates those before it. @param {WiredApp} app @param {Session} session @param {number} index @param {string} part @param {any} source @param {number} page @returns {[Session, Note]} */
function asked(app, session, index, part, source, page) {
  const entry = entriesOf(session)[index];
  const number = session.calls + 1;
  const due = source.served === 'stand-in' ? session.clock + (source.standIn?.delay ?? 300) : null;
  const [search, sort] = app.asks(source, entry, part);
  const key = part === ITEM ? app.keyOf(entry) : null;
  const request = {
    number,
    source: source.id,
    section: session.section,
    screen: entry.screen,
    part,
    due,
    key,
    page,
    search,
    sort,
    kept: keptBy(app, session, entry, part, source, key),
  };
  const was = held(entry.loads, part) ?? NOT_LOADED;
  const load = { ...was, state: 'loading', request: number, first: page ? was.first : number };
  session = withEntry(session, index, { ...entry, loads: { ...entry.loads, [part]: load } });
  session = { ...session, calls: number, requests: [...session.requests, request] };
  return [session, note('called', matter(request), { ...callOf(request), due })];
}

/** The fields by whose values a service is asked to keep records. @param {WiredApp} app @param {Session} session @param {Entry} entry @param {string} part @param {any} source @param {any} key @returns {[string, any][]} */
function keptBy(app, session, entry, part, source, key) {
  const keeps = source.served === 'service' ? (source.service?.keeps ?? {}) : {};
  const names = Object.keys(keeps);
  if (!names.length) return [];
  if (part === ITEM) {
    const record = app.records(session, source.id)?.byKey(key) ?? null;
    return names
      .filter((name) => (record?.value(name) ?? null) !== null)
      .map((name) => [name, record?.value(name)]);
  }
  /** @type {Record<string, any>} */
  const found = {};
  for (const each of app.listing(entry.screen, part).where ?? []) {
    const value = comparedWith(each, entry.arguments, session.values, entry.view.choice);
    if (
      (each.test ?? 'is') === 'is' &&
      names.includes(each.field) &&
      value !== null &&
      !Array.isArray(value)
    )
      found[each.field] = value;
  }
  return Object.entries(found);
}

/** @param {any} request */
const matter = (request) => (request.part === ITEM ? 'record' : 'page');

/** What a note says of a call. @param {any} request */
const callOf = (request) => ({
  source: request.source,
  call: request.number,
  ...(request.part === ITEM ? { key: request.key } : { page: request.page }),
});

/** Let time pass: answers come when they are due, and may call for more. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function wait(app, session, { ms }) {
  if (!(ms >= 0 && ms <= LONGEST_WAIT))
    throw new Refused('wait too long', '', { most: LONGEST_WAIT, ms });
  const until = session.clock + ms;
  /** @type {Note[]} */
  const notes = [];
  for (let count = 0; count < MOST_ANSWERS; count += 1) {
    /** @type {any[]} */
    const waits = [...session.requests, ...session.writes];
    const due = waits.filter((each) => each.due !== null && each.due <= until);
    if (!due.length) break;
    const numberOf = (/** @type {any} */ each) => each.call ?? each.number;
    const first = due.reduce((one, other) =>
      other.due < one.due || (other.due === one.due && numberOf(other) < numberOf(one))
        ? other
        : one,
    );
    const then = { ...session, clock: Math.max(session.clock, first.due) };
    const isWrite = first.call !== undefined;
    const [answer, said] = isWrite
      ? writeAnsweredByStandIn(app, then, first)
      : answerFromStandIn(app, then, first);
    const [waited, sent] = isWrite ? sendWaiting(app, answer) : [answer, []];
    const [after, called] = call(app, waited);
    session = after;
    notes.push(...said, ...sent, ...called);
  }
  return [{ ...session, clock: until }, notes];
}

/** What the stand-in answers, told by its seed and the number of the call alone. @param {WiredApp} app @param {Session} session @param {any} request @returns {Taken} */
function answerFromStandIn(app, session, request) {
  const source = app.late.get(request.source);
  if (!source) return [withoutRequest(session, request), []];
  const standIn = source.standIn ?? {};
  const [changed, notes] = changedUnderWay(app, session, source, request.number);
  if (happens(standIn.seed ?? 1, 'fails', request.number, standIn.failsOneIn ?? 0)) {
    const [after, said] = settled(app, changed, request, { failed: 'the call failed' });
    return [after, [...notes, ...said]];
  }
  const records = app.records(changed, request.source);
  const missing = request.part === ITEM && (records?.rowOf(request.key) ?? null) === null;
  const [after, said] = settled(app, changed, request, { missing });
  return [after, [...notes, ...said]];
}

/** Between two calls a record changes, or goes. @param {WiredApp} app @param {Session} session @param {any} source @param {number} number @returns {Taken} */
function changedUnderWay(app, session, source, number) {
  const { seed = 1, changesOneIn = 0 } = source.standIn ?? {};
  const records = app.records(session, source.id);
  if (!records?.length || !happens(seed, 'changes', number, changesOneIn)) return [session, []];
  const pick = drawn(seed, 'which', number);
  const key = records.keyAt(pick % records.length);
  const numbers = [...records.types]
    .filter(([name, kind]) => kind === 'whole number' && name !== source.key)
    .map(([name]) => name);
  if (key === null) return [session, []];
  let changes = { ...NO_CHANGES, gone: [key] };
  let said = note('changed', 'went', { source: source.id, key });
  if (numbers.length && pick % 3) {
    const field = numbers[pick % numbers.length];
    const to = (records.byKey(key)?.value(field) ?? 0) + 1;
    changes = { ...NO_CHANGES, changed: [{ key, fields: { [field]: to } }] };
    said = note('changed', 'at the service', { source: source.id, key, field, to });
  }
  const [after, notes] = applyChanges(app, session, source.id, changes, true);
  return [after, [said, ...notes]];
}

/** A real service has answered: its records join those that have come. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function answered(
  app,
  session,
  { request: number, records = [], more = false, missing = false, failed = '' },
) {
  const request = session.requests.find((each) => each.number === number);
  if (!request) return [session, [note('late', 'unknown', { call: number })]];
  /** @type {Note[]} */
  let notes = [];
  const found = waiting(session, request);
  const { key } = /** @type {any} */ (app.sources.get(request.source));
  const stale = confirmedSince(session, request.source, request.number);
  const fresh = records.filter((/** @type {any} */ each) => !stale.has(each[key] ?? null));
  if (found && fresh.length) {
    [session, notes] = applyChanges(app, session, request.source, { ...NO_CHANGES, added: fresh });
    session = stillShown(app, session, request.source);
  }
  const keys = records.map((/** @type {any} */ each) => each[key] ?? null);
  const isNext = found && request.page;
  const before = isNext ? found.chain.entries[found.index].loads[request.part].came : [];
  const came = [...before, ...keys.filter((/** @type {any} */ each) => each !== null)];
  const [after, said] = settled(app, session, request, { failed, missing, more, came });
  const isWhole = request.part !== ITEM && !failed && !more && !request.search;
  const first = found?.chain.entries[found.index].loads[request.part].first ?? 0;
  // Where something was written since its first page, a page may have slipped past a record.
  if (!found || !isWhole || confirmedSince(session, request.source, first).size)
    return [after, [...notes, ...said]];
  const [left, went] = withoutUnlisted(app, after, request, came);
  return [left, [...notes, ...said, ...went]];
}

/** The keys of the records of which a service has told, since a call, that they are otherwise. @param {Session} session @param {string} source @param {number} call */
const confirmedSince = (session, source, call) =>
  new Set(
    session.confirmed
      .filter((each) => each.source === source && each.calls >= call)
      .map((each) => each.key),
  );

/** Without what a service does not list any more, now that all has come that it lists: what is open is judged by its own call, and what is to be sent by the answer to that. @param {WiredApp} app @param {Session} session @param {any} request @param {any[]} came @returns {Taken} */
function withoutUnlisted(app, session, request, came) {
  const source = /** @type {any} */ (app.late.get(request.source));
  const records = app.records(session, source.id);
  const { service } = source;
  const saves = [...app.screens.values()].some(
    (each) => each.kind === 'form' && each.source === source.id,
  );
  if (!records || !service || (saves && !takes(app, source.id, 'create'))) return [session, []];
  // It may list but the first of them, and others by the value of a field.
  const kept = /** @type {[string, any][]} */ (request.kept);
  const isPlain = (service.paging?.by ?? 'none') === 'none';
  if (isPlain && Object.keys(service.keeps ?? {}).length && !kept.length) return [session, []];
  const stays = new Set(came);
  for (const chain of Object.values(session.chains))
    for (const entry of chain.entries)
      if (app.sourceOf(entry) === source.id) stays.add(app.keyOf(entry));
  for (const write of session.writes) if (write.source === source.id) stays.add(write.key);
  const gone = [];
  for (let row = 0; row < records.length; row += 1) {
    const each = records.keyAt(row);
    const found = stays.has(each) ? null : records.byKey(each);
    if (found && kept.every(([name, value]) => same(found.value(name) ?? null, value)))
      gone.push(each);
  }
  return gone.length
    ? applyChanges(app, session, source.id, { ...NO_CHANGES, gone }, true)
    : [session, []];
}

/** The open entry that waits for the answer to a request, if one still does. @param {Session} session @param {any} request */
function waiting(session, request) {
  for (const chain of Object.values(session.chains)) {
    const index = chain.entries.findIndex(
      (entry) => held(entry.loads, request.part)?.request === request.number,
    );
    if (index >= 0) return { chain, index };
  }
  return null;
}

/** @param {Session} session @param {any} request */
const withoutRequest = (session, request) => ({
  ...session,
  requests: session.requests.filter((each) => each.number !== request.number),
});

/** An answer counts if its entry is still in a chain and asked for nothing newer. @param {WiredApp} app @param {Session} before @param {any} request @param {{failed?: string, missing?: boolean, more?: boolean | null, came?: any[]}} answer @returns {Taken} */
function settled(app, before, request, { failed = '', missing = false, more = null, came = [] }) {
  const session = withoutRequest(before, request);
  const found = waiting(session, request);
  if (!found) return [session, [note('late', matter(request), callOf(request))]];
  const entry = found.chain.entries[found.index];
  let load = entry.loads[request.part];
  if (failed)
    load = { ...load, state: 'failed', request: 0, failed: [request.search, request.sort] };
  else {
    const again = more !== false && !missing ? Math.max(0, load.again - 1) : 0;
    load = {
      state: missing ? 'missing' : again ? 'loading' : 'shown',
      request: 0,
      brought: request.page + 1 + again,
      more: false,
      search: request.search,
      sort: request.sort,
      failed: null,
      again,
      came,
      first: load.first,
    };
  }
  let after = { ...entry, loads: { ...entry.loads, [request.part]: load } };
  if (request.part !== ITEM) {
    const there = more ?? hasMore(app, session, after, request.part);
    after = { ...after, loads: { ...after.loads, [request.part]: { ...load, more: there } } };
  }
  const placed = withChain(session, {
    ...found.chain,
    entries: found.chain.entries.with(found.index, after),
  });
  if (failed)
    return [placed, [note('failed', matter(request), { ...callOf(request), why: failed })]];
  return [placed, [note('answered', missing ? 'missing' : matter(request), callOf(request))]];
}

/** @param {WiredApp} app @param {Session} session @param {Entry} entry @param {string} part */
function hasMore(app, session, entry, part) {
  const listed = app.listed(session, entry, part);
  return listed !== null && listed.rows.length < listed.asked.length;
}

/** Call once more for everything on a screen that has failed. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function retry(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  /** @type {Note[]} */
  const notes = [];
  for (const [part, load] of Object.entries(entry.loads)) {
    const source = app.late.get(app.listing(entry.screen, part)?.source ?? app.sourceOf(entry));
    if (load.state !== 'failed' || !source) continue;
    const page = same(load.failed, [load.search, load.sort]) ? load.brought - load.again : 0;
    const [after, said] = asked(app, session, index, part, source, page);
    session = after;
    notes.push(said);
  }
  return [session, notes];
}
