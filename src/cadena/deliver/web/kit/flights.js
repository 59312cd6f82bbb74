// What flies between a row and the screen that it opens, and what waits meanwhile (rule 12).

import { displayOf } from './display.js';
import { entriesOf } from './session.js';

/** Ms that an element takes at least to come in. */
const FADES = 120;
const BY_NO_ROW = ['button', 'fact', 'field', 'saved'];

/**
 * How one screen came from a row or (without one) from a fact, or went back to it; null where what
 * it came from lies beside it. Where several facts lead from one screen to another, the first counts.
 * @param {WiredApp} app @param {Session} before @param {Session} after
 * @returns {{link: any, row: RowRef | null, at: number, forth: boolean} | null}
 */
export function cameBy(app, before, after) {
  const more = oneMore(app, before, after);
  const last = more?.longer[more.longer.length - 1];
  if (!more || !last) return null;
  const { row, screen: to } = last;
  const at = more.longer.length - 2;
  const of = more.longer[at].screen;
  const link = row
    ? linkTo(app, of, row, to)
    : (app.app.links ?? []).find(
        (/** @type {any} */ each) =>
          each.trigger.screen === of && each.trigger.on === 'fact' && each.to === to,
      );
  if (!link?.transition) return null;
  return { link, row, at, forth: more.forth };
}

/**
 * How one screen came in a way of its own, or went back so: by whatever opened it. Where several
 * links lead from one screen to another by no row, the first of them counts.
 * @param {WiredApp} app @param {Session} before @param {Session} after
 * @returns {{link: any, at: number, forth: boolean} | null}
 */
export function comesBy(app, before, after) {
  const more = oneMore(app, before, after);
  if (!more) return null;
  const [{ screen: of }, { screen, row }] = more.longer.slice(-2);
  const links = app.app.links ?? [];
  const found = row
    ? [linkTo(app, of, row, screen)]
    : links.filter(
        (/** @type {any} */ { trigger }) => trigger.screen === of && BY_NO_ROW.includes(trigger.on),
      );
  const link = found.find((/** @type {any} */ each) => each?.to === screen);
  if (!link || link.transition || (link.comes ?? 'at once') === 'at once') return null;
  return { link, at: more.longer.length - 1, forth: more.forth };
}

/** The link to a screen that was followed from a row, by a press on it or by an action of it. @param {WiredApp} app @param {string} of @param {RowRef} row @param {string} to */
const linkTo = (app, of, row, to) =>
  app
    .linksAt(of, row.action ? 'action' : 'row', row.action || row.part)
    .find((link) => link.to === to);

/** Which of two sessions has one screen more than the other; null where that lies beside what it came from. @param {WiredApp} app @param {Session} before @param {Session} after @returns {{longer: Entry[], forth: boolean} | null} */
function oneMore(app, before, after) {
  const isSame =
    before.section === after.section &&
    JSON.stringify(before.window) === JSON.stringify(after.window);
  if (!isSame || before.phase !== 'running' || after.phase !== 'running') return null;
  const [was, now] = [entriesOf(before), entriesOf(after)];
  const forth = now.length > was.length;
  const [longer, shorter] = forth ? [now, was] : [was, now];
  const at = longer.length - 2;
  if (at < 0 || shorter.length !== at + 1) return null;
  if (shorter.some((entry, index) => entry.screen !== longer[index].screen)) return null;
  const panes = displayOf(app, forth ? after : before).panes.map((pane) => pane.entry);
  return panes.includes(at) && panes.includes(at + 1) ? null : { longer, forth };
}

/**
 * When each element that waits begins to come in, and is there, in ms from the start.
 * @param {any} transition @returns {Record<string, [number, number]>}
 */
export function waits({ duration = 300, fades = {} }) {
  return Object.fromEntries(
    Object.entries(fades).map(([name, delay]) => {
      const at = Math.min(Number(delay), duration);
      return [name, [at, Math.max(duration, at + FADES)]];
    }),
  );
}
