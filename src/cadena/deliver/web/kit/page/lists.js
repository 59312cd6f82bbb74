// The rows of a list that are in view: one under another, in a grid, or across.

import { isOn } from '../actions.js';
import { acrossOf, standing } from '../lists.js';
import { OTHERS, hasClosingGroups } from '../query.js';
import { rowChosen } from '../asking.js';
import { opensByPress, takesPress } from '../choosing.js';
import { pickedOn } from '../picked.js';
import { rowRef } from '../session.js';
import { EDGE, GROUP, PICK, TILE_GAP, isNarrow } from '../sizes.js';
import { columnsShown } from '../table-columns.js';
import { fieldsIn } from '../say.js';
import { held, shown } from '../values.js';
import { h, pictureFile, placed, rem } from './dom.js';
import { pressed } from './links.js';
import { held as heldDown, pickBox, picks, picksByKey } from './picking.js';
import { cellsOf, headsView } from './table.js';

const KEYS = {
  ArrowUp: 'up',
  ArrowDown: 'down',
  Home: 'home',
  End: 'end',
  PageUp: 'page up',
  PageDown: 'page down',
};

/** Whether rows are tiles. @param {string} layout */
const isTiled = (layout) => layout === 'grid' || layout === 'strip';

/** What of a list is chosen, marked, and was opened last. @param {Open} open @param {string} part */
function standingOf({ app, session, entry, index }, part) {
  const row = rowChosen(app, session, index);
  const choice = held(entry.view.choice, part);
  const marked = held(entry.view.marker, part) ?? null;
  const chosen = choice ?? (row?.part === part ? row.key : null);
  const picked = new Set(pickedOn(entry, part));
  const listing = app.listing(entry.screen, part);
  const values = [...app.values.values()].filter((each) => each.shownOn === listing.source);
  const here = marked ?? chosen ?? held(entry.view.last, part) ?? null;
  return {
    chosen,
    marked,
    here,
    stop: -1,
    last: chosen === null ? (held(entry.view.last, part) ?? null) : null,
    opens: takesPress(app, session, index, part),
    link:
      !picked.size && opensByPress(app, session, index, part)
        ? app.link(entry.screen, 'row', part)
        : null,
    listing,
    isSeveral: app.isSeveral(entry.screen, part),
    picked,
    boxes: listing.several === 'with boxes' || picked.size > 0,
    held: new Set(values.flatMap((each) => held(session.values, each.id) ?? [])),
  };
}

/** The one row of a list where Tab stops, by its place: where somebody is, else the first in view. @param {Listed} listed @param {any} here @param {number} from @param {number} until @param {number} first */
function stopOf(listed, here, from, until, first) {
  const at = here === null ? -1 : (listed.rows.indexOf(here) ?? -1);
  return at >= from && at < until ? at : Math.max(from, first);
}

/** Along a row: to its actions and back; whether there is anything there. @param {KeyboardEvent} event @param {boolean} isOnward */
function alongRow(event, isOnward) {
  const at = /** @type {HTMLElement} */ (event.target);
  const stops = [...(at.closest('li')?.querySelectorAll('.contents, .actions button') ?? [])];
  const to = stops[stops.indexOf(at) + (isOnward ? 1 : -1)];
  /** @type {HTMLElement | undefined} */ (to)?.focus();
  return Boolean(to);
}

/** The key of the row that has the focus, or null. @param {KeyboardEvent} event */
function rowAt({ target }) {
  const row = /** @type {HTMLElement} */ (target).closest('[data-key]');
  return row instanceof HTMLElement ? JSON.parse(row.dataset.key ?? 'null') : null;
}

/** The keys that move along a list (7.4). @param {Open} open @param {string} part @param {string} layout */
function keysOf(open, part, layout) {
  const { app, on, send, index, entry } = open;
  const isAcross = layout === 'strip';
  const isSeveral = app.isSeveral(entry.screen, part);
  return (/** @type {KeyboardEvent} */ event) => {
    const isOnRow = !(/** @type {Element} */ (event.target).closest('.actions, .pick'));
    const now = () => standing(app, open.now(), index, part);
    if (isSeveral && isOnRow && picksByKey(open, part, event, rowAt(event), now)) {
      event.preventDefault();
      return;
    }
    const side = { ArrowLeft: 'left', ArrowRight: 'right' }[event.key];
    if (side && !isTiled(layout) && !event.altKey && !event.ctrlKey && !event.metaKey) {
      const isOnward = (side === 'right') === (document.documentElement.dir !== 'rtl');
      if (alongRow(event, isOnward)) event.preventDefault();
      return;
    }
    const along = /** @type {Record<string, string>} */ (KEYS)[event.key];
    const isRtl = document.documentElement.dir === 'rtl';
    const across = side && isRtl ? (side === 'left' ? 'right' : 'left') : side;
    const to = isAcross
      ? (across ?? (event.key === 'Home' || event.key === 'End' ? along : undefined))
      : (along ?? across);
    if (!to || event.altKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    send({ do: 'move', ...on, list: part, to });
  };
}

/** @param {Open} open @param {Segment} segment @param {number} offset @param {number} height */
export function rowsView(open, segment, offset, height) {
  const { part, listed, stack } = segment;
  if (!listed || !stack) return null;
  const width = segment.width || open.area.width;
  const standing = standingOf(open, part);
  const above = open.isPrinting ? 0 : Math.max(0, offset - segment.top - height / 2);
  const until = open.isPrinting ? Infinity : offset - segment.top + height * 1.5;
  const groups = new Map(
    listed.rows.groups.map((group, number) => [group.at, { ...group, number }]),
  );
  const items = [];
  const [from, last] = [stack.at(above), open.isPrinting ? -1 : stack.at(until)];
  standing.stop = stopOf(
    listed,
    standing.here,
    from,
    last < 0 ? listed.rows.length : last + 1,
    stack.at(Math.max(0, offset - segment.top)),
  );
  const columns = columnsShown(listed.listing, width, standing.picked.size > 0);
  for (let at = from; at >= 0 && at < listed.rows.length && stack.top(at) < until; at += 1) {
    const group = groups.get(at);
    if (group) items.push(groupView(open, segment, group, stack.top(at)));
    if (stack.isHidden(at)) at = stack.end(at) - 1;
    else
      items.push(
        rowView(
          open,
          part,
          standing,
          listed,
          at,
          stack.place(at, width),
          listed.listing.layout ?? 'rows',
          columns,
        ),
      );
  }
  if (columns.length) items.unshift(headsView(open, part, listed.listing, columns));
  return h(
    'ul',
    {
      class: listed.listing.layout ?? 'rows',
      'data-list': part,
      'data-count': listed.rows.length,
      'aria-label': open.app.words('Rows'),
      tabindex: -1,
      onkeydown: keysOf(open, part, listed.listing.layout ?? 'rows'),
    },
    items,
  );
}

/** The title of a group; one that opens and closes says how many rows are in it. @param {Open} open @param {Segment} segment @param {{at: number, title: string, number: number}} group @param {number} y */
function groupView({ app, entry, on, send }, segment, { title, number }, y) {
  const { part, listed } = segment;
  if (!listed) return null;
  const closes = hasClosingGroups(listed.listing) && !held(entry.view.search, part);
  const next = listed.rows.groups[number + 1]?.at ?? listed.rows.length;
  const isOpen = !listed.closed.has(number);
  const style = placed({ y, height: GROUP });
  const place = { key: `group ${number}`, class: 'group', style };
  const said = title === OTHERS ? app.words(title) : title;
  if (!closes) return h('li', place, h('h3', {}, said));
  return h(
    'li',
    place,
    h(
      'button',
      {
        'data-group': title,
        'aria-expanded': String(isOpen),
        onclick: () => send({ do: 'group', ...on, list: part, title, open: !isOpen }),
      },
      `${said} · ${next - listed.rows.groups[number].at}`,
    ),
  );
}

/** @param {Open} open @param {string} part @param {ReturnType<typeof standingOf>} standing @param {Listed} listed @param {number} at @param {{x: number, y: number, width: number, height: number}} place @param {string} layout @param {ReturnType<typeof columnsShown>} columns */
function rowView(open, part, standing, listed, at, place, layout, columns = []) {
  const { app, on, send, area } = open;
  const record = listed.rows.at(at);
  const key = listed.rows.keyAt(at);
  const isChosen = key === standing.chosen && key !== null;
  const isPicked = standing.picked.has(key);
  const isHeld = standing.held.has(key);
  const ground = listed.listing.row?.takesGround
    ? app.say(listed.listing.source).ground(record)
    : null;
  const state = [
    isPicked && 'picked',
    isTiled(layout) ? 'tile' : 'plain',
    columns.length && 'celled',
    !isTiled(layout) && listed.listing.density,
    ground && `on ground-${ground.colour ?? 'warning'}`,
    isChosen && 'chosen',
    key === standing.marked && key !== null && 'marked',
    key === standing.last && key !== null && 'last',
  ];
  const narrow = isNarrow(area.width) && !isTiled(layout);
  const contents = columns.length
    ? cellsOf(app, listed.listing, record, key, columns, standing.boxes ? PICK : 0)
    : contentsOf(app, listed.listing, record, key, narrow);
  if (ground && !contents.isRuled) {
    // Never the ground alone.
    contents.parts.unshift(h('span', { class: 'sign', 'aria-hidden': 'true' }, ground.sign ?? '!'));
    contents.name = `${ground.sign ?? '!'} ${contents.name}`;
  }
  if (ground?.word && !contents.name.includes(ground.word)) contents.name += `, ${ground.word}`;
  const own = ownOf(open, part, listed.listing, record, key);
  const sign = isHeld && h('span', { class: 'held', 'aria-hidden': 'true' }, '✓');
  const parts = [...(own === null ? contents.parts : [own]), sign];
  const isHere = standing.stop === at;
  const said = isHeld ? `${contents.name}, ${app.words('chosen')}` : contents.name;
  const name = { 'aria-label': said, title: contents.name };
  const isPicking = standing.picked.size > 0;
  const choose = () => send({ do: 'choose', ...on, list: part, key });
  return h(
    'li',
    {
      key: `row ${JSON.stringify(key)}`,
      class: `row ${state.filter(Boolean).join(' ')}`,
      'data-key': JSON.stringify(key),
      'aria-current': isChosen ? 'true' : null,
      'data-picked': isPicked,
      'data-held': isHeld,
      ...(standing.isSeveral && key !== null && heldDown(open, part, key)),
      'data-gap': layout === 'grid' ? TILE_GAP : null,
      'aria-setsize': listed.rows.length,
      'aria-posinset': at + 1,
      style: placed(place),
    },
    standing.boxes && key !== null && pickBox(open, part, key, contents.title, isPicked, false),
    standing.opens
      ? pressed(
          open,
          standing.link,
          rowRef(part, key),
          {
            key: 'row',
            class: 'contents',
            tabindex: isHere ? 0 : -1,
            ...name,
            'aria-pressed': isPicking ? String(isPicked) : null,
            onclick: choose,
          },
          parts,
          standing.isSeveral && key !== null
            ? (/** @type {MouseEvent} */ event) => picks(open, part, key, event)
            : undefined,
        )
      : h('div', { key: 'row', class: 'contents' }, parts),
    !isPicking && actionsOf(open, part, listed.listing, record, key, narrow, layout, isHere),
  );
}

/** What of a row is drawn in a way of one's own, or null. @param {Open} open @param {string} part @param {any} listing @param {Found} record @param {any} key */
function ownOf(open, part, listing, record, key) {
  const screen = open.entry.screen;
  const draws = held(open.own.rows ?? {}, part ? `${screen}/${part}` : screen);
  return draws ? draws({ h, key, ...saying(open.app, listing.source, record) }) : null;
}

/** A record as what is drawn by hand asks it. @param {WiredApp} app @param {string} source @param {Found | null} record @returns {OwnRecord} */
export const saying = (app, source, record) => ({
  value: (field) => record?.value(field) ?? null,
  said: (field) => (record ? app.say(source).value(field, record) : ''),
});

/** What stands on a row: picture, title over subtitle, badge; its key, where the title says nothing. @param {WiredApp} app @param {any} listing @param {Found} record @param {any} key @param {boolean} narrow */
function contentsOf(app, listing, record, key, narrow) {
  const row = listing.row ?? {};
  const sayings = app.say(listing.source);
  const title = sayings.fill(row.title ?? '', record) || shown(key);
  const subtitle = sayings.fill(row.subtitle ?? '', record);
  const rule = fieldsIn(row.badge ?? '')
    .map((name) => sayings.standingOut(name, record))
    .find(Boolean);
  const said = sayings.fill(row.badge ?? '', record);
  const badge = rule ? `${rule.sign ?? '!'} ${said}`.trim() : said;
  const file = row.picture && !narrow ? pictureFile(record.value(row.picture)) : '';
  return {
    title,
    isRuled: Boolean(rule),
    name: [title, subtitle, badge, rule?.word].filter(Boolean).join(', '),
    parts: [
      row.picture &&
        !narrow &&
        (file
          ? h('img', {
              class: row.pictureFit === 'whole' ? 'whole' : 'fill',
              src: file,
              alt: '',
              loading: 'lazy',
            })
          : h('span', { class: 'no picture' })),
      h(
        'span',
        { class: 'texts' },
        h('span', { class: 'row-title' }, title),
        subtitle && h('span', { class: 'row-subtitle' }, subtitle),
      ),
      badge && h('span', { class: `badge ${rule ? (rule.colour ?? 'warning') : ''}` }, badge),
    ],
  };
}

/** The actions that stand on a row, and what opens the menu of the others. @param {Open} open @param {string} part @param {any} listing @param {Found} record @param {any} key @param {boolean} narrow @param {string} layout @param {boolean} isHere */
function actionsOf({ app, session, on, send }, part, listing, record, key, narrow, layout, isHere) {
  const actions = listing.actions ?? [];
  if (!actions.length) return null;
  const onRow =
    narrow || layout !== 'rows' ? [] : actions.filter((/** @type {any} */ each) => each.onRow);
  // Arrows lead to what stands on a row; Tab stops once in a list, and at the tile that it is at.
  const tabindex = isTiled(layout) && isHere ? 0 : -1;
  const name = record.value(listing.row?.title?.match(/\{([^{}]*)\}/)?.[1] ?? '') ?? key;
  return h(
    'span',
    { key: 'actions', class: 'actions' },
    onRow.map((/** @type {any} */ button) => {
      const isOnNow = isOn(session, button, record);
      return h(
        'button',
        {
          key: button.id,
          class: isOnNow ? 'on' : '',
          tabindex,
          'data-action': button.id,
          'aria-pressed': ['mark', 'toggle'].includes(button.does?.do) ? String(isOnNow) : null,
          onclick: () => send({ do: 'act', ...on, key, action: button.id }),
        },
        isOnNow && button.whenOn ? button.whenOn : button.label,
      );
    }),
    actions.length > onRow.length &&
      h(
        'button',
        {
          key: 'more',
          class: 'more',
          tabindex,
          'data-more': true,
          'aria-label': app.words('More: {name}', { name: shown(name) }),
          'aria-haspopup': 'menu',
          onclick: () => send({ do: 'menu', ...on, list: part, key }),
        },
        '⋯',
      ),
  );
}

/** The tiles of a strip across; those near are there. @param {Open} open @param {Segment} segment */
export function stripView(open, segment) {
  const { app, session, index, area, on, send } = open;
  const { part, listed } = segment;
  if (!listed) return null;
  const standing = standingOf(open, part);
  const offset = acrossOf(app, session, index, area.width, part);
  const tile = listed.listing.tile ?? 132;
  const each = tile + TILE_GAP;
  const first = Math.max(0, Math.floor((offset - area.width) / each));
  const last = Math.min(listed.rows.length, Math.ceil((offset + 2 * area.width) / each));
  const items = [];
  standing.stop = stopOf(listed, standing.here, first, last, Math.floor(offset / each));
  for (let at = first; at < last; at += 1) {
    const place = { x: EDGE + at * each, y: 0, width: tile, height: segment.height - TILE_GAP };
    items.push(rowView(open, part, standing, listed, at, place, 'strip'));
  }
  const wide = listed.rows.length * each + 2 * EDGE - TILE_GAP;
  return h(
    'div',
    {
      class: 'across',
      'data-across': part,
      'data-to': offset,
      tabindex: wide > area.width ? 0 : -1,
      role: 'group',
      'aria-label': app.words('Tiles'),
      style: { height: rem(segment.height) },
      onscroll: (/** @type {any} */ event) => {
        const unit = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16;
        const to = Math.abs(event.target.scrollLeft) / unit;
        if (Math.abs(to - Number(event.target.dataset.to)) >= 1 / unit)
          send({ do: 'scroll', ...on, list: part, to });
      },
    },
    h(
      'ul',
      {
        class: 'strip',
        'data-list': part,
        'data-count': listed.rows.length,
        'aria-label': app.words('Tiles'),
        style: { width: rem(wide), height: rem(segment.height) },
        onkeydown: keysOf(open, part, 'strip'),
      },
      items,
    ),
  );
}
