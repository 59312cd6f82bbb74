// Addresses as RFC 6570 templates, level 1 to 3: told of words, and read back into them.

export type Words = Record<string, string | undefined>;

interface Expression {
  before: string;
  operator: string;
  names: string[];
}
interface Piece {
  name: string;
  text: string;
}

const LONGEST = 2000;
const ENDS: Record<string, string> = { '': '/?#&,;', '+': '', '#': '', '/': '/?#&,;' };
const BEGINS: Record<string, string> = { '': '', '+': '', '#': '#', '/': '/' };
const BETWEEN: Record<string, string> = { '': ',', '+': ',', '#': ',', '/': '/' };

function expressionsOf(template: string): Expression[] {
  let at = 0;
  const found: Expression[] = [];
  for (const match of template.matchAll(/\{([+#/?&]?)([A-Za-z0-9_,.%-]*)\}/g)) {
    const start = match.index ?? 0;
    found.push({
      before: template.slice(at, start),
      operator: match[1] ?? '',
      names: (match[2] ?? '').split(','),
    });
    at = start + match[0].length;
  }
  found.push({ before: template.slice(at), operator: '', names: [] });
  return found;
}

function encoded(text: string, reserved: boolean): string {
  const plain = encodeURIComponent(text).replace(
    /[!'()*]/g,
    (each) => `%${each.charCodeAt(0).toString(16).toUpperCase()}`,
  );
  if (!reserved) return plain;
  return text
    .split(/(%[0-9A-Fa-f]{2}|[A-Za-z0-9._~:/?#[\]@!$&'()*+,;=-]+)/)
    .map((part, at) => (at % 2 ? part : encodeURIComponent(part)))
    .join('');
}

/** The address of these words; undefined where one that stands in its path has none. */
export function told(template: string, words: Words): string | undefined {
  let address = '';
  for (const { before, operator, names } of expressionsOf(template)) {
    address += before;
    if (operator === '?' || operator === '&') {
      const given = names
        .filter((name) => words[name] !== undefined)
        .map((name) => `${name}=${encoded(words[name] ?? '', false)}`);
      if (given.length) address += operator + given.join('&');
    } else if (names.length) {
      const values = names.map((name) => words[name] ?? '');
      if (values.includes('')) return undefined;
      const reserved = operator === '+' || operator === '#';
      address +=
        BEGINS[operator] + values.map((value) => encoded(value, reserved)).join(BETWEEN[operator]);
    }
  }
  return address;
}

/** The words that an address gives the variables of a template; undefined where it is another. */
export function read(template: string, address: string): Words | undefined {
  if (address.length > LONGEST) return undefined;
  const parts = /^([^?#]*)(?:\?([^#]*))?(#.*)?$/s.exec(address);
  const fragment = parts?.[3] ?? '';
  const found = matched(
    piecesOf(template),
    (parts?.[1] ?? '') + (fragment === '#' ? '' : fragment),
  );
  if (!found) return undefined;
  const words: Words = Object.create(null) as Words;
  for (const [name, value] of Object.entries(found)) {
    const word = decoded(value ?? '');
    if (word === '') return undefined;
    words[name] = word;
  }
  const asked = new URLSearchParams(parts?.[2] ?? '');
  for (const { operator, names } of expressionsOf(template)) {
    if (operator !== '?' && operator !== '&') continue;
    for (const name of names) if (asked.has(name)) words[name] = asked.getAll(name).pop();
  }
  return words;
}

function decoded(text: string): string {
  return text.replace(/(%[0-9A-Fa-f]{2})+/g, (some) => {
    const bytes = Uint8Array.from(
      some
        .slice(1)
        .split('%')
        .map((each) => parseInt(each, 16)),
    );
    return new TextDecoder().decode(bytes);
  });
}

function piecesOf(template: string): Piece[] {
  const pieces: Piece[] = [];
  const addText = (text: string): void => {
    const last = pieces[pieces.length - 1];
    if (last && !last.name) last.text += text;
    else if (text) pieces.push({ name: '', text });
  };
  for (const { before, operator, names } of expressionsOf(template)) {
    addText(before);
    if (operator === '?' || operator === '&') continue;
    names.forEach((name, number) => {
      addText((number ? BETWEEN[operator] : BEGINS[operator]) ?? '');
      pieces.push({ name, text: ENDS[operator] ?? '' });
    });
  }
  return pieces;
}

/** Towards the one variable that may hold anything, each other up to the text that ends it. */
function matched(pieces: Piece[], whole: string): Words | undefined {
  let address = whole;
  let rest = pieces;
  const open = pieces.findIndex((each) => each.name !== '' && each.text === '');
  const final = pieces[pieces.length - 1];
  if (open < 0 && final && !final.name) {
    if (!address.endsWith(final.text)) return undefined;
    address = address.slice(0, address.length - final.text.length);
    rest = pieces.slice(0, -1);
  }
  const holds = (value: string, letters: string): boolean =>
    [...value].some((each) => letters.includes(each));
  const words: Words = Object.create(null) as Words;
  let start = 0;
  const before = rest.slice(0, open < 0 ? rest.length : open);
  for (const [number, piece] of before.entries()) {
    if (!piece.name) {
      if (!address.startsWith(piece.text, start)) return undefined;
      start += piece.text.length;
      continue;
    }
    const next = rest[number + 1];
    const end = next ? address.indexOf(next.text, start) : address.length;
    if (end < 0 || holds(address.slice(start, end), piece.text)) return undefined;
    words[piece.name] = address.slice(start, end);
    start = end;
  }
  if (open < 0) return start === address.length ? words : undefined;
  let end = address.length;
  for (let number = pieces.length - 1; number > open; number -= 1) {
    const piece = pieces[number] as Piece;
    if (!piece.name) {
      if (end < start + piece.text.length || !address.slice(start, end).endsWith(piece.text))
        return undefined;
      end -= piece.text.length;
      continue;
    }
    const ahead = (pieces[number - 1] as Piece).text;
    const at = address.slice(start, end).lastIndexOf(ahead);
    if (at < 0 || holds(address.slice(start + at + ahead.length, end), piece.text))
      return undefined;
    words[piece.name] = address.slice(start + at + ahead.length, end);
    end = start + at + ahead.length;
  }
  words[(pieces[open] as Piece).name] = address.slice(start, end);
  return words;
}

/** A value as it stands in an address. */
export function word(value: unknown): string | undefined {
  if (value === undefined || value === null) return undefined;
  if (Array.isArray(value)) return value.map(word).join(',');
  return typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value);
}

/** A word of an address as a value of a type; undefined where it is none. */
export function valueIn(text: string | undefined, type: string): unknown {
  if (text === undefined) return undefined;
  if (type.startsWith('list of ')) {
    const values = text.split(',').map((each) => valueIn(each, type.slice('list of '.length)));
    return values.includes(undefined) ? undefined : values;
  }
  if (type === 'whole number') return /^[+-]?[0-9]+$/.test(text) ? Number(text) : undefined;
  if (type === 'number')
    return text.trim() !== '' && Number.isFinite(Number(text)) ? Number(text) : undefined;
  if (type === 'yes/no')
    return ['yes', 'true'].includes(text)
      ? true
      : ['no', 'false'].includes(text)
        ? false
        : undefined;
  return text;
}

/** Whether a value that came is one of a type. */
export function isOf(value: unknown, type: string): boolean {
  if (type.startsWith('list of '))
    return Array.isArray(value) && value.every((each) => isOf(each, type.slice('list of '.length)));
  if (type === 'whole number') return Number.isInteger(value);
  if (type === 'number') return typeof value === 'number' && Number.isFinite(value);
  return typeof value === (type === 'yes/no' ? 'boolean' : 'string');
}
