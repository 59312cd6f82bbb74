"""Ribbons: from a trigger to the sockets of the screen it opens, one strand for each argument."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING, Final, NamedTuple

from cadena.engine.notes import Refused
from cadena.engine.rules.opening import arguments_for
from cadena.engine.session import RowRef, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    Argument,
    FromArgument,
    FromConstant,
    FromField,
    FromPosition,
    FromValue,
    Link,
)
from cadena.model.in_words import kind_words
from cadena.model.values import shown

if TYPE_CHECKING:
    from cadena.scene.board.board import Card, Port

LANE: Final = 14.0
APART: Final = 42.0


class Strand(NamedTuple):
    """What fills one parameter. ``y`` is its socket's height on the board."""

    parameter: str
    label: str
    y: float


class Ribbon(NamedTuple):
    """A link on the board.

    ``start`` and ``end`` are in px of the board; ``lane`` is the height at which it runs
    along under the cards, where it does not simply cross one gutter. ``label_at`` is the
    middle of its two labels. ``lit``: it is on the path that is open now. ``to_nowhere``:
    the screen it opens is not there.
    """

    link: Link
    start: tuple[float, float]
    end: tuple[float, float]
    lane: float | None
    strands: tuple[Strand, ...]
    label_at: tuple[float, float]
    lit: bool
    broken: bool
    to_nowhere: bool = False

    @property
    def label(self) -> str:
        """What it carries, in few words."""
        if self.to_nowhere:
            return f"no {self.link.to}"
        if not self.strands:
            return "nothing"
        more = f" +{len(self.strands) - 1}" if len(self.strands) > 1 else ""
        return self.strands[0].label + more

    @property
    def how(self) -> str:
        """How its screen opens, and for which rows."""
        kind = self.link.when
        return self.link.how if kind is None else f"{self.link.how} · {kind_words(kind)}"


def worded(argument: Argument) -> str:
    """Where an argument comes from, in few words."""
    match argument:
        case FromField():
            return argument.field
        case FromArgument():
            return argument.argument
        case FromValue():
            return argument.value
        case FromConstant():
            return shown(argument.constant)
        case FromPosition():
            return "position"
        case _:
            return "whole record"


def lay_ribbons(
    app: WiredApp, session: Session, cards: tuple[Card, ...]
) -> tuple[tuple[Ribbon, ...], float]:
    """Lay the ribbons of all links between cards; returns them and how far down they reach."""
    by_screen = {card.screen.id: card for card in cards}
    ribbons: list[Ribbon] = []
    lanes = 0
    bottoms = [card.area.y + card.area.height for card in cards]
    lowest = max(bottoms, default=0.0)
    for link in app.followed:
        source, target = by_screen.get(link.trigger.screen), by_screen.get(link.to)
        port = _port(source, link) if source is not None else None
        if source is None or port is None:
            continue
        start = (source.area.x + source.area.width, port.y)
        if target is None:
            if link.to not in app.screens:
                ribbons.append(_to_nowhere(link, start))
            continue
        strands = _strands(link, target)
        heights = [each.y for each in strands] or [target.area.y + 16]
        end = (target.area.x, sum(heights) / len(heights))
        lane = None
        if target.column != source.column + 1:
            lane = lowest + LANE * (lanes + 1)
            lanes += 1
        at = (start[0] + 47, (start[1] + end[1]) / 2 if lane is None else start[1] + 30)
        broken = _is_broken(app, link, source)
        ribbons.append(
            Ribbon(link, start, end, lane, strands, at, _is_lit(app, session, link), broken)
        )
    return tuple(_apart(ribbons)), lowest + LANE * (lanes + 1) if lanes else lowest


def _to_nowhere(link: Link, start: tuple[float, float]) -> Ribbon:
    """A link whose screen is not there: it ends in the open gutter."""
    end = (start[0] + 78, start[1])
    return Ribbon(link, start, end, None, (), (start[0] + 47, start[1]), False, True, True)


def _port(card: Card, link: Link) -> Port | None:
    return next((each for each in card.ports if each.trigger == link.trigger), None)


def _strands(link: Link, target: Card) -> tuple[Strand, ...]:
    heights = {each.parameter.name: each.y for each in target.sockets}
    return tuple(
        Strand(
            argument.parameter,
            f"{worded(argument)} → {argument.parameter}",
            heights[argument.parameter],
        )
        for argument in link.arguments
        if argument.parameter in heights
    )


def _is_lit(app: WiredApp, session: Session, link: Link) -> bool:
    """Whether the link leads from one open screen to the next."""
    entries = session.entries
    trigger = link.trigger
    for below, above in pairwise(entries):
        if (below.screen, above.screen) != (trigger.screen, link.to):
            continue
        part = app.part_of(trigger)
        if part == (None if above.row is None else above.row.part):
            return True
    return False


def _is_broken(app: WiredApp, link: Link, source: Card) -> bool:
    """Whether the engine refuses the link from the card as it is shown."""
    sample = source.sample
    row = None
    part = app.part_of(link.trigger)
    if part is not None:
        listed = app.listed(sample.session, sample.entry, part)
        if listed is None or not len(listed.rows):
            return False
        row = RowRef(part, listed.rows.key_at(0))
    elif app.record_of(sample.session, sample.entry) is None:
        return False
    try:
        arguments_for(app, sample.session, sample.place, link, row)
    except Refused:
        return True
    return False


def _apart(ribbons: list[Ribbon]) -> list[Ribbon]:
    """Move the labels in one gutter down until none lies over another."""
    placed: list[Ribbon] = []
    lowest: dict[float, float] = {}
    for each in sorted(ribbons, key=lambda ribbon: ribbon.label_at[1]):
        x, y = each.label_at
        y = max(y, lowest.get(x, -APART) + APART)
        lowest[x] = y
        placed.append(each._replace(label_at=(x, y)))
    return placed
