// What the rules say of an event, as a kind and its data; the words are made where it is read.

/**
 * @param {string} kind
 * @param {string} which the way that it came about in, where there are several
 * @param {Record<string, any>} data
 * @param {string} where a path into the project
 * @returns {Note}
 */
export function note(kind, which = '', data = {}, where = '') {
  return {
    kind,
    ...(which && { case: which }),
    ...(Object.keys(data).length && { data }),
    ...(where && { where }),
  };
}

/** An event that cannot be taken; the session stays as it is. */
export class Refused extends Error {
  /** @param {string} which @param {string} where @param {Record<string, any>} data */
  constructor(which, where = '', data = {}) {
    super(which);
    this.note = note('refused', which, data, where);
  }
}

/**
 * What a function gives, or what is made of a refusal; other errors go on.
 * @template T, U
 * @param {() => T} tried
 * @param {(refused: Refused) => U} otherwise
 * @returns {T | U}
 */
export function unlessRefused(tried, otherwise) {
  try {
    return tried();
  } catch (error) {
    if (error instanceof Refused) return otherwise(error);
    throw error;
  }
}
