// Another window: resized, turned or folded; larger text, another side to read from (rule 5).

import { arrangementFor } from './display.js';
import { dividedWhile } from './dividing.js';
import { rebuild } from './lifetimes.js';
import { Refused, note } from './notes.js';
import { sharesGiven } from './panes.js';
import { sizeOf, sized } from './session.js';

const LARGEST = 20000;
/** How small and how large text can be: 9 to 48 px where 16 is usual. */
export const LEAST_TEXT = 0.5625;
export const MOST_TEXT = 3;

const rounded = (/** @type {number} */ value) => Math.round(value * 1e4) / 1e4;

/** The chain stays; its projection and perhaps its screens are made anew. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function resized(app, session, event) {
  const old = session.window;
  const window = windowAfter(old, event);
  if (JSON.stringify(window) === JSON.stringify(old)) return [session, []];
  const [was, now] = [arrangementFor(app, old), arrangementFor(app, window)];
  const isReading = event.do === 'text' || event.do === 'read from';
  const notes = [
    isReading
      ? note('window', 'read', { text: window.text, side: window.rtl ? 'right' : 'left' })
      : note('window', 'resized', { old: sizeOf(old), new: sizeOf(window) }),
  ];
  session = { ...session, window };
  if (was !== now) notes.push(note('arranged', '', { old: was.id, new: now.id }));
  const shares = (now.panes ?? 1) > 1 ? sharesGiven(now, window) : [];
  if (shares.length) {
    const [asked, came] = [0, 1].map((which) => shares.map((pair) => rounded(pair[which])));
    notes.push(note('shares', '', { asked, came }, `arrangements[${now.id}]`));
  }
  const rebuilds = app.platform.rebuilds ?? ['turn', 'breakpoint'];
  const isRebuilt =
    (event.do === 'turn' && rebuilds.includes('turn')) ||
    (was !== now && rebuilds.includes('breakpoint'));
  if (isRebuilt) {
    session = rebuild(app, session);
    notes.push(note('rebuilt'));
  }
  const stays = (/** @type {any} */ each) => each.keep !== 'view' || (each === now && !isRebuilt);
  return [dividedWhile(app, session, stays), notes];
}

/** @param {AppWindow} window @param {any} event @returns {AppWindow} */
function windowAfter(window, event) {
  switch (event.do) {
    case 'resize': {
      const fault = faultOf(event);
      if (fault) throw new Refused('window cannot be', '', { fault });
      return {
        ...sized(event.width, event.height, event.fold ?? null),
        text: window.text,
        rtl: window.rtl,
      };
    }
    case 'turn':
      return {
        ...window,
        width: window.height,
        height: window.width,
        foldAcross: window.fold !== null && !window.foldAcross,
      };
    case 'text':
      if (!(event.size >= LEAST_TEXT && event.size <= MOST_TEXT))
        throw new Refused('text size', '', { size: event.size });
      return { ...window, text: event.size };
    case 'read from':
      return { ...window, rtl: event.side === 'right' };
    default:
      if (window.fold === null) throw new Refused('no fold');
      return { ...window, folded: event.do === 'fold' };
  }
}

/** Why a window cannot be, or null. @param {any} window */
function faultOf({ width, height, fold = null }) {
  if (![width, height].every((size) => size >= 1 && size <= LARGEST)) {
    return `a window is 1 to ${LARGEST} dp each way, not ${width} × ${height}`;
  }
  if (fold !== null && !(fold > 0 && fold < width))
    return `a window ${width} dp wide cannot fold at ${fold}`;
  return null;
}
