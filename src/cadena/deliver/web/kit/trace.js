// The trace: what is so after an event, in the words of the walk's schema, to be compared.

import { addressNow } from './addresses.js';
import { askingOf, rowChosen } from './asking.js';
import { backLabel } from './back.js';
import { columnOf } from './column.js';
import { displayOf, focusOf, pickingAt } from './display.js';
import { offsetOf, viewOf } from './lists.js';
import { saidNow } from './passing.js';
import { entriesOf, sizeOf } from './session.js';

/** @param {number} value */
const round = (value) => Math.round(value * 100) / 100;

/** The state of a session after an event. @param {WiredApp} app @param {Session} session @param {any} event @param {Note[]} notes */
export function traceLine(app, session, event, notes) {
  const isShown = session.phase === 'running' || session.phase === 'asleep';
  const entries = entriesOf(session);
  const focus = isShown ? focusOf(app, session) : null;
  return {
    event,
    phase: session.phase,
    section: session.section,
    window: sizeOf(session.window),
    chain: entries.map((entry, at) => tracedEntry(app, session, entry, at)),
    display: isShown ? tracedPanes(app, session) : [],
    focus: focus === null ? null : entries[focus].screen,
    address: isShown ? addressNow(app, session) : null,
    back: isShown ? backLabel(app, session) : null,
    question: session.question?.text ?? null,
    said: saidNow(app, session),
    values: session.values,
    clock: session.clock,
    notes,
    ...(session.writes.length && {
      writes: session.writes.map(({ source, kind, key, fields, state, faults, theirs }) => ({
        source,
        kind,
        key,
        fields,
        state,
        ...(Object.keys(faults).length && { faults }),
        ...(Object.keys(theirs).length && { theirs }),
      })),
    }),
  };
}

/** @param {WiredApp} app @param {Session} session @param {Entry} entry @param {number} at */
function tracedEntry(app, session, entry, at) {
  const records = app.records(session, app.sourceOf(entry));
  const isMissing =
    app.keyOf(entry) !== null && records !== null && records.rowOf(app.keyOf(entry)) === null;
  return {
    screen: entry.screen,
    arguments: entry.arguments,
    opened: entry.opened,
    by: entry.by,
    ...(Object.keys(entry.view.draft).length && { draft: entry.view.draft }),
    ...(isMissing && { missing: true }),
    ...(Object.keys(entry.view.picked).length && { picked: entry.view.picked }),
    ...(askingOf(app, entriesOf(session), at) && { chooses: true }),
  };
}

/** @param {WiredApp} app @param {Session} session */
function tracedPanes(app, session) {
  const display = displayOf(app, session);
  const { panes, slid, layer, layerAs } = display;
  const picking = pickingAt(session, display);
  // After a pane on which rows are picked, one says how many, and no more.
  const shown = panes.map((pane) =>
    picking !== null && pane.entry !== null && pane.entry > picking
      ? { ...pane, entry: null }
      : pane,
  );
  return [
    ...shown.map((pane) => tracedPane(app, session, pane, 'pane')),
    ...(slid ? [tracedPane(app, session, slid, 'slid')] : []),
    ...(layer ? [tracedPane(app, session, layer, layerAs)] : []),
  ];
}

/** @param {WiredApp} app @param {Session} session @param {Pane} pane @param {string} place */
function tracedPane(app, session, { entry: index, area }, place) {
  const { text } = session.window;
  const isDown = displayOf(app, session).arrangement.lie === 'down';
  const placed = {
    place,
    x: round(area.x * text),
    width: round(area.width * text),
    ...(isDown && { y: round(area.y * text), height: round(area.height * text) }),
  };
  if (index === null) {
    return {
      ...placed,
      screen: null,
      entry: null,
      title: '',
      chosen: null,
      chosen_part: '',
      anchor: null,
      first_row: null,
      rows: 0,
    };
  }
  const entry = entriesOf(session)[index];
  const row = rowChosen(app, session, index);
  const column = columnOf(app, session, entry, viewOf(app, entry, area)[0]);
  const offset = offsetOf(app, session, index, area, column);
  const first = column.firstInView(offset);
  const anchor = first && {
    part: first.part,
    key: first.key,
    above: round(first.above),
    index: first.index,
    offset: round(offset),
  };
  return {
    ...placed,
    screen: entry.screen,
    entry: index,
    title: app.titleOf(session, entry),
    chosen: row?.key ?? null,
    chosen_part: row?.part ?? '',
    anchor,
    ...firstRow(column, offset),
  };
}

/** The first row in view of a screen's own list, or of its first, and how many there are. @param {Column} column @param {number} offset */
function firstRow(column, offset) {
  const lists = column.segments.filter((each) => each.kind === 'rows');
  const own = lists.find((each) => !each.part) ?? lists[0];
  if (!own?.listed || !own.stack) return { first_row: null, rows: 0 };
  const at = own.stack.shown(own.stack.at(Math.max(0, offset - own.top) + own.stack.heads));
  return {
    first_row: at === null ? null : own.listed.rows.keyAt(at),
    rows: own.listed.rows.length,
  };
}
