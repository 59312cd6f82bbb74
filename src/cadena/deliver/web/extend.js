// What is yours: rows, blocks and screens drawn otherwise, and records that come from elsewhere.
// Delivered again, this file stays as it is.
//
// Each function is given `h(tag, props, ...children)`, which makes what is to be drawn; children
// are texts and what `h` has made, and of `props`, `on...` are listeners and `style` a dictionary.
// `value(field)` is what a field of the record holds, `said(field)` what is said of it.

/**
 * What stands on a row, by its screen, or `screen/list` for a list on a detail: `{ huts: ... }`.
 * The row stays what it is: pressed, chosen, found and read out as before, and as high.
 * @type {Record<string, (row: OwnRow) => any>}
 */
export const rows = {};

/**
 * A block of a detail, by `screen/block`: `{ 'hut/about': ... }`. It has the room that it had.
 * @type {Record<string, (block: OwnScreen) => any>}
 */
export const blocks = {};

/**
 * A whole screen between its bars, by its name: `{ warden: ... }`. `send` takes the events of the
 * app, such as `{ do: 'press', button: 'book' }`; `back()` goes back.
 * @type {Record<string, (screen: OwnScreen) => any>}
 */
export const screens = {};

/**
 * Where the records of a source come from instead of their files: `{ huts: async () => [...] }`.
 * @type {Record<string, () => Promise<any[]>>}
 */
export const sources = {};
