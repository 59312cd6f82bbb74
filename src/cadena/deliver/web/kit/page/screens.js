// One open screen: its bars, and what scrolls between them.

import { isOn } from '../actions.js';
import { barsOf, columnOf, pageShown } from '../column.js';
import { offsetOf, viewOf } from '../lists.js';
import { entriesOf } from '../session.js';
import { isNarrow } from '../sizes.js';
import { countOf, keyBeside, placeOf } from '../neighbours.js';
import { hasBar } from '../query.js';
import { held, same } from '../values.js';
import { h, pictureFile, placed, rem } from './dom.js';
import { addressView, factsView } from './facts.js';
import { fieldView, saveBar, saveButtons, sentView } from './forms.js';
import { rowsView, saying, stripView } from './lists.js';
import { actionsOnPicked, pickingBar, pickingPart } from './picking.js';

/**
 * @param {Run} run
 * @param {Pane} pane
 * @param {{place: string, back: string | null, key: string, opensSections?: boolean, slides?: boolean, isBlocked?: boolean}} how
 * @returns {Made}
 */
export function screenView(
  run,
  pane,
  { place, back, key, opensSections = false, slides = false, isBlocked = false },
) {
  const { app, session } = run;
  const index = pane.entry ?? 0;
  const entry = entriesOf(session)[index];
  const { area } = pane;
  /** @type {Open} */
  const open = {
    ...run,
    entry,
    index,
    area,
    on: { screen: entry.screen, entry: index },
    screen: app.screens.get(entry.screen),
  };
  const title = app.titleOf(session, entry);
  const picking = pickingPart(entry);
  const ground = open.screen?.takesGround ? groundOf(open) : null;
  const isDialog = place === 'modal' || place === 'popover';
  return h(
    'section',
    {
      key,
      class: `pane ${place}${ground ? ` ground-${ground.colour ?? 'warning'}` : ''}`,
      'data-pane': place,
      'data-screen': entry.screen,
      'data-entry': index,
      inert: isBlocked,
      role: isDialog ? 'dialog' : 'region',
      'aria-modal': isDialog ? 'true' : null,
      'aria-label': [title || entry.screen, ground?.word].filter(Boolean).join(', '),
      tabindex: -1,
      style: placed(area),
    },
    picking === undefined
      ? titleBar(open, title, ground, back, opensSections, slides)
      : pickingBar(open, picking, title, back, sides(open, opensSections, slides)),
    barUnder(open),
    neighboursBar(open),
    ownScreen(open) ?? scrollView(open),
    picking === undefined ? barBelow(open) : actionsOnPicked(open, picking),
  );
}

/** What the record of a detail stands out by (7.9). @param {Open} open */
function groundOf({ app, session, entry }) {
  const record = app.recordOf(session, entry);
  return record && app.say(app.sourceOf(entry)).ground(record);
}

/** @param {Open} open @param {string} title @param {any} ground @param {string | null} back @param {boolean} opensSections @param {boolean} slides */
function titleBar(open, title, ground, back, opensSections, slides) {
  const { app } = open;
  const { slide, sections } = sides(open, opensSections, slides);
  return h(
    'header',
    { key: 'title', class: 'title bar' },
    back !== null &&
      h(
        'button',
        {
          key: 'back',
          class: 'back',
          'data-back': back,
          'aria-label': back ? app.words('Back to {title}', { title: back }) : app.words('Back'),
          onclick: () => open.back(),
        },
        isNarrow(open.area.width) ? '' : h('span', {}, back),
      ),
    slide,
    // Never the ground alone.
    h(
      'h1',
      { key: 'name', 'data-title': ground ? title : true },
      ground && `${ground.sign ?? '!'} `,
      title,
    ),
    !isNarrow(open.area.width) && buttonsIn(open, 'bar').map((button) => buttonView(open, button)),
    sections,
  );
}

/** What slides the list in, and what opens the section bar, where they are wanted. @param {Open} open @param {boolean} opensSections @param {boolean} slides */
function sides({ app, send }, opensSections, slides) {
  return {
    slide:
      slides &&
      h('button', {
        key: 'slide',
        class: 'slide',
        'data-slide': true,
        'aria-label': app.words('Show the list'),
        onclick: () => send({ do: 'slide list' }),
      }),
    sections:
      opensSections &&
      h('button', {
        key: 'sections',
        class: 'open-sections',
        'data-open-sections': true,
        'aria-label': app.words('Sections'),
        onclick: () => send({ do: 'open sections' }),
      }),
  };
}

/** The row before, the place of this one among all, and the next (16). @param {Open} open */
function neighboursBar(open) {
  const { app, session, index, on, screen, send } = open;
  if (!screen?.neighbours) return null;
  const place = placeOf(app, session, index);
  const told = place && { at: place.at + 1, all: countOf(place.listed) };
  const to = (/** @type {number} */ by, /** @type {string} */ sign, /** @type {string} */ name) =>
    place &&
    keyBeside(app, place, by) !== null &&
    h(
      'button',
      {
        key: name,
        'data-neighbour': by,
        'aria-label': app.words(name),
        onclick: () => send({ do: 'neighbour', ...on, by }),
      },
      sign,
    );
  return h(
    'div',
    { key: 'neighbours', class: 'neighbours bar' },
    to(-1, '‹', 'the one before'),
    h('p', { role: 'status' }, told ? app.words('{at} of {all}', told) : ''),
    to(1, '›', 'the next'),
  );
}

/** What is drawn in a way of one's own asks these. @param {Open} open @returns {OwnScreen} */
function asking(open) {
  const { app, session, entry, send, back } = open;
  const record = saying(app, app.sourceOf(entry), app.recordOf(session, entry));
  return { h, ...record, arguments: entry.arguments, send, back };
}

/** A whole screen, drawn in a way of one's own between its bars; or null. @param {Open} open */
function ownScreen(open) {
  const draws = held(open.own.screens ?? {}, open.entry.screen);
  if (!draws) return null;
  const [, height] = viewOf(open.app, open.entry, open.area);
  const style = { height: rem(height) };
  return h('div', { key: 'own', class: 'scroll own', style, tabindex: 0 }, draws(asking(open)));
}

/** The buttons of a screen that stand in one place: a list's own in the title bar. @param {Open} open @param {string} place @returns {any[]} */
function buttonsIn({ screen }, place) {
  if (screen?.kind === 'list') return place === 'bar' ? (screen.buttons ?? []) : [];
  const blocks = screen?.kind === 'detail' ? (screen.blocks ?? []) : [];
  return blocks
    .filter((/** @type {any} */ block) => block.block === 'actions' && block.place === place)
    .flatMap((/** @type {any} */ block) => block.buttons);
}

/** @param {Open} open @param {any} button */
export function buttonView(open, button) {
  const { app, session, entry, on, send } = open;
  const isOnNow = isOn(session, button, app.recordOf(session, entry));
  const isLinked =
    (button.does?.do ?? 'open') !== 'open' || app.link(entry.screen, 'button', button.id) !== null;
  const isMark = ['mark', 'toggle'].includes(button.does?.do);
  return h(
    'button',
    {
      key: `button ${button.id}`,
      class: `button ${isOnNow ? 'on' : ''}`,
      'data-button': button.id,
      disabled: !isLinked,
      'aria-pressed': isMark ? String(isOnNow) : null,
      onclick: () => send({ do: 'press', ...on, button: button.id }),
    },
    isOnNow && button.whenOn ? button.whenOn : button.label,
  );
}

/** Under the title: the search field of a list, or the pages of a detail. @param {Open} open */
function barUnder(open) {
  const { app, entry, screen, on, send } = open;
  if (screen?.kind === 'list' && hasBar(screen.rows)) return listBar(open, '', screen.rows);
  const pages = app.pages(entry.screen);
  if (!pages.length) return null;
  const here = pageShown(app, entry.screen, entry.view.page);
  return h(
    'div',
    { key: 'pages', class: 'pages bar', role: 'group', 'aria-label': app.words('Pages') },
    pages.map((page) =>
      h(
        'button',
        {
          key: page.id,
          'aria-pressed': String(page.id === here),
          'data-page': page.id,
          onclick: () => send({ do: 'page', ...on, to: page.id }),
        },
        page.title,
      ),
    ),
  );
}

/** What stands over the rows of a list: its search field, and the order that is taken. @param {Open} open @param {string} part @param {any} listing @param {Record<string, string>} style */
function listBar({ app, entry, on, send }, part, listing, style = {}) {
  const said = app.say(listing.source);
  const fields = (listing.search ?? []).map((/** @type {string} */ each) => said.label(each));
  const hint = app.words('search {fields}', { fields: fields.join(', ') });
  const sort = held(entry.view.sort, part);
  const taken = (listing.orders ?? []).find((/** @type {any} */ each) => same(each.sort, sort));
  const order = taken?.name ?? app.words('Usual');
  return h(
    'div',
    { key: `bar ${part}`, class: 'list bar', style },
    listing.search?.length &&
      h('input', {
        key: 'search',
        type: 'search',
        'data-search': part,
        'aria-label': hint,
        placeholder: hint,
        value: held(entry.view.search, part) ?? '',
        oninput: (/** @type {any} */ event) =>
          send({ do: 'search', ...on, list: part, text: event.target.value }),
      }),
    listing.orders?.length &&
      h(
        'button',
        {
          key: 'order',
          class: 'button plain',
          'data-orders': part,
          'aria-haspopup': 'menu',
          'aria-label': app.words('Order: {name}', { name: order }),
          onclick: () => send({ do: 'menu', ...on, list: part }),
        },
        `${order} ▾`,
      ),
  );
}

/** What is kept at the bottom of a wide screen. @param {Open} open */
function barBelow(open) {
  const { app, entry, area, screen } = open;
  if (!barsOf(app, entry.screen, area.width).bottom) return null;
  if (screen.kind === 'form') return saveBar(open);
  return h(
    'footer',
    { key: 'bottom', class: 'bottom bar' },
    buttonsIn(open, 'bottom').map((button) => buttonView(open, button)),
  );
}

/** What scrolls: only what is in view, and a little more, is there. @param {Open} open */
function scrollView(open) {
  const { app, session, entry, index, area, on, send } = open;
  const [width, height] = viewOf(app, entry, area);
  const column = columnOf(app, session, entry, width);
  const offset = offsetOf(app, session, index, area, column);
  const more = open.isPrinting ? Infinity : height / 2;
  const inView = column.segments
    .map((segment, number) => ({ segment, number }))
    .filter(
      ({ segment }) =>
        segment.top + segment.height > offset - more && segment.top < offset + height + more,
    );
  return h(
    'div',
    {
      key: 'scroll',
      class: 'scroll',
      'data-scroll': true,
      'data-to': offset,
      tabindex: column.total > height ? 0 : -1,
      role: 'group',
      'aria-label': app.words('Content'),
      style: { height: rem(height) },
      onscroll: (/** @type {any} */ event) =>
        scrolledTo(event.target, (to) => send({ do: 'scroll', ...on, to })),
    },
    h(
      'div',
      { class: 'column', style: { height: rem(Math.max(column.total, 0)) } },
      inView.map(({ segment, number }) =>
        h(
          'div',
          {
            key: number,
            class: `segment ${segment.kind.replaceAll(' ', '-')}`,
            'data-segment': number,
            'data-part': segment.part,
            style: placed({
              x: segment.left,
              y: segment.top,
              width: segment.width || width,
              height: segment.height,
            }),
          },
          segmentView(open, segment, offset, height),
        ),
      ),
    ),
  );
}

/** Only what the person scrolls is told, and not what the page has set itself. @param {HTMLElement} element @param {(to: number) => void} tell */
function scrolledTo(element, tell) {
  const unit = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16;
  const to = element.scrollTop / unit;
  if (Math.abs(to - Number(element.dataset.to)) >= 1 / unit) tell(to);
}

/** @param {Open} open @param {Segment} segment @param {number} offset @param {number} height @returns {any} */
function segmentView(open, segment, offset, height) {
  const { on, send } = open;
  const draws = held(open.own.blocks ?? {}, `${open.entry.screen}/${segment.part}`);
  if (draws && segment.part) return draws(asking(open));
  switch (segment.kind) {
    case 'rows':
      return rowsView(open, segment, offset, height);
    case 'strip':
      return stripView(open, segment);
    case 'failed':
      return [
        h('p', {}, segment.lines?.[0]),
        h(
          'button',
          {
            class: 'button plain',
            'data-retry': true,
            onclick: () => send({ do: 'try again', ...on }),
          },
          open.app.words('Try again'),
        ),
      ];
    case 'heading':
    case 'list heading':
      return h('h2', {}, text(segment));
    case 'words':
    case 'footer':
    case 'loading':
    case 'body':
      return h('p', {}, text(segment));
    case 'search':
      return listBar(open, segment.part, segment.block.rows);
    case 'actions':
      return segment.block.buttons.map((/** @type {any} */ button) => buttonView(open, button));
    case 'form field':
      return fieldView(open, segment);
    case 'sent':
      return sentView(open, segment);
    case 'save':
      return saveButtons(open);
    case 'picture':
      return pictureView(open, segment);
    case 'facts':
      return factsView(open, segment.block);
    case 'address':
      return addressView(open, segment.block);
    default:
      return null;
  }
}

/** @param {Segment} segment */
const text = (segment) => (segment.lines ?? []).join(' ');

/** @param {Open} open @param {Segment} segment */
function pictureView({ app, session, entry }, segment) {
  const file = pictureFile(app.recordOf(session, entry)?.value(segment.block.field));
  const name = app.words('picture of {title}', { title: app.titleOf(session, entry) });
  if (!file) return h('p', { class: 'no picture' }, app.words('no picture'));
  return h('img', {
    src: file,
    alt: name,
    class: segment.block.fit === 'whole' ? 'whole' : 'fill',
    'data-element': segment.part,
  });
}
