// How a screen comes from the row that opens it, and goes back to it (rule 12).

import { displayOf } from '../display.js';
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
  const moves = /** @type {any} */ (document).startViewTransition && !page.isDriven && !matchMedia('(prefers-reduced-motion: reduce)').matches;
  const way = moves && event.do !== 'scroll' ? wayOf(page, before) : null;
  if (!way) {
    show();
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
  if (forth) transition.ready.then(() => fadeIn(page, link), () => {});
  document.documentElement.style.setProperty('--duration', `${link.transition.duration ?? 300}ms`);
  transition.finished.finally(() => clearNames(page));
}

/** The link that was followed, or gone back along, with its row, where one pane has shown each; or null. @param {Page} page @param {Session} before */
function wayOf({ app, session }, before) {
  if (before.section !== session.section || displayOf(app, session).panes.length > 1) return null;
  const [was, now] = [entriesOf(before), entriesOf(session)];
  if (Math.abs(was.length - now.length) !== 1) return null;
  const longer = was.length > now.length ? was : now;
  const { row } = longer[longer.length - 1];
  const owner = longer[longer.length - 2];
  const link = row && (row.action ? app.link(owner.screen, 'action', row.action) : app.link(owner.screen, 'row', row.part));
  return link?.transition && row ? { link, row, forth: now.length > was.length } : null;
}

const FADES = 200;
const SLOTS = /** @type {Record<string, string>} */ ({ picture: 'img', title: '.row-title', subtitle: '.row-subtitle', badge: '.badge' });

/** Give the parts that fly their names, on the row or on the screen. @param {Page} page @param {any} link @param {RowRef} row @param {boolean} isRow */
function nameParts({ root }, link, row, isRow) {
  const key = CSS.escape(JSON.stringify(row.key));
  for (const [at, pair] of (link.transition.pairs ?? []).entries()) {
    const element = isRow
      ? root.querySelector(`[data-list="${CSS.escape(row.part)}"] [data-key="${key}"] ${SLOTS[pair.slot]}`)
      : root.querySelector(pair.element === 'title' ? '[data-title]' : `[data-part="${CSS.escape(pair.element)}"]`);
    if (element) /** @type {HTMLElement} */ (element).style.setProperty('view-transition-name', `pair-${at}`);
  }
}

/** The elements that come in later, each after so many ms. @param {Page} page @param {any} link */
function fadeIn({ root }, link) {
  for (const [part, delay] of Object.entries(link.transition.fades ?? {})) {
    const element = root.querySelector(`[data-part="${CSS.escape(part)}"]`);
    element?.animate([{ opacity: 0 }, { opacity: 1 }], { duration: FADES, delay: Number(delay), fill: 'backwards' });
  }
}

/** @param {Page} page */
function clearNames({ root }) {
  for (const each of root.querySelectorAll('[style*="view-transition-name"]')) /** @type {HTMLElement} */ (each).style.removeProperty('view-transition-name');
}
