// Dividers between panes, to be dragged or moved by keys (rule 3.2).

import { dividersOf } from '../dividing.js';
import { entriesOf } from '../session.js';
import { h, placed } from './dom.js';

/** How wide what is taken hold of is, and how far a key moves it, in dp. */
const WIDE = 12;
const BY = 16;

/** @param {Run} run @param {Display} display */
export function dividerViews(run, display) {
  return dividersOf(run.session, display).map((divider) => dividerView(run, display, divider));
}

/** @param {Run} run @param {Display} display @param {Divider} divider */
function dividerView({ app, session, send }, { arrangement, panes }, divider) {
  const { pane, area, size, least, most } = divider;
  const isDown = arrangement.lie === 'down';
  const { entry } = panes[pane];
  const title = entry === null ? '' : app.titleOf(session, entriesOf(session)[entry]);
  const half = WIDE / 2;
  const place = isDown
    ? { ...area, y: area.y - half, height: WIDE }
    : { ...area, x: area.x - half, width: WIDE };
  const to = (/** @type {number} */ size) => send({ do: 'divide', pane, to: size });
  const side = isDown || !session.window.rtl ? 1 : -1;
  const along = (/** @type {PointerEvent} */ event) => (isDown ? event.clientY : event.clientX);
  return h('div', {
    key: `divider ${pane}`,
    class: `divider ${isDown ? 'down' : ''}`,
    role: 'separator',
    tabindex: 0,
    'data-divider': String(pane),
    'aria-orientation': isDown ? 'horizontal' : 'vertical',
    'aria-valuenow': Math.round(size),
    'aria-valuemin': Math.round(least),
    'aria-valuemax': Math.round(most),
    'aria-label': app.words('Room for {title}', { title }),
    style: placed(place),
    onpointerdown: (/** @type {any} */ event) => {
      const { target } = event;
      const [began, was] = [along(event), size];
      target.setPointerCapture(event.pointerId);
      target.onpointermove = (/** @type {PointerEvent} */ moved) =>
        to(was + (along(moved) - began) * side);
      target.onpointerup = target.onpointercancel = () => {
        target.onpointermove = target.onpointerup = target.onpointercancel = null;
      };
    },
    onkeydown: (/** @type {KeyboardEvent} */ event) => {
      const [less, more] = isDown ? ['ArrowUp', 'ArrowDown'] : ['ArrowLeft', 'ArrowRight'];
      if (event.key === less) to(size - side * BY);
      else if (event.key === more) to(size + side * BY);
      else if (event.key === 'Home') to(least);
      else if (event.key === 'End') to(most);
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
  });
}
