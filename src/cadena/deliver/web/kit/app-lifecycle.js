// What happens to the whole app: its sections, its values, sleep, ending and coming back (2.6, 6).

import { demandUncovered } from './choosing.js';
import { areaOf, displayOf } from './display.js';
import { comeBack, SURVIVES_COLD, SURVIVES_KILL } from './lifetimes.js';
import { scrolled } from './lists.js';
import { Refused, note, unlessRefused } from './notes.js';
import { fillIn, fitting } from './opening.js';
import { carriedTo } from './records-changed.js';
import { savedState } from './saved-state.js';
import { cut, cutBack, newEntry, withChain, withView } from './session.js';
import { without } from './values.js';
import { unheard } from './writing.js';

/** A session started with nothing kept: every section at its root. @param {WiredApp} app @param {AppWindow} window @param {Record<string, any>} changes @returns {Session} */
export function started(app, window, changes = {}) {
  const chains = Object.fromEntries(
    [...app.sections.values()].map((section) => [
      section.id,
      {
        section: section.id,
        asked: false,
        entries: unlessRefused(
          () => [rootEntry(app, section.root)],
          () => [],
        ),
      },
    ]),
  );
  const declared = [...app.values.values()].filter((each) => (each.default ?? null) !== null);
  return {
    window,
    chains,
    changes,
    section: app.sections.has(app.app.start) ? app.app.start : ([...app.sections.keys()][0] ?? ''),
    values: Object.fromEntries(declared.map((each) => [each.id, each.default])),
    phase: 'running',
    slid: false,
    stored: [],
    kept: '',
    clock: 0,
    calls: 0,
    requests: [],
    question: null,
    menu: null,
    removal: null,
    sectionsOpen: false,
    focus: -1,
    ahead: [],
    passing: null,
    divided: {},
    writes: [],
    confirmed: [],
  };
}

/** @param {WiredApp} app @param {string} name */
function rootEntry(app, name) {
  /** @type {Record<string, any>} */
  const args = {};
  for (const parameter of app.screens.get(name).parameters ?? []) {
    const value = fillIn(parameter, null, ['root', name], `screens[${name}]`);
    if (value !== null) args[parameter.name] = value;
  }
  return newEntry(name, args, { opened: 'root' });
}

/** A note for each section whose root asks for what nobody gives it. @param {WiredApp} app */
export function unopened(app) {
  return [...app.sections.values()].flatMap((section) =>
    unlessRefused(
      () => {
        rootEntry(app, section.root);
        return [];
      },
      ({ note: why }) => [note('not opened', '', { section: section.id, why }, why.where)],
    ),
  );
}

/** A section's chain as it was left; the current one again is cut to its root. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function goTo(app, session, { section }) {
  if (!app.sections.has(section)) throw new Refused('no such section', 'sections', { section });
  demandUncovered(app, session);
  const chain = session.chains[section];
  if (section !== session.section) {
    const isCut = app.sections.get(section).returns === 'root';
    const entries = isCut ? cut(chain.entries, 1) : chain.entries;
    const after = withChain(session, { section, entries, asked: false });
    return [
      { ...after, section, slid: false },
      [note('section', isCut ? 'at its root' : 'as it was left', { section })],
    ];
  }
  session = { ...session, slid: false };
  const area = areaOf(displayOf(app, session), 0);
  if (!area || chain.entries.slice(1).some((entry) => entry.by !== 'rule')) {
    return [cutBack(session, 1), [note('section', 'cut', { section })]];
  }
  const asked = withView(withChain(session, { ...chain, asked: true }), 0, { marker: {} });
  return [scrolled(app, asked, 0, area, 0), [note('section', 'at the top', { section })]];
}

/** An app-wide value changes; none makes it none. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function setValue(app, session, { value: name, to = null }) {
  const declared = app.values.get(name);
  if (!declared) throw new Refused('no such value', 'values', { value: name });
  const values = without(session.values, name);
  if (to !== null) values[name] = carriedTo(name, declared.type ?? 'text', to);
  return [{ ...session, values }, [note('set', '', { value: name, to })]];
}

/** @param {WiredApp} app @param {Session} session @returns {Taken} */
export const sleep = (app, session) => [{ ...session, phase: 'asleep' }, [note('asleep')]];

/** @param {WiredApp} app @param {Session} session @returns {Taken} */
export const wake = (app, session) => [{ ...session, phase: 'running' }, [note('awake')]];

/** The system ends the process: what is kept is kept as text. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function kill(app, session) {
  const last = unheard(app, session);
  const kept = savedState(app, last, SURVIVES_KILL);
  const ended = {
    ...started(app, session.window, last.changes),
    section: '',
    chains: {},
    values: {},
    phase: /** @type {const} */ ('killed'),
    kept,
    clock: session.clock,
    calls: session.calls,
  };
  return [ended, [note('killed', '', { bytes: new TextEncoder().encode(kept).length })]];
}

/** The person comes back to an app that was ended. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function restore(app, session) {
  const [back, notes] = comeBack(app, session, SURVIVES_KILL, started);
  return [back, [note('restored'), ...notes]];
}

/** The app is started cold. @param {WiredApp} app @param {Session} session @returns {Taken} */
export function relaunch(app, session) {
  const last = session.phase === 'killed' ? session : unheard(app, session);
  const kept = session.phase === 'killed' ? session.kept : savedState(app, last, SURVIVES_COLD);
  const [back, notes] = comeBack(app, { ...last, kept }, SURVIVES_COLD, started);
  return [back, [note('relaunched'), ...notes]];
}

export { fitting };
