"""Every size that is laid out by, in dp: one table, for this and for every other implementation."""

from __future__ import annotations

from typing import Final, NamedTuple

# Bars, panes and what lies over them.
SECTION_BAR: Final = 56.0
RAIL: Final = 76.0
WIDE_RAIL: Final = 184.0
SHEET: Final = (560.0, 720.0)
SHEET_FROM: Final = 640.0
POPOVER: Final = (320.0, 420.0)
SLID_MOST: Final = 360.0

# The stretches of a screen, one under another.
TITLE_BAR: Final = 52.0
SEARCH_BAR: Final = 52.0
PAGE_BAR: Final = 44.0
BOTTOM_BAR: Final = 64.0
EDGE: Final = 16.0
NARROW_EDGE: Final = 8.0
GAP: Final = 12.0
HEADING: Final = (24.0, 30.0)
BODY: Final = (15.0, 22.0)
FACT: Final = 28.0
FACT_IN_PLACE: Final = 48.0
FACT_LABEL: Final = 20.0
ADDRESS: Final = 28.0
LIST_HEADING: Final = 44.0
BUTTON: Final = 44.0
WORDS: Final = 96.0
FOOTER: Final = 36.0
LOADING: Final = 56.0
FAILED: Final = 104.0
LABEL: Final = 22.0
INPUT: Final = 44.0
INPUT_LINE: Final = 22.0
FAULT: Final = 20.0
CHOICE: Final = 40.0
PICTURE_MOST: Final = 220.0


# Rows, tiles and strips.
class RowSizes(NamedTuple):
    """How high rows are, how large their picture is, and how large and how far apart the lines of
    their texts; ``cell`` is how large the text of a column is (rules.md, 7.9)."""

    with_picture: float
    two_lines: float
    one_line: float
    picture: float
    title: tuple[int, float]
    subtitle: tuple[int, float]
    cell: int


ROWS: Final = {
    "compact": RowSizes(52.0, 48.0, 36.0, 36.0, (13, 18), (12, 16), 13),
    "regular": RowSizes(72.0, 64.0, 48.0, 48.0, (15, 22), (13, 18), 14),
    "roomy": RowSizes(96.0, 84.0, 60.0, 64.0, (17, 24), (14, 20), 15),
}
WITH_PICTURE, TWO_LINES, ONE_LINE, PICTURE = ROWS["regular"][:4]
GROUP: Final = 36.0
FOOT: Final = 36.0
NARROW: Final = 220.0
TILE_GAP: Final = 12.0
TILE_TEXT: Final = 56.0
HEADS: Final = 36.0
COLUMN_GAP: Final = 12.0
HIDDEN: Final = 36.0
STRIP_TILE: Final = 40.0
STRIP_TWO_LINES: Final = 56.0
STRIP_PICTURE: Final = 96.0

# The parts of a row.
BADGE_MOST: Final = 132.0
MORE: Final = 40.0
PICK: Final = 36.0
SLIDE: Final = 44.0
ACTION_MOST: Final = 96.0
SMALL_TILE: Final = 96.0

# Text: how large each kind of box is set, and which of it is bold.
SIZES: Final = {
    "title": 20,
    "title centred": 16,
    "back": 14,
    "row title": 15,
    "row subtitle": 13,
    "cell": 14,
    "head": 13,
    "badge": 13,
    "heading": 24,
    "body": 15,
    "fact label": 14,
    "fact": 14,
    "list heading": 16,
    "button": 15,
    "search": 14,
    "words": 14,
    "footer": 13,
    "nothing chosen": 15,
    "section": 13,
    "off words": 16,
    "asleep": 16,
    "picture": 13,
    "group": 13,
    "more": 18,
    "row action": 13,
    "page": 14,
    "loading": 14,
    "form label": 13,
    "input": 15,
    "in place": 14,
    "switch": 14,
    "option": 14,
    "fault": 13,
    "address": 14,
    "removed": 14,
    "undo": 14,
    "chooser": 15,
    "held": 15,
    "menu item": 15,
    "action": 15,
    "saved": 15,
}
BOLD: Final = frozenset({"title", "heading", "undo", "more"})
