// What a session shows in a window: panes, what lies over them, and the section bar (rule 3).

import { backLabel } from '../back.js';
import { columnOf, barsOf } from '../column.js';
import { canSlide, displayOf, pickingAt } from '../display.js';
import { bodyArea } from '../panes.js';
import { isOn } from '../actions.js';
import { offsetOf } from '../lists.js';
import { entriesOf, roomOf } from '../session.js';
import { RAIL, SECTION_BAR, WIDE_RAIL, isNarrow } from '../sizes.js';
import { saidNow } from '../passing.js';
import { askingWrite } from '../unsent.js';
import { held, same } from '../values.js';
import { dividerViews } from './dividers.js';
import { h, placed } from './dom.js';
import { pickedInWords, pickingPart } from './picking.js';
import { screenView } from './screens.js';

/** Everything that is on display. @param {Run} run @returns {Made[]} */
export function frameView(run) {
  const { app, session } = run;
  if (session.phase === 'killed' || session.phase === 'left') return [endedView(run)];
  const display = displayOf(app, session);
  const back = entriesOf(session).length ? backLabel(app, session) : null;
  const top = display.shown[display.shown.length - 1];
  const over = display.layer ?? display.slid;
  const isBlocked = Boolean(over || session.question || session.menu || session.sectionsOpen);
  const picking = pickingAt(session, display);
  const panes = display.panes.map((pane, at) => {
    if (picking !== null && (pane.entry === null || pane.entry > picking))
      return pickedBeside(run, pane, at, picking);
    if (pane.entry === null) return nothingChosen(run, pane, at);
    const opensSections = at === 0 && display.arrangement.bar === 'button' && inBar(app).length > 0;
    const slides = at === 0 && !display.slid && canSlide(entriesOf(session), display.arrangement);
    return screenView(run, pane, {
      place: 'pane',
      back: pane === top ? back : null,
      opensSections,
      slides,
      key: `pane ${at}`,
    });
  });
  const none = panes.length
    ? []
    : [
        h(
          'p',
          { class: 'words', style: placed(bodyArea(display.arrangement, session.window)) },
          app.words('This section has no screen that can open.'),
        ),
      ];
  return [
    h(
      'div',
      { key: 'base', class: 'base', inert: isBlocked },
      h(
        'main',
        { key: 'panes', class: display.arrangement.lie === 'down' ? 'down' : null },
        panes,
        none,
        dividerViews(run, display),
      ),
      sectionBar(run, display.arrangement),
    ),
    ...(display.slid
      ? overView(run, display.slid, 'slid', display.slid === top ? back : null)
      : []),
    ...(display.layer
      ? overView(run, display.layer, display.layerAs, display.layer === top ? back : null)
      : []),
    ...(session.sectionsOpen ? openSections(run) : []),
    removedView(run, display),
    ...(session.menu ? menuView(run, display) : []),
    ...(session.question ? questionView(run) : []),
  ].filter((each) => each !== null);
}

/** @param {WiredApp} app */
const inBar = (app) => [...app.sections.values()].filter((section) => section.inBar ?? true);

/** @param {Run} run */
function endedView({ app, session, send }) {
  const isLeft = session.phase === 'left';
  return h(
    'main',
    { key: 'ended', class: 'ended' },
    h('p', {}, app.words(isLeft ? 'The app was left.' : 'The app was ended.')),
    isLeft &&
      h(
        'button',
        { class: 'button', 'data-wake': true, onclick: () => send({ do: 'wake' }) },
        app.words('Come back'),
      ),
  );
}

/** @param {Run} run @param {Pane} pane @param {number} at */
function nothingChosen({ app, session }, pane, at) {
  const entries = entriesOf(session);
  const base = entries.findLast((entry) => app.screens.get(entry.screen)?.kind === 'list');
  const own = base && app.screens.get(base.screen).nothingChosenWords;
  return wordsAlone(pane, at, own ?? app.words('Nothing chosen'));
}

/** A pane that only says something. @param {Pane} pane @param {number} at @param {string} words */
function wordsAlone(pane, at, words) {
  return h(
    'section',
    {
      key: `pane ${at}`,
      class: 'pane nothing',
      'data-pane': 'pane',
      'aria-label': words,
      style: placed(pane.area),
    },
    h('p', {}, words),
  );
}

/** A pane after a list on which rows are picked says how many (14). @param {Run} run @param {Pane} pane @param {number} at @param {number} picking */
function pickedBeside(run, pane, at, picking) {
  const entry = entriesOf(run.session)[picking];
  return wordsAlone(pane, at, pickedInWords(run, entry, pickingPart(entry)));
}

/** @param {Run} run @param {any} arrangement */
function sectionBar(run, arrangement) {
  const bar = arrangement.bar ?? 'bottom';
  const sections = inBar(run.app);
  if (bar === 'none' || bar === 'button' || !sections.length) return null;
  const [width, height] = roomOf(run.session.window);
  const isRail = bar === 'rail' || bar === 'wide rail';
  const place = isRail
    ? { x: 0, y: 0, width: bar === 'rail' ? RAIL : WIDE_RAIL, height }
    : { x: 0, y: bar === 'top' ? 0 : height - SECTION_BAR, width, height: SECTION_BAR };
  return h(
    'nav',
    {
      key: 'sections',
      class: `sections ${isRail ? 'rail' : 'bar'}`,
      'aria-label': run.app.words('Sections'),
      style: placed(place),
    },
    sections.map((each) => sectionButton(run, each)),
  );
}

/** @param {Run} run @param {any} section */
function sectionButton({ app, session, send }, section) {
  const isCurrent = section.id === session.section;
  const outline = section.icon && held(app.app.icons ?? {}, section.icon);
  return h(
    'button',
    {
      key: section.id,
      'data-section': section.id,
      'aria-current': isCurrent ? 'page' : null,
      onclick: () => send({ do: 'section', section: section.id }),
    },
    outline &&
      h(
        'svg',
        { key: 'icon', viewBox: '0 0 1000 1000', 'aria-hidden': 'true' },
        h('path', { d: outline }),
      ),
    h('span', {}, section.title),
  );
}

/** @param {Run} run */
function openSections(run) {
  return [
    scrim(run, 'menu', 'press outside'),
    h(
      'nav',
      {
        key: 'open sections',
        class: 'menu',
        'aria-label': run.app.words('Sections'),
        style: placed({ x: 8, y: 8 }),
      },
      inBar(run.app).map((section) => sectionButton(run, section)),
    ),
  ];
}

/** What lies under a layer cannot be pressed (2.5). @param {Run} run @param {string} kind @param {string | null} does */
function scrim({ send }, kind, does) {
  return h('div', {
    key: `scrim ${kind}`,
    class: `scrim ${kind}`,
    'data-outside': does !== null,
    onclick: does === null ? null : () => send({ do: does }),
  });
}

/** @param {Run} run @param {Pane} pane @param {string} place @param {string | null} back */
function overView(run, pane, place, back) {
  const { question, menu } = run.session;
  const closes = place === 'popover' || place === 'slid' ? 'press outside' : null;
  return [
    scrim(run, place, closes),
    screenView(run, pane, {
      place,
      back,
      key: `over ${place}`,
      isBlocked: Boolean(question || menu),
    }),
  ];
}

/** What is said for a moment, or was removed: to undo, or put away (8). @param {Run} run @param {Display} display */
function removedView({ app, session, send }, display) {
  const area = bodyArea(display.arrangement, session.window);
  const width = Math.min(area.width - 24, 420);
  const style = placed({
    x: area.x + (area.width - width) / 2,
    y: area.y + area.height - 60,
    width,
  });
  const { removal } = session;
  const said = saidNow(app, session);
  const isSaid = said !== null;
  const isOther = session.passing || removal || !session.writes.length;
  const unsent = isOther ? null : askingWrite(session, display);
  return h(
    'div',
    {
      key: 'removed',
      role: 'status',
      'data-passing': true,
      class: isSaid ? 'removed' : 'said',
      style: isSaid ? style : null,
    },
    isSaid && h('span', {}, said),
    removal &&
      h('button', { 'data-undo': true, onclick: () => send({ do: 'undo' }) }, app.words('Undo')),
    ...unsentButtons(app, unsent, send),
    isSaid &&
      h(
        'button',
        {
          class: 'away',
          'data-put-away': true,
          'aria-label': app.words('Put away'),
          onclick: () => send({ do: 'put away' }),
        },
        '×',
      ),
  );
}

/** What can be done about what was not sent (9.1). @param {WiredApp} app @param {Write | null} write @param {Send} send */
function unsentButtons(app, write, send) {
  if (!write) return [];
  const ways = [
    ['give up', 'Give up'],
    ...(write.form ? [['go back to', 'Back to it']] : []),
    ...(!write.form && write.state === 'unsent' ? [['send again', 'Send again']] : []),
  ];
  return ways.map(([does, word]) =>
    h(
      'button',
      {
        key: does,
        'data-unsent': does,
        onclick: () => send({ do: does, write: write.number }),
      },
      app.words(word),
    ),
  );
}

/** The actions of one row, or the orders of a list. @param {Run} run @param {Display} display */
function menuView(run, display) {
  const { app, session } = run;
  const menu = /** @type {NonNullable<Session['menu']>} */ (session.menu);
  const entry = entriesOf(session)[menu.entry];
  const pane = display.shown.findLast((each) => each.entry === menu.entry);
  const listing = entry && app.listing(entry.screen, menu.part);
  if (!pane || !listing) return [];
  const items =
    menu.key === null
      ? orderItems(run, entry, menu, listing)
      : actionItems(run, entry, menu, listing, pane.area);
  const width = Math.min(240, pane.area.width - 16);
  const [, height] = roomOf(session.window);
  const below = menu.key === null ? pane.area.y + 100 : rowBottom(app, session, menu, pane.area);
  const y = Math.min(Math.max(8, below), Math.max(8, height - 48 * items.length - 8));
  return [
    scrim(run, 'menu', 'close menu'),
    h(
      'section',
      {
        key: 'menu',
        class: 'menu',
        'aria-label': app.words('Menu'),
        style: placed({ x: pane.area.x + pane.area.width - width - 8, y, width }),
      },
      h(
        'div',
        { role: 'menu', 'aria-label': app.words(menu.key === null ? 'Order' : 'More') },
        items,
      ),
    ),
  ];
}

/** @param {Run} run @param {any} entry @param {any} menu @param {any} listing */
function orderItems({ app, send }, entry, menu, listing) {
  const taken = entry.view.sort[menu.part] ?? [];
  return [{ name: 'Usual', sort: [] }, ...listing.orders].map((order) =>
    h(
      'button',
      {
        key: order.name,
        role: 'menuitemradio',
        'aria-checked': same(order.sort, taken),
        'data-order': JSON.stringify(order.sort),
        onclick: () =>
          send({
            do: 'sort',
            screen: entry.screen,
            entry: menu.entry,
            list: menu.part,
            by: order.sort,
          }),
      },
      app.words(order.name),
    ),
  );
}

/** @param {Run} run @param {any} entry @param {any} menu @param {any} listing @param {Area} area */
function actionItems({ app, session, send }, entry, menu, listing, area) {
  const record = app.shown(session, listing.source)?.byKey(menu.key) ?? null;
  const actions = listing.actions.filter(
    (/** @type {any} */ each) =>
      isNarrow(area.width) || (listing.layout ?? 'rows') !== 'rows' || !each.onRow,
  );
  return actions.map((/** @type {any} */ button) =>
    h(
      'button',
      {
        key: button.id,
        role: 'menuitem',
        class: button.does?.do === 'remove' ? 'bad' : '',
        'data-action': button.id,
        'data-key': JSON.stringify(menu.key),
        onclick: () =>
          send({
            do: 'act',
            screen: entry.screen,
            entry: menu.entry,
            key: menu.key,
            action: button.id,
          }),
      },
      isOn(session, button, record) && button.whenOn ? button.whenOn : button.label,
    ),
  );
}

/** How far down the window a row ends. @param {WiredApp} app @param {Session} session @param {any} menu @param {Area} area */
function rowBottom(app, session, menu, area) {
  const entry = entriesOf(session)[menu.entry];
  const column = columnOf(app, session, entry, area.width);
  const extent = column.extentOf(menu.part, menu.key);
  const offset = offsetOf(app, session, menu.entry, area, column);
  return (
    area.y + barsOf(app, entry.screen, area.width).top + (extent ? extent[1] : 0) - offset - 12
  );
}

/** What is asked, over everything, until it is answered. @param {Run} run */
function questionView(run) {
  const { question } = run.session;
  const answer = (/** @type {boolean} */ yes, /** @type {string} */ label) =>
    h(
      'button',
      {
        key: label,
        class: yes ? 'button bad' : 'button plain',
        'data-answer': yes ? 'yes' : 'no',
        onclick: () => run.send({ do: 'answer', yes }),
      },
      label,
    );
  return [
    scrim(run, 'question', null),
    h(
      'div',
      {
        key: 'question',
        class: 'question',
        role: 'alertdialog',
        'aria-modal': 'true',
        'aria-labelledby': 'asked',
        'data-question': true,
      },
      h('p', { id: 'asked' }, question.text),
      h('div', {}, answer(false, question.no), answer(true, question.yes)),
    ),
  ];
}
