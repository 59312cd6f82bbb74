// Opening a screen (rule 2).

import { Refused, note, unlessRefused } from './notes.js';
import {
  LAYERS,
  NO_VIEW,
  baseLength,
  cut,
  cutBack,
  entriesOf,
  newEntry,
  onBase,
  ownerOf,
  rowRef,
  touched,
  withEntries,
  withEntry,
} from './session.js';
import { Unfit, carry, held, same } from './values.js';

/** The link that starts from a trigger. @param {WiredApp} app @param {string} screen @param {string} on @param {string} part */
export function linkOf(app, screen, on, part) {
  const link = app.link(screen, on, part);
  if (link) return link;
  throw notLinked(screen, on, part);
}

/** @param {string} screen @param {string} on @param {string} part */
const notLinked = (screen, on, part) =>
  new Refused(on === 'row' ? 'rows not linked' : `${on} not linked`, `screens[${screen}]`, {
    part,
  });

/** The link that is followed where a row leads on by a trigger, by the row's kind (2.7); null where there is none for this row. @param {WiredApp} app @param {Session} session @param {number} index @param {any} link @param {RowRef | null} row */
export function linkFor(app, session, index, link, row) {
  const { screen, on = 'row', part = '' } = link.trigger;
  if (!row || !app.kinds.has(app.trigger(screen, on, part))) return link;
  const records = app.listed(session, entriesOf(session)[index], row.part)?.rows.records;
  return app.linkFor(screen, on, part, records?.byKey(row.key) ?? null);
}

/**
 * The arguments that a link fills in, from an entry and one of its rows (2.1).
 * @param {WiredApp} app
 * @param {Session} session
 * @param {number} index
 * @param {any} link
 * @param {RowRef | null} row
 * @param {Found | null | undefined} saved the record that a form has just saved
 */
export function argumentsFor(app, session, index, link, row, saved = undefined) {
  const screen = app.screens.get(link.to);
  if (!screen)
    throw new Refused('no such target', `links[${link.id}].to`, { link: link.id, screen: link.to });
  /** @type {Record<string, any>} */
  const filled = {};
  for (const parameter of screen.parameters ?? []) {
    const argument = link.arguments?.findLast(
      (/** @type {any} */ each) => each.parameter === parameter.name,
    );
    const came = argument ? filledFrom(app, session, index, argument, row, saved) : null;
    const where = `links[${link.id}].arguments[${parameter.name}]`;
    const value = fillIn(
      parameter,
      came,
      ['link', link.id, screen.id],
      where,
      argument?.convert ?? false,
    );
    if (value !== null) filled[parameter.name] = value;
  }
  return filled;
}

/** The value a parameter takes of what came; null where it may be none (2.2). @param {any} parameter @param {any} came @param {string[]} who @param {string} where @param {boolean} convert */
export function fillIn(parameter, came, who, where, convert = false) {
  const need = parameter.need ?? 'required';
  const wanted = parameter.type ?? 'text';
  let value = came ?? null;
  if (value === null) {
    if (need === 'required') {
      throw new Refused('argument missing', where, { who, parameter: parameter.name, wanted });
    }
    value = need === 'default' ? (parameter.default ?? null) : null;
    if (value === null) return null;
  }
  try {
    return carry(value, wanted, convert);
  } catch (unfit) {
    if (!(unfit instanceof Unfit)) throw unfit;
    throw new Refused('argument unfit', where, {
      who,
      parameter: parameter.name,
      came: unfit.came,
      wanted: unfit.wanted,
    });
  }
}

/** @param {WiredApp} app @param {Session} session @param {number} index @param {any} argument @param {RowRef | null} row @param {any} saved */
function filledFrom(app, session, index, argument, row, saved) {
  const entry = entriesOf(session)[index];
  switch (argument.from) {
    case 'constant':
      return argument.constant;
    case 'argument':
      return held(entry.arguments, argument.argument) ?? null;
    case 'value':
      return held(session.values, argument.value) ?? null;
    case 'position': {
      const listed = row && app.listed(session, entry, row.part);
      return listed && row ? listed.rows.indexOf(row.key) : null;
    }
    default: {
      if (saved !== undefined) return saved?.value(argument.field) ?? null;
      if (!row) return app.recordOf(session, entry)?.value(argument.field) ?? null;
      // Of a source that answers late, only what its list call has brought.
      const records = app.listed(session, entry, row.part)?.rows.records;
      if (!records) return null;
      if (argument.field === records.source.key) return row.key;
      return records.byKey(row.key)?.value(argument.field) ?? null;
    }
  }
}

/** Follow a link from an entry (2.3, 2.4). @param {WiredApp} app @param {Session} session @param {number} index @param {any} link @param {RowRef | null} row @param {'hand' | 'rule'} by @returns {Taken} */
export function openLink(app, session, index, link, row, by = 'hand') {
  const { screen, on = 'row', part = '' } = link.trigger;
  const followed = linkFor(app, session, index, link, row);
  if (!followed) throw notLinked(screen, on, part);
  const args = argumentsFor(app, session, index, followed, row);
  return openedAs(app, session, index, followed, args, row, by);
}

/** Open the screen of a link with arguments that are filled in. @param {WiredApp} app @param {Session} session @param {number} index @param {any} link @param {Record<string, any>} args @param {RowRef | null} row @param {'hand' | 'rule'} by @returns {Taken} */
function openedAs(app, session, index, link, args, row, by = 'hand') {
  const screen = app.screens.get(link.to);
  if (link.sets) session = withValues(app, session, link, args);
  const entries = entriesOf(session);
  let how = link.how ?? 'push';
  if (how === 'beside' && index >= baseLength(entries)) how = 'push';
  const asks = asksOf(link);
  const goesBack = link.ifOpen === 'go back to it' && !asks;
  let at = goesBack ? openAt(entries.slice(0, index + 1), screen.id, args) : -1;
  if (at < 0 && screen.kind === 'form') at = openAt(entries, screen.id, args);
  if (at >= 0) return [by === 'rule' ? session : backTo(session, at), [already(screen, args)]];
  if (how === 'replace') return replaced(app, session, index, screen, args);
  const isOver = LAYERS.includes(how);
  const after = isOver ? entries.length - 1 : index + 1;
  const next = entries[after];
  const isThere = next?.screen === screen.id && next.opened === how && same(next.arguments, args);
  if (isThere && same(next.openedFor, asksAt(asks, index, after))) {
    if (by !== 'rule' && entries[after + 1]?.opened === 'push') {
      // What was pushed over it covers it: the row that was chosen is to be seen.
      session = withEntries(session, cut(entries, after + 1));
    }
    const opened = entriesOf(session)[after];
    return [
      withEntry(session, after, by === 'rule' ? opened : touched(opened)),
      [already(screen, args)],
    ];
  }
  const view = storedView(session, session.section, screen.id, args);
  if (by === 'rule') {
    const base = baseLength(entries);
    const opened = newEntry(screen.id, args, { opened: how, by, row, view });
    const chain = onBase([...entries.slice(0, base), opened], entries.slice(base), base);
    return [withEntries(session, chain), [opening('by rule', screen, args, { how })]];
  }
  const below = isOver ? entries : cut(entries, index + 1);
  if (row && index !== below.length - 1) row = { ...row, of: index };
  const openedFor = asksAt(asks, index, below.length);
  const opened = newEntry(screen.id, args, { opened: how, by, row, view, openedFor });
  const chain = [...below.with(index, touched(below[index])), opened];
  return [withEntries(session, chain), [opening('', screen, args, { how, link: link.id })]];
}

/** What a link that brings something home opens its screen for, or null (15). @param {any} link @returns {OpenedFor | null} */
function asksOf(link) {
  const { on = 'row', part = '' } = link.trigger;
  return link.brings && ['field', 'fact', 'button'].includes(on) ? { on, part, of: null } : null;
}

/** The same, of an entry whose asker is another than the one right below. @param {OpenedFor | null} asks @param {number} owner @param {number} index */
const asksAt = (asks, owner, index) =>
  asks && (owner === index - 1 ? asks : { ...asks, of: owner });

/** The deepest entry that is this screen with equal arguments, or -1. @param {Entry[]} entries @param {string} screen @param {Record<string, any>} args */
const openAt = (entries, screen, args) =>
  entries.findLastIndex((entry) => entry.screen === screen && same(entry.arguments, args));

/** @param {Session} session @param {number} at */
function backTo(session, at) {
  const after = cutBack(session, at + 1);
  return withEntry(after, at, touched(entriesOf(after)[at]));
}

/** @param {any} screen @param {Record<string, any>} args */
const already = (screen, args) => note('already open', '', { screen: screen.id, arguments: args });

/** @param {string} which @param {any} screen @param {Record<string, any>} args @param {Record<string, any>} data */
const opening = (which, screen, args, data) =>
  note('opened', which, { screen: screen.id, arguments: args, ...data });

/** Follow the link of a form that was saved: its screen takes the place of the first form of that record (10). @param {WiredApp} app @param {Session} session @param {number} index @param {any} link @param {string} source @param {any} key @returns {Taken} */
export function openAfterSaving(app, session, index, link, source, key) {
  const saved = app.shown(session, source)?.byKey(key) ?? null;
  const args = argumentsFor(app, session, index, link, null, saved);
  const screen = app.screens.get(link.to);
  const first = firstFormOf(app, session, index, source, key);
  const entries = entriesOf(session);
  const at = openAt(entries.slice(0, first), screen.id, args);
  if (at >= 0) {
    if (link.sets) session = withValues(app, session, link, args);
    return [backTo(session, at), [already(screen, args)]];
  }
  if (first === 0 || link.how === 'replace') return replaced(app, session, first, screen, args);
  const below = withEntries(session, cut(entries, first));
  const parent = first - 1;
  /** @type {RowRef | null} */
  let row = null;
  for (const part of app.listings.get(entriesOf(below)[parent].screen)?.keys() ?? []) {
    row ??= impliedRow(app, below, parent, part, screen, args);
  }
  return openedAs(app, below, parent, link, args, row);
}

/** The first entry, at `index` or below, that is a form of a record (10). @param {WiredApp} app @param {Session} session @param {number} index @param {string} source @param {any} key */
export function firstFormOf(app, session, index, source, key) {
  const at = entriesOf(session)
    .slice(0, index)
    .findIndex(
      (entry) =>
        app.screens.get(entry.screen)?.kind === 'form' &&
        app.sourceOf(entry) === source &&
        app.keyOf(entry) === key,
    );
  return at < 0 ? index : at;
}

/** With the arguments that a link keeps as app-wide values, as far as they fit. @param {WiredApp} app @param {Session} session @param {any} link @param {Record<string, any>} args @returns {Session} */
function withValues(app, session, link, args) {
  const values = { ...session.values };
  for (const [name, parameter] of Object.entries(link.sets)) {
    const declared = app.values.get(name);
    if (!declared || !Object.hasOwn(args, parameter)) continue;
    const value = fitting(declared.type ?? 'text', args[parameter]);
    if (value !== null) values[name] = value;
  }
  return { ...session, values };
}

/** A value where it fits a type, else null. @param {string} kind @param {any} value */
export function fitting(kind, value) {
  try {
    return carry(value, kind);
  } catch (unfit) {
    if (unfit instanceof Unfit) return null;
    throw unfit;
  }
}

/** Put a screen in the place of an entry, opened as that one was. @param {WiredApp} app @param {Session} session @param {number} index @param {any} screen @param {Record<string, any>} args @returns {Taken} */
function replaced(app, session, index, screen, args) {
  const entries = entriesOf(session);
  const old = entries[index];
  if (old.screen === screen.id && same(old.arguments, args)) {
    return [withEntry(session, index, touched(old)), [already(screen, args)]];
  }
  let { row } = old;
  const below = withEntries(session, cut(entries, index));
  if (row) {
    const implied = impliedRow(app, below, ownerOf(row, index), row.part, screen, args);
    row = implied && { ...implied, of: row.of };
  }
  const view = storedView(session, session.section, screen.id, args);
  const opened = newEntry(screen.id, args, { opened: old.opened, row, view });
  const after = withEntries(below, [...entriesOf(below), opened]);
  return [after, [opening('in place', screen, args, { old: old.screen })]];
}

/** The row on a list of an entry that would have opened this screen just so, or null. @param {WiredApp} app @param {Session} session @param {number} index @param {string} part @param {any} screen @param {Record<string, any>} args @returns {RowRef | null} */
function impliedRow(app, session, index, part, screen, args) {
  const entry = entriesOf(session)[index];
  const listed = app.listed(session, entry, part);
  if (!listed) return null;
  for (const link of app.linksAt(entry.screen, 'row', part)) {
    if (link.to !== screen.id) continue;
    for (const key of mayHaveOpened(listed.rows, link, args)) {
      const row = rowRef(part, key);
      if (linkFor(app, session, index, link, row) !== link) continue;
      const would = unlessRefused(
        () => argumentsFor(app, session, index, link, row),
        () => null,
      );
      if (would && same(would, args)) return row;
    }
  }
  return null;
}

/** The keys of the rows that a link may have started from: one, where it carries the key. @param {any} rows @param {any} link @param {Record<string, any>} args @returns {Iterable<Scalar>} */
function* mayHaveOpened(rows, link, args) {
  const given = link.arguments ?? [];
  const isKey = (/** @type {any} */ each) =>
    each.from === 'field' && each.field === rows.records.source.key && !each.convert;
  const carried = given.map((/** @type {any} */ each) =>
    isKey(each) ? (held(args, each.parameter) ?? null) : null,
  );
  const key = carried.find((/** @type {any} */ each) => each !== null && !Array.isArray(each));
  if (key !== undefined) {
    if (rows.indexOf(key) !== null) yield key;
  } else if (
    !given.every((/** @type {any} */ each) => ['constant', 'argument', 'value'].includes(each.from))
  ) {
    for (let row = 0; row < rows.length; row += 1) yield rows.keyAt(row);
  }
}

/** What was stored of a screen of a section with these arguments, or nothing (6). @param {Session} session @param {string} section @param {string} screen @param {Record<string, any>} args */
export function storedView(session, section, screen, args) {
  return (
    session.stored.find(
      (each) => each.section === section && each.screen === screen && same(each.arguments, args),
    )?.view ?? NO_VIEW
  );
}
