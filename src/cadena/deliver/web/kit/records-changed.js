// Records that change under an open app (rule 8).

import { unsettle } from './lists.js';
import { Refused, note, unlessRefused } from './notes.js';
import { argumentsFor, fitting, linkFor, storedView } from './opening.js';
import { withoutGonePicks } from './picked.js';
import { NO_CHANGES, mergedChanges } from './records.js';
import { cut, newEntry, ownerOf, withChain } from './session.js';
import { Unfit, carry, held, isEmpty } from './values.js';

/** The records of a source come again. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function refresh(app, session, { source, changed = [], gone = [], added = [] }) {
  demandSource(app, source);
  const [after, notes] = applyChanges(app, session, source, { changed, gone, added }, true);
  const said = note('refreshed', '', {
    source,
    changed: changed.length,
    gone: gone.length,
    new: added.length,
  });
  return [unsettle(app, after, source), [said, ...notes]];
}

/** One record is removed. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function remove(app, session, { source, key }) {
  demandRecord(app, session, source, key);
  const [after, notes] = applyChanges(app, session, source, { ...NO_CHANGES, gone: [key] }, true);
  return [after, [note('removed', '', { source, key }), ...notes]];
}

/** What a field refers to is a record that is there (8). @param {WiredApp} app @param {Session} session @param {string} source @param {string} field @param {any} value */
export function demandReferred(app, session, source, field, value) {
  const to = app.chosenAmong(source, field);
  if (!to || isEmpty(value) || Array.isArray(value)) return;
  if (app.records(session, to)?.rowOf(value) === null)
    throw new Refused('no such record', `sources[${to}]`, { source: to, key: value });
}

/** A value as a field takes it. @param {string} source @param {string} field @param {string} kind @param {any} value */
export function carriedInto(source, field, kind, value) {
  try {
    return carry(value, kind);
  } catch (unfit) {
    if (!(unfit instanceof Unfit)) throw unfit;
    throw new Refused('field unfit', `sources[${source}]`, {
      field,
      came: unfit.came,
      wanted: unfit.wanted,
    });
  }
}

/** A value as an app-wide value takes it. @param {string} name @param {string} kind @param {any} value */
export function carriedTo(name, kind, value) {
  try {
    return carry(value, kind);
  } catch (unfit) {
    if (!(unfit instanceof Unfit)) throw unfit;
    throw new Refused('value unfit', `values[${name}]`, {
      value: name,
      came: unfit.came,
      wanted: unfit.wanted,
    });
  }
}

/** @param {WiredApp} app @param {string} source */
function demandSource(app, source) {
  if (!app.asRead.has(source)) throw new Refused('no such source', 'sources', { source });
}

/** @param {WiredApp} app @param {Session} session @param {string} source @param {any} key */
export function demandRecord(app, session, source, key) {
  demandSource(app, source);
  const records = app.records(session, source);
  if (!records || records.rowOf(key) === null)
    throw new Refused('no such record', `sources[${source}]`, { source, key });
  return records;
}

/** That a change stays in the app: a service is only read (9). @param {WiredApp} app @param {string} source */
export const notSent = (app, source) =>
  app.late.get(source)?.served === 'service' && !app.writes.has(source)
    ? [note('not sent', '', { source })]
    : [];

/**
 * Make changes to the records of a source; they show everywhere at once. What goes goes first,
 * then what is new comes, then fields change. What cannot be is left out, and a note says so. Of
 * changes that come by themselves nobody can be asked, so no screen closes that a draft lies on.
 * @param {WiredApp} app
 * @param {Session} session
 * @param {string} source
 * @param {Changes} wanted
 * @param {boolean} byItself
 * @returns {Taken}
 */
export function applyChanges(app, session, source, wanted, byItself = false) {
  const before = session;
  const base = app.asRead.get(source);
  const records = app.records(session, source);
  if (!base || !records) return [session, []];
  const { changes, leftOut } = possible(records, wanted);
  const earlier = held(session.changes, source) ?? NO_CHANGES;
  const merged = mergedChanges(
    earlier,
    changes,
    base.source.key,
    (key) => base.rowOf(key) !== null,
  );
  session = { ...session, changes: { ...session.changes, [source]: merged } };
  /** @type {Note[]} */
  const notes = [];
  if (leftOut.length) {
    const [which, data] = leftOut[0];
    notes.push(
      note('left out', which, { ...data, source, count: leftOut.length }, `sources[${source}]`),
    );
  }
  if (changes.gone.length) {
    session = withoutGonePicks(app, session, source);
    for (const chain of Object.values(session.chains)) {
      const [settled, said] = withoutGone(app, before, session, chain, source, byItself);
      if (settled !== chain) session = withChain(session, settled);
      notes.push(...said);
    }
  }
  return [session, notes];
}

/** Of changes those that the records as they are now can take, and why others cannot be. @param {Records} records @param {Changes} wanted */
function possible(records, wanted) {
  /** @type {[string, Record<string, any>][]} */
  const leftOut = [];
  const isThere = (/** @type {any} */ key) => records.rowOf(key) !== null;
  const gone = wanted.gone.filter((key) => {
    if (!isThere(key)) leftOut.push(['cannot go', { key }]);
    return isThere(key);
  });
  /** @type {Map<any, Record<string, any>>} */
  const added = new Map();
  const changed = [];
  for (const row of wanted.added) {
    const key = held(row, records.source.key) ?? null;
    const known = Object.fromEntries(
      Object.entries(row).filter(([name]) => records.types.has(name)),
    );
    if (!records.canBeKey(key)) {
      leftOut.push(['no key', { key }]);
    } else if (gone.includes(key) || !isThere(key)) {
      const blank = Object.fromEntries([...records.types.keys()].map((name) => [name, null]));
      added.set(key, { ...blank, ...fittingOf(records, key, { ...blank, ...known }, leftOut) });
    } else {
      changed.push({ key, fields: fittingOf(records, key, known, leftOut) });
    }
  }
  for (const { key, fields } of wanted.changed) {
    if (added.has(key) || (isThere(key) && !gone.includes(key))) {
      changed.push({ key, fields: fittingOf(records, key, fields, leftOut) });
    } else {
      leftOut.push(['cannot change', { key }]);
    }
  }
  return { changes: { changed, gone, added: [...added.values()] }, leftOut };
}

/** The fields whose values are of their types; the key never changes. @param {Records} records @param {any} key @param {Record<string, any>} fields @param {[string, Record<string, any>][]} leftOut */
function fittingOf(records, key, fields, leftOut) {
  /** @type {Record<string, any>} */
  const kept = {};
  for (const [field, came] of Object.entries(fields)) {
    const kind = records.types.get(field);
    const value =
      field === records.source.key
        ? key
        : came === null || kind === undefined
          ? null
          : fitting(kind, came);
    if (value === null && came !== null) leftOut.push(['unfit', { key, field, came }]);
    else kept[field] = value;
  }
  return kept;
}

/** Do with an entry whose record has just gone what its screen says. @param {WiredApp} app @param {Session} before @param {Session} session @param {Chain} chain @param {string} source @param {boolean} byItself @returns {[Chain, Note[]]} */
function withoutGone(app, before, session, chain, source, byItself) {
  for (const [index, entry] of chain.entries.entries()) {
    const screen = app.screens.get(entry.screen);
    if (screen?.kind !== 'detail' || screen.source !== source || index === 0) continue;
    if (!isThere(app, before, entry) || isThere(app, session, entry)) continue;
    const gone = { screen: screen.id, key: held(entry.arguments, screen.key) ?? null };
    const hasDraft = chain.entries.slice(index).some((each) => Object.keys(each.view.draft).length);
    if ((screen.whenGone ?? 'say so') === 'say so' || (byItself && hasDraft)) continue;
    const opened = screen.whenGone === 'next' ? nextOf(app, before, session, chain, index) : null;
    if (opened) {
      const to = app.keyOf(opened);
      return [
        { ...chain, entries: [...chain.entries.slice(0, index), opened] },
        [note('moved on', '', { ...gone, to })],
      ];
    }
    return [{ ...chain, entries: cut(chain.entries, index) }, [note('closed', 'gone', gone)]];
  }
  return [chain, []];
}

/** @param {WiredApp} app @param {Session} session @param {Entry} entry */
const isThere = (app, session, entry) =>
  (app.records(session, app.sourceOf(entry))?.rowOf(app.keyOf(entry)) ?? null) !== null;

/** The entry opened again for the row that took its row's place, else for the one before; or null. @param {WiredApp} app @param {Session} before @param {Session} session @param {Chain} chain @param {number} index @returns {Entry | null} */
function nextOf(app, before, session, chain, index) {
  const entry = chain.entries[index];
  if (!entry.row) return null;
  const at = ownerOf(entry.row, index);
  const owner = chain.entries[at];
  const { action, part } = entry.row;
  const trigger = /** @type {const} */ ([owner.screen, action ? 'action' : 'row', action || part]);
  const base = app.link(...trigger);
  const stood = app.listed(before, owner, part)?.rows.indexOf(entry.row.key) ?? null;
  const now = app.listed(session, owner, part);
  if (!base || !now || stood === null || !now.rows.length) return null;
  const row = { ...entry.row, key: now.rows.keyAt(Math.min(stood, now.rows.length - 1)) };
  const placed = withChain({ ...session, section: chain.section }, chain);
  const link = linkFor(app, placed, at, base, row);
  const isByKind = app.kinds.has(app.trigger(...trigger));
  if (!link || (link.to !== entry.screen && !isByKind)) return null;
  const args = unlessRefused(
    () => argumentsFor(app, placed, at, link, row),
    () => null,
  );
  if (!args) return null;
  const view = storedView(session, chain.section, link.to, args);
  return newEntry(link.to, args, { opened: entry.opened, by: entry.by, row, view });
}
