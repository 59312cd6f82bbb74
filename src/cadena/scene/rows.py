"""The rows of a list in view, as boxes."""

from __future__ import annotations

from collections.abc import Iterator

from cadena.data.template import fill, is_empty
from cadena.engine.column import EDGE, Segment
from cadena.engine.display import Area
from cadena.engine.events import Choose
from cadena.model.app import Row
from cadena.model.values import shown
from cadena.scene.scene import Box

PICTURE = 48.0
BADGE_MOST = 110.0


def row_boxes(
    segment: Segment,
    row: Row,
    view: Area,
    offset: float,
    screen: str,
    entry: int,
    marks: dict[str, object],
    opens: bool,
) -> Iterator[Box]:
    """The boxes of the rows of a segment that are in view.

    Args:
        segment: the rows, in a column scrolled by ``offset`` dp.
        row: their template.
        view: where the column is seen, in dp of the window.
        screen: the screen they are on, for the events they send.
        entry: its place in the chain.
        marks: the key of the row that is chosen and of the one that is marked.
        opens: whether a row does anything.
    """
    listed = segment.listed
    if listed is None or not len(listed.rows):
        return
    stack = listed.stack
    first = stack.at(max(0.0, offset - segment.top))
    last = stack.at(max(0.0, offset - segment.top + view.height - 1e-6))
    for index in range(first, last + 1):
        y = view.y + segment.top + stack.top(index) - offset
        height = stack.height(index)
        if y + height <= view.y or y >= view.y + view.height:
            continue
        key = listed.rows.key_at(index)
        record = listed.rows.record_at(index)
        state = frozenset(name for name, at in marks.items() if at == key and at is not None)
        title = fill(row.title, record) or shown(key)
        subtitle, badge = fill(row.subtitle, record), fill(row.badge, record)
        does = Choose(screen=screen, entry=entry, list=segment.part, key=key) if opens else None
        name = ", ".join(each for each in (title, subtitle, badge) if each)
        yield Box(
            "row",
            view.x,
            y,
            view.width,
            height,
            "",
            state,
            does,
            "",
            name,
            view,
            entry,
            segment.part,
            key,
        )
        yield from _contents(
            row, record, Area(view.x, y, view.width, height), view, (title, subtitle, badge), state
        )


def _contents(
    row: Row,
    record: dict[str, object],
    area: Area,
    clip: Area,
    texts: tuple[str, str, str],
    state: frozenset[str],
) -> Iterator[Box]:
    title, subtitle, badge = texts
    left, right = area.x + EDGE, area.x + area.width - EDGE
    middle = area.y + area.height / 2
    if row.picture:
        file = record.get(row.picture)
        picture = "" if is_empty(file) else str(file)
        yield Box("thumb", left, middle - PICTURE / 2, PICTURE, PICTURE, picture=picture, clip=clip)
        left += PICTURE + 12
    if badge:
        width = min(BADGE_MOST, 20 + 7.2 * len(badge))
        yield Box("badge", right - width, middle - 12, width, 24, badge, state, clip=clip)
        right -= width + 8
    width = max(0.0, right - left)
    top = middle - (20 if subtitle else 11)
    yield Box("row title", left, top, width, 22, title, state, clip=clip)
    if subtitle:
        yield Box("row subtitle", left, top + 22, width, 18, subtitle, state, clip=clip)
    yield Box(
        "divider", area.x + EDGE, area.y + area.height - 1, area.width - 2 * EDGE, 1, clip=clip
    )
