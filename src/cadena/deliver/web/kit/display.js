// What is on display: the chain projected on the panes of a window (rules 3 and 5.1).

import { areasIn } from './panes.js';
import { LAYERS, baseLength, chainOf, entriesOf, roomOf, sizeOf } from './session.js';
import { POPOVER, SHEET, SHEET_FROM, SLID_MOST } from './sizes.js';
import { held } from './values.js';

const PLAIN = { id: '' };

/** The first and the last entry of each run below any modal (3.1). @param {Entry[]} entries @returns {[number, number][]} */
export function runsOf(entries) {
  const base = baseLength(entries);
  /** @type {[number, number][]} */
  const runs = [];
  for (let index = 0; index < base; index += 1) {
    if (!index || entries[index].opened === 'beside') runs.push([index, index]);
    else runs[runs.length - 1][1] = index;
  }
  return runs;
}

/** The first arrangement that asks for no more than a window has (5.1). @param {WiredApp} app @param {AppWindow} window */
export function arrangementFor(app, window) {
  return (
    app.arrangements.find((/** @type {any} */ each) => matches(each.when ?? {}, window)) ?? PLAIN
  );
}

/** @param {any} when @param {AppWindow} window */
function matches(when, window) {
  const [width, height] = sizeOf(window);
  const holds = (/** @type {any} */ range, /** @type {number} */ size) =>
    size >= (range?.least ?? 0) && (range?.below === undefined || size < range.below);
  return (
    holds(when.width, width) &&
    holds(when.height, height) &&
    (!when.shape || when.shape === (height >= width ? 'portrait' : 'landscape')) &&
    (!when.fold || when.fold === (window.folded ? 'folded' : 'flat'))
  );
}

/** Whether one more pane says that nothing is chosen (3.2). @param {WiredApp} app @param {Entry[]} entries @param {number} panes */
function saysNothingChosen(app, entries, panes) {
  const base = baseLength(entries);
  return runsOf(entries).length < panes && base > 0 && app.opensBeside(entries[base - 1]) !== null;
}

/** Project the chain on the window. @param {WiredApp} app @param {Session} session @returns {Display} */
export function displayOf(app, session) {
  const { entries } = chainOf(session);
  const arrangement = arrangementFor(app, session.window);
  const most = arrangement.panes ?? 1;
  const runs = runsOf(entries);
  /** @type {(number | null)[]} */
  let shown = runs.map(([, last]) => last);
  if (runs.length >= most) {
    const isKept = arrangement.first === 'stays' && most > 1;
    shown = isKept ? [shown[0], ...shown.slice(1 - most)] : shown.slice(-most);
  } else if (saysNothingChosen(app, entries, most)) {
    shown.push(null);
  }
  const divided = held(session.divided, arrangement.id) ?? [];
  const areas = areasIn(arrangement, session.window, shown.length, divided);
  const panes = shown.map((entry, at) => ({ entry, area: areas[at] }));
  const { layer, layerAs } = layerOf(entries, arrangement, session.window);
  let slid = null;
  if (session.slid && canSlide(entries, arrangement)) {
    const width = Math.min(SLID_MOST, areas[0].width * 0.85);
    slid = { entry: runs[runs.length - 2][1], area: { ...areas[0], width } };
  }
  const over = [slid, layer].filter((pane) => pane !== null);
  return {
    arrangement,
    panes,
    slid,
    layer,
    layerAs,
    shown: [...panes.filter((pane) => pane.entry !== null), ...over],
  };
}

/** Where an entry is shown, or null. @param {Display} display @param {number} entry */
export const areaOf = (display, entry) =>
  display.shown.findLast((pane) => pane.entry === entry)?.area ?? null;

/** Whether there is a list that can be slid over the one pane shown (3.3). @param {Entry[]} entries @param {any} arrangement */
export function canSlide(entries, arrangement) {
  return (
    Boolean(arrangement.over) &&
    (arrangement.panes ?? 1) === 1 &&
    baseLength(entries) === entries.length &&
    runsOf(entries).length > 1
  );
}

/** @param {Entry[]} entries @param {any} arrangement @param {AppWindow} window */
function layerOf(entries, arrangement, window) {
  if (baseLength(entries) === entries.length) return { layer: null, layerAs: '' };
  const [width, height] = roomOf(window);
  let kind = entries.findLast((entry) => LAYERS.includes(entry.opened))?.opened ?? 'modal';
  if (kind === 'popover' && sizeOf(window)[0] < (arrangement.popoverFrom ?? 0)) kind = 'modal';
  let area = { x: 0, y: 0, width, height };
  if (kind === 'popover' || width >= SHEET_FROM) {
    const wanted = kind === 'popover' ? POPOVER : SHEET;
    const [wide, high] = [Math.min(wanted[0], width - 32), Math.min(wanted[1], height - 48)];
    area = {
      x: (width - wide) / 2,
      y: (height - high) / 2,
      width: Math.max(0, wide),
      height: Math.max(0, high),
    };
  }
  return { layer: { entry: entries.length - 1, area }, layerAs: kind };
}

/** The entry of the first pane on whose list something is picked, or null: the panes after it say how many are (14). @param {Session} session @param {Display} display */
export function pickingAt(session, { layer, slid, panes }) {
  if (layer || slid) return null;
  const entries = entriesOf(session);
  const picks = (/** @type {Pane} */ { entry }) =>
    entry !== null && Object.keys(entries[entry].view.picked).length > 0;
  return panes.find(picks)?.entry ?? null;
}

/** What on display takes events: what lies over the panes alone, else the panes up to the first on which rows are picked. @param {Session} session @param {Display} display */
export function takingEvents(session, display) {
  const top = display.layer ?? display.slid;
  if (top) return [top];
  const picking = pickingAt(session, display);
  return picking === null
    ? display.shown
    : display.shown.filter((pane) => (pane.entry ?? 0) <= picking);
}

/** The entry that has the focus: the one used last, else the deepest on display. @param {WiredApp} app @param {Session} session */
export function focusOf(app, session) {
  const shown = takingEvents(session, displayOf(app, session));
  if (!shown.length) return null;
  const entries = entriesOf(session);
  const isCovered = baseLength(entries) < entries.length || session.slid;
  if (!isCovered && shown.some((pane) => pane.entry === session.focus)) return session.focus;
  return shown[shown.length - 1].entry;
}
