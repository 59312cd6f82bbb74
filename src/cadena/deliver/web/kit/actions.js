// What buttons and row actions do beside opening a screen.

import { carriedTo } from './app-lifecycle.js';
import { Refused, note } from './notes.js';
import { linkOf, openLink } from './opening.js';
import { saying } from './passing.js';
import { applyChanges, carriedInto, notSent } from './records-changed.js';
import { NO_CHANGES, withBack } from './records.js';
import { cut, entriesOf, rowRef, sameScreen, withEntries } from './session.js';
import { targetOf } from './targets.js';
import { LIST, held, isEmpty } from './values.js';

/** @param {any} button */
const doesOf = (button) => button.does ?? { do: 'open' };

/** A button of a screen is pressed; on a detail it is about the detail's record. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function press(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const does = doesOf(app.button(entry.screen, event.button));
  if (does.do === 'open')
    return openLink(app, session, index, linkOf(app, entry.screen, 'button', event.button), null);
  if (does.do === 'save rows') return saveRows(app, session, index, does);
  const key = app.keyOf(entry);
  if (key === null) throw new Refused('no record here', `screens[${entry.screen}]`);
  const [source, record] = [app.sourceOf(entry), app.recordOf(session, entry)];
  const [made, how] = done(app, session, does, source, key, record);
  const { says } = app.button(entry.screen, event.button);
  const [after, said] = saying(app, made, says, source, key, record);
  const notes = [...how, ...said];
  const still = entriesOf(after)[index];
  const isDetail = app.screens.get(entry.screen).kind === 'detail';
  if (does.do === 'remove' && isDetail && index && still && sameScreen(still, entry)) {
    // Removed from its own detail: nobody stays to be told that it is gone.
    return [withEntries(after, cut(entriesOf(after), index)), notes];
  }
  return [after, notes];
}

/** An action of a row is taken; the row counts as the one that led on. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function act(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const { part, button } = app.action(entry.screen, event.action) ?? { part: '', button: {} };
  const record = onList(app, session, entry, part, event.key);
  if (!record) {
    throw new Refused('row not listed', `screens[${entry.screen}]`, { key: event.key });
  }
  if (doesOf(button).do !== 'open') {
    const { source } = app.listing(entry.screen, part);
    const [made, notes] = done(app, session, doesOf(button), source, event.key, record);
    const [after, said] = saying(app, made, button.says, source, event.key, record);
    return [after, [...notes, ...said]];
  }
  const link = linkOf(app, entry.screen, 'action', event.action);
  return openLink(app, session, index, link, rowRef(part, event.key, { action: event.action }));
}

/** The record of a row as its list shows it; null where it is not on the list. @param {WiredApp} app @param {Session} session @param {Entry} entry @param {string} part @param {any} key @returns {Found | null} */
function onList(app, session, entry, part, key) {
  const rows = app.listed(session, entry, part)?.rows;
  return rows && rows.indexOf(key) !== null ? rows.records.byKey(key) : null;
}

/** @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function openMenu(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const listing = app.listing(entry.screen, event.list ?? '');
  const key = event.key ?? null;
  const offered = key === null ? listing.orders : listing.actions;
  if (!offered?.length)
    throw new Refused(key === null ? 'no orders' : 'no row actions', `screens[${entry.screen}]`);
  return [{ ...session, menu: { entry: index, part: event.list ?? '', key } }, []];
}

/** @param {WiredApp} app @param {Session} session @returns {Taken} */
export function closeMenu(app, session) {
  if (!session.menu) throw new Refused('no menu is open');
  return [{ ...session, menu: null }, []];
}

/** What an action asks before it is done, and the word for yes; null for most. @param {WiredApp} app @param {Session} session @param {any} event @returns {{text: string, yes: string} | null} */
export function questionBefore(app, session, event) {
  if (event.do !== 'press' && event.do !== 'act') return null;
  const { entry } = targetOf(app, session, event);
  const action = event.do === 'act' ? app.action(entry.screen, event.action) : null;
  const button = action?.button ?? app.button(entry.screen, event.button);
  const source = action ? app.listing(entry.screen, action.part).source : app.sourceOf(entry);
  const does = doesOf(button);
  if (does.do !== 'remove' || !does.confirm) return null;
  const record = action
    ? onList(app, session, entry, action.part, event.key)
    : app.recordOf(session, entry);
  // What is refused asks nothing before.
  if (!record) return null;
  return { text: app.say(source).fill(does.confirm, record), yes: button.label };
}

/** Do it to a record, which is as it is on display: of a late source, what has come. @param {WiredApp} app @param {Session} session @param {any} does @param {string} source @param {any} key @param {Found | null} record @returns {Taken} */
function done(app, session, does, source, key, record) {
  const records = app.records(session, source);
  if (!records || !record)
    throw new Refused('no such record', `sources[${source}]`, { source, key });
  switch (does.do) {
    case 'remove': {
      const title = app.say(source).value(records.source.label, record);
      const [after, notes] = applyChanges(app, session, source, { ...NO_CHANGES, gone: [key] });
      const removal = (does.undo ?? true) ? { source, key, title } : null;
      return [
        { ...after, removal },
        [note('removed', '', { source, key }), ...notSent(app, source), ...notes],
      ];
    }
    case 'mark':
      return marked(app, session, does, key);
    case 'set':
    case 'toggle': {
      const { field } = does;
      const kind = records.types.get(field);
      if (kind === undefined || field === records.source.key)
        throw new Refused('field not set', `sources[${source}]`, { field });
      const wanted = does.do === 'set' ? (does.to ?? null) : toggled(does, record);
      const to = wanted === null ? null : carriedInto(source, field, kind, wanted);
      const [after, notes] = applyChanges(app, session, source, {
        ...NO_CHANGES,
        changed: [{ key, fields: { [field]: to } }],
      });
      return [
        after,
        [note('changed', 'field', { source, key, field, to }), ...notSent(app, source), ...notes],
      ];
    }
    default:
      throw new Refused('from a list only');
  }
}

/** The other, or the next of the values named. @param {any} does @param {Found} record */
function toggled({ field, between = [] }, record) {
  const now = record.value(field);
  return between.length
    ? between[(between.indexOf(now) + 1) % between.length]
    : isEmpty(now) || now === false || now === 0;
}

/** Whether what a button marks or toggles is on now. @param {Session} session @param {any} button @param {Found | null} record */
export function isOn(session, button, record) {
  const does = doesOf(button);
  if (does.do === 'mark')
    return /** @type {any[]} */ ([held(session.values, does.value) ?? []].flat()).includes(
      record?.key,
    );
  if (does.do !== 'toggle') return false;
  const now = record?.value(does.field);
  return does.between?.length ? now === does.between[does.between.length - 1] : now === true;
}

/** @param {WiredApp} app @param {Session} session @param {any} does @param {any} key @returns {Taken} */
function marked(app, session, does, key) {
  const declared = app.values.get(does.value);
  if (!declared?.type?.startsWith(LIST))
    throw new Refused('no such marks', 'values', { value: does.value });
  const now = held(session.values, does.value);
  const marks = Array.isArray(now) ? now : [];
  const isMarked = marks.includes(key);
  const made = isMarked ? marks.filter((each) => each !== key) : [...marks, key];
  const value = carriedTo(does.value, declared.type, made);
  const said = note('set', isMarked ? 'unmarked' : 'marked', {
    value: does.value,
    key,
    count: made.length,
  });
  return [{ ...session, values: { ...session.values, [does.value]: value } }, [said]];
}

/** The rows of a list are handed out, as they are kept, found and sorted. @param {WiredApp} app @param {Session} session @param {number} index @param {any} does @returns {Taken} */
function saveRows(app, session, index, does) {
  const entry = entriesOf(session)[index];
  const listed = app.listed(session, entry, '');
  const where = `screens[${entry.screen}]`;
  if (!listed) throw new Refused('no rows to save', where);
  const data = { screen: entry.screen, count: listed.rows.length, form: does.form ?? 'csv' };
  return [session, [note('handed out', '', data, where)]];
}

/** Put the record back that an action removed; it stands where it stood. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function undo(app, session) {
  const { removal } = session;
  if (!removal) throw new Refused('nothing was removed');
  const changes = {
    ...session.changes,
    [removal.source]: withBack(session.changes[removal.source], removal.key),
  };
  return [
    { ...session, removal: null, changes },
    [note('put back', '', { source: removal.source, key: removal.key })],
  ];
}
