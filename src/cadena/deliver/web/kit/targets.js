// Which open screen an event is for.

import { displayOf, pickingAt } from './display.js';
import { Refused } from './notes.js';
import { entriesOf } from './session.js';

/**
 * The entry on display that an event is for, and its area: the deepest that can take it. It is
 * refused where a modal, a popover or a list slid over it covers it (2.5, 3.3).
 * @param {WiredApp} app
 * @param {Session} session
 * @param {any} event
 */
export function targetOf(app, session, event) {
  const entries = entriesOf(session);
  const display = displayOf(app, session);
  const top = display.layer ?? display.slid;
  const picking = pickingAt(session, display);
  for (const pane of [...display.shown].reverse()) {
    const index = pane.entry ?? 0;
    if ((event.entry ?? index) !== index) continue;
    const entry = entries[index];
    if ((event.screen && entry.screen !== event.screen) || !canTake(app, entry, event)) continue;
    if (picking !== null && index > picking)
      throw new Refused('rows are picked', `screens[${entry.screen}]`);
    if (top && pane !== top) {
      const over = app.titleOf(session, entries[top.entry ?? 0]);
      throw new Refused('covered', `screens[${entry.screen}]`, { title: over });
    }
    return { index, area: pane.area, entry };
  }
  throw new Refused(event.screen ? 'screen not on display' : 'nothing can take this', '', {
    screen: event.screen ?? '',
  });
}

/** @param {WiredApp} app @param {Entry} entry @param {any} event */
function canTake(app, entry, event) {
  const { screen } = entry;
  switch (event.do) {
    case 'press':
      return app.button(screen, event.button) !== null;
    case 'open':
      return [...app.facts(screen), ...app.leaving(screen)].includes(event.fact);
    case 'open field':
      return app.fieldsOpening(screen).includes(event.field);
    case 'pick':
    case 'pick to':
    case 'pick all':
    case 'let go':
      return app.isSeveral(screen, event.list ?? '');
    case 'act on picked':
    case 'act':
      return app.action(screen, event.action) !== null;
    case 'neighbour':
      return Boolean(app.screens.get(screen)?.neighbours);
    case 'type':
    case 'save':
    case 'cancel':
    case 'settle':
      return app.screens.get(screen)?.kind === 'form';
    case 'page':
      return app.pages(screen).some((page) => page.id === event.to);
    case 'try again':
      return Object.values(entry.loads).some((load) => load.state === 'failed');
    case 'scroll':
      return !event.list || app.listing(screen, event.list) !== null;
    default:
      return app.listing(screen, event.list ?? '') !== null;
  }
}
