// The whole state of a running app, as one value that never changes (rule 1).

import { same } from './values.js';

export const LAYERS = ['modal', 'popover'];

/** @type {View} */
export const NO_VIEW = Object.freeze({
  scroll: null,
  search: {},
  sort: {},
  marker: {},
  last: {},
  across: {},
  choice: {},
  page: '',
  turned: {},
  draft: {},
  tried: false,
  groups: {},
  picked: {},
});
/** @type {Load} */
export const NOT_LOADED = Object.freeze({
  state: 'loading',
  request: 0,
  brought: 0,
  more: false,
  search: '',
  sort: null,
  failed: null,
  again: 0,
  came: [],
  first: 0,
});
/** @type {Chain} */
const NO_CHAIN = Object.freeze({ section: '', entries: [], asked: false });

/** A window as it lies when nobody has turned or folded it. @param {number} width @param {number} height @param {number | null} fold @returns {AppWindow} */
export function sized(width, height, fold = null) {
  return { width, height, fold, foldAcross: false, folded: false, text: 1, rtl: false };
}

/** Width and height of what can be seen, in dp. @param {AppWindow} window */
export function sizeOf(window) {
  const { width, height, fold, folded, foldAcross } = window;
  if (!folded || fold === null) return [width, height];
  return foldAcross ? [width, fold] : [fold, height];
}

/** The size in units of the window's own text: large text makes them fewer. @param {AppWindow} window */
export function roomOf(window) {
  return sizeOf(window).map((each) => each / window.text);
}

/** @param {string} part @param {Scalar} key @param {Partial<RowRef>} more @returns {RowRef} */
export const rowRef = (part, key, more = {}) => ({ part, key, of: null, action: '', ...more });

/** @param {string} screen @param {Record<string, Value>} args @param {Partial<Entry>} more @returns {Entry} */
export function newEntry(screen, args, more = {}) {
  return {
    screen,
    arguments: args,
    opened: 'push',
    by: 'hand',
    row: null,
    view: NO_VIEW,
    loads: {},
    openedFor: null,
    ...more,
  };
}

/** @param {Session} session @returns {Chain} */
export const chainOf = (session) => session.chains[session.section] ?? NO_CHAIN;

/** @param {Session} session */
export const entriesOf = (session) => chainOf(session).entries;

/** @param {Session} session @param {Chain} chain @returns {Session} */
export function withChain(session, chain) {
  return { ...session, chains: { ...session.chains, [chain.section]: chain } };
}

/** @param {Session} session @param {Entry[]} entries */
export const withEntries = (session, entries) =>
  withChain(session, { ...chainOf(session), entries });

/** With the first entries of the chain; whoever comes back to its root asks for it (5.5). @param {Session} session @param {number} length */
export function cutBack(session, length) {
  const entries = cut(entriesOf(session), length);
  return withChain(session, {
    ...chainOf(session),
    entries,
    asked: chainOf(session).asked || entries.length === 1,
  });
}

/** @param {Session} session @param {number} index @param {Entry} entry */
export const withEntry = (session, index, entry) =>
  withEntries(session, entriesOf(session).with(index, entry));

/** With view state of an entry changed, which counts as touching it (5.3). @param {Session} session @param {number} index @param {Partial<View>} changed */
export function withView(session, index, changed) {
  const entry = entriesOf(session)[index];
  return withEntry(session, index, touched({ ...entry, view: { ...entry.view, ...changed } }));
}

/**
 * With every entry of every chain changed.
 * @param {Session} session
 * @param {(chain: Chain, index: number, entry: Entry) => Entry} change
 * @returns {Session}
 */
export function withEachEntry(session, change) {
  let after = session;
  for (const chain of Object.values(session.chains)) {
    const entries = chain.entries.map((entry, index) => change(chain, index, entry));
    if (entries.some((entry, index) => entry !== chain.entries[index])) {
      after = withChain(after, { ...chain, entries });
    }
  }
  return after;
}

/** An entry that a rule opened and a person has used counts as opened by hand (5.3). @param {Entry} entry @returns {Entry} */
export const touched = (entry) => (entry.by === 'rule' ? { ...entry, by: 'hand' } : entry);

/** The entry that entry `index` was opened from, or for: whose list a row is of, who asked. @param {{of: number | null}} of @param {number} index */
export const ownerOf = ({ of }, index) => of ?? index - 1;

/** The chosen row of an entry: the row that opened the next one. It is never stored. @param {Entry[]} entries @param {number} index */
export function chosenRow(entries, index) {
  const row = entries[index + 1]?.row ?? null;
  return row !== null && ownerOf(row, index + 1) === index ? row : null;
}

/** Modals over other entries than the `was` that they lay over: what they came from moves along. @param {Entry[]} below @param {Entry[]} layers @param {number} was */
export function onBase(below, layers, was) {
  const moved = below.length - was;
  /** @type {<T extends {of: number | null}>(owned: T | null, at: number) => T | null} */
  const lifted = (owned, at) => {
    if (owned === null) return null;
    let owner = ownerOf(owned, at);
    owner += owner >= was ? moved : 0;
    return { ...owned, of: owner === at + moved - 1 ? null : owner };
  };
  const over = layers.map((entry, number) => ({
    ...entry,
    row: lifted(entry.row, was + number),
    openedFor: lifted(entry.openedFor, was + number),
  }));
  return [...below, ...over];
}

/** The first entries; each remembers the row that had led on from it (4). @param {Entry[]} entries @param {number} length */
export function cut(entries, length) {
  const stays = entries.slice(0, length);
  for (let index = entries.length - 1; index >= length; index -= 1) {
    const { row } = entries[index];
    const owner = row === null ? length : ownerOf(row, index);
    if (row !== null && owner >= 0 && owner < length) {
      const { view } = stays[owner];
      const last = { ...view.last, [row.part]: row.key };
      stays[owner] = { ...stays[owner], view: { ...view, last } };
    }
  }
  return stays;
}

/** Whether two entries show the same screen for the same arguments. @param {Entry} a @param {Entry} b */
export const sameScreen = (a, b) => a.screen === b.screen && same(a.arguments, b.arguments);

/** How many entries lie below the first modal or popover (3.1). @param {Entry[]} entries */
export function baseLength(entries) {
  const first = entries.findIndex((entry) => LAYERS.includes(entry.opened));
  return first < 0 ? entries.length : first;
}

/** Whether a menu, or a section bar that opens on demand, lies over everything (4.0). @param {Session} session */
export const hasMenu = (session) => Boolean(session.menu || session.sectionsOpen);

/** @param {Session} session @returns {Session} */
export const withoutMenu = (session) =>
  hasMenu(session) ? { ...session, menu: null, sectionsOpen: false } : session;
