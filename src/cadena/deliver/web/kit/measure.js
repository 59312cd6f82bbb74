// Breaking running text into lines, by arithmetic that is the same on every machine.

const NARROW = new Set("iljtfrI.,;:!'|()[] -–");
const WIDE = new Set('mwMWOQGDHNUCAK@%&—…');
const REMEMBERED = 4096;
/** @type {Map<string, string[]>} */
const known = new Map();

/** Width in em: narrow, usual and wide letters, and a full em beyond Latin script. @param {string} text */
function advance(text) {
  let width = 0;
  for (const letter of text) {
    width += NARROW.has(letter)
      ? 0.32
      : WIDE.has(letter)
        ? 0.76
        : (letter.codePointAt(0) ?? 0) > 0x2fff
          ? 1
          : 0.57;
  }
  return width;
}

/** The lines of a text of so many dp in a column so wide; at least one. @param {string} text @param {number} size @param {boolean} bold @param {number} width */
export function linesOf(text, size, bold, width) {
  const name = JSON.stringify([text, size, bold, width]);
  let lines = known.get(name);
  if (!lines) {
    if (known.size >= REMEMBERED) known.clear();
    lines = broken(text, (piece) => advance(piece) * size * (bold ? 1.06 : 1) <= width);
    known.set(name, lines);
  }
  return lines;
}

/** Fill lines with words; a word wider than the column is broken where it must be. @param {string} text @param {(piece: string) => boolean} fits */
function broken(text, fits) {
  const lines = [];
  for (const paragraph of text.split('\n')) {
    let line = '';
    for (const word of paragraph.split(' ')) {
      const longer = line ? `${line} ${word}` : word;
      if (fits(longer)) {
        line = longer;
        continue;
      }
      if (line) lines.push(line);
      const letters = Array.from(word);
      let at = 0;
      for (
        let count = fitting(letters, at, fits);
        at + count < letters.length;
        count = fitting(letters, at, fits)
      ) {
        lines.push(letters.slice(at, at + count).join(''));
        at += count;
      }
      line = letters.slice(at).join('');
    }
    lines.push(line);
  }
  return lines;
}

/** How many letters fit from one on, found by doubling, then by halving; at least one. @param {string[]} letters @param {number} at @param {(piece: string) => boolean} fits */
function fitting(letters, at, fits) {
  const fit = (/** @type {number} */ count) => fits(letters.slice(at, at + count).join(''));
  const rest = letters.length - at;
  let [low, high] = [1, Math.min(2, rest)];
  while (low < high && fit(high)) [low, high] = [high, Math.min(2 * high, rest)];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (fit(middle)) low = middle;
    else high = middle - 1;
  }
  return low;
}
