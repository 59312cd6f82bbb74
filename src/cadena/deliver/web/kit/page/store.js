// What an app keeps in the browser for all of its tabs: each tab joins what the others have kept,
// record by record and value by value. Nothing that is read is trusted.

import { NO_CHANGES } from '../records.js';
import { applyChanges } from '../records-changed.js';

/** @param {any} one @param {any} other */
const same = (one, other) => JSON.stringify(one) === JSON.stringify(other);
/** @param {any} thing @returns {Record<string, any>} */
const object = (thing) =>
  thing !== null && typeof thing === 'object' && !Array.isArray(thing) ? thing : {};
/** @param {any} thing @returns {any[]} */
const list = (thing) => (Array.isArray(thing) ? thing : []);

/** What a store holds as changes of the records of a source, in the shape of changes. @param {any} raw @returns {Changes} */
const shaped = (raw) => ({
  changed: list(object(raw).changed)
    .map(object)
    .map(({ key, fields }) => ({ key: key ?? null, fields: object(fields) })),
  gone: list(object(raw).gone),
  added: list(object(raw).added).map(object),
});

/** What a store holds as changes, as far as the records can take them. @param {WiredApp} app @param {Session} fresh @param {any} raw @returns {Record<string, Changes>} */
export function checked(app, fresh, raw) {
  let session = { ...fresh, changes: {} };
  for (const source of app.asRead.keys()) {
    if (!Object.hasOwn(object(raw), source)) continue;
    // What is new has come before it was changed, or went.
    const { added, ...rest } = shaped(raw[source]);
    for (const some of [{ added }, rest])
      [session] = applyChanges(app, session, source, { ...NO_CHANGES, ...some }, true);
  }
  return session.changes;
}

/** What makes the later changes of a source of the earlier. @param {Records} records as they were read @param {Changes} before @param {Changes} after @returns {Changes} */
export function difference(records, before, after) {
  const { key } = records.source;
  const rows = (/** @type {Changes} */ changes) =>
    new Map(changes.added.map((row) => [row[key], row]));
  const edits = (/** @type {Changes} */ changes) =>
    new Map(changes.changed.map((each) => [each.key, each.fields]));
  const [was, now, wasNew, isNew] = [edits(before), edits(after), rows(before), rows(after)];
  const readRow = (/** @type {any} */ wanted) => records.rows[records.rowOf(wanted) ?? -1] ?? {};
  const back = before.gone
    .filter((each) => !after.gone.includes(each))
    .map((each) => isNew.get(each) ?? { ...readRow(each), ...now.get(each) });
  const changed = [...new Set([...was.keys(), ...now.keys()])].flatMap((each) => {
    const [old, fields] = [was.get(each) ?? {}, now.get(each) ?? {}];
    const names = [...new Set([...Object.keys(old), ...Object.keys(fields)])].filter(
      (name) => !same(old[name], fields[name]),
    );
    if (!names.length) return [];
    return [
      {
        key: each,
        fields: Object.fromEntries(
          names.map((name) => [name, fields[name] ?? readRow(each)[name] ?? null]),
        ),
      },
    ];
  });
  return {
    changed,
    gone: after.gone.filter((each) => !before.gone.includes(each)),
    added: [
      ...back,
      ...[...isNew]
        .filter(([each]) => !wasNew.has(each) && !after.gone.includes(each))
        .map(([, row]) => row),
    ],
  };
}

/**
 * What others have changed, without what was changed here as well: the later counts.
 * @param {string} key the field of the key
 * @param {Changes} theirs
 * @param {Changes} mine
 * @returns {{changes: Changes, odd: any[]}} and the keys of records at which both differ
 */
export function beside(key, theirs, mine) {
  const odd = new Set();
  const edits = new Map(mine.changed.map((each) => [each.key, each.fields]));
  const own = new Map(mine.added.map((row) => [row[key], row]));
  const changed = theirs.changed.flatMap((each) => {
    const here = edits.get(each.key) ?? {};
    if (mine.gone.includes(each.key)) odd.add(each.key);
    for (const [name, value] of Object.entries(each.fields))
      if (name in here && !same(here[name], value)) odd.add(each.key);
    const fields = Object.fromEntries(
      Object.entries(each.fields).filter(([name]) => !(name in here)),
    );
    return mine.gone.includes(each.key) || !Object.keys(fields).length
      ? []
      : [{ key: each.key, fields }];
  });
  const gone = theirs.gone.filter((each) => {
    if (edits.has(each)) odd.add(each);
    return !edits.has(each) && !mine.gone.includes(each);
  });
  const added = theirs.added.filter((row) => {
    const here = own.get(row[key]);
    if (here && !same(here, row)) odd.add(row[key]);
    return !here;
  });
  return { changes: { changed, gone, added }, odd: [...odd] };
}

/** Three versions of a piece: what was changed here counts, else what others have; lists are joined by what is in them. @param {any} base @param {any} mine @param {any} theirs @returns {any} */
export function joined(base, mine, theirs) {
  if (same(mine, base)) return theirs;
  if (
    same(theirs, base) ||
    ![base, mine, theirs].every((each) => each === undefined || Array.isArray(each))
  )
    return mine;
  const holds = (/** @type {any[] | undefined} */ some, /** @type {any} */ one) =>
    (some ?? []).some((each) => same(each, one));
  const stays = (theirs ?? []).filter(
    (/** @type {any} */ each) => holds(mine, each) || !holds(base, each),
  );
  const made = [
    ...stays,
    ...(mine ?? []).filter((/** @type {any} */ each) => !holds(base, each) && !holds(stays, each)),
  ];
  return made.length ? made : undefined;
}

/** Pieces of a saved state by what they are of. @param {any} state @returns {Record<string, any>} */
function pieces(state) {
  const named = (/** @type {any[]} */ some, /** @type {(each: any) => any} */ of) =>
    some.map((each) => [JSON.stringify(of(each)), each]);
  return Object.fromEntries([
    ...Object.entries(object(state.values)).map(([name, value]) => [`value ${name}`, value]),
    ...Object.entries(object(state.divided)).map(([name, sizes]) => [`divided ${name}`, sizes]),
    ...named(list(state.chains).map(object), (each) => ['chain', each.section]),
    ...named(list(state.stored).map(object), (each) => [
      'view',
      each.section,
      each.screen,
      each.arguments,
    ]),
  ]);
}

/** The state that all tabs have kept: of each piece what was changed last. @param {string} base as this tab last kept or found it @param {string} mine @param {string} theirs */
export function joinedState(base, mine, theirs) {
  if (theirs === base || theirs === mine || !theirs) return mine;
  const [was, here, there] = [base, mine, theirs].map(parsed);
  const [a, b, c] = [was, here, there].map(pieces);
  const values = {},
    divided = {},
    chains = [],
    stored = [];
  for (const name of Object.keys({ ...c, ...b })) {
    const isDivider = name.startsWith('divided ');
    // Where a divider stands is one thing: the sizes of two tabs are not mixed.
    const piece = isDivider
      ? same(b[name], a[name])
        ? c[name]
        : b[name]
      : joined(a[name], b[name], c[name]);
    if (piece === undefined) continue;
    if (name.startsWith('value ')) /** @type {any} */ (values)[name.slice(6)] = piece;
    else if (isDivider) /** @type {any} */ (divided)[name.slice(8)] = piece;
    else if (name.startsWith('["chain"')) chains.push(piece);
    else stored.push(piece);
  }
  return JSON.stringify({ section: here.section, chains, values, stored, divided });
}

/** @param {string} text @returns {Record<string, any>} */
function parsed(text) {
  try {
    return object(JSON.parse(text));
  } catch {
    return {};
  }
}

/** A record as a person knows it. @param {WiredApp} app @param {Session} session @param {string} source @param {any} key */
export function labelOf(app, session, source, key) {
  const record = app.records(session, source)?.byKey(key);
  const label = app.asRead.get(source)?.source.label;
  return record && label ? app.say(source).value(label, record) : String(key);
}

/** The store of an app, shared by its tabs. */
export class Store {
  /** @param {string} name */
  constructor(name) {
    this.name = name;
    /** The changes of records as this tab last found or kept them, and their text. @type {Record<string, Changes>} */
    this.known = {};
    this.text = '';
    /** The state as this tab last found or kept it, and as it last made it itself. */
    this.state = '';
    this.own = '';
  }

  /** @param {Storage} storage @param {string} what @returns {Record<string, any> | null} */
  read(storage, what) {
    try {
      const text = storage.getItem(`${this.name} ${what}`);
      return text === null ? null : object(JSON.parse(text));
    } catch {
      return null;
    }
  }

  /** The records that all tabs share, where they are others than this tab last found or kept. */
  found() {
    const text = this.textOf('world');
    if (text === this.text) return null;
    this.text = text;
    return this.read(localStorage, 'world');
  }

  /** @param {string} what */
  textOf(what) {
    try {
      return localStorage.getItem(`${this.name} ${what}`) ?? '';
    } catch {
      return '';
    }
  }

  /** Whether the browser took it. @param {Storage} storage @param {string} what @param {any} value */
  write(storage, what, value) {
    try {
      storage.setItem(`${this.name} ${what}`, JSON.stringify(value));
      return true;
    } catch {
      return false;
    }
  }

  /** Whether a key of the storage is one that all tabs share. @param {string | null} key */
  isShared(key) {
    return key === null || key === `${this.name} world` || key === `${this.name} stored`;
  }

  /** The records as other tabs have left them, their clock and the number of their calls, checked. @param {WiredApp} app @param {Session} fresh */
  world(app, fresh) {
    const raw = this.found() ?? {};
    const count = (/** @type {any} */ value) =>
      Number.isSafeInteger(value) && value >= 0 ? value : 0;
    this.known = checked(app, fresh, raw.changes);
    return {
      changes: this.known,
      clock: count(raw.clock),
      calls: count(raw.calls),
      window: raw.window,
    };
  }

  /** The state that outlives a cold start. */
  stored() {
    const state = this.read(localStorage, 'stored')?.state;
    this.state = typeof state === 'string' ? state : '';
    this.own = this.state;
    return this.state;
  }

  /** What other tabs have kept since, as events; and the records and values at which both differ. @param {WiredApp} app @param {Session} session */
  since(app, session) {
    /** @type {Record<string, any>[]} */
    const events = [];
    /** @type {[string, any][]} */
    const odd = [];
    const found = this.found();
    const theirs = found ? checked(app, session, found.changes) : this.known;
    for (const [source, records] of found ? app.asRead : []) {
      const known = this.known[source] ?? NO_CHANGES;
      const others = difference(records, known, theirs[source] ?? NO_CHANGES);
      const { changes, odd: keys } = beside(
        records.source.key,
        others,
        difference(records, known, session.changes[source] ?? NO_CHANGES),
      );
      if (changes.changed.length || changes.gone.length || changes.added.length)
        events.push({ do: 'refresh', source, ...changes });
      odd.push(...keys.map((key) => /** @type {[string, any]} */ ([source, key])));
    }
    this.known = theirs;
    const state = this.read(localStorage, 'stored')?.state;
    if (typeof state === 'string' && state !== this.state) {
      const [was, own, now] = [this.state, this.own, state].map((text) =>
        object(parsed(text).values),
      );
      for (const name of Object.keys({ ...was, ...now })) {
        const declared = app.values.get(name);
        if (declared?.keep !== 'stored' || same(was[name], now[name])) continue;
        events.push({
          do: 'set',
          value: name,
          to: joined(own[name], session.values[name], now[name]) ?? null,
        });
      }
    }
    return { events, odd };
  }

  /** Keep the records, and the state that outlives a cold start; whether the browser took both. @param {Session} session @param {string} state @param {Record<string, any>} more */
  keep(session, state, more) {
    const { changes, clock, calls } = session;
    const world = { changes, clock, calls, ...more };
    const text = JSON.stringify(world);
    const isKept = text === this.text || this.write(localStorage, 'world', world);
    if (isKept) [this.known, this.text] = [changes, text];
    if (state === this.own) return isKept;
    const theirs = this.read(localStorage, 'stored')?.state;
    const both = joinedState(this.own, state, typeof theirs === 'string' ? theirs : '');
    if (!this.write(localStorage, 'stored', { state: both })) return false;
    [this.own, this.state] = [state, both];
    return isKept;
  }
}
