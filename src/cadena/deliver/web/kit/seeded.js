// What a stand-in leaves to chance: told by its seed and the number of a call alone.

/** Whether something that happens once in so many calls happens in this one; 0 is never. @param {number} seed @param {string} what @param {number} number @param {number} oneIn */
export const happens = (seed, what, number, oneIn) =>
  oneIn > 0 && drawn(seed, what, number) % oneIn === 0;

/** A number that is always the same for the same seed, matter and call: CRC-32 of ISO 3309. @param {number} seed @param {string} what @param {number} number */
export function drawn(seed, what, number) {
  let remainder = ~0;
  for (const byte of new TextEncoder().encode(`${seed} ${what} ${number}`)) {
    remainder ^= byte;
    for (let bit = 0; bit < 8; bit += 1)
      remainder = (remainder >>> 1) ^ (remainder & 1 ? 0xedb88320 : 0);
  }
  return ~remainder >>> 0;
}
