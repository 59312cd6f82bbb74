// Several rows at once: their boxes, the bar that says how many, and what can be done (rule 14).

import { pickedOn } from '../picked.js';
import { h } from './dom.js';

/** How long a press is held until it picks, in ms. */
const HELD = 500;
/** @type {ReturnType<typeof setTimeout> | undefined} */
let holding;
let hasPicked = false;

/** How many rows are picked, and how many of them the list does not show now. @param {Run} run @param {Entry} entry @param {string} part */
export function pickedInWords({ app, session }, entry, part) {
  const picked = pickedOn(entry, part);
  const rows = app.listed(session, entry, part)?.rows;
  const hidden = picked.filter((key) => (rows?.indexOf(key) ?? null) === null).length;
  const said = app.words('{count} picked', { count: picked.length });
  if (!hidden) return said;
  return `${said}, ${app.words('{count} of them not shown', { count: hidden })}`;
}

/** The list of an open screen on which something is picked, or undefined. @param {Entry} entry */
export const pickingPart = (entry) => Object.keys(entry.view.picked)[0];

/** In place of the title: to let all go, how many are picked, and to pick all that is shown. @param {Open} open @param {string} part @param {string} title @param {string | null} back @param {{slide: Made | false, sections: Made | false}} sides */
export function pickingBar(open, part, title, back, { slide, sections }) {
  const { app, entry, on, send } = open;
  return h(
    'header',
    { key: 'picking', class: 'title bar' },
    h(
      'button',
      {
        key: 'let go',
        class: 'let-go',
        'data-let-go': part,
        'data-back': back,
        'aria-label': app.words('Let go'),
        onclick: () => send({ do: 'let go', ...on, list: part }),
      },
      '×',
    ),
    slide,
    h(
      'h1',
      { key: 'name', 'data-title': title },
      h('span', { role: 'status' }, pickedInWords(open, entry, part)),
    ),
    h(
      'button',
      {
        key: 'all',
        class: 'button',
        'data-pick-all': part,
        'aria-label': app.words('Pick all that is shown'),
        onclick: () => send({ do: 'pick all', ...on, list: part }),
      },
      app.words('All'),
    ),
    sections,
  );
}

/** At the bottom: the actions that are for several. @param {Open} open @param {string} part */
export function actionsOnPicked({ app, entry, on, send }, part) {
  const count = pickedOn(entry, part).length;
  const actions = (app.listing(entry.screen, part).actions ?? []).filter(
    (/** @type {any} */ { several, does }) =>
      several && (does?.do ?? 'open') !== 'open' && does.do !== 'save rows',
  );
  return h(
    'footer',
    { key: 'bottom', class: 'bottom bar' },
    actions.map((/** @type {any} */ button) =>
      h(
        'button',
        {
          key: button.id,
          class: `button ${button.does?.do === 'remove' ? 'bad' : ''}`,
          'data-act-on-picked': button.id,
          onclick: () => send({ do: 'act on picked', ...on, action: button.id }),
        },
        app.words(button.several.label || button.label, { count }),
      ),
    ),
  );
}

/** The box at the start of a row that it is picked by. @param {Open} open @param {string} part @param {any} key @param {string} title @param {boolean} isPicked @param {boolean} isHere */
export const pickBox = ({ app, on, send }, part, key, title, isPicked, isHere) =>
  h('button', {
    key: 'pick',
    class: 'pick',
    role: 'checkbox',
    tabindex: isHere ? 0 : -1,
    'data-pick': true,
    'aria-checked': String(isPicked),
    'aria-label': app.words('Pick {title}', { title }),
    onclick: () => send({ do: 'pick', ...on, list: part, key }),
  });

/** A press that is held down, or pressed with Ctrl or Shift, picks; what listens for it. @param {Open} open @param {string} part @param {any} key */
export function held({ on, send }, part, key) {
  const letGo = () => clearTimeout(holding);
  return {
    onpointerdown: (/** @type {PointerEvent} */ { target }) => {
      hasPicked = false;
      clearTimeout(holding);
      if (/** @type {Element} */ (target).closest('.actions, .pick')) return;
      holding = setTimeout(() => {
        hasPicked = true;
        send({ do: 'pick', ...on, list: part, key });
      }, HELD);
    },
    onpointerup: letGo,
    onpointermove: (/** @type {PointerEvent} */ { movementX, movementY }) => {
      if (Math.abs(movementX) + Math.abs(movementY) > 4) letGo();
    },
    onpointercancel: letGo,
    onscroll: letGo,
  };
}

/** Whether a press was one that picks, which is then done. @param {Open} open @param {string} part @param {any} key @param {MouseEvent} event */
export function picks({ on, send }, part, key, event) {
  if (hasPicked) {
    hasPicked = false;
    return true;
  }
  const does = event.shiftKey ? 'pick to' : event.ctrlKey || event.metaKey ? 'pick' : null;
  if (does) send({ do: does, ...on, list: part, key });
  return does !== null;
}

/** Space picks the row that has the focus, Shift with an arrow picks on the way, Ctrl+A picks all. @param {Open} open @param {string} part @param {KeyboardEvent} event @param {any} row the one that has the focus @param {() => any} standing the one that the list is at */
export function picksByKey({ on, send, entry }, part, event, row, standing) {
  const at = { ...on, list: part };
  const isControl = event.ctrlKey || event.metaKey;
  if (event.key.toLowerCase() === 'a' && isControl) {
    send({ do: 'pick all', ...at });
    return true;
  }
  if (row === null || isControl || event.altKey) return false;
  if (event.key === ' ') {
    send({ do: 'pick', ...at, key: row });
    return true;
  }
  const to = { ArrowUp: 'up', ArrowDown: 'down' }[event.key];
  if (!to || !event.shiftKey) return false;
  const here = standing() ?? row;
  if (!pickedOn(entry, part).includes(here)) send({ do: 'pick', ...at, key: here });
  send({ do: 'move', ...at, to });
  const now = standing();
  if (now !== null && now !== here) send({ do: 'pick to', ...at, key: now });
  return true;
}
