// Who asked for a list to be opened, and what they hold now (rule 15).

import { valueIn } from './form-values.js';
import { query } from './query.js';
import { chosenRow, entriesOf, ownerOf, rowRef } from './session.js';
import { held } from './values.js';

/** What an open screen is there to choose for; null where nobody asks for it any more. @param {WiredApp} app @param {Entry[]} entries @param {number} index @returns {Asking | null} */
export function askingOf(app, entries, index) {
  const { openedFor, screen } = entries[index];
  if (!openedFor) return null;
  const owner = ownerOf(openedFor, index);
  if (owner < 0 || owner >= index) return null;
  const asker = entries[owner].screen;
  const { on, part } = openedFor;
  const there = { field: app.fieldsOpening(asker), fact: app.facts(asker) }[on];
  if (there ? !there.includes(part) : !app.button(asker, part)) return null;
  const link = app.link(asker, on, part);
  if (!link?.brings || link.to !== screen) return null;
  return app.listing(screen, link.brings.list ?? '') ? { owner, link, brings: link.brings } : null;
}

/** An entry over some others: an ordinary list where nobody asks for it any more. @param {WiredApp} app @param {Entry[]} below @param {Entry} entry @returns {Entry} */
export function withAsker(app, below, entry) {
  if (!entry.openedFor || askingOf(app, [...below, entry], below.length)) return entry;
  return { ...entry, openedFor: null };
}

/** What a press on a row of a list brings home for, or null. @param {WiredApp} app @param {Entry[]} entries @param {number} index @param {string} part */
export function choosingFor(app, entries, index, part) {
  const asking = askingOf(app, entries, index);
  return asking && (asking.brings.list ?? '') === part ? asking : null;
}

/** What who asked now holds. @param {WiredApp} app @param {Session} session @param {Asking} asking @returns {any} */
function heldByAsker(app, session, { owner, link, brings }) {
  const asker = entriesOf(session)[owner];
  const { on, part = '' } = link.trigger;
  if (on === 'field') return valueIn(app, session, asker, part);
  if (on === 'fact') return app.recordOf(session, asker)?.value(part) ?? null;
  if (brings.argument) return held(asker.arguments, brings.argument) ?? null;
  return held(session.values, brings.value ?? '') ?? null;
}

/** The key of the row that who asked now holds, on a list that was opened to choose. @param {WiredApp} app @param {Session} session @param {number} index @param {string} part @returns {Scalar | null} */
function rowHeld(app, session, index, part) {
  const asking = choosingFor(app, entriesOf(session), index, part);
  const value = asking && heldByAsker(app, session, asking);
  if (!asking || value === null || Array.isArray(value)) return null;
  const { source } = app.listing(entriesOf(session)[index].screen, part);
  const records = app.shown(session, source);
  if (!records) return null;
  const { field } = asking.brings;
  if (!field || field === records.source.key) return value;
  if (!records.types.has(field)) return null;
  const where = [{ field, test: 'is', constant: value }];
  const asked = { arguments: {}, values: {}, choices: {}, sort: null, search: '' };
  const rows = query(records, { where, limit: 1 }, asked);
  return rows.length ? rows.keyAt(0) : null;
}

/** The row that a list shows as chosen: the one that opened the next entry, or the one that who asked now holds. @param {WiredApp} app @param {Session} session @param {number} index @returns {RowRef | null} */
export function rowChosen(app, session, index) {
  const entries = entriesOf(session);
  const asking = askingOf(app, entries, index);
  if (!asking) return chosenRow(entries, index);
  const part = asking.brings.list ?? '';
  const key = rowHeld(app, session, index, part);
  return key === null ? null : rowRef(part, key);
}

/** The list below a form, opened to choose among the records that the form makes, or null. @param {WiredApp} app @param {Session} session @param {number} index @param {any} form @returns {{at: number, asking: Asking} | null} */
export function madeFor(app, session, index, form) {
  const entries = entriesOf(session);
  for (let at = index - 1; at > 0; at -= 1) {
    const asking = askingOf(app, entries, at);
    if (asking) {
      const listing = app.listing(entries[at].screen, asking.brings.list ?? '');
      return listing?.source === form.source ? { at, asking } : null;
    }
  }
  return null;
}

/** The form that an open screen was opened to choose for, or null: what is typed in it is not lost. @param {WiredApp} app @param {Session} session @param {number} index */
export function keepsDraft(app, session, index) {
  for (let at = index; at > 0; at -= 1) {
    const asking = askingOf(app, entriesOf(session), at);
    if (asking) return asking.owner;
  }
  return null;
}
