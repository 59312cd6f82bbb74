// The element that says of itself what is asked for: on a screen, in a list, on a row.

const [, name, value, screen, entry, list, key] = arguments;
const all = (at, what) => [...at.querySelectorAll(what)];
let at = document;
if (screen) {
  const panes = all(document, '[data-pane]').filter((each) => each.dataset.screen === screen);
  at = panes.findLast((each) => each.dataset.entry === String(entry)) ?? panes.at(-1);
}
if (at && list !== null) {
  at = all(at, '[data-list]').find((each) => each.dataset.list === list);
}
if (at && key !== null) at = all(at, '[data-key]').find((each) => each.dataset.key === key);
if (!at || name === null) return at ?? null;
const isIt = (each) => value === null || each.getAttribute(`data-${name}`) === value;
return all(at, `[data-${name}]`).findLast(isIt) ?? null;
