// Addresses as RFC 6570 templates, level 1 to 3: told of values, and read back into them.

import { shown } from './values.js';

const LONGEST = 2000;
const EXPRESSION = /\{([+#/?&]?)([A-Za-z0-9_,.%-]*)\}/g;
/** Letters that the value of a variable cannot hold, and what stands before and between values. */
const OPERATORS = {
  '': { begins: '', between: ',', ends: '/?#&,;' },
  '+': { begins: '', between: ',', ends: '' },
  '#': { begins: '#', between: ',', ends: '' },
  '/': { begins: '/', between: '/', ends: '/?#&,;' },
};

/** @param {string} template @returns {{before: string, operator: string, names: string[]}[]} */
function expressionsOf(template) {
  let at = 0;
  const found = Array.from(template.matchAll(EXPRESSION), (match) => {
    const before = template.slice(at, match.index);
    at = match.index + match[0].length;
    return { before, operator: match[1], names: match[2].split(',') };
  });
  return [...found, { before: template.slice(at), operator: '', names: [] }];
}

/** @param {any} value */
function wordOf(value) {
  if (value === null || value === undefined) return '';
  return Array.isArray(value) ? value.map(shown).join(',') : shown(value);
}

/** @param {string} text @param {boolean} isReserved whether letters that mean something stay */
function encoded(text, isReserved) {
  const kept = isReserved
    ? /[A-Za-z0-9._~:/?#[\]@!$&'()*+,;=-]|%[0-9A-Fa-f]{2}/y
    : /[A-Za-z0-9._~-]/y;
  let made = '';
  for (let at = 0; at < text.length; ) {
    kept.lastIndex = at;
    const whole = kept.exec(text)?.[0];
    const letter = String.fromCodePoint(text.codePointAt(at) ?? 0);
    made +=
      whole ??
      Array.from(
        new TextEncoder().encode(letter),
        (byte) => `%${byte.toString(16).toUpperCase().padStart(2, '0')}`,
      ).join('');
    at += (whole ?? letter).length;
  }
  return made;
}

/** The address of these arguments; null where one that stands in its path has no value. @param {string} template @param {Record<string, any>} args @returns {string | null} */
export function told(template, args) {
  let address = '';
  for (const { before, operator, names } of expressionsOf(template)) {
    const words = names.map((name) => [
      name,
      wordOf(Object.hasOwn(args, name) ? args[name] : null),
    ]);
    address += before;
    if (operator === '?' || operator === '&') {
      const given = words
        .filter(([name]) => Object.hasOwn(args, name))
        .map(([name, word]) => `${name}=${encoded(word, false)}`);
      if (given.length) address += operator + given.join('&');
    } else if (names.length) {
      if (words.some(([, word]) => word === '')) return null;
      const { begins, between } = OPERATORS[/** @type {keyof typeof OPERATORS} */ (operator)];
      address +=
        begins +
        words.map(([, word]) => encoded(word, operator === '+' || operator === '#')).join(between);
    }
  }
  return address;
}

/** The values that an address gives the variables of a template; null where it is another. @param {string} template @param {string} address @returns {Record<string, string> | null} */
export function read(template, address) {
  if (address.length > LONGEST) return null;
  const [, path, query = '', fragment = ''] = /^([^?#]*)(?:\?([^#]*))?(#.*)?$/s.exec(address) ?? [];
  const found = matched(piecesOf(template), path + (fragment === '#' ? '' : fragment));
  if (!found) return null;
  /** @type {Record<string, string>} */
  const values = {};
  for (const [name, value] of Object.entries(found)) {
    const word = decoded(value);
    if (word === '') return null;
    values[name] = word;
  }
  const asked = new URLSearchParams(query);
  for (const { operator, names } of expressionsOf(template)) {
    if (operator !== '?' && operator !== '&') continue;
    for (const name of names) if (asked.has(name)) values[name] = asked.getAll(name).at(-1) ?? '';
  }
  return values;
}

/** @param {string} text */
function decoded(text) {
  return text.replace(/(%[0-9A-Fa-f]{2})+/g, (some) => {
    const bytes = Uint8Array.from(some.slice(1).split('%'), (each) => parseInt(each, 16));
    return new TextDecoder().decode(bytes);
  });
}

/** What an address under a template is made of before its query: fixed texts, and variables with the letters that they cannot hold. @param {string} template @returns {{name: string, text: string}[]} */
function piecesOf(template) {
  /** @type {{name: string, text: string}[]} */
  const pieces = [];
  const addText = (/** @type {string} */ text) => {
    const last = pieces[pieces.length - 1];
    if (last && !last.name) last.text += text;
    else if (text) pieces.push({ name: '', text });
  };
  for (const { before, operator, names } of expressionsOf(template)) {
    addText(before);
    if (operator === '?' || operator === '&') continue;
    const { begins, between, ends } = OPERATORS[/** @type {keyof typeof OPERATORS} */ (operator)];
    names.forEach((name, number) => {
      addText(number ? between : begins);
      pieces.push({ name, text: ends });
    });
  }
  return pieces;
}

/**
 * The values of a template's variables in an address: from both ends towards the one variable
 * that may hold anything, each other one up to the nearest text that ends it.
 * @param {{name: string, text: string}[]} pieces
 * @param {string} address
 * @returns {Record<string, string> | null}
 */
function matched(pieces, address) {
  const open = pieces.findIndex((each) => each.name && !each.text);
  let rest = pieces;
  if (open < 0 && pieces.length && !pieces[pieces.length - 1].name) {
    // What an address ends with ends it: a value may hold the same text before.
    const { text } = pieces[pieces.length - 1];
    if (!address.endsWith(text)) return null;
    address = address.slice(0, address.length - text.length);
    rest = pieces.slice(0, -1);
  }
  const holds = (/** @type {string} */ value, /** @type {string} */ letters) =>
    [...value].some((letter) => letters.includes(letter));
  /** @type {Record<string, string>} */
  const values = {};
  let start = 0;
  for (const [number, piece] of rest.slice(0, open < 0 ? rest.length : open).entries()) {
    if (!piece.name) {
      if (!address.startsWith(piece.text, start)) return null;
      start += piece.text.length;
      continue;
    }
    const isLast = number + 1 === rest.length;
    const end = isLast ? address.length : address.indexOf(rest[number + 1].text, start);
    if (end < 0 || holds(address.slice(start, end), piece.text)) return null;
    values[piece.name] = address.slice(start, end);
    start = end;
  }
  if (open < 0) return start === address.length ? values : null;
  let end = address.length;
  for (let number = pieces.length - 1; number > open; number -= 1) {
    const piece = pieces[number];
    if (!piece.name) {
      if (end < start + piece.text.length || !address.slice(start, end).endsWith(piece.text))
        return null;
      end -= piece.text.length;
      continue;
    }
    const before = pieces[number - 1].text;
    const at = address.slice(start, end).lastIndexOf(before);
    if (at < 0) return null;
    const begin = start + at + before.length;
    if (holds(address.slice(begin, end), piece.text)) return null;
    values[piece.name] = address.slice(begin, end);
    end = begin;
  }
  values[pieces[open].name] = address.slice(start, end);
  return values;
}

/** An address as a template tells it, of what a person may have pasted: no scheme, no host. @param {string} text */
export function pathOf(text) {
  const path = text.trim().replace(/^[A-Za-z][A-Za-z0-9+.-]*:(\/\/[^/?#]*)?/, '');
  return path.startsWith('/') ? path : `/${path}`;
}
