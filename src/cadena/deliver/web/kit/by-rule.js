// What rules open and take away by themselves: rules 5.2, 5.3 and 5.5, which hold after every event.

import { arrangementFor, runsOf } from './display.js';
import { note, unlessRefused } from './notes.js';
import { linkFor, openLink } from './opening.js';
import { baseLength, chainOf, entriesOf, onBase, ownerOf, rowRef, withChain } from './session.js';
import { held } from './values.js';

/** Make the three rules hold: 5.3 for every section's chain, the others for the one shown. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function settle(app, session) {
  const arrangement = arrangementFor(app, session.window);
  const notes = [];
  for (const chain of Object.values(session.chains)) {
    const entries = takenAway(app, session, chain, arrangement);
    if (entries !== chain.entries) {
      session = withChain(session, { ...chain, entries });
      notes.push(
        note('closed by rule', '', {
          section: chain.section,
          count: chain.entries.length - entries.length,
        }),
      );
    }
  }
  for (
    let asked = askedToOpen(app, session, arrangement);
    asked;
    asked = askedToOpen(app, session, arrangement)
  ) {
    const { index, link, row } = asked;
    const now = session;
    const opened = unlessRefused(
      () => openLink(app, now, index, link, row, 'rule'),
      (refused) => {
        const why = refused.note;
        notes.push(note('not opened by rule', '', { why }, why.where));
        return null;
      },
    );
    // What is open already elsewhere (2.4) is not fetched by a rule.
    if (!opened || entriesOf(opened[0]).length <= entriesOf(session).length) break;
    session = opened[0];
    notes.push(...opened[1]);
  }
  return [session, notes];
}

/** Whether 5.2 or 5.5 would open a row at once. @param {WiredApp} app @param {Session} session @param {any} arrangement */
export function opensByRule(app, session, arrangement) {
  const asked = askedToOpen(app, session, arrangement);
  if (!asked) return false;
  const opened = unlessRefused(
    () => openLink(app, session, asked.index, asked.link, asked.row, 'rule'),
    () => null,
  );
  return opened !== null && entriesOf(opened[0]).length > entriesOf(session).length;
}

/** @param {WiredApp} app @param {Session} session @param {any} arrangement */
function askedToOpen(app, session, arrangement) {
  const key = rowToOpen(app, session, arrangement);
  const index = baseLength(entriesOf(session)) - 1;
  const beside = key === null ? null : app.opensBeside(entriesOf(session)[index]);
  const row = rowRef('', key);
  const link = beside && linkFor(app, session, index, beside, row);
  return link?.how === 'beside' ? { index, link, row } : null;
}

/** The entries of a chain without the last runs that a rule opened and would not have there now (5.3). @param {WiredApp} app @param {Session} session @param {Chain} chain @param {any} arrangement */
function takenAway(app, session, chain, arrangement) {
  let { entries } = chain;
  while (entries.length > 1) {
    const base = baseLength(entries);
    if (!base || entries[base - 1].by !== 'rule') break;
    const runs = runsOf(entries);
    const starts = startsByRule(entries, runs);
    if (!starts.length) break;
    let start = starts.find((at) => !isOnList(app, session, entries, at));
    if (start === undefined) {
      start = starts[starts.length - 1];
      if (isAskedFor(app, entries[start - 1], runs.length, start, chain.asked, arrangement)) break;
    }
    // What comes and goes with its pane leaves the list as it was.
    entries = onBase(entries.slice(0, start), entries.slice(base), base);
  }
  return entries;
}

/** Where the last runs begin that were opened by rule alone. @param {Entry[]} entries @param {[number, number][]} runs */
function startsByRule(entries, runs) {
  const starts = [];
  for (const [first, last] of runs.slice(1).reverse()) {
    if (entries.slice(first, last + 1).some((entry) => entry.by !== 'rule')) break;
    starts.unshift(first);
  }
  return starts;
}

/** Whether the row that opened an entry is still on its list. @param {WiredApp} app @param {Session} session @param {Entry[]} entries @param {number} at */
function isOnList(app, session, entries, at) {
  const { row } = entries[at];
  if (!row) return true;
  const listed = app.listed(session, entries[ownerOf(row, at)], row.part);
  return listed !== null && listed.rows.indexOf(row.key) !== null;
}

/** @param {WiredApp} app @param {Entry} parent @param {number} runs @param {number} length @param {boolean} asked @param {any} arrangement */
function isAskedFor(app, parent, runs, length, asked, arrangement) {
  const screen = app.screens.get(parent.screen);
  const panes = arrangement.panes ?? 1;
  const byNothingChosen =
    runs <= panes && screen?.kind === 'list' && (screen.nothingChosen ?? 'say so') !== 'say so';
  const byDetailFirst =
    panes === 1 &&
    (arrangement.detailFirst ?? 'no') !== 'no' &&
    !asked &&
    length === 1 &&
    runs === 2;
  return byNothingChosen || byDetailFirst;
}

/** The key of the row that 5.2 or 5.5 would open beside the last entry, or null. @param {WiredApp} app @param {Session} session @param {any} arrangement */
export function rowToOpen(app, session, arrangement) {
  const entries = entriesOf(session);
  const base = baseLength(entries);
  if (!base) return null;
  const last = entries[base - 1];
  const screen = app.screens.get(last.screen);
  if (screen?.kind !== 'list' || !app.opensBeside(last)) return null;
  const panes = arrangement.panes ?? 1;
  let wish = 'say so';
  if (runsOf(entries).length < panes) wish = screen.nothingChosen ?? 'say so';
  else if (panes === 1 && base === 1 && !chainOf(session).asked)
    wish = arrangement.detailFirst ?? 'no';
  if (wish !== 'open first' && wish !== 'open last') return null;
  const listed = app.listed(session, last, '');
  if (!listed?.rows.length) return null;
  const remembered = held(last.view.last, '');
  if (wish === 'open last' && remembered !== undefined && listed.rows.indexOf(remembered) !== null)
    return remembered;
  return listed.first === null ? null : listed.rows.keyAt(listed.first);
}
