// Choosing rows, opening facts, and what is over the panes.

import { pressedRow } from './actions.js';
import { choosingFor } from './asking.js';
import { bring } from './bringing.js';
import { arrangementFor, areaOf, canSlide, displayOf } from './display.js';
import { leaveFor } from './leaving.js';
import { goalOf, mark, shownRow, standing } from './lists.js';
import { Refused, note } from './notes.js';
import { linkFor, linkOf, openLink } from './opening.js';
import { pickedOn } from './picked.js';
import { pickOrLetGo } from './picking.js';
import {
  baseLength,
  cut,
  entriesOf,
  hasMenu,
  rowRef,
  withEntries,
  withView,
  withoutMenu,
} from './session.js';
import { targetOf } from './targets.js';
import { held, same, without } from './values.js';

/** @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export const choose = (app, session, event) =>
  chooseRow(app, session, event, event.list ?? '', event.key);

/** A row is chosen: its link is followed, and it is in view. @param {WiredApp} app @param {Session} session @param {any} event @param {string} part @param {any} key @returns {Taken} */
function chooseRow(app, session, event, part, key) {
  const { index, area, entry } = targetOf(app, session, event);
  const listed = app.listed(session, entry, part);
  if (!listed || listed.rows.indexOf(key) === null) {
    throw new Refused('row not listed', `screens[${entry.screen}]`, { key });
  }
  if (app.isChoosing(entry.screen, part)) return chooseInStrip(session, index, part, key);
  if (pickedOn(entry, part).length) return pickOrLetGo(app, session, index, part, key);
  const asking = choosingFor(app, entriesOf(session), index, part);
  if (asking) return bring(app, session, index, asking, listed.listing.source, key);
  if (picksByPress(app, entry.screen, part)) return pickOrLetGo(app, session, index, part, key);
  const does = pressOf(listed.listing);
  if (does.do === 'take marker') return mark(app, session, index, area, part, key);
  if (does.do === 'leave for') {
    const record = listed.rows.at(/** @type {number} */ (listed.rows.indexOf(key)));
    return leaveFor(mark(app, session, index, area, part, key)[0], record, does.field);
  }
  if (does.do !== 'open') {
    const [after, notes] = pressedRow(app, session, does, key);
    return [mark(app, after, index, area, part, key)[0], notes];
  }
  const isSlid = displayOf(app, session).slid?.entry === index;
  const [opened, notes] = openRow(app, session, index, area, part, key);
  return [isSlid ? { ...opened, slid: false } : opened, notes];
}

/** What a press on a row does (7.8). @param {any} listing */
const pressOf = (listing) => listing.press ?? { do: 'open' };

/** Whether a press on a row picks it, also where nothing is picked: it opens nothing (14). @param {WiredApp} app @param {string} screen @param {string} part */
const picksByPress = (app, screen, part) =>
  app.isSeveral(screen, part) &&
  app.link(screen, 'row', part) === null &&
  pressOf(app.listing(screen, part)).do === 'open';

/** Whether a press on a row of a list does anything. @param {WiredApp} app @param {Session} session @param {number} index @param {string} part */
export function takesPress(app, session, index, part) {
  const { screen } = entriesOf(session)[index];
  return (
    app.link(screen, 'row', part) !== null ||
    app.isChoosing(screen, part) ||
    app.isSeveral(screen, part) ||
    pressOf(app.listing(screen, part)).do !== 'open' ||
    choosingFor(app, entriesOf(session), index, part) !== null
  );
}

/** Whether a press on a row of a list follows its link (7.8, 15). @param {WiredApp} app @param {Session} session @param {number} index @param {string} part */
export const opensByPress = (app, session, index, part) =>
  pressOf(app.listing(entriesOf(session)[index].screen, part)).do === 'open' &&
  choosingFor(app, entriesOf(session), index, part) === null;

/** Follow the link of a row of an open screen, whose list then shows it. @param {WiredApp} app @param {Session} session @param {number} index @param {Area | null} area where it lies, if it is on display @param {string} part @param {any} key @returns {Taken} */
export function openRow(app, session, index, area, part, key) {
  const entry = entriesOf(session)[index];
  const link = linkOf(app, entry.screen, 'row', part);
  let [opened, notes] = openLink(app, session, index, link, rowRef(part, key));
  if (entriesOf(opened)[index]?.screen === entry.screen) {
    if (held(entry.view.marker, part) !== undefined) {
      opened = withView(opened, index, { marker: without(entry.view.marker, part) });
    }
    const now = areaOf(displayOf(app, opened), index);
    if (area && now && same(now, area)) {
      opened = shownRow(app, opened, index, area, part, key);
    }
  }
  return [opened, notes];
}

/** A strip's choice filters the list below; once more, and it does not (7.5). @param {Session} session @param {number} index @param {string} part @param {any} key @returns {Taken} */
function chooseInStrip(session, index, part, key) {
  const before = entriesOf(session)[index].view.choice;
  const isChosen = held(before, part) === key;
  const choice = isChosen ? without(before, part) : { ...without(before, part), [part]: key };
  return [
    withView(session, index, { choice, scroll: null }),
    [note('filtered', isChosen ? 'all' : '', { part, key })],
  ];
}

/** A fact that is a reference opens the record that it holds the key of (13); for an address outside the app is left (7.10). @param {WiredApp} app @param {Session} session @param {any} event */
export function openFact(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  if (app.leaving(entry.screen).includes(event.fact))
    return leaveFor(session, app.recordOf(session, entry), event.fact);
  return openLink(app, session, index, linkOf(app, entry.screen, 'fact', event.fact), null);
}

/** A key moves along a list: to the neighbour where the detail is beside, else the marker (7.4). @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function move(app, session, event) {
  const { index, area, entry } = targetOf(app, session, event);
  const part = event.list ?? '';
  const { goal, here } = goalOf(app, session, index, area, event);
  const base = app.link(entry.screen, 'row', part);
  const link = base && linkFor(app, session, index, base, rowRef(part, goal));
  const isBeside =
    link?.how === 'beside' &&
    (arrangementFor(app, session.window).panes ?? 1) > 1 &&
    index < baseLength(entriesOf(session)) &&
    !pickedOn(entry, part).length &&
    opensByPress(app, session, index, part);
  if (isBeside && goal !== here) return chooseRow(app, session, event, part, goal);
  return mark(app, session, index, area, part, goal);
}

/** @param {WiredApp} app @param {Session} session @param {any} event */
export function enter(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const key = standing(app, session, index, event.list ?? '');
  if (key === null) throw new Refused('no marked row', `screens[${entry.screen}]`);
  return chooseRow(app, session, event, event.list ?? '', key);
}

/** A press beside a popover, or beside a list slid over the detail (2.5, 3.3). @param {WiredApp} app @param {Session} session @returns {Taken} */
export function pressOutside(app, session) {
  const display = displayOf(app, session);
  if (hasMenu(session)) return [withoutMenu(session), [note('closed', 'menu')]];
  if (display.slid) return [{ ...session, slid: false }, [note('closed', 'slid list')]];
  if (!display.layer || display.layerAs !== 'popover') throw new Refused('no popover');
  const entries = entriesOf(session);
  const popover = entries.findLastIndex((entry) => entry.opened === 'popover');
  return [
    withEntries(session, cut(entries, popover)),
    [note('closed', 'by a press outside', { screen: entries[popover].screen })],
  ];
}

/** @param {WiredApp} app @param {Session} session @returns {Taken} */
export function slideList(app, session) {
  if (!canSlide(entriesOf(session), arrangementFor(app, session.window)))
    throw new Refused('no list to slide');
  return [{ ...session, slid: true }, []];
}

/** The section bar is opened, where the arrangement has it behind a button. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function openSections(app, session) {
  if (arrangementFor(app, session.window).bar !== 'button')
    throw new Refused('section bar is shown');
  demandUncovered(app, session);
  return [{ ...session, sectionsOpen: true }, []];
}

/** The section bar takes nothing while a modal or popover covers it (2.5). @param {WiredApp} app @param {Session} session */
export function demandUncovered(app, session) {
  const entries = entriesOf(session);
  if (baseLength(entries) === entries.length) return;
  throw new Refused('sections are covered', 'sections', {
    title: app.titleOf(session, entries[entries.length - 1]),
  });
}
