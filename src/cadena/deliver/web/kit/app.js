// A wired app ready to run: its description with its records, and what is worth finding once.

import { Listed, hasClosingGroups, query } from './query.js';
import { Records } from './records.js';
import { References } from './references.js';
import { comparedWith, passes } from './conditions.js';
import { NARROW } from './sizes.js';
import { NOT_LOADED } from './session.js';
import { Sayings } from './say.js';
import { columnsShown, sortsBy } from './table-columns.js';
import { takesOf } from './takes.js';
import { held } from './values.js';
import { saidIn } from './words.js';

const REMEMBERED = 256;
export const ITEM = '*';

/** @param {any[]} things @returns {Map<string, any>} */
const byId = (things = []) => new Map(things.map((each) => [each.id, each]));

/** Whether a link is for rows of a kind; what has no row is followed whatever it says. @param {any} link */
const isByKind = (link) =>
  Boolean(link.when) && ['row', 'action'].includes(link.trigger.on ?? 'row');

/** Every list of a screen, by its part; that of a list screen is the empty text, and the last. @param {any} screen @returns {Map<string, any>} */
function listingsOf(screen) {
  if (screen.kind === 'form') return new Map();
  const blocks = screen.kind === 'list' ? (screen.above ?? []) : (screen.blocks ?? []);
  const lists = blocks.filter(
    (/** @type {any} */ block) => screen.kind === 'list' || block.block === 'list',
  );
  const found = new Map(lists.map((/** @type {any} */ block) => [block.id, block.rows]));
  if (screen.kind === 'list') {
    found.delete('');
    found.set('', screen.rows);
  }
  return found;
}

/** The query parameters that ask for an order; none where the service cannot be asked for it. @param {any} service @param {any[] | null} sort @returns {[string, string][]} */
export function sortAsked(service, sort) {
  const first = sort?.[0];
  if (!service.sort || !first) return [];
  const value = first.descending && !service.order ? `-${first.field}` : first.field;
  if (service.sorts?.length && !service.sorts.includes(value)) return [];
  const [upwards, downwards] = service.orderWords ?? ['asc', 'desc'];
  return service.order
    ? [
        [service.sort, value],
        [service.order, first.descending ? downwards : upwards],
      ]
    : [[service.sort, value]];
}

/** What the rules run on. It never changes; it only remembers. */
export class WiredApp {
  /**
   * @param {any} app what the modules of the app say
   * @param {Record<string, any[]>} records those of each source, as read
   */
  constructor(app, records) {
    this.app = app;
    this.screens = byId(app.screens);
    this.sections = byId(
      (app.sections ?? []).filter((/** @type {any} */ each) => this.screens.has(each.root)),
    );
    this.values = byId(app.values);
    this.sources = byId(app.sources);
    this.references = new References(this.sources);
    this.platform = app.platform ?? {};
    this.hasNeighbours = [...this.screens.values()].some((each) => each.neighbours);
    /** @type {Words} */
    this.language = app.words ?? { language: 'en', said: {} };
    this.arrangements = app.arrangements?.length ? app.arrangements : [{ id: 'one' }];
    /** @type {Map<string, Set<string>>} How sources are written to. */
    this.writes = new Map(
      [...this.sources]
        .map(([name, each]) => /** @type {[string, Set<string>]} */ ([name, takesOf(each)]))
        .filter(([, kinds]) => kinds.size),
    );
    this.late = new Map([...this.sources].filter(([, each]) => (each.served ?? 'file') !== 'file'));
    /** @type {Map<string, any>} */
    this.links = new Map();
    /** @type {Map<string, any[]>} The links that are for rows of a kind (2.7). */
    this.kinds = new Map();
    // Of some by kind, the one that is for all other rows stands for them all, else the first.
    const links = app.links ?? [];
    for (const link of [
      ...links.filter((/** @type {any} */ each) => !isByKind(each)),
      ...links.filter(isByKind),
    ]) {
      const { screen, on = 'row', part = '' } = link.trigger;
      const at = this.trigger(screen, on, part);
      if (!this.links.has(at)) this.links.set(at, link);
      if (isByKind(link)) this.kinds.set(at, [...(this.kinds.get(at) ?? []), link]);
    }
    /** @type {Map<string, Map<string, any>>} */
    this.listings = new Map(
      app.screens.map((/** @type {any} */ each) => [each.id, listingsOf(each)]),
    );
    /** @type {Map<string, Records>} */
    this.asRead = new Map();
    for (const source of app.sources ?? []) {
      const types = new Map(
        (source.fields ?? []).map((/** @type {any} */ each) => [each.name, each.type ?? 'text']),
      );
      const rows = source.served === 'service' ? [] : (held(records, source.id) ?? []);
      this.asRead.set(source.id, new Records(source, types, rows));
    }
    this.sayings = new Map(
      [...this.sources].map(([name, source]) => [
        name,
        new Sayings(
          source,
          app.locale ?? '',
          (text) => this.words(text),
          (path) => this.references.fieldNamed(name, path),
          (field) => this.references.labelPath(name, field),
        ),
      ]),
    );
    /** @type {WeakMap<object, Records>} */
    this.changed = new WeakMap();
    /** @type {Map<string, any>} */
    this.remembered = new Map();
  }

  /** @param {string} screen @param {string} on @param {string} part */
  trigger(screen, on, part) {
    return JSON.stringify([screen, on, part]);
  }

  /** The link that starts from a trigger, or null. @param {string} screen @param {string} on @param {string} part */
  link(screen, on, part) {
    return this.links.get(this.trigger(screen, on, part)) ?? null;
  }

  /** All links that a trigger may follow. @param {string} screen @param {string} on @param {string} part @returns {any[]} */
  linksAt(screen, on, part) {
    const base = this.link(screen, on, part);
    const kinds = this.kinds.get(this.trigger(screen, on, part)) ?? [];
    return !base || kinds.includes(base) ? kinds : [...kinds, base];
  }

  /** The link that is followed from a row of this record (2.7), or null. @param {string} screen @param {string} on @param {string} part @param {Found | null} record */
  linkFor(screen, on, part, record) {
    const kinds = this.kinds.get(this.trigger(screen, on, part)) ?? [];
    const list = on === 'row' ? part : (this.action(screen, part)?.part ?? '');
    const types = this.asRead.get(this.listing(screen, list)?.source)?.types;
    const found = kinds.find(({ when: { field, test = 'is', constant = null } }) =>
      passes(record?.value(field) ?? null, test, constant, types?.get(field) ?? 'text'),
    );
    const rest = this.link(screen, on, part);
    return found ?? (kinds.includes(rest) ? null : rest);
  }

  /** @param {string} screen @param {string} part */
  listing(screen, part) {
    return this.listings.get(screen)?.get(part) ?? null;
  }

  /** The source whose records a field chooses among, or null: of one that answers late all its keys are not known. @param {string} source @param {string} field @returns {string | null} */
  chosenAmong(source, field) {
    const refers = this.references.refers(source, field);
    const to = refers && !refers.by ? this.sources.get(refers.to) : null;
    return to && !this.late.has(to.id) ? to.id : null;
  }

  /** Every button of a screen. @param {string} name @returns {any[]} */
  buttons(name) {
    const screen = this.screens.get(name);
    if (screen?.kind === 'list') return screen.buttons ?? [];
    const blocks = screen?.kind === 'detail' ? (screen.blocks ?? []) : [];
    return blocks.flatMap((/** @type {any} */ block) =>
      block.block === 'actions' ? block.buttons : [],
    );
  }

  /** A button by its name, or null: of several, the last. @param {string} screen @param {string} name */
  button(screen, name) {
    return this.buttons(screen).findLast((each) => each.id === name) ?? null;
  }

  /** A row action by its name, with the list that it is of, or null. @param {string} screen @param {string} name @returns {{part: string, button: any} | null} */
  action(screen, name) {
    let found = null;
    for (const [part, listing] of this.listings.get(screen) ?? []) {
      for (const button of listing.actions ?? []) if (button.id === name) found = { part, button };
    }
    return found;
  }

  /** The facts of a screen that open what they refer to (13). @param {string} name @returns {string[]} */
  facts(name) {
    const screen = this.screens.get(name);
    const blocks = screen?.kind === 'detail' ? (screen.blocks ?? []) : [];
    return blocks.flatMap((/** @type {any} */ block) =>
      block.block === 'facts'
        ? block.fields.filter((/** @type {string} */ each) => block.opens?.includes(each))
        : [],
    );
  }

  /** The facts of a screen for whose addresses the app is left (7.10). @param {string} name @returns {string[]} */
  leaving(name) {
    const screen = this.screens.get(name);
    const blocks = screen?.kind === 'detail' ? (screen.blocks ?? []) : [];
    return blocks.flatMap((/** @type {any} */ { block, fields, leaves = [] }) =>
      block === 'facts' ? leaves.filter((/** @type {string} */ each) => fields.includes(each)) : [],
    );
  }

  /** The fields of a form that open a list to be filled from (15). @param {string} name @returns {string[]} */
  fieldsOpening(name) {
    const fields = this.screens.get(name)?.fields ?? [];
    return fields
      .filter((/** @type {any} */ each) => each.opens)
      .map((/** @type {any} */ each) => each.field);
  }

  /** Whether several rows of a list can be picked (14). @param {string} screen @param {string} part */
  isSeveral(screen, part) {
    return (this.listing(screen, part)?.several ?? 'no') !== 'no';
  }

  /** The pages that a detail is split into. @param {string} name @returns {any[]} */
  pages(name) {
    const screen = this.screens.get(name);
    return screen?.kind === 'detail'
      ? (screen.blocks ?? []).filter((/** @type {any} */ block) => block.block === 'page')
      : [];
  }

  /** Whether a list is a strip whose choice filters another list of its screen (7.5). @param {string} screen @param {string} part */
  isChoosing(screen, part) {
    const lists = this.listings.get(screen) ?? new Map();
    return (
      lists.get(part)?.layout === 'strip' &&
      [...lists].some(
        ([other, listing]) =>
          other !== part && listing.where?.some((/** @type {any} */ each) => each.choice === part),
      )
    );
  }

  /** How the values of a source are said. @param {string} source */
  say(source) {
    return (
      this.sayings.get(source) ??
      new Sayings(
        {},
        '',
        (text) => this.words(text),
        () => null,
        () => null,
      )
    );
  }

  /**
   * What was made for a name not long ago, or what is made now.
   * @template T
   * @param {string} name
   * @param {() => T} make
   * @returns {T}
   */
  remember(name, make) {
    if (this.remembered.has(name)) return this.remembered.get(name);
    if (this.remembered.size >= REMEMBERED) this.remembered.clear();
    const made = make();
    this.remembered.set(name, made);
    return made;
  }

  /** The records of a source as they are now, or null. @param {Session} session @param {string} source @returns {Records | null} */
  records(session, source) {
    const base = this.asRead.get(source) ?? null;
    const changes = held(session.changes, source);
    if (base === null || !changes) return base;
    let made = this.changed.get(changes);
    if (!made) {
      made = base.withChanges(changes);
      this.changed.set(changes, made);
    }
    return made;
  }

  /** The records of a source with what their references lead to (13). @param {Session} session @param {string} source @returns {Records | null} */
  shown(session, source) {
    const records = this.records(session, source);
    const reached = records ? [...this.references.reached(source)] : [];
    if (!records || !reached.length) return records;
    const others = new Map(reached.map((name) => [name, this.records(session, name)]));
    const serials = [...others.values()].map((each) => each?.serial);
    return this.remember(
      `shown ${source} ${records.serial} ${serials}`,
      () =>
        new Records(records.source, records.types, records.rows, {
          far: (row, path) => this.references.led(others, source, row, path, 0),
          typeOf: (path) => this.references.typeAt(source, path),
          isOfOthers: (path) => this.references.fromOthers(source, path) !== null,
        }),
    );
  }

  /** The word and the order that a source which answers late is asked for. @param {any} source @param {Entry} entry @param {string} part @returns {[string, any[] | null]} */
  asks(source, entry, part) {
    const search = held(entry.view.search, part) ?? '';
    const sort = held(entry.view.sort, part) ?? null;
    if (source.served === 'stand-in') return [search, sort];
    const { service } = source;
    if (!service) return ['', null];
    // The order that the list has by itself is one that the service is asked for as well.
    const own = sort?.length ? sort : (this.listing(entry.screen, part)?.sort ?? []);
    return [service.search ? search : '', sortAsked(service, own).length ? own : null];
  }

  /** Whether a list can be sorted by a field, or by a path (13): one that the list itself sorts by, or offers, or that a head of its columns takes. @param {any} listing @param {string} field @returns {boolean} */
  canSort({ source, sort = [], orders = [], columns = [] }, field) {
    const types = this.asRead.get(source)?.types;
    if (!types || types.has(field)) return types !== undefined;
    const offered = [sort, ...orders.map((/** @type {any} */ each) => each.sort ?? [])]
      .flat()
      .map((each) => each.field)
      .concat(columns.map(sortsBy));
    return offered.includes(field) && this.references.typeAt(source, field) !== undefined;
  }

  /** The rows of a list on an open screen, or null. @param {Session} session @param {Entry} entry @param {string} part @returns {Listed | null} */
  listed(session, entry, part) {
    const listing = this.listing(entry.screen, part);
    const records = listing && this.shown(session, listing.source);
    if (!listing || !records) return null;
    let search = held(entry.view.search, part) ?? '';
    let sort = held(entry.view.sort, part) ?? null;
    let brought = -1;
    const late = this.late.get(listing.source);
    if (late) {
      const load = held(entry.loads, part) ?? NOT_LOADED;
      const [askedSearch, askedSort] = this.asks(late, entry, part);
      // What a service is not asked for is found in what has come of it.
      search = askedSearch === search ? load.search : search;
      sort = askedSort === sort ? load.sort : sort;
      brought = load.brought;
    }
    const of = { arguments: entry.arguments, values: session.values, choices: entry.view.choice };
    const conditions = [
      ...(listing.where ?? []),
      ...(listing.groups ?? []).flatMap((/** @type {any} */ group) => group.where ?? []),
    ];
    const used = conditions.map((each) => comparedWith(each, of.arguments, of.values, of.choices));
    const name = JSON.stringify([
      'rows',
      records.serial,
      entry.screen,
      part,
      used,
      search,
      sort,
      brought,
    ]);
    const listed = this.remember(name, () =>
      this.found(records, listing, { ...of, search, sort }, brought),
    );
    const turned = held(entry.view.groups, part) ?? [];
    if (!hasClosingGroups(listing) || search) return listed;
    return this.remember(`${name} ${JSON.stringify(turned)}`, () => listed.withTurned(turned));
  }

  /** @param {Records} records @param {any} listing @param {any} asked @param {number} brought */
  found(records, listing, asked, brought) {
    if (brought < 0) return new Listed(listing, query(records, listing, asked));
    const source = this.late.get(listing.source);
    const rows = query(this.asListed(records, source), listing, asked);
    if (source.served === 'service') return new Listed(listing, rows);
    const most = brought * (source.standIn?.page ?? 20);
    return new Listed(listing, rows.first(Math.min(rows.length, most)), rows);
  }

  /** The records as a list call brings them: some fields are left to the item call. @param {Records} records @param {any} source */
  asListed(records, source) {
    if (!source.listBrings?.length) return records;
    return this.remember(`brought ${records.serial}`, () => records.withOnly(source.listBrings));
  }

  /** How the rows of a list stack in a column so wide. @param {Listed} listed @param {number} width */
  stack(listed, width) {
    const { row, layout } = listed.listing;
    const sayings = this.say(listed.listing.source);
    const { records } = listed.rows;
    // Tiles of a grid depend on the width, plain rows only on whether they are narrow.
    const plain = width >= NARROW ? 0 : NARROW / 2;
    const inColumns = columnsShown(listed.listing, width).length > 0;
    const by = inColumns ? Infinity : layout === 'grid' ? width : plain;
    return listed.stack(by, (each) => sayings.isUnsaid(row?.subtitle ?? '', records.found(each)));
  }

  /** The source that a detail or form is about, or ''. @param {Entry} entry @returns {string} */
  sourceOf(entry) {
    return this.screens.get(entry.screen)?.source ?? '';
  }

  /** The key of the record that a detail or form is about, or null. @param {Entry} entry */
  keyOf(entry) {
    const screen = this.screens.get(entry.screen);
    return !screen || screen.kind === 'list' ? null : (held(entry.arguments, screen.key) ?? null);
  }

  /** The record that a detail or form is about, or null; what the list brought stands until the item call has. @param {Session} session @param {Entry} entry @returns {Found | null} */
  recordOf(session, entry) {
    const source = this.sourceOf(entry);
    const key = this.keyOf(entry);
    let records = this.shown(session, source);
    if (!records || key === null) return null;
    const late = this.late.get(source);
    if (late) {
      const load = held(entry.loads, ITEM) ?? NOT_LOADED;
      if (load.state === 'missing' || (entry.row === null && !load.brought)) return null;
      if (!load.brought) records = this.asListed(records, late);
    }
    return records.byKey(key);
  }

  /** What the app says by itself, in its language. @param {string} text @param {Record<string, any>} places */
  words(text, places = {}) {
    return saidIn(this.language, text, places);
  }

  /** The title that an open screen shows. @param {Session} session @param {Entry} entry @returns {string} */
  titleOf(session, entry) {
    const screen = this.screens.get(entry.screen);
    if (!screen) return '';
    if (screen.kind === 'form' && this.keyOf(entry) === null)
      return screen.titleNew || screen.title;
    if (screen.kind === 'list' || !screen.title.includes('{')) return screen.title;
    const record = this.recordOf(session, entry);
    if (record) return this.say(screen.source).fill(screen.title, record);
    return held(entry.loads, ITEM)?.state === 'loading' ? '…' : this.words('Not there');
  }

  /** The row link of an open list screen, if it opens beside. @param {Entry} entry */
  opensBeside(entry) {
    const link = entry.openedFor ? null : this.link(entry.screen, 'row', '');
    return link?.how === 'beside' ? link : null;
  }

  /** The lifetime of a piece of a screen's state (6). @param {string} screen @param {'scroll' | 'search' | 'page' | 'draft'} piece */
  lifetime(screen, piece) {
    return this.screens.get(screen)?.keep?.[piece] ?? 'saved';
  }
}
