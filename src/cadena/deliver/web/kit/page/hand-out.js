// Handing the rows of a list out as a file.

import { entriesOf } from '../session.js';

const FORMULA = /^(?:[\s\0]*[=+\-@＝＋－＠]|[\t\r\n])/;

/** Give the person the rows that a note says are handed out. @param {WiredApp} app @param {Session} session @param {Note[]} notes */
export function handOut(app, session, notes) {
  const note = notes.find((each) => each.kind === 'handed out');
  const entry = note && entriesOf(session).findLast((each) => each.screen === note.data?.screen);
  const rows = entry && app.listed(session, entry, '')?.rows;
  if (!rows) return;
  const form = note.data?.form ?? 'csv';
  const records = Array.from(rows.positions, (at) => rows.records.rows[at]);
  const names = [...rows.records.types.keys()];
  const text = form === 'json' ? `${JSON.stringify(records)}\n` : csvOf(names, records);
  const link = document.createElement('a');
  link.href = URL.createObjectURL(
    new Blob([text], { type: form === 'json' ? 'application/json' : 'text/csv' }),
  );
  link.download = `${entry.screen}.${form}`;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** CSV (RFC 4180) with no cell that a spreadsheet would take for a formula. @param {string[]} names @param {Record<string, any>[]} records */
function csvOf(names, records) {
  const cell = (/** @type {any} */ value) => {
    const text = Array.isArray(value) ? value.join(', ') : String(value ?? '');
    const safe = typeof value === 'string' && FORMULA.test(text) ? `'${text}` : text;
    return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
  };
  return [names, ...records.map((record) => names.map((name) => record[name]))]
    .map((line) => `${line.map(cell).join(',')}\n`)
    .join('');
}
