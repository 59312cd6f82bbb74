// The one way in: step(app, session, event). Pure, and always the same.

import { act, closeMenu, openMenu, press, questionBefore, undo } from './actions.js';
import { visit } from './addresses.js';
import {
  goTo,
  kill,
  relaunch,
  restore,
  setValue,
  sleep,
  started,
  unopened,
  wake,
} from './app-lifecycle.js';
import { goBack } from './back.js';
import { keepsDraft } from './asking.js';
import { openField } from './bringing.js';
import { settle } from './by-rule.js';
import {
  choose,
  enter,
  move,
  openFact,
  openSections,
  pressOutside,
  slideList,
} from './choosing.js';
import { arrangementFor, canSlide } from './display.js';
import { divide } from './dividing.js';
import { draftLost } from './form-values.js';
import { goForward, withoutAhead } from './forward.js';
import { cancel, save, typeIn } from './forms.js';
import { calledAgain } from './calling-again.js';
import { answered, call, retry, wait } from './late.js';
import { offDisplay, store, withoutDrafts } from './lifetimes.js';
import { scroll, search, showGroup, sort, turnPage } from './lists.js';
import { neighbour } from './neighbours.js';
import { Refused, note, unlessRefused } from './notes.js';
import { putAway } from './passing.js';
import { actOnPicked, letGo, pick, pickAll, pickTo } from './picking.js';
import { edit } from './editing.js';
import { refresh, remove } from './records-changed.js';
import { baseLength, entriesOf, sameScreen, touched, withEntry } from './session.js';
import { targetOf } from './targets.js';
import { resized } from './window-change.js';
import { giveUp, goBackTo, sendAgain, sendWaiting, settleConflict, written } from './writing.js';

/** @type {Record<string, (app: WiredApp, session: Session, event: any) => Taken>} */
const TAKES = {
  choose,
  press,
  open: openFact,
  'open field': openField,
  scroll,
  search,
  sort,
  act,
  pick,
  'pick to': pickTo,
  'pick all': pickAll,
  'let go': letGo,
  'act on picked': actOnPicked,
  menu: openMenu,
  'close menu': closeMenu,
  group: showGroup,
  page: turnPage,
  type: typeIn,
  neighbour,
  save,
  cancel,
  'try again': retry,
  undo,
  'put away': putAway,
  wait,
  answered,
  move,
  enter,
  back: goBack,
  forward: goForward,
  'press outside': pressOutside,
  'slide list': slideList,
  written,
  'send again': sendAgain,
  'give up': giveUp,
  'go back to': goBackTo,
  settle: settleConflict,
  divide,
  'open sections': openSections,
  section: goTo,
  visit,
  resize: resized,
  turn: resized,
  fold: resized,
  unfold: resized,
  text: resized,
  'read from': resized,
  refresh,
  remove,
  change: edit,
  set: setValue,
  sleep,
  wake,
  kill,
  restore,
  relaunch,
};
const ON_SCREEN = new Set([
  'choose',
  'press',
  'open',
  'open field',
  'scroll',
  'search',
  'sort',
  'act',
  'pick',
  'pick to',
  'pick all',
  'let go',
  'act on picked',
  'menu',
  'group',
  'page',
  'type',
  'neighbour',
  'save',
  'cancel',
  'settle',
  'try again',
  'move',
  'enter',
]);
const WITHOUT_SCREENS = new Set([
  'kill',
  'relaunch',
  'resize',
  'turn',
  'fold',
  'unfold',
  'text',
  'read from',
  'refresh',
  'remove',
  'change',
  'wait',
  'answered',
  'written',
]);
const ASKS_FIRST = new Set([
  'back',
  'cancel',
  'choose',
  'neighbour',
  'press',
  'open',
  'open field',
  'press outside',
  'act',
  'act on picked',
  'save',
  'move',
  'enter',
  'section',
  'go back to',
  'visit',
]);
const KEEPS_REMOVAL = new Set([
  'wait',
  'answered',
  'written',
  'scroll',
  'group',
  'close menu',
  'move',
  'resize',
  'turn',
  'divide',
]);
/** @type {Record<string, Set<string>>} */
const WAYS_BACK = {
  asleep: new Set(['wake']),
  left: new Set(['wake', 'sleep']),
  killed: new Set(['restore']),
};

/** Start an app in a window; the notes name each section that cannot open its root. @param {WiredApp} app @param {AppWindow} window @returns {Taken} */
export function start(app, window) {
  const [session, notes] = settle(app, started(app, window));
  const [after, called] = call(app, session);
  return [after, [...unopened(app), ...notes, ...called]];
}

/** A session as another window shows it: projected, and with what rules open there; nothing is lost. @param {WiredApp} app @param {Session} session @param {any} event @returns {Step} */
export function step(app, session, event) {
  const taken = unlessRefused(
    () => {
      demandPhase(session, event);
      const isAnswer = session.question && !WITHOUT_SCREENS.has(event.do);
      return isAnswer ? answeredQuestion(app, session, event) : takenOr(app, session, event);
    },
    (refused) => refused,
  );
  if (taken instanceof Refused) return { session, notes: [taken.note], refused: true };
  let [after, notes] = taken;
  if (after.phase === 'killed') return { session: after, notes, refused: false };
  const [settled, byRule] = settle(app, after);
  after = withoutAhead(app, session, settled);
  if (after.slid && !canSlide(entriesOf(after), arrangementFor(app, after.window)))
    after = { ...after, slid: false };
  const stored = store(app, offDisplay(app, after));
  const [waited, sent] = stored.writes.length ? sendWaiting(app, stored) : [stored, []];
  const [called, calls] = call(app, waited);
  return { session: called, notes: [...notes, ...byRule, ...sent, ...calls], refused: false };
}

/** Take an event, unless something must be asked first (4.2 and 10). @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
function takenOr(app, session, event) {
  const isAsking = ASKS_FIRST.has(event.do);
  const before = isAsking ? questionBefore(app, session, event) : null;
  if (before) return questioned(session, { ...before, no: app.words('Cancel'), event });
  const target = targetIndex(app, session, event);
  let [after, notes] = TAKES[event.do](app, session, event);
  const saved = event.do === 'save' ? target : null;
  const asker = target === null ? null : keepsDraft(app, session, target);
  const lost = isAsking ? draftLost(session, after, saved, asker) : null;
  if (lost) {
    const title = app.titleOf(session, lost);
    const text = app.words('What was typed in "{title}" is not saved.', { title });
    const [yes, no] = [app.words('Discard'), app.words('Keep')];
    return questioned(session, { text, yes, no, event });
  }
  if (event.do === 'save') after = withoutDrafts(session, after);
  if (event.do === 'refresh') after = calledAgain(app, after, event.source);
  return [usedAt(session, tidied(session, after, event), target), notes];
}

/** @param {Session} session @param {{text: string, yes: string, no: string, event: any}} question @returns {Taken} */
function questioned(session, question) {
  const { event } = question;
  const entries = entriesOf(session);
  if (ON_SCREEN.has(event.do) && baseLength(entries) < entries.length) {
    // Over the panes only the last entry takes events, wherever it may have moved meanwhile.
    question = { ...question, event: { ...event, entry: null } };
  }
  return [{ ...session, question, menu: null }, [note('asked', '', { question: question.text })]];
}

/** The entry that an event is for, or null for what is not about one screen. @param {WiredApp} app @param {Session} session @param {any} event */
const targetIndex = (app, session, event) =>
  ON_SCREEN.has(event.do) ? targetOf(app, session, event).index : null;

/** The screen that was used counts as touched (5.3), and has the focus until its section is left. @param {Session} before @param {Session} after @param {number | null} target @returns {Session} */
function usedAt(before, after, target) {
  if (target === null)
    return { ...after, focus: after.section === before.section ? after.focus : -1 };
  const now = entriesOf(after)[target];
  if (
    after.section === before.section &&
    now?.by === 'rule' &&
    sameScreen(now, entriesOf(before)[target])
  ) {
    after = withEntry(after, target, touched(now));
  }
  return { ...after, focus: target };
}

/** A menu closes, and what was removed stays so, once something else is done. @param {Session} before @param {Session} after @param {any} event @returns {Session} */
function tidied(before, after, event) {
  const byItself = ['wait', 'answered', 'written'].includes(event.do);
  const { passing } = after;
  const isOver =
    passing &&
    (after.clock >= passing.until || (passing === before.passing && !KEEPS_REMOVAL.has(event.do)));
  return {
    ...after,
    passing: isOver ? null : passing,
    menu: after.menu === before.menu && !byItself ? null : after.menu,
    sectionsOpen:
      after.sectionsOpen && before.sectionsOpen && !byItself ? false : after.sectionsOpen,
    removal:
      after.removal === before.removal && !KEEPS_REMOVAL.has(event.do) ? null : after.removal,
  };
}

/** @param {WiredApp} app @param {Session} asking @param {any} answer @returns {Taken} */
function answeredQuestion(app, asking, answer) {
  if (answer.do !== 'answer') throw new Refused('question is asked');
  const { event } = asking.question;
  const session = { ...asking, question: null };
  if (!answer.yes) return [session, [note('kept')]];
  const target = targetIndex(app, session, event);
  const [after, notes] = TAKES[event.do](app, session, event);
  return [usedAt(session, tidied(session, withoutDrafts(session, after), event), target), notes];
}

/** @param {Session} session @param {any} event */
function demandPhase({ phase, question }, event) {
  if (event.do === 'answer' && !question) throw new Refused('no question is asked');
  if (phase === 'running') {
    if (event.do === 'wake' || event.do === 'restore') throw new Refused('app is running');
    return;
  }
  const mayBe = WAYS_BACK[phase].has(event.do) || WITHOUT_SCREENS.has(event.do);
  if (!mayBe || (phase === 'killed' && event.do === 'kill')) throw new Refused(`app is ${phase}`);
}
