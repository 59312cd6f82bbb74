// What buttons and row actions do beside opening a screen.

import { leaveFor } from './leaving.js';
import { Refused, note } from './notes.js';
import { linkOf, openLink } from './opening.js';
import { saying } from './passing.js';
import { hidesButtons, pickedOn } from './picked.js';
import { carriedInto, carriedTo, notSent } from './records-changed.js';
import { NO_CHANGES, withBack } from './records.js';
import { cut, entriesOf, rowRef, sameScreen, withEntries } from './session.js';
import { targetOf } from './targets.js';
import { changedByHand } from './shown-at-once.js';
import { LIST, held, isEmpty } from './values.js';

/** @param {any} button */
const doesOf = (button) => button.does ?? { do: 'open' };

/** A button of a screen is pressed; on a detail it is about the detail's record. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function press(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  if (hidesButtons(app, entry)) throw new Refused('rows are picked', `screens[${entry.screen}]`);
  const does = doesOf(app.button(entry.screen, event.button));
  if (does.do === 'open')
    return openLink(app, session, index, linkOf(app, entry.screen, 'button', event.button), null);
  if (does.do === 'save rows') return saveRows(app, session, index, does);
  if (does.do === 'leave for') return leaveFor(session, app.recordOf(session, entry), does.field);
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
  demandNonePicked(entry, part);
  const record = onList(app, session, entry, part, event.key);
  if (!record) {
    throw new Refused('row not listed', `screens[${entry.screen}]`, { key: event.key });
  }
  if (doesOf(button).do === 'leave for') return leaveFor(session, record, doesOf(button).field);
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
  if (key !== null) demandNonePicked(entry, event.list ?? '');
  return [{ ...session, menu: { entry: index, part: event.list ?? '', key } }, []];
}

/** While rows are picked, what can be done is for all of them (14). @param {Entry} entry @param {string} part */
function demandNonePicked(entry, part) {
  if (pickedOn(entry, part).length)
    throw new Refused('rows are picked', `screens[${entry.screen}]`);
}

/** @param {WiredApp} app @param {Session} session @returns {Taken} */
export function closeMenu(app, session) {
  if (!session.menu) throw new Refused('no menu is open');
  return [{ ...session, menu: null }, []];
}

/** What an action asks before it is done, and the word for yes; null for most. @param {WiredApp} app @param {Session} session @param {any} event @returns {{text: string, yes: string} | null} */
export function questionBefore(app, session, event) {
  if (event.do === 'act on picked') return questionBeforeSeveral(app, session, event);
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
  if (!record || (action && pickedOn(entry, action.part).length)) return null;
  return { text: app.say(source).fill(does.confirm, record), yes: button.label };
}

/** What an action asks once before it is done to all that is picked. @param {WiredApp} app @param {Session} session @param {any} event */
function questionBeforeSeveral(app, session, event) {
  const { entry } = targetOf(app, session, event);
  const { part, button } = app.action(entry.screen, event.action) ?? { part: '', button: {} };
  const count = pickedOn(entry, part).length;
  const { several } = button;
  if (!several?.confirm || !count) return null;
  return {
    text: app.words(several.confirm, { count }),
    yes: app.words(several.label || button.label, { count }),
  };
}

/** The type of a field that an action sets. @param {Records} records @param {string} field @param {string} source */
function kindSet(records, field, source) {
  const kind = records.types.get(field);
  if (kind === undefined || field === records.source.key)
    throw new Refused('field not set', `sources[${source}]`, { field });
  return kind;
}

/** Do it to several records at once: for all of them, or for none (14). @param {WiredApp} app @param {Session} session @param {any} does @param {string} source @param {Scalar[]} keys @returns {Taken} */
export function doneToSeveral(app, session, does, source, keys) {
  const records = app.shown(session, source);
  if (!records) throw new Refused('no such record', `sources[${source}]`, { source, key: keys[0] });
  const count = keys.length;
  switch (does?.do) {
    case 'remove': {
      const [after, notes] = changedByHand(app, session, source, { ...NO_CHANGES, gone: keys });
      const title = app.words('{count} records', { count });
      const removal = (does.undo ?? true) ? { source, keys, title } : null;
      const said = note('removed', 'several', { source, count });
      return [{ ...after, removal }, [said, ...notSent(app, source), ...notes]];
    }
    case 'mark':
      return severalMarked(app, session, does, keys);
    case 'set':
    case 'toggle': {
      const { field } = does;
      const kind = kindSet(records, field, source);
      const wanted = wantedOf(does, keys, records);
      const changed = keys.map((key, at) => {
        const to = wanted[at] === null ? null : carriedInto(source, field, kind, wanted[at]);
        return { key, fields: { [field]: to } };
      });
      const [after, notes] = changedByHand(app, session, source, { ...NO_CHANGES, changed });
      const said = note('changed', 'several', { source, count, field });
      return [after, [said, ...notSent(app, source), ...notes]];
    }
    default:
      throw new Refused('not for several');
  }
}

/** What each of several records is to hold: on in all where it is not on in all; of named values each its next. @param {any} does @param {Scalar[]} keys @param {Records} records @returns {any[]} */
function wantedOf(does, keys, records) {
  if (does.do === 'set') return keys.map(() => does.to ?? null);
  const found = keys.map((key) => records.byKey(key));
  if (does.between?.length)
    return found.map((each) => toggled(does, /** @type {any} */ (each ?? { value: () => null })));
  const isOn = (/** @type {Found | null} */ each) => {
    const now = each?.value(does.field) ?? null;
    return !(isEmpty(now) || now === false || now === 0);
  };
  const to = !found.every(isOn);
  return keys.map(() => to);
}

/** Do it to a record, which is as it is on display: of a late source, what has come. @param {WiredApp} app @param {Session} session @param {any} does @param {string} source @param {any} key @param {Found | null} record @returns {Taken} */
function done(app, session, does, source, key, record) {
  const records = app.records(session, source);
  if (!records || !record)
    throw new Refused('no such record', `sources[${source}]`, { source, key });
  switch (does.do) {
    case 'remove': {
      const title = app.say(source).value(records.source.label, record);
      const [after, notes] = changedByHand(app, session, source, { ...NO_CHANGES, gone: [key] });
      const removal = (does.undo ?? true) ? { source, keys: [key], title } : null;
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
      const kind = kindSet(records, field, source);
      const wanted = does.do === 'set' ? (does.to ?? null) : toggled(does, record);
      const to = wanted === null ? null : carriedInto(source, field, kind, wanted);
      const [after, notes] = changedByHand(app, session, source, {
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
  const marks = marksOf(app, session, does);
  const isMarked = marks.includes(key);
  const made = isMarked ? marks.filter((each) => each !== key) : [...marks, key];
  const said = { value: does.value, key, count: made.length };
  return [
    withMarks(app, session, does, made),
    [note('set', isMarked ? 'unmarked' : 'marked', said)],
  ];
}

/** @param {WiredApp} app @param {Session} session @param {any} does @param {Scalar[]} keys @returns {Taken} */
function severalMarked(app, session, does, keys) {
  const marks = marksOf(app, session, does);
  const areMarked = keys.every((each) => marks.includes(each));
  const made = areMarked
    ? marks.filter((each) => !keys.includes(each))
    : [...new Set([...marks, ...keys])];
  const said = { value: does.value, picked: keys.length, count: made.length };
  return [
    withMarks(app, session, does, made),
    [note('set', areMarked ? 'several unmarked' : 'several marked', said)],
  ];
}

/** The keys that an app-wide value holds. @param {WiredApp} app @param {Session} session @param {any} does @returns {any[]} */
function marksOf(app, session, does) {
  if (!app.values.get(does.value)?.type?.startsWith(LIST))
    throw new Refused('no such marks', 'values', { value: does.value });
  const now = held(session.values, does.value);
  return Array.isArray(now) ? now : [];
}

/** @param {WiredApp} app @param {Session} session @param {any} does @param {any[]} made @returns {Session} */
function withMarks(app, session, { value }, made) {
  const marks = carriedTo(value, app.values.get(value).type, made);
  return { ...session, values: { ...session.values, [value]: marks } };
}

/** A press on a row that sets an app-wide value to its key, or marks it (7.8). @param {WiredApp} app @param {Session} session @param {any} does @param {any} key @returns {Taken} */
export function pressedRow(app, session, does, key) {
  if (does.do === 'mark') return marked(app, session, does, key);
  const declared = app.values.get(does.value);
  if (!declared) throw new Refused('no such value', 'values', { value: does.value });
  const to = carriedTo(does.value, declared.type ?? 'text', key);
  const values = { ...session.values, [does.value]: to };
  return [{ ...session, values }, [note('set', '', { value: does.value, to })]];
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

/** Put back what an action removed; it stands where it stood. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function undo(app, session) {
  const { removal } = session;
  if (!removal) throw new Refused('nothing was removed');
  const changes = {
    ...session.changes,
    [removal.source]: withBack(session.changes[removal.source], removal.keys),
  };
  const { source, keys } = removal;
  const said =
    keys.length > 1
      ? note('put back', 'several', { source, count: keys.length })
      : note('put back', '', { source, key: keys[0] });
  return [{ ...session, removal: null, changes }, [said]];
}
