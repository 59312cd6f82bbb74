// How the room of a window is shared out among panes, and its dividers (rules 3.2 and 5.6).

import { RAIL, SECTION_BAR, WIDE_RAIL } from './sizes.js';
import { roomOf } from './session.js';

/** How much of a pane a person's divider leaves, where nothing more is asked for, in dp. */
const LEAST_DIVIDED = { across: 96, down: 240 };
/** Shares, and sizes in dp, that differ by less than this are the same. */
const EXACT = 1e-6;

const isDown = (/** @type {any} */ arrangement) => arrangement.lie === 'down';
const sum = (/** @type {number[]} */ some) => some.reduce((all, each) => all + each, 0);
const isFree = (/** @type {any} */ each) => each.fixed === undefined && each.share === undefined;

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

/** The areas of so many panes of an arrangement, where a person has left its dividers. @param {any} arrangement @param {AppWindow} window @param {number} shown @param {Divided} divided @returns {Area[]} */
export function areasIn(arrangement, window, shown, divided) {
  const body = bodyArea(arrangement, window);
  const down = isDown(arrangement);
  let at = down ? body.y : body.x;
  return sizesIn(arrangement, window, shown, divided).map((each) => {
    const size = each / window.text;
    const area = down ? { ...body, y: at, height: size } : { ...body, x: at, width: size };
    at += size;
    return area;
  });
}

/** The dividers that a person can move, between so many panes of an arrangement. @param {any} arrangement @param {AppWindow} window @param {number} shown @param {Divided} divided @returns {Divider[]} */
export function dividersIn(arrangement, window, shown, divided) {
  const isFixed = (arrangement.dividers ?? 'fixed') === 'fixed';
  if (isFixed || shown < 2 || onFold(arrangement, window, shown)) return [];
  const asked = askedFor(arrangement, shown);
  const sizes = sizesIn(arrangement, window, shown, divided);
  const wired = sizesIn(arrangement, window, shown, []);
  const low = LEAST_DIVIDED[isDown(arrangement) ? 'down' : 'across'];
  const least = asked.map((each, at) =>
    Math.max(each.least ?? 0, Math.min(low, sizes[at], wired[at])),
  );
  const most = asked.map((each, at) => Math.max(least[at], each.most ?? Infinity));
  const areas = areasIn(arrangement, window, shown, divided);
  return sizes.slice(0, -1).flatMap((size, pane) => {
    const both = size + sizes[pane + 1];
    const low = Math.max(least[pane], both - most[pane + 1]);
    const high = Math.min(most[pane], both - least[pane + 1]);
    const line = { ...areas[pane + 1], ...(isDown(arrangement) ? { height: 0 } : { width: 0 }) };
    return high - low > EXACT ? [{ pane, area: line, size, least: low, most: high }] : [];
  });
}

/** The shares that the panes ask for, and those that came; nothing where all came as asked for. @param {any} arrangement @param {AppWindow} window @returns {[number, number][]} */
export function sharesGiven(arrangement, window) {
  const panes = arrangement.panes ?? 1;
  const sizes = sizesIn(arrangement, window, panes, []);
  const room = sum(sizes);
  /** @type {[number, number][]} */
  const pairs = askedFor(arrangement, panes).flatMap((each, at) =>
    each.share === undefined ? [] : [[each.share, room ? sizes[at] / room : 0]],
  );
  return pairs.some(([asked, came]) => Math.abs(asked - came) > EXACT) ? pairs : [];
}

/**
 * Where dividers are once the one after a pane is moved so that the pane has a size, in dp. Every
 * pane keeps the size it then has, but for one that takes the room that is left.
 * @param {any} arrangement
 * @param {AppWindow} window
 * @param {number} shown
 * @param {Divided} divided
 * @param {number} pane
 * @param {number} to
 * @returns {Divided}
 */
export function dividedAt(arrangement, window, shown, divided, pane, to) {
  const sizes = sizesIn(arrangement, window, shown, divided);
  [sizes[pane], sizes[pane + 1]] = [to, sizes[pane] + sizes[pane + 1] - to];
  const rest = restOf(askedFor(arrangement, shown));
  return [...sizes.map((each, at) => (at === rest ? null : each)), ...divided.slice(shown)];
}

/** What is asked for each pane shown; the last of fewer than there are takes what is left. @param {any} arrangement @param {number} shown @returns {any[]} */
function askedFor(arrangement, shown) {
  const asked = Array.from({ length: shown }, (_, at) => arrangement.widths?.[at] ?? {});
  if (shown > 0 && shown < (arrangement.panes ?? 1)) asked[shown - 1] = {};
  return asked;
}

/** How wide (or high) the panes shown are, in dp. @param {any} arrangement @param {AppWindow} window @param {number} shown @param {Divided} divided @returns {number[]} */
function sizesIn(arrangement, window, shown, divided) {
  const body = bodyArea(arrangement, window);
  const [start, room] = isDown(arrangement) ? [body.y, body.height] : [body.x, body.width];
  if (onFold(arrangement, window, shown)) {
    const fold = /** @type {number} */ (foldOf(arrangement, window));
    return [(fold - start) * window.text, (start + room - fold) * window.text];
  }
  const asked = askedFor(arrangement, shown);
  if (!divided.slice(0, shown).some((each) => each !== null))
    return solveWidths(room * window.text, asked);
  const rest = restOf(asked);
  const kept = asked.map((each, at) => {
    const size = divided[at] ?? null;
    if (at === rest) return { ...each, share: undefined, fixed: undefined };
    if (size === null) return each;
    const fixed = Math.max(each.least ?? 0, Math.min(size, each.most ?? Infinity));
    return { ...each, share: undefined, fixed };
  });
  return solveWidths(room * window.text, kept);
}

/** Which pane takes what is left once dividers were moved: the last with nothing said, else the last. @param {any[]} asked */
function restOf(asked) {
  const free = asked.findLastIndex(isFree);
  return free < 0 ? asked.length - 1 : free;
}

/** Whether the edge between two panes lies on the fold of the window (5.6). @param {any} arrangement @param {AppWindow} window @param {number} shown */
function onFold(arrangement, window, shown) {
  const fold = foldOf(arrangement, window);
  if (shown !== 2 || fold === null) return false;
  const { x, y, width, height } = bodyArea(arrangement, window);
  return isDown(arrangement) ? y < fold && fold < y + height : x < fold && fold < x + width;
}

/** How far along its panes an open window folds, or null. @param {any} arrangement @param {AppWindow} window */
function foldOf(arrangement, window) {
  const down = isDown(arrangement);
  if (window.fold === null || window.folded || window.foldAcross !== down) return null;
  return (window.rtl && !down ? window.width - window.fold : window.fold) / window.text;
}

/**
 * Share a width out among panes. What is asked for is given, within least and most; the rest goes
 * to the panes with nothing said, then to those with a share, the last of them first, and at last
 * to the last one. Where it is short, all give way down to their least; where even that is too
 * much, the least are cut.
 * @param {number} total
 * @param {any[]} widths
 * @returns {number[]}
 */
export function solveWidths(total, widths) {
  if (!widths.length) return [];
  const least = widths.map((each) => each.least ?? 0);
  const most = widths.map((each, at) => Math.max(each.fixed ?? each.most ?? Infinity, least[at]));
  if (sum(least) >= total)
    return least.map((each) => (total > 0 ? each * (total / sum(least)) : 0));
  let solved = widths.map((each, at) =>
    Math.min(Math.max(each.fixed ?? (each.share ?? 0) * total, least[at]), most[at]),
  );
  const over = sum(solved) - total;
  if (over > 0) {
    const slack = solved.map((each, at) => each - least[at]);
    const part = over / sum(slack);
    solved = solved.map((each, at) => each - slack[at] * part);
  }
  const those = (/** @type {(each: any) => boolean} */ takes) =>
    widths.flatMap((each, at) => (takes(each) ? [at] : []));
  const shared = those((each) => each.share !== undefined).reverse();
  for (const takes of [those(isFree), ...shared.map((at) => [at])]) {
    let open = takes.filter((at) => solved[at] < most[at]);
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
