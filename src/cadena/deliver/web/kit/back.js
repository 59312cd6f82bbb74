// Going back (rule 4).

import { opensByRule, settle } from './by-rule.js';
import { arrangementFor, canSlide, displayOf, focusOf, runsOf } from './display.js';
import { withAhead } from './forward.js';
import { note } from './notes.js';
import { allLetGo, pickedOnDisplay } from './picked.js';
import {
  LAYERS,
  cut,
  cutBack,
  entriesOf,
  hasMenu,
  sameScreen,
  withEntries,
  withoutMenu,
} from './session.js';

/** What back would do now: the first rule of section 4 that applies, and the entries that stay. @param {WiredApp} app @param {Session} session */
function planBack(app, session) {
  const entries = entriesOf(session);
  if (hasMenu(session)) return { rule: 0, does: 'close menu', length: entries.length };
  if (pickedOnDisplay(app, session).length)
    return { rule: 14, does: 'let go', length: entries.length };
  const arrangement = arrangementFor(app, session.window);
  const panes = arrangement.panes ?? 1;
  if (session.slid && canSlide(entries, arrangement))
    return { rule: 1, does: 'slide away', length: entries.length };
  if (entries.some((entry) => LAYERS.includes(entry.opened)))
    return { rule: 2, does: 'remove', length: entries.length - 1 };
  const runs = runsOf(entries);
  const last = runs[runs.length - 1];
  if (last && last[0] < last[1]) return { rule: 3, does: 'remove', length: entries.length - 1 };
  if (runs.length > panes) return { rule: 4, does: 'remove', length: entries.length - 1 };
  if (runs.length >= 2 && runs.length <= panes && arrangement.back === 'close') {
    const without = withEntries(session, cut(entries, last[0]));
    if (!opensByRule(app, without, arrangement))
      return { rule: 5, does: 'remove', length: last[0] };
  }
  const { start } = app.app;
  const toStart = app.platform.backToStart && session.section !== start && app.sections.has(start);
  return { rule: 6, does: toStart ? 'go to start' : 'leave', length: entries.length };
}

/** The title of what back newly shows; null where back leaves (3.5). @param {WiredApp} app @param {Session} asked @returns {string | null} */
export function backLabel(app, asked) {
  const session = allLetGo(withoutMenu(asked), pickedOnDisplay(app, asked));
  const was = entriesOf(session);
  if (!was.length || planBack(app, session).does === 'leave') return null;
  const [after] = settle(app, goBack(app, session)[0]);
  const now = entriesOf(after);
  const focus = focusOf(app, after);
  const before = new Set(displayOf(app, session).shown.map((pane) => pane.entry));
  const shown = displayOf(app, after).shown.map((pane) => pane.entry ?? 0);
  const fresh =
    after.section !== session.section
      ? shown
      : shown.filter((at) => !before.has(at) || at >= was.length || !sameScreen(was[at], now[at]));
  const at =
    !fresh.length || (focus !== null && fresh.includes(focus)) ? focus : fresh[fresh.length - 1];
  return at === null ? null : app.titleOf(after, now[at]);
}

/** Take one step back. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function goBack(app, session) {
  const plan = planBack(app, session);
  switch (plan.does) {
    case 'close menu':
      return [withoutMenu(session), [note('closed', 'menu')]];
    case 'let go':
      return [allLetGo(session, pickedOnDisplay(app, session)), [note('let go')]];
    case 'slide away':
      return [{ ...session, slid: false }, [note('back', 'slid list')]];
    case 'go to start': {
      const { start } = app.app;
      const after = { ...session, section: start, focus: -1 };
      return [
        withAhead(app, session, after, entriesOf(session).length),
        [note('back', 'to start', { section: start })],
      ];
    }
    case 'leave':
      return [{ ...session, phase: 'left' }, [note('left')]];
    default: {
      const removed = entriesOf(session)[entriesOf(session).length - 1];
      return [
        withAhead(app, session, cutBack(session, plan.length), plan.length),
        [note('back', '', { screen: removed.screen, rule: `4.${plan.rule}` })],
      ];
    }
  }
}
