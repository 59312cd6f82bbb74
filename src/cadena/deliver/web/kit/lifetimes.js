// How long state lives: rebuilding, ending and coming back (rules 5.4 and 6).

import { withAsker } from './asking.js';
import { displayOf } from './display.js';
import { fittingDivided } from './dividing.js';
import { Refused, note, unlessRefused } from './notes.js';
import { fillIn, fitting } from './opening.js';
import { withoutGonePicks } from './picked.js';
import { isBlank, isMissing, outlives, pared } from './saved-state.js';
import { LAYERS, NO_VIEW, newEntry, ownerOf, withChain, withEachEntry } from './session.js';
import { newWrite, takes } from './unsent.js';
import { held } from './values.js';

export const SURVIVES_KILL = new Set(['saved', 'stored']);
export const SURVIVES_COLD = new Set(['stored']);
/** @type {('scroll' | 'search' | 'page' | 'draft')[]} */
const PIECES = ['scroll', 'search', 'page', 'draft'];

/** Make every screen anew: what lives only as long as its view is gone (5.4). @param {WiredApp} app @param {Session} session */
export const rebuild = (app, session) => withoutViews(app, session, () => true);

/** What lives only as long as its view goes when its screen goes off display. @param {WiredApp} app @param {Session} session */
export function offDisplay(app, session) {
  const shown = new Set(displayOf(app, session).shown.map((pane) => pane.entry));
  return withoutViews(
    app,
    session,
    (chain, index) => chain.section !== session.section || !shown.has(index),
  );
}

/** @param {WiredApp} app @param {Session} session @param {(chain: Chain, index: number) => boolean} loses */
function withoutViews(app, session, loses) {
  return withEachEntry(session, (chain, index, entry) => {
    const hasSome = PIECES.some((piece) => app.lifetime(entry.screen, piece) === 'view');
    if (!hasSome || !loses(chain, index)) return entry;
    return {
      ...entry,
      view: pared(app, entry.screen, entry.view, (lifetime) => lifetime !== 'view'),
    };
  });
}

/** Keep what is to be stored, by section, screen and arguments (6). @param {WiredApp} app @param {Session} session @returns {Session} */
export function store(app, session) {
  const hasStored = [...app.screens.keys()].some((screen) =>
    PIECES.some((piece) => app.lifetime(screen, piece) === 'stored'),
  );
  if (!hasStored) return session;
  const kept = new Map(session.stored.map((each) => [identity(each), each]));
  for (const chain of Object.values(session.chains)) {
    for (const entry of chain.entries) {
      const view = pared(app, entry.screen, entry.view, (lifetime) => lifetime === 'stored');
      const made = {
        section: chain.section,
        screen: entry.screen,
        arguments: entry.arguments,
        view,
      };
      if (!isBlank(view) || kept.has(identity(made))) {
        kept.delete(identity(made));
        kept.set(identity(made), made);
      }
    }
  }
  const stored = [...kept.values()];
  const most = app.platform.storedMost;
  return { ...session, stored: most === undefined ? stored : stored.slice(-most) };
}

/** What is stored without the drafts that were just discarded, or saved (4.2 and 10). @param {Session} before @param {Session} after @returns {Session} */
export function withoutDrafts(before, after) {
  if (!after.stored.length) return after;
  const there = drafts(after);
  const gone = new Set([...drafts(before)].filter((each) => !there.has(each)));
  const stored = after.stored.map((each) =>
    gone.has(identity(each)) ? { ...each, view: { ...each.view, draft: {}, tried: false } } : each,
  );
  return { ...after, stored: stored.filter((each) => !isBlank(each.view)) };
}

/** Of which screens something is typed. @param {Session} session */
const drafts = (session) =>
  new Set(
    Object.values(session.chains).flatMap((chain) =>
      chain.entries
        .filter((entry) => Object.keys(entry.view.draft).length)
        .map((entry) =>
          identity({ section: chain.section, screen: entry.screen, arguments: entry.arguments }),
        ),
    ),
  );

/** @param {{section: string, screen: string, arguments: Record<string, any>}} stored */
const identity = (stored) =>
  JSON.stringify([
    stored.section,
    stored.screen,
    Object.entries(stored.arguments).sort(([a], [b]) => (a < b ? -1 : 1)),
  ]);

/** Start the app again from what was kept of it, trusting nothing in it. @param {WiredApp} app @param {Session} session @param {Set<string>} survives @param {(app: WiredApp, window: any, changes: any) => Session} started @returns {Taken} */
export function comeBack(app, session, survives, started) {
  const fresh = {
    ...started(app, session.window, session.changes),
    clock: session.clock,
    calls: session.calls,
  };
  const saved = readSaved(session.kept);
  if (!saved)
    return [fresh, [note('dropped', 'all', { why: new Refused('kept state unreadable').note })]];
  /** @type {Note[]} */
  const notes = [];
  let back = { ...fresh, stored: storedOf(app, saved) };
  for (const chain of listOf(saved.chains)) {
    const section = app.sections.get(chain?.section);
    if (!section) {
      notes.push(note('dropped', 'section', { section: chain?.section ?? '' }));
    } else if (survives.has(section.keep ?? 'saved')) {
      const entries = doubted(app, fresh, chain, survives, notes);
      if (entries.length)
        back = withChain(back, { section: section.id, entries, asked: chain.asked === true });
    }
  }
  const values = { ...back.values };
  for (const each of app.values.values()) {
    const came = held(saved.values ?? {}, each.id);
    if (came === undefined || !survives.has(each.keep ?? 'saved')) continue;
    const value = fitting(each.type ?? 'text', came);
    if (value === null) notes.push(note('dropped', 'value', { value: each.id }));
    else values[each.id] = value;
  }
  const section =
    app.sections.has(saved.section) && survives.has('saved') ? saved.section : back.section;
  const divided = fittingDivided(app, saved.divided ?? {}, survives);
  const kept = listOf(saved.writes).filter((each) => outlives(app, each, survives));
  const writes = fittingWrites(app, kept);
  const whole = { ...back, section, values, divided, writes };
  return [withoutGonePicks(app, withStoredViews(whole)), notes];
}

/** What was not sent, to the sources that are still written to and from forms that there are. @param {WiredApp} app @param {any} writes @returns {Write[]} */
function fittingWrites(app, writes) {
  return listOf(writes)
    .filter(
      (/** @type {any} */ each) =>
        Number.isInteger(each?.number) &&
        takes(app, each.source, each.kind) &&
        (!each.form || app.screens.has(each.form.screen)),
    )
    .map((/** @type {any} */ each) => {
      const form = each.form ? { arguments: {}, draft: {}, ...each.form } : null;
      return newWrite({ ...each, form });
    });
}

/** What was saved, or null for a text that is no JSON object. @param {string} text @returns {any} */
function readSaved(text) {
  try {
    const saved = JSON.parse(text || '{}');
    return typeof saved === 'object' && !Array.isArray(saved) ? saved : null;
  } catch {
    return null;
  }
}

/** @param {any} some @returns {any[]} */
const listOf = (some) => (Array.isArray(some) ? some : []);

/** @param {WiredApp} app @param {any} saved */
function storedOf(app, saved) {
  return listOf(saved.stored)
    .filter((each) => app.screens.has(each?.screen) && app.sections.has(each?.section))
    .map((each) => ({
      section: each.section,
      screen: each.screen,
      arguments: each.arguments ?? {},
      view: pared(
        app,
        each.screen,
        sound(app, each.screen, each.view),
        (lifetime) => lifetime === 'stored',
      ),
    }));
}

/** Give entries that have no view state of their own what was stored of them. @param {Session} session */
function withStoredViews(session) {
  const views = new Map(session.stored.map((each) => [identity(each), each.view]));
  return withEachEntry(session, (chain, _, entry) => {
    const view = views.get(
      identity({ section: chain.section, screen: entry.screen, arguments: entry.arguments }),
    );
    return view && isBlank(entry.view) ? { ...entry, view } : entry;
  });
}

/** The entries of a chain as it was saved, up to the first that can no longer be opened, or whose record has gone meanwhile (8). @param {WiredApp} app @param {Session} session @param {any} chain @param {Set<string>} survives @param {Note[]} notes */
function doubted(app, session, chain, survives, notes) {
  /** @type {Entry[]} */
  const entries = [];
  const all = listOf(chain.entries);
  for (const [index, saved] of all.entries()) {
    const left = { section: chain.section, count: all.length - index, all: all.length };
    const entry = unlessRefused(
      () => doubtedEntry(app, saved, index, survives),
      ({ note: why }) => {
        notes.push(note('dropped', 'entries', { ...left, why }, why.where));
        return null;
      },
    );
    if (!entry) break;
    if (index && !saved.missing && isMissing(app, session, entry)) {
      notes.push(
        note('closed', 'gone meanwhile', { ...left, screen: entry.screen, key: app.keyOf(entry) }),
      );
      break;
    }
    entries.push(withAsker(app, entries, entry));
  }
  return entries;
}

/** An entry as it was saved; it is refused where it can no longer be opened so. @param {WiredApp} app @param {any} saved @param {number} index @param {Set<string>} survives */
function doubtedEntry(app, saved, index, survives) {
  if (typeof saved?.screen !== 'string') throw new Refused('entry unreadable', '', { error: '' });
  const screen = app.screens.get(saved.screen);
  if (!screen) throw new Refused('screen is gone', '', { screen: saved.screen ?? '' });
  const opened = saved.opened ?? 'push';
  if (
    (opened === 'root') !== (index === 0) ||
    !['root', 'push', 'beside', ...LAYERS].includes(opened)
  ) {
    throw new Refused('opened oddly', '', { screen: saved.screen, how: opened, depth: index });
  }
  const came = saved.arguments ?? {};
  const names = (screen.parameters ?? []).map((/** @type {any} */ each) => each.name);
  const extra = Object.keys(came)
    .filter((name) => !names.includes(name))
    .sort()[0];
  if (extra !== undefined)
    throw new Refused('parameter is gone', '', { screen: saved.screen, parameter: extra });
  /** @type {Record<string, any>} */
  const args = {};
  for (const parameter of screen.parameters ?? []) {
    const value = fillIn(
      parameter,
      held(came, parameter.name),
      ['saved', saved.screen],
      `screens[${saved.screen}]`,
    );
    if (value !== null) args[parameter.name] = value;
  }
  const by = ['hand', 'rule', 'address'].includes(saved.by) ? saved.by : 'hand';
  const view = pared(app, screen.id, sound(app, screen.id, saved.view), (lifetime) =>
    survives.has(lifetime),
  );
  let row = saved.row ? { of: null, action: '', ...saved.row } : null;
  if (row && !(ownerOf(row, index) >= 0 && ownerOf(row, index) < index)) row = null;
  const asked = saved.opened_for ? { of: null, ...saved.opened_for } : null;
  const owner = asked ? ownerOf(asked, index) : -1;
  const openedFor = owner >= 0 && owner < index ? asked : null;
  return newEntry(screen.id, args, { opened, by, row, view, openedFor });
}

/** View state with only the parts that the screen still has, and anchors that can be. @param {WiredApp} app @param {string} name @param {any} came @returns {View} */
function sound(app, name, came) {
  const view = { ...NO_VIEW, ...(came ?? {}) };
  const parts = app.listings.get(name) ?? new Map();
  const pages = app.pages(name).map((page) => page.id);
  const fields = (app.screens.get(name)?.fields ?? []).map((/** @type {any} */ each) => each.field);
  const kept = (
    /** @type {any} */ some,
    /** @type {(name: string, value: any) => boolean} */ keeps,
  ) => Object.fromEntries(Object.entries(some ?? {}).filter(([part, value]) => keeps(part, value)));
  const isPart = (/** @type {string} */ part) => parts.has(part);
  const anchors = (/** @type {any} */ some, /** @type {(part: string) => boolean} */ isThere) =>
    Object.fromEntries(
      Object.entries(kept(some, (part, each) => isThere(part) && isSound(each))).map(
        ([part, each]) => [part, anchorOf(each)],
      ),
    );
  const sortable = (/** @type {string} */ part, /** @type {any} */ by) =>
    isPart(part) && listOf(by).every((each) => app.canSort(parts.get(part), each.field));
  return {
    scroll: isSound(view.scroll) ? anchorOf(view.scroll) : null,
    search: kept(view.search, isPart),
    sort: kept(view.sort, sortable),
    marker: kept(view.marker, isPart),
    last: kept(view.last, isPart),
    across: anchors(view.across, isPart),
    choice: kept(view.choice, isPart),
    page: pages.includes(view.page) ? view.page : '',
    turned: anchors(view.turned, (part) => pages.includes(part)),
    draft: kept(view.draft, (field) => fields.includes(field)),
    tried: view.tried === true,
    groups: kept(view.groups, isPart),
    picked: kept(view.picked, (part, keys) => app.isSeveral(name, part) && listOf(keys).length > 0),
  };
}

/** @param {any} anchor */
const isSound = (anchor) => Boolean(anchor) && anchor.index >= 0 && Math.abs(anchor.above) < 1e9;

/** @param {any} anchor */
const anchorOf = ({ part, key = null, above, index, seen = null }) => ({
  part,
  key,
  above,
  index,
  seen,
});
