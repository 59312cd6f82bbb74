// What is on display: the chain projected on the panes of a window (rules 3 and 5.1).

import { POPOVER, RAIL, SECTION_BAR, SHEET, SHEET_FROM, SLID_MOST, WIDE_RAIL } from './sizes.js';
import { LAYERS, baseLength, chainOf, entriesOf, roomOf, sizeOf } from './session.js';

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
  const areas = areasIn(arrangement, session.window, shown.length);
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

/** What the section bar leaves of a window. @param {any} arrangement @param {AppWindow} window @returns {Area} */
export function bodyArea(arrangement, window) {
  const [width, height] = roomOf(window);
  const high = Math.max(0, height - SECTION_BAR);
  switch (arrangement.bar ?? 'bottom') {
    case 'bottom':
      return { x: 0, y: 0, width, height: high };
    case 'top':
      return { x: 0, y: SECTION_BAR, width, height: high };
    case 'rail':
      return { x: RAIL, y: 0, width: Math.max(0, width - RAIL), height };
    case 'wide rail':
      return { x: WIDE_RAIL, y: 0, width: Math.max(0, width - WIDE_RAIL), height };
    default:
      return { x: 0, y: 0, width, height };
  }
}

/** The areas of so many panes of an arrangement. @param {any} arrangement @param {AppWindow} window @param {number} shown @returns {Area[]} */
function areasIn(arrangement, window, shown) {
  const body = bodyArea(arrangement, window);
  const widths = Array.from({ length: shown }, (_, at) => arrangement.widths?.[at] ?? {});
  if (shown > 0 && shown < (arrangement.panes ?? 1)) widths[shown - 1] = {};
  const fold = foldOf(window);
  let solved;
  if (shown === 2 && fold !== null && body.x < fold && fold < body.x + body.width) {
    solved = [fold - body.x, body.x + body.width - fold];
  } else {
    solved = solveWidths(body.width * window.text, widths).map((width) => width / window.text);
  }
  let x = body.x;
  return solved.map((width) => {
    const area = { x, y: body.y, width, height: body.height };
    x += width;
    return area;
  });
}

/** How far from where reading begins an open window folds upright, or null (5.6). @param {AppWindow} window */
function foldOf(window) {
  if (window.fold === null || window.foldAcross || window.folded) return null;
  return (window.rtl ? window.width - window.fold : window.fold) / window.text;
}

/**
 * Share a width out among panes. What is asked for is given, within least and most; the rest goes
 * to the panes with nothing said, then to those with a share, and at last to the last one. Where
 * it is short, all give way down to their least; where even that is too much, the least are cut.
 * @param {number} total
 * @param {any[]} widths
 * @returns {number[]}
 */
export function solveWidths(total, widths) {
  if (!widths.length) return [];
  const sum = (/** @type {number[]} */ some) => some.reduce((all, each) => all + each, 0);
  const least = widths.map((each) => each.least ?? 0);
  const most = widths.map((each, at) => Math.max(each.fixed ?? each.most ?? Infinity, least[at]));
  if (sum(least) >= total)
    return least.map((each) => (total > 0 ? each * (total / sum(least)) : 0));
  let solved = widths.map((each, at) =>
    Math.min(Math.max(each.fixed ?? (each.share ?? 0) * total, least[at]), most[at]),
  );
  const over = sum(solved) - total;
  if (over > 0) {
    const slack = sum(solved) - sum(least);
    solved = solved.map((each, at) => each - (each - least[at]) * (over / slack));
  }
  const isFree = (/** @type {any} */ each) => each.fixed === undefined && each.share === undefined;
  const isShared = (/** @type {any} */ each) => each.share !== undefined;
  for (const takes of [isFree, isShared]) {
    let open = widths.flatMap((each, at) => (takes(each) && solved[at] < most[at] ? [at] : []));
    let room = total - sum(solved);
    while (room > 1e-9 && open.length) {
      const given = open.map((at) => Math.min(most[at] - solved[at], room / open.length));
      open.forEach((at, number) => {
        solved[at] += given[number];
      });
      room -= sum(given);
      open = open.filter((at) => solved[at] < most[at] - 1e-9);
    }
  }
  solved[solved.length - 1] += total - sum(solved);
  return solved;
}
