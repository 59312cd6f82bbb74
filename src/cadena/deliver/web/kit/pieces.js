// Stretches of a screen that stand in place of others.

import { FAILED, LOADING, WORDS } from './sizes.js';

/** @param {string} text @param {string} part @returns {Piece} */
export const words = (text, part = '', more = {}) => ({
  kind: 'words',
  part,
  height: WORDS,
  lines: [text],
  ...more,
});

/** What stands where something has not come yet, or not at all (9). @param {Load} load @param {string} part @returns {Piece} */
export function statePiece(load, part) {
  return load.state === 'failed'
    ? { kind: 'failed', part, height: FAILED, lines: ['It could not be loaded.'] }
    : { kind: 'loading', part, height: LOADING, lines: ['Loading…'] };
}
