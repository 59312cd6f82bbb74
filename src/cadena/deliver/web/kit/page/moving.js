// How a screen comes from the row that opens it, and goes back to it (rule 12).

import { cameBy, comesBy, waits } from '../flights.js';
import { entriesOf } from '../session.js';

/**
 * Show what is so now, moving there where the link says how and the person wants motion; beside a
 * list nothing flies.
 * @param {Page} page
 * @param {Session} before
 * @param {Record<string, any>} event
 * @param {() => void} show
 */
export function moving(page, before, event, show) {
  const moves =
    /** @type {any} */ (document).startViewTransition &&
    !page.isDriven &&
    !matchMedia('(prefers-reduced-motion: reduce)').matches;
  const isMove = moves && event.do !== 'scroll';
  if (isMove && isOtherwiseOrdered(before, page.session)) {
    glide(page, show);
    return;
  }
  const way = isMove ? cameBy(page.app, before, page.session) : null;
  if (!way) {
    const coming = isMove ? comesBy(page.app, before, page.session) : null;
    if (coming) comes(page, coming, show);
    else show();
    return;
  }
  const { link, forth } = way;
  const name = (/** @type {boolean} */ isHere) => nameParts(page, way, isHere);
  name(forth);
  const transition = /** @type {any} */ (document).startViewTransition(() => {
    clearNames(page);
    show();
    name(!forth);
  });
  if (forth)
    transition.ready.then(
      () => fadeIn(page, link),
      () => {},
    );
  document.documentElement.style.setProperty('--duration', `${link.transition.duration ?? 300}ms`);
  transition.finished.finally(() => clearNames(page));
}

/** Whether records, or the order of a list, are others: rows may have another place. @param {Session} before @param {Session} after */
const isOtherwiseOrdered = (before, after) =>
  before.changes !== after.changes ||
  (entriesOf(before).length === entriesOf(after).length &&
    entriesOf(after).some((entry, at) => entry.view.sort !== entriesOf(before)[at].view.sort));

/** Ms that a row takes to its other place. */
const GLIDES = 250;

/** Where each row that is drawn lies, by screen, list and key. @param {Page} page */
function rowPlaces({ root }) {
  /** @type {Map<string, {row: Element, x: number, y: number}>} */
  const places = new Map();
  for (const row of root.querySelectorAll('[data-list] [data-key].row')) {
    const pane = row.closest('[data-pane]');
    const list = row.closest('[data-list]');
    if (!(row instanceof HTMLElement && pane instanceof HTMLElement && list instanceof HTMLElement))
      continue;
    const { left: x, top: y } = row.getBoundingClientRect();
    const of = [pane.dataset.screen, pane.dataset.entry, list.dataset.list, row.dataset.key];
    places.set(of.join('\n'), { row, x, y });
  }
  return places;
}

/** Rows that have another place now go there from where they were (12). @param {Page} page @param {() => void} show */
function glide(page, show) {
  const before = rowPlaces(page);
  show();
  const moved = [...rowPlaces(page)].flatMap(([of, { row, x, y }]) => {
    const was = before.get(of);
    return was && (was.x !== x || was.y !== y) ? [{ row, by: [was.x - x, was.y - y] }] : [];
  });
  for (const { row, by } of moved) {
    const from = `translate(${by[0]}px, ${by[1]}px)`;
    row.animate([{ transform: from }, { transform: 'none' }], {
      duration: GLIDES,
      easing: 'ease-out',
    });
  }
}

/** Ms that a screen takes to come in a way of its own. */
const COMES_IN = 250;

/** A screen comes in a way of its own, or goes back so. @param {Page} page @param {{link: any, at: number, forth: boolean}} way @param {() => void} show */
function comes(page, { link, at, forth }, show) {
  const html = document.documentElement;
  const name = () => {
    const pane = page.root.querySelector(`[data-pane][data-entry="${at}"]`);
    if (pane instanceof HTMLElement) pane.style.setProperty('view-transition-name', 'coming');
  };
  html.dataset.comes = link.comes;
  html.style.setProperty('--duration', `${COMES_IN}ms`);
  if (!forth) name();
  const transition = /** @type {any} */ (document).startViewTransition(() => {
    clearNames(page);
    show();
    if (forth) name();
  });
  transition.finished.finally(() => {
    clearNames(page);
    delete html.dataset.comes;
  });
}

const SLOTS = /** @type {Record<string, string>} */ ({
  picture: 'img',
  title: '.row-title',
  subtitle: '.row-subtitle',
  badge: '.badge',
});

/** Give the parts that fly their names, on the row or fact, or on the screen. @param {Page} page @param {{link: any, row: RowRef | null, at: number}} way @param {boolean} isHere */
function nameParts({ root }, { link, row, at: index }, isHere) {
  for (const [at, pair] of (link.transition.pairs ?? []).entries()) {
    const from = row
      ? `[data-list="${CSS.escape(row.part)}"] [data-key="${CSS.escape(JSON.stringify(row.key))}"] ${SLOTS[pair.slot]}`
      : `[data-entry="${index}"] [data-fact="${CSS.escape(link.trigger.part)}"]`;
    const element = isHere ? root.querySelector(from) : elementOf(root, pair.element);
    if (element)
      /** @type {HTMLElement} */ (element).style.setProperty('view-transition-name', `pair-${at}`);
  }
}

/** An element of the screen on top: a block, or its title. @param {ParentNode} root @param {string} name */
const elementOf = (root, name) =>
  [
    ...root.querySelectorAll(
      name === 'title' ? '[data-title]' : `[data-part="${CSS.escape(name)}"]`,
    ),
  ].at(-1);

/** The elements that come in later, each after so many ms. @param {Page} page @param {any} link */
function fadeIn({ root }, link) {
  for (const [part, [begin, end]] of Object.entries(waits(link.transition))) {
    elementOf(root, part)?.animate([{ opacity: 0 }, { opacity: 1 }], {
      duration: end - begin,
      delay: begin,
      fill: 'backwards',
    });
  }
}

/** @param {Page} page */
function clearNames({ root }) {
  for (const each of root.querySelectorAll('[style*="view-transition-name"]')) {
    /** @type {HTMLElement} */ (each).style.removeProperty('view-transition-name');
  }
}
