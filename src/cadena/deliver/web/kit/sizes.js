// Every size that is laid out by, in dp: one table.

// Bars, panes and what lies over them.
export const SECTION_BAR = 56;
export const RAIL = 76;
export const WIDE_RAIL = 184;
export const SHEET = [560, 720];
export const SHEET_FROM = 640;
export const POPOVER = [320, 420];
export const SLID_MOST = 360;

// The stretches of a screen, one under another.
export const TITLE_BAR = 52;
export const SEARCH_BAR = 52;
export const PAGE_BAR = 44;
export const BOTTOM_BAR = 64;
export const EDGE = 16;
export const NARROW_EDGE = 8;
export const GAP = 12;
export const HEADING = [24, 30];
export const BODY = [15, 22];
export const FACT = 28;
export const FACT_IN_PLACE = 48;
export const FACT_LABEL = 20;
export const ADDRESS = 28;
export const LIST_HEADING = 44;
export const BUTTON = 44;
export const WORDS = 96;
export const FOOTER = 36;
export const LOADING = 56;
export const FAILED = 104;
export const LABEL = 22;
export const INPUT = 44;
export const INPUT_LINE = 22;
export const FAULT = 20;
export const CHOICE = 40;
export const PICTURE_MOST = 220;

// Rows, tiles and strips.
export const WITH_PICTURE = 72;
export const TWO_LINES = 64;
export const ONE_LINE = 48;
export const GROUP = 36;
export const FOOT = 36;
export const NARROW = 220;
export const TILE_GAP = 12;
export const TILE_TEXT = 56;
export const MORE = 40;
export const PICK = 36;
/** How high rows are, by how roomy they are, in dp (7.9). @type {Record<string, {withPicture: number, twoLines: number, oneLine: number}>} */
export const ROWS = {
  compact: { withPicture: 52, twoLines: 48, oneLine: 36 },
  regular: { withPicture: 72, twoLines: 64, oneLine: 48 },
  roomy: { withPicture: 96, twoLines: 84, oneLine: 60 },
};
export const HEADS = 36;
export const COLUMN_GAP = 12;
export const HIDDEN = 36;
export const STRIP_TILE = 40;
export const STRIP_TWO_LINES = 56;
export const STRIP_PICTURE = 96;

/** Whether a screen so wide stands one thing under another. @param {number} width */
export const isNarrow = (width) => width < NARROW;

/** The room left free at each side of a screen. @param {number} width */
export const edgeOf = (width) => (isNarrow(width) ? NARROW_EDGE : EDGE);
