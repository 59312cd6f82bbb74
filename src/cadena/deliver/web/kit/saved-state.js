// What outlives the process, as plain JSON (rule 6).

import { fittingDivided } from './dividing.js';
import { NO_VIEW } from './session.js';
import { NO_ANSWER } from './unsent.js';
import { LIST } from './values.js';

/** The view state of a screen with only the pieces whose lifetime is kept. @param {WiredApp} app @param {string} screen @param {View} view @param {(lifetime: string) => boolean} keeps @returns {View} */
export function pared(app, screen, view, keeps) {
  if (!app.screens.has(screen)) return NO_VIEW;
  if (!keeps(app.lifetime(screen, 'scroll')))
    view = { ...view, scroll: null, marker: {}, last: {}, across: {}, turned: {} };
  if (!keeps(app.lifetime(screen, 'search')))
    view = { ...view, search: {}, sort: {}, choice: {}, groups: {}, picked: {} };
  if (!keeps(app.lifetime(screen, 'page'))) view = { ...view, page: '' };
  if (!keeps(app.lifetime(screen, 'draft')) && Object.keys(view.draft).length)
    view = { ...view, draft: {}, tried: false };
  return view;
}

/** Whether there is nothing in a view. @param {View} view */
export const isBlank = (view) => JSON.stringify(view) === JSON.stringify(NO_VIEW);

/** What would outlive the process, as JSON text. @param {WiredApp} app @param {Session} session @param {Set<string>} survives */
export function savedState(app, session, survives) {
  const chains = Object.values(session.chains)
    .filter(
      (chain) =>
        app.sections.has(chain.section) &&
        survives.has(app.sections.get(chain.section).keep ?? 'saved'),
    )
    .map((chain) => ({
      section: chain.section,
      entries: chain.entries.map((entry) => ({
        ...spare({
          screen: entry.screen,
          arguments: numbered(entry.arguments, (name) => parameterType(app, entry.screen, name)),
          opened: entry.opened === 'push' ? '' : entry.opened,
          by: entry.by === 'hand' ? '' : entry.by,
          row: entry.row && {
            part: entry.row.part,
            key: entry.row.key,
            ...spare({ of: entry.row.of, action: entry.row.action }),
          },
          missing: isMissing(app, session, entry),
          opened_for: entry.openedFor && {
            on: entry.openedFor.on,
            part: entry.openedFor.part,
            ...spare({ of: entry.openedFor.of }),
          },
        }),
        view: spareView(
          app,
          entry.screen,
          pared(app, entry.screen, entry.view, (lifetime) => survives.has(lifetime)),
        ),
      })),
      ...(chain.asked && { asked: true }),
    }));
  const values = [...app.values.values()]
    .filter((each) => Object.hasOwn(session.values, each.id) && survives.has(each.keep ?? 'saved'))
    .map((each) => [each.id, decimal(session.values[each.id], each.type)]);
  const stored = session.stored.map((each) => ({
    section: each.section,
    screen: each.screen,
    arguments: numbered(each.arguments, (name) => parameterType(app, each.screen, name)),
    view: spareView(app, each.screen, each.view),
  }));
  const divided = Object.fromEntries(
    Object.entries(fittingDivided(app, session.divided, survives)).map(([arrangement, sizes]) => [
      arrangement,
      sizes.map((size) => (size === null ? null : new Decimal(size))),
    ]),
  );
  return written(
    spare({
      section: session.section,
      chains,
      values: Object.fromEntries(values),
      stored,
      divided,
      writes: session.writes
        .filter((write) => outlives(app, write, survives))
        .map((write) => savedWrite(app, write)),
    }),
  );
}

/** What was typed lives as a draft does; an act that was not sent is kept whatever happens. @param {WiredApp} app @param {any} write @param {Set<string>} survives */
export function outlives(app, write, survives) {
  const screen = write?.form?.screen;
  return !write?.form || (app.screens.has(screen) && survives.has(app.lifetime(screen, 'draft')));
}

/** What is to be written, as it is kept: of what was under way nobody will hear an answer. @param {WiredApp} app @param {Write} write */
function savedWrite(app, write) {
  const types = app.asRead.get(write.source)?.types;
  const kindOf = (/** @type {string} */ name) => types?.get(name);
  const { form } = write;
  let { state, due, why } = write;
  if (state === 'sending') [state, due, why] = ['unsent', null, NO_ANSWER];
  else if (state === 'later') [state, due] = ['queued', null];
  return spare({
    ...write,
    call: write.call || null,
    fields: numbered(write.fields, kindOf),
    was: numbered(write.was, kindOf),
    state,
    due,
    away: null,
    form: form && {
      section: form.section,
      screen: form.screen,
      ...spare({
        arguments: numbered(form.arguments, (name) => parameterType(app, form.screen, name)),
        draft: numbered(form.draft, kindOf),
      }),
    },
    why,
    theirs: numbered(write.theirs, kindOf),
  });
}

/** @param {WiredApp} app @param {string} screen @param {string} name */
const parameterType = (app, screen, name) =>
  app.screens.get(screen)?.parameters?.find((/** @type {any} */ each) => each.name === name)?.type;

/** Without what is not said: nothing, no, and the empty. @param {Record<string, any>} thing */
function spare(thing) {
  return Object.fromEntries(
    Object.entries(thing).filter(
      ([, value]) =>
        value !== null &&
        value !== '' &&
        value !== false &&
        value !== undefined &&
        !(
          typeof value === 'object' &&
          !(value instanceof Decimal) &&
          Object.keys(value).length === 0
        ),
    ),
  );
}

/** @param {WiredApp} app @param {string} screen @param {View} view */
function spareView(app, screen, view) {
  const anchors = (/** @type {Record<string, any>} */ some) =>
    Object.fromEntries(Object.entries(some).map(([part, anchor]) => [part, spareAnchor(anchor)]));
  const source = app.screens.get(screen)?.source;
  const types = app.asRead.get(source)?.types;
  return spare({
    ...view,
    scroll: view.scroll && spareAnchor(view.scroll),
    across: anchors(view.across),
    turned: anchors(view.turned),
    sort: Object.fromEntries(Object.entries(view.sort).map(([part, by]) => [part, by.map(spare)])),
    draft: numbered(view.draft, (name) => types?.get(name)),
  });
}

/** @param {Anchor} anchor */
function spareAnchor({ part, key, above, index, seen }) {
  return {
    part,
    key,
    above: new Decimal(above),
    index,
    ...(seen && { seen: seen.map((each) => new Decimal(each)) }),
  };
}

/** A number that is written with its point, as every number that may have a fraction is. */
class Decimal {
  /** @param {number} value */
  constructor(value) {
    this.value = value;
  }
}

/** @param {any} value @param {string | undefined} kind @returns {any} */
function decimal(value, kind) {
  if (Array.isArray(value)) return value.map((each) => decimal(each, kind?.slice(LIST.length)));
  return kind === 'number' && typeof value === 'number' ? new Decimal(value) : value;
}

/** @param {Record<string, any>} things @param {(name: string) => string | undefined} kindOf */
const numbered = (things, kindOf) =>
  Object.fromEntries(
    Object.entries(things).map(([name, value]) => [name, decimal(value, kindOf(name))]),
  );

/** @param {any} thing @returns {string} */
function written(thing) {
  if (thing instanceof Decimal)
    return Number.isInteger(thing.value) ? `${thing.value}.0` : String(thing.value);
  if (Array.isArray(thing)) return `[${thing.map(written).join(',')}]`;
  if (thing === null || typeof thing !== 'object') return JSON.stringify(thing);
  return `{${Object.entries(thing)
    .map(([name, value]) => `${JSON.stringify(name)}:${written(value)}`)
    .join(',')}}`;
}

/** Whether a screen that goes with its record is about one that is not there (8). @param {WiredApp} app @param {Session} session @param {Entry} entry */
export function isMissing(app, session, entry) {
  const screen = app.screens.get(entry.screen);
  if (
    screen?.kind !== 'detail' ||
    (screen.whenGone ?? 'say so') === 'say so' ||
    app.late.has(screen.source)
  )
    return false;
  return (app.records(session, screen.source)?.rowOf(app.keyOf(entry)) ?? null) === null;
}
