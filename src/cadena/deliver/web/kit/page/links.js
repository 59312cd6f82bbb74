// What a press leads to, as an address that can be opened elsewhere, where one can be told.

import { Refused } from '../notes.js';
import { argumentsFor, linkFor } from '../opening.js';
import { told } from '../templates.js';
import { urlOf } from './browser.js';
import { h } from './dom.js';

/** Whether a press is asked of the browser, and is the browser's: a link opened elsewhere. @param {MouseEvent} event */
export const isOfBrowser = (event) =>
  event.ctrlKey || event.metaKey || event.shiftKey || event.button > 0;

/** The address of what a link opens, or none. @param {Open} open @param {any} base @param {RowRef | null} row */
function hrefOf({ app, session, index }, base, row) {
  const link = base && linkFor(app, session, index, base, row);
  const template = link && app.screens.get(link.to)?.address;
  if (!template) return null;
  try {
    const address = told(template, argumentsFor(app, session, index, link, row));
    return address === null ? null : urlOf(address);
  } catch (refused) {
    if (!(refused instanceof Refused)) throw refused;
    return null;
  }
}

/**
 * What is pressed to follow a link: a link of the page where its screen has an address, so that it
 * can be copied and opened in another tab; else a button.
 * @param {Open} open @param {any} link @param {RowRef | null} row @param {Record<string, any>} props @param {any} children @param {(event: MouseEvent) => boolean} [takes] what takes a press before
 */
export function pressed(open, link, row, { onclick, ...props }, children, takes = () => false) {
  const href = hrefOf(open, link, row);
  const press = (/** @type {MouseEvent} */ event) => {
    if (!takes(event)) onclick();
  };
  if (href === null) return h('button', { ...props, onclick: press }, children);
  const follow = (/** @type {MouseEvent} */ event) => {
    if (takes(event)) {
      event.preventDefault();
      return;
    }
    if (isOfBrowser(event)) return;
    event.preventDefault();
    onclick();
  };
  return h('a', { ...props, href, draggable: 'false', onclick: follow }, children);
}
