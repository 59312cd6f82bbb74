// Calling a service for records: what it answers is not trusted.

import { told } from '../templates.js';
import { sortAsked } from '../app.js';
import { carry, shown } from '../values.js';

const PATIENCE = 15_000;

/** Calls services for what a session asks of them, and tells what came. */
export class Service {
  /** @param {WiredApp} app @param {(event: Record<string, any>) => void} tell */
  constructor(app, tell) {
    this.app = app;
    this.tell = tell;
    /** @type {Set<number>} */
    this.called = new Set();
    /** @type {Map<string, string | number | null>} */
    this.following = new Map();
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

  /** @param {any} request */
  async answerTo(request) {
    const source = this.app.sources.get(request.source);
    const { service } = source;
    const isItem = request.part === '*';
    const address = isItem
      ? addressOf(service.item, service, request.kept, { key: shown(request.key) })
      : this.pageOf(service, request);
    const answer = await fetch(address, {
      headers: { accept: 'application/json', ...service.headers },
      signal: AbortSignal.timeout(PATIENCE),
      credentials: 'omit',
    });
    if (isItem && answer.status === 404)
      return { do: 'answered', request: request.number, missing: true };
    if (!answer.ok) throw new Error(`the service answered ${answer.status}`);
    const whole = await answer.json();
    const tree = pointed(whole, isItem ? service.record : service.records);
    const found = isItem ? [tree] : tree;
    if (!Array.isArray(found)) throw new Error('the service answered with no list');
    const records = found
      .filter((each) => each && typeof each === 'object')
      .map((each) => recordOf(source, each, service));
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

/** @param {any} value @param {string} kind */
function fitting(value, kind) {
  try {
    return carry(value, kind, true);
  } catch {
    return null;
  }
}
