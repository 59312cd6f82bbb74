// What a screen scrolls: its blocks and rows one under another, laid out by arithmetic.

import { ITEM } from './app.js';
import { formPieces } from './form-pieces.js';
import { linesOf } from './measure.js';
import { noRecord, statePiece, words } from './pieces.js';
import { hasBar } from './query.js';
import { stripHeight } from './rows.js';
import { NOT_LOADED, roomOf } from './session.js';
import {
  ADDRESS,
  BODY,
  BOTTOM_BAR,
  BUTTON,
  FACT,
  FACT_IN_PLACE,
  FACT_LABEL,
  FOOTER,
  GAP,
  GROUP,
  HEADING,
  LIST_HEADING,
  PAGE_BAR,
  PICTURE_MOST,
  SEARCH_BAR,
  TITLE_BAR,
  edgeOf,
  isNarrow,
} from './sizes.js';
import { held, isEmpty } from './values.js';

/** All segments of a screen, top to bottom. */
export class Column {
  /** @param {Segment[]} segments @param {number} total */
  constructor(segments, total) {
    this.segments = segments;
    this.total = total;
  }

  /** What lies at the upper edge of a view that is scrolled so far. @param {number} offset @returns {Anchor | null} */
  firstInView(offset) {
    const under = this.segments.filter((each) => offset < each.top + each.height);
    // Of two side by side, the one that was begun first is the one that is read.
    const at = under.find((each) => each.top <= offset) ?? under[0];
    if (!at) return null;
    if (at.kind === 'rows' && at.listed && at.stack) {
      // Under heads that stay in view, it is what lies at their lower edge.
      const edge = offset - at.top + at.stack.heads;
      const index = at.stack.at(edge);
      const above = edge - at.stack.top(index) - at.stack.lead(index);
      return { part: at.part, key: at.listed.rows.keyAt(index), above, index, seen: null };
    }
    return {
      part: at.part,
      key: null,
      above: offset - at.top,
      index: this.segments.indexOf(at),
      seen: null,
    };
  }

  /** Where an anchor now lies; when its row is gone, the row now at its index (7.2). @param {Anchor} anchor */
  offsetOf(anchor) {
    if (anchor.key !== null) {
      const rows = this.rows(anchor.part);
      if (rows?.listed && rows.stack) {
        const index =
          rows.listed.rows.indexOf(anchor.key) ?? Math.min(anchor.index, rows.stack.count - 1);
        return rows.top + withinGroup(rows.stack, index, anchor.above) - rows.stack.heads;
      }
    } else if (this.segments[anchor.index]?.part === anchor.part) {
      return this.segments[anchor.index].top + anchor.above;
    }
    return this.segments.find((each) => each.part === anchor.part)?.top ?? 0;
  }

  /** The rows of a list, or undefined when it shows none. @param {string} part */
  rows(part) {
    return this.segments.find((each) => each.kind === 'rows' && each.part === part);
  }

  /** The top and the bottom of a row, or null when its list does not show it. @param {string} part @param {any} key @returns {[number, number] | null} */
  extentOf(part, key) {
    const found = this.segments.find((each) => each.listed && each.part === part);
    const index = found?.listed?.rows.indexOf(key) ?? null;
    if (!found || index === null) return null;
    const { top, stack } = found;
    if (!stack) return [top, top + found.height];
    // Under heads that stay in view, its top has room for them.
    return stack.isHidden(index)
      ? null
      : [top + stack.top(index) - stack.heads, top + stack.bottom(index)];
  }

  /** The room above a row that the title of its group takes. @param {string} part @param {any} key */
  lead(part, key) {
    const rows = this.rows(part);
    const at = rows?.listed?.rows.indexOf(key) ?? null;
    return at === null ? 0 : (rows?.stack?.lead(at) ?? 0);
  }
}

/** Where a row lies so far over an edge; of a closed group its title does. @param {RowStack} stack @param {number} index @param {number} above */
function withinGroup(stack, index, above) {
  if (!stack.isHidden(index)) return stack.top(index) + stack.lead(index) + above;
  const begin = stack.begin(index);
  return stack.top(begin) + (index === begin && above <= 0 ? Math.max(0, above + GROUP) : 0);
}

/** What of a screen does not scroll, above and below what does; while something is picked, what can be done with it (14). @param {WiredApp} app @param {string} name @param {number} width @param {boolean} isPicking @returns {{top: number, bottom: number}} */
export function barsOf(app, name, width, isPicking = false) {
  if (isPicking) return { ...barsOf(app, name, width), bottom: BOTTOM_BAR };
  const screen = app.screens.get(name);
  const below = isNarrow(width) ? 0 : BOTTOM_BAR;
  if (screen?.kind === 'list')
    return { top: TITLE_BAR + (hasBar(screen.rows) ? SEARCH_BAR : 0), bottom: 0 };
  if (screen?.kind === 'form') return { top: TITLE_BAR, bottom: below };
  const isKept = screen?.blocks?.some(
    (/** @type {any} */ block) => block.block === 'actions' && block.place === 'bottom',
  );
  const bars = (app.pages(name).length ? 1 : 0) + (screen?.neighbours ? 1 : 0);
  return { top: TITLE_BAR + PAGE_BAR * bars, bottom: isKept ? below : 0 };
}

/** Lay out what an open screen scrolls, in a column so wide. @param {WiredApp} app @param {Session} session @param {Entry} entry @param {number} width @returns {Column} */
export function columnOf(app, session, entry, width) {
  const screen = app.screens.get(entry.screen);
  if (screen?.kind === 'detail' && sideOf(session, screen, width) && app.recordOf(session, entry)) {
    const wide = width / 2;
    const isAside = (/** @type {string} */ id) => screen.side.blocks.includes(id);
    const main = stacked(
      detailPieces(app, session, entry, screen, wide, (id) => !isAside(id)),
      0,
      wide,
    );
    const aside = stacked(detailPieces(app, session, entry, screen, wide, isAside), wide, wide);
    return new Column([...main.segments, ...aside.segments], Math.max(main.total, aside.total));
  }
  const { segments, total } = stacked(piecesOf(app, session, entry, screen, width), 0, 0);
  return new Column(segments, total);
}

/** @param {WiredApp} app @param {Session} session @param {Entry} entry @param {any} screen @param {number} width @returns {Piece[]} */
function piecesOf(app, session, entry, screen, width) {
  switch (screen?.kind) {
    case 'list':
      return listScreenPieces(app, session, entry, screen, width);
    case 'detail':
      return detailPieces(app, session, entry, screen, width, () => true);
    case 'form':
      return formPieces(app, session, entry, screen, width);
    default:
      return [words(app.words('There is no such screen.'))];
  }
}

/** @param {Piece[]} pieces @param {number} left @param {number} width */
function stacked(pieces, left, width) {
  let top = 0;
  const segments = pieces.map((piece) => {
    const segment = { ...piece, top, left, width };
    top += piece.height;
    return segment;
  });
  return { segments, total: top };
}

/** Whether some blocks stand beside the others. @param {Session} session @param {any} screen @param {number} width */
function sideOf(session, { side }, width) {
  if (!side?.blocks?.length) return false;
  return (side.measured === 'window' ? roomOf(session.window)[0] : width) >= (side.least ?? 640);
}

/** @param {WiredApp} app @param {Session} session @param {Entry} entry @param {any} screen @param {number} width @returns {Piece[]} */
function listScreenPieces(app, session, entry, screen, width) {
  const pieces = [];
  const isPicking = Object.keys(entry.view.picked).length > 0;
  if (isNarrow(width) && screen.buttons?.length && !isPicking)
    pieces.push(actions('', screen.buttons));
  for (const strip of screen.above ?? []) {
    if (strip.heading) pieces.push(heading(strip));
    pieces.push(...listPieces(app, session, entry, strip.id, strip.rows, width));
  }
  return [...pieces, ...listPieces(app, session, entry, '', screen.rows, width)];
}

/** @param {any} block @returns {Piece} */
const heading = (block) => ({
  kind: 'list heading',
  part: block.id,
  height: LIST_HEADING,
  block,
  lines: [block.heading],
});

/** Buttons one under another. @param {string} part @param {any[]} buttons @returns {Piece} */
const actions = (part, buttons) => ({
  kind: 'actions',
  part,
  height: buttons.length * (BUTTON + 8) + 2 * GAP,
  block: { buttons },
});

/** @param {WiredApp} app @param {Session} session @param {Entry} entry @param {string} part @param {any} listing @param {number} width @returns {Piece[]} */
function listPieces(app, session, entry, part, listing, width) {
  const listed = app.listed(session, entry, part);
  if (!listed) return [words(`There is no source "${listing.source}".`, part)];
  const { rows } = listed;
  /** @type {Piece[]} */
  const pieces = [];
  const load = app.late.has(listing.source) ? (held(entry.loads, part) ?? NOT_LOADED) : null;
  if (rows.length && listing.layout === 'strip') {
    pieces.push({ kind: 'strip', part, height: stripHeight(listing), listed });
  } else if (rows.length) {
    const stack = app.stack(listed, width);
    pieces.push({ kind: 'rows', part, height: stack.total, listed, stack });
  } else if (!load || load.brought) {
    const searched = (held(entry.view.search, part) ?? '').trim();
    const said = searched
      ? listing.notFound || app.words('Nothing found for "{text}".', { text: searched })
      : (listing.empty ?? '');
    pieces.push(words(said, part, { listed }));
  }
  if (load && load.state !== 'shown') pieces.push(statePiece(app, load, part));
  if (listed.asked.length < rows.found || (!load && rows.length < rows.found)) {
    pieces.push({ kind: 'footer', part, height: FOOTER, listed, lines: [listed.counts(app)] });
  }
  return pieces;
}

/** @param {WiredApp} app @param {Session} session @param {Entry} entry @param {any} screen @param {number} width @param {(id: string) => boolean} takes @returns {Piece[]} */
function detailPieces(app, session, entry, screen, width, takes) {
  const record = app.recordOf(session, entry);
  const load = app.late.has(screen.source) ? (held(entry.loads, ITEM) ?? NOT_LOADED) : null;
  const waits = load && (load.state === 'loading' || load.state === 'failed');
  if (!record) {
    return load && waits
      ? [statePiece(app, load, ITEM)]
      : [words(noRecord(app, held(entry.arguments, screen.key)))];
  }
  /** @type {Piece[]} */
  const pieces = [{ kind: 'gap', part: '', height: GAP }];
  for (const block of blocksShown(app, screen, entry.view.page)) {
    if (takes(block.id)) pieces.push(...blockPieces(app, session, entry, block, record, width));
  }
  if (load && waits && takes('')) pieces.push(statePiece(app, load, ITEM));
  return pieces;
}

/** The blocks on a page: those before the first page, then the page's own. @param {WiredApp} app @param {any} screen @param {string} page */
function blocksShown(app, screen, page) {
  const wanted = pageShown(app, screen.id, page);
  /** @type {string | null} */
  let on = null;
  return (screen.blocks ?? []).filter((/** @type {any} */ block) => {
    if (block.block === 'page') on = block.id;
    return block.block !== 'page' && (on === null || on === wanted);
  });
}

/** The page of a detail that is shown, or ''. @param {WiredApp} app @param {string} screen @param {string} page @returns {string} */
export function pageShown(app, screen, page) {
  const names = app.pages(screen).map((each) => each.id);
  return names.includes(page) ? page : (names[0] ?? '');
}

/** The pieces that a block of a detail makes. @param {WiredApp} app @param {Session} session @param {Entry} entry @param {any} block @param {Found} record @param {number} width @returns {Piece[]} */
function blockPieces(app, session, entry, block, record, width) {
  const inner = width - 2 * edgeOf(width);
  const sayings = app.say(app.sourceOf(entry));
  const piece = (/** @type {number} */ height, more = {}) => [
    { kind: block.block, part: block.id, height: height + GAP, block, ...more },
  ];
  switch (block.block) {
    case 'picture':
      return piece(Math.min(PICTURE_MOST, inner * 0.5625));
    case 'heading': {
      const lines = linesOf(sayings.fill(block.text, record) || '–', HEADING[0], true, inner);
      return piece(lines.length * HEADING[1], { lines });
    }
    case 'facts': {
      const said = factsShown(app, entry, block, record);
      const tall = said.reduce(
        (sum, each) => sum + (block.inPlace?.includes(each) ? FACT_IN_PLACE : FACT),
        0,
      );
      return said.length ? piece(tall + (isNarrow(width) ? FACT_LABEL * said.length : 0)) : [];
    }
    case 'body': {
      const text = sayings.says(block.field, record) ? sayings.value(block.field, record) : '';
      const lines = text ? linesOf(text, BODY[0], false, inner) : [];
      return text ? piece(lines.length * BODY[1], { lines }) : [];
    }
    case 'address':
      return isEmpty(record.value(block.field))
        ? []
        : piece(ADDRESS + (block.frame ? block.frame + GAP : 0));
    case 'list':
      return [
        ...(block.heading ? [heading(block)] : []),
        ...(hasBar(block.rows)
          ? [{ kind: 'search', part: block.id, height: SEARCH_BAR, block }]
          : []),
        ...listPieces(app, session, entry, block.id, block.rows, width),
      ];
    case 'actions':
      return (block.place ?? 'flow') === 'flow' || isNarrow(width)
        ? [actions(block.id, block.buttons)]
        : [];
    default:
      return [];
  }
}

/** The fields of a facts block that say something, or can be filled in where they stand. @param {WiredApp} app @param {Entry} entry @param {any} block @param {Found} record @returns {string[]} */
export function factsShown(app, entry, block, record) {
  const sayings = app.say(app.sourceOf(entry));
  return block.fields.filter(
    (/** @type {string} */ each) => block.inPlace?.includes(each) || sayings.value(each, record),
  );
}
