// Stretches of a screen that stand in place of others.

import { FAILED, LOADING, WORDS } from './sizes.js';
import { shown } from './values.js';

/** @param {string} text @param {string} part @returns {Piece} */
export const words = (text, part = '', more = {}) => ({
  kind: 'words',
  part,
  height: WORDS,
  lines: [text],
  ...more,
});

/** @param {WiredApp} app @param {any} key */
export const noRecord = (app, key) =>
  app.words('There is no record {key} any more.', { key: shown(key) });

/** What stands where something has not come yet, or not at all (9). @param {WiredApp} app @param {Load} load @param {string} part @returns {Piece} */
export function statePiece(app, load, part) {
  return load.state === 'failed'
    ? { kind: 'failed', part, height: FAILED, lines: [app.words('It could not be loaded.')] }
    : { kind: 'loading', part, height: LOADING, lines: [app.words('Loading…')] };
}
