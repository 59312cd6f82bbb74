// How a source is written to (rule 9.1).

import { held } from './values.js';

/** The kinds of writing that a source takes. @param {any} source @returns {Set<string>} */
export function takesOf(source) {
  if (source.served === 'stand-in') return new Set(source.standIn?.takes ?? []);
  const ways = source.served === 'service' ? ['create', 'change', 'remove'] : [];
  return new Set(ways.filter((each) => held(source.service ?? {}, each)));
}
