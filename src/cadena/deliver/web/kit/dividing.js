// Dividers that people drag, and how long it is kept where they were left (rule 3.2).

import { displayOf } from './display.js';
import { Refused, note } from './notes.js';
import { dividedAt, dividersIn } from './panes.js';
import { held } from './values.js';

const MOST_PANES = 8;

/** Where the dividers of an arrangement were left. @param {Session} session @param {any} arrangement @returns {Divided} */
export const dividedOf = (session, arrangement) => held(session.divided, arrangement.id) ?? [];

/** The dividers on display that a person can move: what lies over the panes lies over them. @param {Session} session @param {Display} display */
export function dividersOf(session, { layer, slid, arrangement, panes }) {
  if (layer || slid) return [];
  return dividersIn(arrangement, session.window, panes.length, dividedOf(session, arrangement));
}

/** Move a divider, within what its panes can be. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function divide(app, session, event) {
  const display = displayOf(app, session);
  const { arrangement, panes } = display;
  const divider = dividersOf(session, display).find((each) => each.pane === event.pane);
  const where = `arrangements[${arrangement.id}]`;
  if (!divider || !Number.isFinite(event.to)) {
    const isFixed = (arrangement.dividers ?? 'fixed') === 'fixed';
    const data = { pane: event.pane, to: event.to };
    throw new Refused(isFixed ? 'divider is fixed' : 'no such divider', where, data);
  }
  const to = Math.min(Math.max(event.to, divider.least), divider.most);
  const was = dividedOf(session, arrangement);
  const now = dividedAt(arrangement, session.window, panes.length, was, event.pane, to);
  const divided = { ...session.divided, [arrangement.id]: now };
  const said = { pane: event.pane, to: Math.round(to * 100) / 100 };
  return [{ ...session, divided }, [note('divided', '', said, where)]];
}

/** With only those dividers as they were left whose arrangement keeps that. @param {WiredApp} app @param {Session} session @param {(arrangement: any) => boolean} keeps @returns {Session} */
export function dividedWhile(app, session, keeps) {
  const kept = app.arrangements.filter(
    (/** @type {any} */ each) => held(session.divided, each.id) && keeps(each),
  );
  const divided = Object.fromEntries(
    kept.map((/** @type {any} */ each) => [each.id, session.divided[each.id]]),
  );
  return { ...session, divided };
}

/** Where dividers were left that there still are, as far as it is kept, trusting nothing. @param {WiredApp} app @param {any} divided @param {Set<string>} survives @returns {Record<string, Divided>} */
export function fittingDivided(app, divided, survives) {
  const kept = app.arrangements.filter(
    (/** @type {any} */ each) =>
      (each.dividers ?? 'fixed') !== 'fixed' &&
      survives.has(each.keep ?? 'stored') &&
      isSound(held(divided, each.id)),
  );
  return Object.fromEntries(kept.map((/** @type {any} */ each) => [each.id, divided[each.id]]));
}

/** @param {any} sizes */
const isSound = (sizes) =>
  Array.isArray(sizes) &&
  sizes.length <= MOST_PANES &&
  sizes.every((each) => each === null || (typeof each === 'number' && each >= 0 && each < 1e6));
