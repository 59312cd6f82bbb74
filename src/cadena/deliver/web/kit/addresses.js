// Addresses: what an open screen tells, and the chain that visiting one builds (rule 11).

import { started } from './app-lifecycle.js';
import { Refused, note, unlessRefused } from './notes.js';
import { fillIn, openLink } from './opening.js';
import { entriesOf, rowRef, withChain, withEntries } from './session.js';
import { pathOf, read, told } from './templates.js';
import { LIST, Unfit, carry, held, same } from './values.js';

/** The address of the deepest open screen that has one, or null. @param {WiredApp} app @param {Session} session @returns {string | null} */
export function addressNow(app, session) {
  const entries = entriesOf(session);
  for (let index = entries.length - 1; index >= 0; index -= 1) {
    const { screen, arguments: args } = entries[index];
    const section = index === 0 ? app.sections.get(session.section)?.address : '';
    const template = section || app.screens.get(screen)?.address;
    const address = template ? told(template, args) : null;
    if (address !== null) return address;
  }
  return null;
}

/** Build the chain that a person would have made to what an address names. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function visit(app, session, event) {
  const address = pathOf(event.address);
  let why = note('refused', 'no template');
  for (const { target, refused } of named(app, session, address)) {
    if (refused) {
      why = refused;
      continue;
    }
    const built = builtTo(app, session, target);
    if (built) {
      const screens = entriesOf(built).map((entry) => entry.screen);
      return [{ ...built, slid: false, focus: -1 }, [note('visited', '', { address, screens })]];
    }
    why = note('refused', 'no way', { screen: target.screen });
  }
  const fresh = started(app, session.window);
  const section = app.sections.has(app.app.fallback) ? app.app.fallback : fresh.section;
  if (!section) throw new Refused('no fallback', 'fallback', { address, why });
  const after = { ...withChain(session, fresh.chains[section]), section, slid: false, focus: -1 };
  return [after, [note('fallback', '', { address, why, section })]];
}

/** What an address could name, in the order of templates; or why it names nothing. @param {WiredApp} app @param {Session} session @param {string} address */
function named(app, session, address) {
  const sections = (app.app.sections ?? []).map((/** @type {any} */ each) => ({
    template: each.address,
    name: each.root,
    section: each.id,
  }));
  const screens = app.app.screens.map((/** @type {any} */ each) => ({
    template: each.address,
    name: each.id,
    section: '',
  }));
  /** @param {{template: string, name: string, section: string}} each @returns {{target?: any, refused?: Note}[]} */
  const namedBy = ({ template, name, section }) => {
    const values = template ? read(template, address) : null;
    const screen = app.screens.get(name);
    if (!values || !screen) return [];
    return unlessRefused(
      () => {
        const args = typed(screen, values);
        let record = null;
        if (screen.kind === 'detail') {
          const key = held(args, screen.key) ?? null;
          record = key === null ? null : (app.records(session, screen.source)?.byKey(key) ?? null);
          if (!record) throw new Refused('no such record', '', { source: screen.source, key });
        }
        return [{ target: { screen: name, section, arguments: args, record } }];
      },
      (refused) => [{ refused: refused.note }],
    );
  };
  return [...sections, ...screens].flatMap(namedBy);
}

/** The arguments that the words of an address are, by the types of the parameters. @param {any} screen @param {Record<string, string>} values */
function typed(screen, values) {
  /** @type {Record<string, any>} */
  const made = {};
  for (const parameter of screen.parameters ?? []) {
    /** @type {any} */
    let came = held(values, parameter.name) ?? null;
    const where = `screens[${screen.id}]`;
    const kind = parameter.type ?? 'text';
    if (came !== null && kind.startsWith(LIST)) {
      try {
        came = came
          .split(',')
          .map((/** @type {string} */ each) => carry(each, kind.slice(LIST.length), true));
      } catch (unfit) {
        if (!(unfit instanceof Unfit)) throw unfit;
        throw new Refused('argument unfit', where, {
          who: ['address'],
          parameter: parameter.name,
          came: unfit.came,
          wanted: unfit.wanted,
        });
      }
    }
    const value = fillIn(parameter, came, ['address'], where, true);
    if (value !== null) made[parameter.name] = value;
  }
  return made;
}

/** The session with the chain to a target, by the shortest path of links; null without one. @param {WiredApp} app @param {Session} session @param {any} target @returns {Session | null} */
function builtTo(app, session, target) {
  const fresh = started(app, session.window, session.changes);
  const names = target.section ? [target.section] : [...app.sections.keys()];
  const roots = names
    .filter((name) => fresh.chains[name]?.entries.length)
    .map((name) => ({ name, root: fresh.chains[name].entries[0] }));
  const isAtRoot = roots.some(({ root }) => root.screen === target.screen);
  /** @type {WayPlace[]} */
  const waiting = [
    { screen: target.screen, arguments: target.arguments, record: target.record, steps: [] },
  ];
  const known = new Set([JSON.stringify([target.screen, ''])]);
  for (let place = waiting.shift(); place; place = waiting.shift()) {
    for (const { name, root } of roots) {
      if (root.screen !== place.screen) continue;
      const entry = place.steps.length ? root : { ...root, arguments: place.arguments };
      const made = walked(app, session, name, entry, place.steps);
      if (made) return made;
    }
    if (target.section && !place.steps.length && isAtRoot) continue;
    for (const before of placesBefore(app, session, place)) {
      // Each screen is gone back from once for each link that leads on from it.
      const key = JSON.stringify([before.screen, before.steps[0].link.id]);
      if (!known.has(key)) {
        known.add(key);
        waiting.push(before);
      }
    }
  }
  return null;
}

/** The places from which a link leads to this one. @param {WiredApp} app @param {Session} session @param {WayPlace} place @returns {WayPlace[]} */
function placesBefore(app, session, place) {
  return (app.app.links ?? []).flatMap((/** @type {any} */ link) => {
    const on = link.trigger.on ?? 'row';
    if (link.to !== place.screen || (on !== 'row' && on !== 'button')) return [];
    const parent = parentOf(app, session, link, place.arguments, place.record);
    if (!parent) return [];
    const step = { link, arguments: place.arguments, row: parent.row };
    return [
      {
        screen: link.trigger.screen,
        arguments: parent.arguments,
        record: parent.record,
        steps: [step, ...place.steps],
      },
    ];
  });
}

/** What the screen that a link starts on must have been opened with, and from which row; or null. @param {WiredApp} app @param {Session} session @param {any} link @param {Record<string, any>} args @param {Found | null} record */
function parentOf(app, session, link, args, record) {
  const parent = app.screens.get(link.trigger.screen);
  if (!parent) return null;
  /** @type {Record<string, any>} */
  const made = {};
  /** @type {RowRef | null} */
  let row = null;
  if ((link.trigger.on ?? 'row') === 'row') {
    const part = link.trigger.part ?? '';
    const listing = app.listing(parent.id, part);
    const records = listing && app.records(session, listing.source);
    const byKey = (link.arguments ?? []).find(
      (/** @type {any} */ each) => each.from === 'field' && each.field === records?.source.key,
    );
    const key = byKey ? held(args, byKey.parameter) : undefined;
    if (!listing || !records || key === undefined || Array.isArray(key)) return null;
    const found = records.byKey(key);
    if (!found) return null;
    row = rowRef(part, key);
    for (const condition of listing.where ?? []) {
      const isGiven =
        condition.argument &&
        (condition.test ?? 'is') === 'is' &&
        records.types.has(condition.field);
      if (isGiven) made[condition.argument] = found.value(condition.field);
    }
  }
  for (const each of link.arguments ?? []) {
    const given = held(args, each.parameter) ?? null;
    if (each.from === 'argument' && given !== null) made[each.argument] = given;
    if (each.from === 'constant' && !same(given, each.constant)) return null;
    if (each.from === 'field' && !row && parent.kind === 'detail' && given !== null) {
      if (each.field === app.asRead.get(parent.source)?.source.key) made[parent.key] = given;
    }
  }
  return withArguments(app, session, parent, made, row, record);
}

/** The arguments of a screen on the way, where all that it requires is known; else null. @param {WiredApp} app @param {Session} session @param {any} screen @param {Record<string, any>} made @param {RowRef | null} row @param {Found | null} record */
function withArguments(app, session, screen, made, row, record) {
  /** @type {Record<string, any> | null} */
  const args = unlessRefused(
    () =>
      Object.fromEntries(
        (screen.parameters ?? [])
          .map((/** @type {any} */ each) => [
            each.name,
            fillIn(each, held(made, each.name), ['address'], screen.id),
          ])
          .filter((/** @type {[string, any]} */ [, value]) => value !== null),
      ),
    () => null,
  );
  if (!args) return null;
  let about = null;
  if (screen.kind !== 'list') {
    const key = held(args, screen.key) ?? null;
    const records = app.records(session, screen.source);
    if (records && key !== null && !Array.isArray(key)) {
      about = records.byKey(key);
      if (!about) return null;
    }
  }
  return { arguments: args, row, record: about };
}

/** Follow the links of a path, as a person would; null where one does not lead there. @param {WiredApp} app @param {Session} session @param {string} section @param {Entry} root @param {WayStep[]} steps @returns {Session | null} */
function walked(app, session, section, root, steps) {
  let made = { ...withChain(session, { section, entries: [root], asked: false }), section };
  for (const step of steps) {
    const index = entriesOf(made).length - 1;
    const before = made;
    const after = unlessRefused(
      () => openLink(app, before, index, step.link, step.row)[0],
      () => null,
    );
    const last = after && entriesOf(after)[entriesOf(after).length - 1];
    if (!after || !last || last.screen !== step.link.to || !same(last.arguments, step.arguments))
      return null;
    made = after;
  }
  return withEntries(
    made,
    entriesOf(made).map((entry) => ({ ...entry, by: 'address' })),
  );
}
