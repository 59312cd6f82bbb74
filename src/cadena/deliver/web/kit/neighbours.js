// From a detail to the rows beside its own (rule 16).

import { openRow } from './choosing.js';
import { areaOf, displayOf } from './display.js';
import { Refused } from './notes.js';
import { LAYERS, cut, entriesOf, ownerOf, withEntries } from './session.js';
import { NARROW } from './sizes.js';
import { targetOf } from './targets.js';

/** Where the row stands that opened a detail which offers its neighbours, or null. @param {WiredApp} app @param {Session} session @param {number} index */
export function placeOf(app, session, index) {
  const { screen, row } = entriesOf(session)[index];
  if (!app.screens.get(screen)?.neighbours || row === null || row.action) return null;
  const owner = ownerOf(row, index);
  if (owner < 0 || owner >= index) return null;
  const of = entriesOf(session)[owner];
  if (app.link(of.screen, 'row', row.part) === null || app.isChoosing(of.screen, row.part))
    return null;
  const listed = app.listed(session, of, row.part);
  const at = listed?.rows.indexOf(row.key) ?? null;
  return !listed || at === null ? null : { owner, row, listed, at };
}

/** How many rows there are, come or not. @param {Listed} listed */
export const countOf = (listed) => Math.max(listed.asked.length, listed.rows.length);

/** The key of the row before, or of the next, of those that show; null at an end. @param {WiredApp} app @param {{listed: Listed, at: number}} place @param {number} by */
export function keyBeside(app, { listed, at }, by) {
  const stack = app.stack(listed, NARROW);
  let to = at + by;
  while (to >= 0 && to < listed.rows.length && stack.isHidden(to)) to += by;
  return to >= 0 && to < listed.rows.length ? listed.rows.keyAt(to) : null;
}

/** Choose the row beside that of a detail, as if it were chosen in its list. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function neighbour(app, session, event) {
  const { index, entry } = targetOf(app, session, event);
  const place = placeOf(app, session, index);
  const key = place && keyBeside(app, place, event.by ?? 1);
  if (!place || key === null) throw new Refused('no neighbour', `screens[${entry.screen}]`);
  const { owner, row } = place;
  const entries = entriesOf(session);
  if (entries.slice(owner + 1, index + 1).some((each) => LAYERS.includes(each.opened)))
    session = withEntries(session, cut(entries, owner + 1));
  return openRow(app, session, owner, areaOf(displayOf(app, session), owner), row.part, key);
}
