"""A screen in short, for a card: its own blocks with real records, long ones cut and counted."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Final, NamedTuple

from msgspec.structs import replace

from cadena.engine.layout.column import Segment, column_of
from cadena.engine.layout.panes import Area
from cadena.engine.layout.sizes import EDGE
from cadena.engine.notes import Refused
from cadena.engine.rules.lists import chosen_row
from cadena.engine.rules.opening import arguments_for, first_of_kind, link_for
from cadena.engine.session import Chain, Entry, RowRef, Session
from cadena.engine.wired import WiredApp, trigger_at
from cadena.model.app import DetailScreen, Link, ListScreen, Screen, Trigger
from cadena.model.screen_parts import label_of, opens_with, triggers
from cadena.model.values import Value
from cadena.scene.rows import row_boxes
from cadena.scene.scene import Box, Scene
from cadena.scene.screens import block_boxes

ROWS_ON_LIST: Final = 4
ROWS_IN_BLOCK: Final = 2
LINES: Final = 2
PICTURE: Final = 92.0
OFFERED: Final = 34.0


class Sample(NamedTuple):
    """An open screen to show on a card: the entry at ``place`` of a session's chain.

    ``lit``: it is open now.
    """

    session: Session
    place: int
    lit: bool

    @property
    def entry(self) -> Entry:
        return self.session.entries[self.place]


def sample_of(
    app: WiredApp, session: Session, screen: Screen, parents: dict[str, Sample]
) -> Sample:
    """The screen as it is open now, or as the first link to it that can would open it.

    Args:
        parents: the samples of screens nearer to the root.
    """
    entries = session.entries
    for index in range(len(entries) - 1, -1, -1):
        if entries[index].screen == screen.id:
            return Sample(session, index, True)
    for link in app.app.links:
        parent = parents.get(link.trigger.screen)
        if link.to != screen.id or parent is None:
            continue
        part = app.part_of(link.trigger)
        row = None if part is None else _first_row(app, parent, part, link)
        if (part is not None and row is None) or link.trigger.on == "saved":
            continue
        try:
            arguments = arguments_for(app, parent.session, parent.place, link, row)
        except Refused:
            continue
        return _alone(session, Entry(screen.id, arguments))
    return _alone(session, Entry(screen.id, _any_key(app, session, screen)))


def _any_key(app: WiredApp, session: Session, screen: Screen) -> dict[str, Value]:
    """The key of some record that a detail could show, where no link tells which."""
    parameter = opens_with(screen)
    if parameter is None or not isinstance(screen, DetailScreen):
        return {}
    records = app.records(session, screen.source)
    if records is None or not len(records):
        return {}
    key: Value | None = records.key_at(0)
    return {} if key is None else {parameter.name: key}


def _alone(session: Session, entry: Entry) -> Sample:
    chain = Chain("sample", (entry,))
    return Sample(replace(session, section="sample", chains={"sample": chain}), 0, False)


def _first_row(app: WiredApp, parent: Sample, part: str, link: Link) -> RowRef | None:
    chosen = chosen_row(parent.session, parent.place)
    if chosen is not None and chosen.part == part:
        is_followed = link_for(app, parent.session, parent.place, link, chosen) is link
        if is_followed or trigger_at(link) not in app.kinds:
            return chosen
    listed = app.listed(parent.session, parent.entry, part)
    key = None if listed is None else first_of_kind(app, listed, link)
    return None if key is None else RowRef(part, key)


def card_scene(app: WiredApp, sample: Sample, width: float) -> Scene:
    """The content of a screen in short, ``width`` dp wide and as tall as it needs.

    Its boxes with something to do stand for the screen's triggers.
    """
    column = column_of(app, sample.session, sample.entry, width)
    boxes: list[Box] = []
    top = 0.0
    for segment in column.segments:
        made = tuple(_brief(app, sample, segment, top, width))
        boxes += made
        top = max([top, *(box.clip.y + box.clip.height for box in made if box.clip)])
    screen = app.screens[sample.entry.screen]
    for trigger in triggers(screen):
        if trigger.on != "row" and not standing_for(boxes, trigger):
            text = label_of(screen, trigger)
            box = (EDGE, top + 4, width - 2 * EDGE, OFFERED)
            boxes.append(Box(trigger.on, *box, text, frozenset({"plain"}), part=trigger.part))
            top += OFFERED + 8
    return Scene(width, top, tuple(boxes))


def standing_for(boxes: Iterable[Box], trigger: Trigger) -> list[Box]:
    """The boxes of a card where a trigger can be pulled from."""
    kinds = FIELDS if trigger.on == "field" else (trigger.on,)
    return [box for box in boxes if box.kind in kinds and box.part == trigger.part]


FIELDS: Final = frozenset({"chooser", "input", "option"})


def _brief(
    app: WiredApp, sample: Sample, segment: Segment, top: float, width: float
) -> Iterator[Box]:
    if segment.kind == "rows" and segment.listed is not None:
        yield from _brief_rows(app, sample, segment, top, width)
        return
    height = segment.height
    if segment.kind == "body":
        height = min(height, height * LINES / max(LINES, len(segment.lines)))
        segment = Segment(0.0, segment.piece._replace(lines=segment.lines[:LINES]))
    elif segment.kind == "picture":
        height = min(height, PICTURE)
    elif segment.kind == "words":
        height = min(height, 56.0)
    elif segment.kind == "search":
        return
    clip = Area(0, top, width, height)
    segment = Segment(0.0, segment.piece._replace(height=height))
    yield from block_boxes(app, sample.session, sample.place, segment, clip, 0.0)


def _brief_rows(
    app: WiredApp, sample: Sample, segment: Segment, top: float, width: float
) -> Iterator[Box]:
    """A few rows, the chosen one among them, and how many there are of all."""
    listed = segment.listed
    if listed is None:
        return
    rows, stack = listed.rows, listed.stack(width)
    is_list = isinstance(app.screens.get(sample.entry.screen), ListScreen)
    shown = min(len(rows), ROWS_ON_LIST if is_list else ROWS_IN_BLOCK)
    chosen = chosen_row(sample.session, sample.place)
    at = None
    if chosen is not None and chosen.part == segment.part:
        at = rows.index_of(chosen.key)
    first = max(0, min((at or 0) - shown // 2, len(rows) - shown))
    offset = stack.top(first)
    clip = Area(0, top, width, stack.top(first + shown) - offset)
    yield from row_boxes(app, sample.session, sample.place, segment._replace(top=0.0), clip, offset)
    if len(rows) > shown:
        words = f"{shown} of {len(rows)}"
        area = Area(0, clip.y + clip.height, width, 24)
        yield Box("footer", 16, area.y, width - 32, 24, words, clip=area)
