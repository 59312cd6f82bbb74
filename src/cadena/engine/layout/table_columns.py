"""A list in columns: which of them are shown in how much room, and how wide each is."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import accumulate
from typing import NamedTuple

from cadena.engine.layout.sizes import COLUMN_GAP, EDGE, HIDDEN, MORE, NARROW, PICK
from cadena.model.listing import Listing, Sort, TableColumn


class ColumnAt(NamedTuple):
    """A column that is shown, ``x`` dp from the left of the list, and ``width`` dp wide."""

    column: TableColumn
    x: float
    width: float


def columns_shown(listing: Listing, width: float, is_picking: bool = False) -> list[ColumnAt]:
    """The columns of a list ``width`` dp wide; none where it is laid out otherwise, or where not
    even two have room: then rows are shown.

    Args:
        is_picking: whether rows are being picked: each then has a box, and no actions.
    """
    if listing.layout != "columns" or width < NARROW:
        return []
    picks, acts = listing.several != "no", bool(listing.actions)
    # Which there are does not change with what is picked.
    room = width - (PICK if picks else EDGE) - (MORE if acts else EDGE)
    some, beside = _fitting(listing.columns, room), 0.0
    if len(some) < len(listing.columns):
        # Beside the last it is said how many are not there.
        beside = HIDDEN
        some = _fitting(listing.columns, room - beside)
    if len(some) < 2:
        return []
    left = PICK if is_picking or listing.several == "with boxes" else EDGE
    room = width - left - beside - (MORE if acts and not is_picking else EDGE)
    made, x = [], left
    for column, wide in zip(some, widths(some, room - COLUMN_GAP * (len(some) - 1)), strict=True):
        made.append(ColumnAt(column, x, wide))
        x += wide + COLUMN_GAP
    return made


def _fitting(columns: Sequence[TableColumn], room: float) -> list[TableColumn]:
    """The first columns that have room, by the least that each is wide."""
    ends = accumulate(each.least + COLUMN_GAP for each in columns)
    return [each for each, end in zip(columns, ends, strict=True) if end - COLUMN_GAP <= room]


def widths(columns: list[TableColumn], room: float) -> list[float]:
    """How wide columns are together in a room: by their shares, and none under its least.

    >>> widths([TableColumn(shows="a", least=90, share=1), TableColumn(shows="b", share=3)], 200)
    [90, 110.0]
    """
    made = [each.least for each in columns]
    free, at_share = room, list(range(len(columns)))
    while at_share:
        shares = sum(columns[at].share for at in at_share)
        short = [at for at in at_share if free * columns[at].share / shares < columns[at].least]
        if not short:
            for at in at_share:
                made[at] = free * columns[at].share / shares
            break
        free -= sum(columns[at].least for at in short)
        at_share = [at for at in at_share if at not in short]
    return made


def order_by_head(sort: tuple[Sort, ...], field: str) -> tuple[Sort, ...]:
    """The order that a press on a head takes: by its field, and once more the other way round.

    Args:
        sort: the order that the list has now.
    """
    is_taken = bool(sort) and sort[0].field == field and not sort[0].descending
    return (Sort(field=field, descending=is_taken),)


def orders_by_heads(
    listing: Listing, width: float, sort: tuple[Sort, ...]
) -> list[tuple[Sort, ...]]:
    """The orders that presses on the heads which are shown take, one for each."""
    shown = columns_shown(listing, width)
    return [order_by_head(sort, each.column.sorts_by) for each in shown]
