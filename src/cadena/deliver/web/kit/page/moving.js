// How a screen comes from the row that opens it, and goes back to it (rule 12).

import { cameBy, comesBy, waits } from '../flights.js';

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
  const way = isMove ? cameBy(page.app, before, page.session) : null;
  if (!way) {
    const coming = isMove ? comesBy(page.app, before, page.session) : null;
    if (coming) comes(page, coming, show);
    else show();
    return;
  }
  const { row, link, forth } = way;
  const name = (/** @type {boolean} */ isRow) => nameParts(page, link, row, isRow);
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

/** Give the parts that fly their names, on the row or on the screen. @param {Page} page @param {any} link @param {RowRef} row @param {boolean} isRow */
function nameParts({ root }, link, row, isRow) {
  const key = CSS.escape(JSON.stringify(row.key));
  for (const [at, pair] of (link.transition.pairs ?? []).entries()) {
    const element = isRow
      ? root.querySelector(
          `[data-list="${CSS.escape(row.part)}"] [data-key="${key}"] ${SLOTS[pair.slot]}`,
        )
      : elementOf(root, pair.element);
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
