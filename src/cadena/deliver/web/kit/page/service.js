// Calling a service for records: what it answers is not trusted.

import { told } from '../templates.js';
import { sortAsked } from '../app.js';
import {
  FAILED,
  NOT_ALLOWED,
  NOT_FROM_HERE,
  NOT_NOW,
  NO_ANSWER,
  REFUSED,
  TOO_MUCH,
} from '../unsent.js';
import { carry, shown } from '../values.js';

const PATIENCE = 15_000;
const MOST_NAMES = 99;
/** Ms after which nothing is sent again by itself: a person decides. */
const LONGEST_WAIT = 600_000;
const MOST_SAID = 500;

/** Calls services for what a session asks of them, and tells what came. */
export class Service {
  /** @param {WiredApp} app @param {(event: Record<string, any>) => void} tell @param {import('./store.js').Store} store @param {Session} session @param {boolean} mayWrite */
  constructor(app, tell, store, session, mayWrite) {
    this.app = app;
    this.mayWrite = mayWrite;
    this.tell = tell;
    this.store = store;
    /** @type {Set<number>} */
    this.called = new Set();
    /** @type {Map<string, string | number | null>} */
    this.following = new Map();
    /** What tells the versions of records apart, as the service last said. @type {Map<string, string>} */
    this.versions = new Map();
    // What came back unsent has the name that it was sent by; what is new has one of its own.
    const kept = store.read(localStorage, 'sent') ?? {};
    /** By which a service tells what it has had before. @type {Map<number, string>} */
    this.names = new Map(
      session.writes
        .filter((write) => typeof kept[asSent(write)] === 'string')
        .map((write) => [write.number, kept[asSent(write)]]),
    );
  }

  /** The name of a write, the same however often it is sent. @param {Write} write */
  nameOf(write) {
    const name = this.names.get(write.number) ?? crypto.randomUUID();
    this.names.set(write.number, name);
    const kept = Object.entries(this.store.read(localStorage, 'sent') ?? {}).slice(-MOST_NAMES);
    const sent = { ...Object.fromEntries(kept), [asSent(write)]: name };
    this.store.write(localStorage, 'sent', sent);
    return name;
  }

  /** A write that was decided on is sent no more by that name. @param {Write} write */
  forget(write) {
    const { [asSent(write)]: _, ...kept } = this.store.read(localStorage, 'sent') ?? {};
    this.names.delete(write.number);
    this.store.write(localStorage, 'sent', kept);
  }

  /** Make the calls that are not under way yet. @param {Session} session */
  callFor(session) {
    for (const request of session.requests) {
      if (request.due !== null || this.called.has(request.number)) continue;
      this.called.add(request.number);
      this.answerTo(request).then(this.tell, (error) =>
        this.tell({
          do: 'answered',
          request: request.number,
          failed: String(error.message || error),
        }),
      );
    }
  }

  /** Send what is to be written, once for each call. @param {Session} session */
  writeFor(session) {
    for (const write of session.writes) {
      if (write.state !== 'sending' || write.due !== null || this.called.has(write.call)) continue;
      this.called.add(write.call);
      const answer = this.mayWrite
        ? this.answerToWrite(session, write)
        : Promise.resolve({
            do: 'written',
            request: write.call,
            outcome: 'unsent',
            why: NOT_FROM_HERE,
          });
      answer.then(this.tell, () =>
        this.tell({ do: 'written', request: write.call, outcome: 'unsent', why: NO_ANSWER }),
      );
    }
  }

  /** @param {Session} session @param {Write} write */
  async answerToWrite(session, write) {
    const source = this.app.sources.get(write.source);
    const { service } = source;
    const way = service[write.kind];
    const own = write.key === null ? {} : { key: shown(write.key) };
    const kept = this.keptOf(session, source, write);
    const isWhole = write.kind === 'change' && way.sends !== 'changed';
    const there = isWhole ? await this.wholeOf(session, source, write.key, kept) : {};
    if (there === null) return { do: 'written', request: write.call, outcome: 'gone' };
    const answer = await fetch(addressOf(way.address, service, kept, own), {
      method: way.method,
      headers: {
        accept: 'application/json',
        ...(write.kind !== 'remove' && { 'content-type': way.media ?? 'application/json' }),
        ...(service.repeats && { 'idempotency-key': this.nameOf(write) }),
        ...(this.versions.has(versionOf(write)) && {
          'if-match': /** @type {string} */ (this.versions.get(versionOf(write))),
        }),
        ...service.headers,
      },
      ...(write.kind !== 'remove' && { body: JSON.stringify(nested(write.fields, there)) }),
      signal: AbortSignal.timeout(PATIENCE),
      credentials: 'omit',
    });
    const outcome = await this.outcomeOf(source, write, way, answer, kept);
    if (service.repeats && !['unsent', 'later'].includes(outcome.outcome)) this.forget(write);
    return { do: 'written', request: write.call, ...outcome };
  }

  /** What of a record stands in the addresses of its service. @param {Session} session @param {any} source @param {Write} write @returns {[string, any][]} */
  keptOf(session, source, write) {
    const record =
      write.key === null ? null : this.app.records(session, source.id)?.byKey(write.key);
    const held = { ...write.was, ...write.fields };
    const heldOf = (/** @type {string} */ name) =>
      Object.hasOwn(held, name) ? held[name] : record?.value(name);
    return Object.keys(source.service.keeps ?? {})
      .map((name) => /** @type {[string, any]} */ ([name, heldOf(name) ?? null]))
      .filter(([, value]) => value !== null);
  }

  /** What an answer says of a write (RFC 9110, 9457). @param {any} source @param {Write} write @param {any} way @param {Response} answer @param {[string, any][]} kept */
  async outcomeOf(source, write, way, answer, kept) {
    const { status } = answer;
    const text = (await answer.text()).trimStart();
    const kind = (answer.headers.get('content-type') ?? '').split(';')[0].trim().toLowerCase();
    // A gate on the way has answered, and not the service.
    if (status < 500 && (text.startsWith('<') || kind === 'text/html'))
      return { outcome: 'unsent', why: NO_ANSWER };
    const read = () => {
      try {
        return JSON.parse(text);
      } catch {
        return null;
      }
    };
    if (answer.ok) {
      const came = pointed(read(), way.record);
      const isRecord = came && typeof came === 'object' && !Array.isArray(came);
      // Led elsewhere than to what takes it, it may have been asked for and not sent.
      if (answer.redirected && !isRecord && status !== 201 && status !== 204)
        return { outcome: 'unsent', why: NO_ANSWER };
      const record = isRecord
        ? { ...emptied(source, came), ...recordOf(source, came, source.service) }
        : null;
      this.noteVersion(source, record?.[source.key] ?? write.key, answer);
      const at = answer.headers.get('location')?.replace(/\/+$/, '').split('/').at(-1);
      if (write.kind === 'create' && (record?.[source.key] ?? null) === null && at) {
        const type = this.app.asRead.get(source.id)?.types.get(source.key) ?? 'text';
        const made = fitting(unescaped(at), type);
        if (made !== null) return { outcome: 'done', record: { ...record, [source.key]: made } };
      }
      return { outcome: 'done', ...(record && { record }) };
    }
    // What is new was nobody's before: that it is there already is a fault of what was typed.
    if (status === 409 && write.key === null) return { outcome: 'refused', ...faultsIn(read()) };
    if (status === 409 || status === 412) {
      const now = await this.recordNow(source, write.key, kept);
      return now === null ? { outcome: 'gone' } : { outcome: 'quicker', record: now };
    }
    if (status === 404 || status === 410) return { outcome: 'gone' };
    if (status === 429 || status === 503) {
      const after = waitIn(answer.headers.get('retry-after') ?? '');
      if (after > 0 && after <= LONGEST_WAIT) return { outcome: 'later', after };
      return { outcome: 'unsent', why: status === 429 ? TOO_MUCH : NOT_NOW };
    }
    if (status === 400 || status === 422) return { outcome: 'refused', ...faultsIn(read()) };
    if (status === 401 || status === 403) return { outcome: 'unsent', why: NOT_ALLOWED };
    return { outcome: 'unsent', why: status >= 500 ? FAILED : REFUSED };
  }

  /** A record as the service now has it, or null where it is not there. @param {any} source @param {any} key @param {[string, any][]} kept */
  async recordNow(source, key, kept) {
    const { service } = source;
    if (!service.item) return {};
    const answer = await this.itemAt(service, key, kept);
    if (answer === null) return null;
    this.noteVersion(source, key, answer);
    const came = pointed(await answer.json(), service.record);
    return { ...emptied(source, came), ...recordOf(source, came, service) };
  }

  /** Ask for one record: a good answer, or null where it is not there. @param {any} service @param {any} key @param {[string, any][]} kept */
  async itemAt(service, key, kept) {
    const address = addressOf(service.item, service, kept, { key: shown(key) });
    const answer = await fetched(service, address);
    if (answer.status === 404 || answer.status === 410) return null;
    if (!answer.ok) throw new Error(`the service answered ${answer.status}`);
    return answer;
  }

  /** All that a service has of a record, what the app knows nothing of as well; null where it is not there. @param {Session} session @param {any} source @param {any} key @param {[string, any][]} kept @returns {Promise<Record<string, any> | null>} */
  async wholeOf(session, source, key, kept) {
    const { service } = source;
    if (!service.item) {
      const record = this.app.records(session, source.id)?.byKey(key) ?? null;
      const names = (source.fields ?? []).map((/** @type {any} */ each) => each.name);
      return (
        record &&
        nested(
          Object.fromEntries(
            names.map((/** @type {string} */ name) => [name, record.value(name) ?? null]),
          ),
        )
      );
    }
    const answer = await this.itemAt(service, key, kept);
    if (answer === null) return null;
    const came = pointed(await answer.json(), service.record);
    if (!came || typeof came !== 'object') throw new Error('the service answered with no record');
    return came;
  }

  /** Remember which version of a record an answer is of (RFC 9110, 8.8.3). @param {any} source @param {any} key @param {Response} answer */
  noteVersion(source, key, answer) {
    const etag = answer.headers.get('etag');
    if (source.service.versions && etag)
      this.versions.set(versionOf({ source: source.id, key }), etag);
  }

  /** @param {any} request */
  async answerTo(request) {
    const source = this.app.sources.get(request.source);
    const { service } = source;
    const isItem = request.part === '*';
    const address = isItem
      ? addressOf(service.item, service, request.kept, { key: shown(request.key) })
      : this.pageOf(service, request);
    const answer = await fetched(service, address);
    if (isItem && (answer.status === 404 || answer.status === 410))
      return { do: 'answered', request: request.number, missing: true };
    if (!answer.ok) throw new Error(`the service answered ${answer.status}`);
    if (isItem) this.noteVersion(source, request.key, answer);
    const whole = await answer.json();
    const tree = pointed(whole, isItem ? service.record : service.records);
    const found = isItem ? [tree] : tree;
    if (!Array.isArray(found)) throw new Error('the service answered with no list');
    const records = found
      .filter((each) => each && typeof each === 'object')
      .map((each) => ({ ...Object.fromEntries(request.kept), ...recordOf(source, each, service) }));
    const next = isItem ? null : this.nextOf(service, answer, whole, found.length, request);
    this.following.set(place(request, request.page + 1), next);
    return { do: 'answered', request: request.number, records, more: next !== null };
  }

  /** The address of a page: the first, or what the one before it said comes next. @param {any} service @param {any} request */
  pageOf(service, request) {
    const paging = service.paging ?? {};
    const following = request.page
      ? (this.following.get(place(request, request.page)) ?? null)
      : null;
    if (typeof following === 'string') return following;
    const address = addressOf(service.list, service, request.kept, {});
    const asked = new URLSearchParams();
    const inside = new Set(
      Array.from(service.list.matchAll(/\{[?&+/#]?([^{}]*)\}/g), (found) =>
        found[1].split(','),
      ).flat(),
    );
    for (const [field, value] of request.kept) {
      const name = service.keeps?.[field];
      if (name && !inside.has(name)) asked.set(name, shown(value));
    }
    if (request.search && service.search) asked.set(service.search, request.search);
    for (const [name, value] of sortAsked(service, request.sort)) asked.set(name, value);
    const at = following ?? (paging.by === 'page' ? (paging.first ?? 1) : 0);
    if ((paging.by === 'page' || paging.by === 'offset') && paging.parameter)
      asked.set(paging.parameter, String(at));
    if (paging.sizeParameter) asked.set(paging.sizeParameter, String(paging.size ?? 20));
    const query = asked.toString();
    return query ? `${address}${address.includes('?') ? '&' : '?'}${query}` : address;
  }

  /** What to ask for next, or null. @param {any} service @param {Response} answer @param {any} whole @param {number} count @param {any} request */
  nextOf(service, answer, whole, count, request) {
    const paging = service.paging ?? {};
    if (paging.by === 'cursor') return cursorOf(paging, answer, whole);
    if (paging.by === 'link') {
      const link = /<([^>]*)>\s*;[^,]*\brel="?next"?/.exec(answer.headers.get('link') ?? '');
      const next = link ? new URL(link[1], answer.url) : null;
      return next && next.origin === new URL(answer.url).origin ? next.href : null;
    }
    if ((paging.by !== 'page' && paging.by !== 'offset') || !count || count < (paging.size ?? 20))
      return null;
    const before =
      this.following.get(place(request, request.page)) ??
      (paging.by === 'page' ? (paging.first ?? 1) : 0);
    return Number(before) + (paging.by === 'page' ? 1 : count);
  }
}

/** Ask a service for what is at an address. @param {any} service @param {string} address */
const fetched = (service, address) =>
  fetch(address, {
    headers: { accept: 'application/json', ...service.headers },
    signal: AbortSignal.timeout(PATIENCE),
    credentials: 'omit',
  });

/** What a write says, whichever page it is sent from. @param {Write} write */
const asSent = ({ number, source, kind, key, form, fields }) =>
  JSON.stringify([number, source, kind, key, form?.screen ?? null, form ? null : fields]);

/** @param {{source: string, key: any}} of */
const versionOf = ({ source, key }) => JSON.stringify([source, key]);

/** Fields of fields as objects in objects, as the service has them, over what is there. @param {Record<string, any>} fields @param {Record<string, any>} [there] */
function nested(fields, there = {}) {
  /** @type {Record<string, any>} */
  const made = structuredClone(there);
  for (const [name, value] of Object.entries(fields)) {
    const steps = name.split('.');
    const last = steps.pop() ?? name;
    let node = made;
    for (const step of steps) {
      const below = node[step];
      node[step] = below && typeof below === 'object' && !Array.isArray(below) ? below : {};
      node = node[step];
    }
    node[last] = value;
  }
  return made;
}

/** What a problem says of fields (RFC 9457, and what is met besides), and of all. @param {any} problem */
function faultsIn(problem) {
  /** @type {Record<string, string>} */
  const faults = {};
  const { detail } = problem ?? {};
  const some = problem?.errors ?? problem?.fields ?? (Array.isArray(detail) ? detail : {});
  const pairs = Array.isArray(some)
    ? some.map((each) => [
        each?.pointer ?? each?.field ?? each?.name ?? each?.loc?.at?.(-1),
        each?.detail ?? each?.message ?? each?.msg,
      ])
    : Object.entries(some !== null && typeof some === 'object' ? some : {});
  for (const [name, why] of pairs) {
    if (typeof name !== 'string') continue;
    const said = String([why].flat()[0] ?? '').slice(0, MOST_SAID);
    faults[name.replace(/^#?\/?/, '').replaceAll('/', '.')] = said;
  }
  const whole =
    (some === detail ? null : detail) ?? problem?.title ?? problem?.error ?? problem?.message ?? '';
  return { faults, why: typeof whole === 'string' ? whole.slice(0, MOST_SAID) : '' };
}

/** Ms that a Retry-After asks for: seconds, or until a date (RFC 9110, 10.2.3). @param {string} text */
const waitIn = (text) =>
  /^\s*\d+\s*$/.test(text) ? Number(text) * 1000 : Math.max(1, Date.parse(text) - Date.now());

/** @param {string} text */
function unescaped(text) {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** The address of the next page, as an answer says it, or null. @param {any} paging @param {Response} answer @param {any} whole */
function cursorOf({ next: at = '', parameter }, answer, whole) {
  const said = at.startsWith('/') ? pointed(whole, at) : at && answer.headers.get(at);
  if ((typeof said !== 'string' && typeof said !== 'number') || said === '') return null;
  const next = new URL(answer.url);
  if (/^(https?:|\/|\?)/.test(String(said))) next.href = new URL(String(said), answer.url).href;
  else if (parameter) next.searchParams.set(parameter, String(said));
  else return null;
  return next.origin === new URL(answer.url).origin ? next.href : null;
}

/** @param {any} request @param {number} page */
const place = (request, page) =>
  JSON.stringify([
    request.source,
    request.screen,
    request.part,
    request.search,
    request.sort,
    request.kept,
    page,
  ]);

/** @param {string} template @param {any} service @param {[string, any][]} kept @param {Record<string, any>} more */
function addressOf(template, service, kept, more) {
  const named = Object.fromEntries(
    kept
      .filter(([field]) => service.keeps?.[field])
      .map(([field, value]) => [service.keeps[field], shown(value)]),
  );
  const address = told(template, { ...service.given, ...named, ...more });
  if (address === null) throw new Error('an address of the service is not known whole');
  return address;
}

/** What a JSON Pointer (RFC 6901) leads to. @param {any} tree @param {string} [pointer] */
function pointed(tree, pointer = '') {
  const names = pointer
    .split('/')
    .slice(1)
    .map((name) => name.replaceAll('~1', '/').replaceAll('~0', '~'));
  return names.reduce(
    (node, name) => (node && Object.hasOwn(node, name) ? node[name] : undefined),
    tree,
  );
}

/** A record as its fields have it; what does not fit is nothing. @param {any} source @param {any} came @param {any} service */
function recordOf(source, came, service) {
  /** @type {Record<string, any>} */
  const record = {};
  for (const field of source.fields ?? []) {
    const value = field.name
      .split('.')
      .reduce(
        (/** @type {any} */ node, /** @type {string} */ name) =>
          node && typeof node === 'object' && Object.hasOwn(node, name) ? node[name] : undefined,
        came,
      );
    if (value !== undefined && value !== null)
      record[field.name] = fitting(value, field.type ?? 'text');
  }
  const own = service.keyFromAddress && came[service.keyFromAddress];
  if (own)
    record[source.key] = fitting(
      String(own).replace(/\/+$/, '').split('/').at(-1),
      source.fields.find((/** @type {any} */ each) => each.name === source.key)?.type ?? 'text',
    );
  return record;
}

/** The fields that an answer says hold nothing. @param {any} source @param {any} came */
const emptied = (source, came) =>
  Object.fromEntries(
    (source.fields ?? [])
      .filter((/** @type {any} */ each) => came?.[each.name] === null)
      .map((/** @type {any} */ each) => [each.name, null]),
  );

/** @param {any} value @param {string} kind */
function fitting(value, kind) {
  try {
    return carry(value, kind, true);
  } catch {
    return null;
  }
}
