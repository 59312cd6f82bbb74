// What flies between a row and the screen that it opens, and what waits meanwhile (rule 12).

import { displayOf } from './display.js';
import { entriesOf } from './session.js';

/** Ms that an element takes at least to come in. */
const FADES = 120;

/**
 * How one screen came from a row or went back to it; null where a list lies beside it.
 * @param {WiredApp} app @param {Session} before @param {Session} after
 * @returns {{link: any, row: RowRef, at: number, forth: boolean} | null}
 */
export function cameBy(app, before, after) {
  const isSame =
    before.section === after.section &&
    JSON.stringify(before.window) === JSON.stringify(after.window);
  if (!isSame || before.phase !== 'running' || after.phase !== 'running') return null;
  const [was, now] = [entriesOf(before), entriesOf(after)];
  const forth = now.length > was.length;
  const [longer, shorter] = forth ? [now, was] : [was, now];
  const last = longer[longer.length - 1];
  if (longer.length !== shorter.length + 1 || !last?.row) return null;
  if (shorter.some((entry, at) => entry.screen !== longer[at].screen)) return null;
  const { row } = last;
  const at = longer.length - 2;
  const of = longer[at].screen;
  const link = row.action ? app.link(of, 'action', row.action) : app.link(of, 'row', row.part);
  if (!link?.transition || link.to !== last.screen) return null;
  const panes = displayOf(app, forth ? after : before).panes.map((pane) => pane.entry);
  return panes.includes(at) && panes.includes(at + 1) ? null : { link, row, at, forth };
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
