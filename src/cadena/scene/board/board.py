"""The board: a section's screens as cards in columns by how many steps in they are.

Everything is arithmetic on the wiring, in px at 100 %; nothing is placed by hand.
"""

from __future__ import annotations

from math import ceil
from typing import Final, NamedTuple

from cadena.engine.layout.panes import Area
from cadena.engine.rules.lists import chosen_row
from cadena.engine.session import RowRef, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import Link, Parameter, Screen, Trigger
from cadena.model.screen_depths import links_about, steps_in, unreached
from cadena.model.screen_parts import could_start, label_of
from cadena.scene.board.card import Sample, card_scene, sample_of, standing_for
from cadena.scene.board.ribbons import Ribbon, lay_ribbons
from cadena.scene.scene import Scene

CARD: Final = 192.0
GUTTER: Final = 94.0
MARGIN: Final = 20.0
TOP: Final = 34.0
BETWEEN: Final = 22.0
HEAD: Final = 32.0
SOCKET: Final = 22.0
INSIDE_SCALE: Final = 0.72
STEPS: Final = ("START", "ONE STEP IN", "TWO STEPS IN", "THREE STEPS IN", "FOUR STEPS IN")


class Socket(NamedTuple):
    """Where a parameter of a card takes its strand."""

    parameter: Parameter
    y: float


class Port(NamedTuple):
    """Where a trigger of a card lets a ribbon out; ``area`` is what can be pulled."""

    trigger: Trigger
    label: str
    y: float
    area: Area


class Card(NamedTuple):
    """A screen on the board. ``inside`` is its scene, drawn at ``INSIDE_SCALE``; ``links`` are
    those that start from it or lead to it."""

    screen: Screen
    column: int
    area: Area
    title: str
    sample: Sample
    inside: Scene
    sockets: tuple[Socket, ...]
    ports: tuple[Port, ...]
    links: tuple[Link, ...] = ()

    @property
    def inside_top(self) -> float:
        """Where the scene begins, in px of the board."""
        return self.area.y + HEAD + SOCKET * len(self.sockets) + 4


class Board(NamedTuple):
    """The whole board of a section, in px at 100 %."""

    cards: tuple[Card, ...]
    ribbons: tuple[Ribbon, ...]
    columns: tuple[tuple[str, float], ...]
    width: float
    height: float
    ground: tuple[object, ...] = ()

    def card(self, screen: str) -> Card | None:
        return next((each for each in self.cards if each.screen.id == screen), None)

    def port(self, trigger: Trigger) -> tuple[Card, Port] | None:
        for card in self.cards:
            for port in card.ports:
                if port.trigger == trigger:
                    return card, port
        return None


def lay_out_board(
    app: WiredApp, session: Session, section: str, before: Board | None = None
) -> Board:
    """Lay out the board of a section; screens nothing leads to stand in a column of their own.

    Args:
        before: the board as it was: cards that nothing has changed for are taken from it.
    """
    root = app.sections[section].root if section in app.sections else ""
    steps = steps_in(app.app, root)
    order = {each.id: number for number, each in enumerate(app.app.screens)}
    columns: list[list[str]] = [[] for _ in range(max(steps.values(), default=-1) + 1)]
    for name in sorted(steps, key=lambda each: order[each]):
        columns[steps[name]].append(name)
    heads = [
        STEPS[number] if number < len(STEPS) else f"{number} STEPS IN"
        for number in range(len(columns))
    ]
    if lost := unreached(app.app):
        columns.append(list(lost))
        heads.append("NOT REACHED")
    ground = _ground(app, session)
    if before is not None and not _is_same(before.ground, ground):
        before = None
    cards = _cards(app, session, columns, before)
    ribbons, height = lay_ribbons(app, session, cards)
    width = 1.5 * MARGIN + len(columns) * CARD + max(0, len(columns) - 1) * GUTTER
    heights = [card.area.y + card.area.height for card in cards]
    named = tuple((head, _left(number)) for number, head in enumerate(heads))
    return Board(cards, ribbons, named, width, max([TOP, height, *heights]) + MARGIN, ground)


def shown_of(session: Session) -> tuple[object, ...]:
    """What of a session a board shows: while this stays equal, so does the board."""
    path = tuple(
        (entry.screen, entry.arguments, entry.row, entry.view.search, entry.view.sort)
        for entry in session.entries
    )
    return session.section, path, session.changes, session.values


def _left(column: int) -> float:
    return MARGIN + column * (CARD + GUTTER)


def _ground(app: WiredApp, session: Session) -> tuple[object, ...]:
    """All that every card is laid out from, besides its own screen and what is open of it."""
    of_app = (app.app.sources, app.app.locale, app.measure)
    return (*of_app, *app.as_read.values(), session.changes, session.values)


def _is_same(one: tuple[object, ...], other: tuple[object, ...]) -> bool:
    if len(one) != len(other):
        return False
    return all(a is b or (isinstance(a, dict) and a == b) for a, b in zip(one, other, strict=True))


def _cards(
    app: WiredApp, session: Session, columns: list[list[str]], before: Board | None
) -> tuple[Card, ...]:
    samples: dict[str, Sample] = {}
    cards: list[Card] = []
    for number, names in enumerate(columns):
        y = TOP
        for name in names:
            screen = app.screens[name]
            samples[name] = sample_of(app, session, screen, samples)
            known = None if before is None else before.card(name)
            at, sample = (_left(number), y), samples[name]
            links = links_about(app.app).get(name, ())
            if known is not None and _is_as_it_was(known, screen, at, sample, links):
                card = known._replace(sample=sample)
            else:
                card = _card(app, screen, number, y, sample, links)
            cards.append(card)
            y += card.area.height + BETWEEN
    return tuple(cards)


def _is_as_it_was(
    known: Card,
    screen: Screen,
    at: tuple[float, float],
    sample: Sample,
    links: tuple[Link, ...],
) -> bool:
    return (
        known.screen is screen
        and known.links == links
        and (known.area.x, known.area.y) == at
        and known.sample.lit == sample.lit
        and known.sample.entry == sample.entry
        and _chosen(known.sample) == _chosen(sample)
    )


def _chosen(sample: Sample) -> RowRef | None:
    return chosen_row(sample.session, sample.place)


def _card(
    app: WiredApp,
    screen: Screen,
    column: int,
    y: float,
    sample: Sample,
    links: tuple[Link, ...],
) -> Card:
    inside = card_scene(app, sample, CARD / INSIDE_SCALE)
    height = HEAD + SOCKET * len(screen.parameters) + 4 + ceil(inside.height * INSIDE_SCALE) + 8
    x = _left(column)
    title = screen.title or screen.id
    sockets = tuple(
        Socket(each, y + HEAD + SOCKET * (number + 0.5))
        for number, each in enumerate(screen.parameters)
    )
    card = Card(screen, column, Area(x, y, CARD, height), title, sample, inside, sockets, (), links)
    return card._replace(ports=_ports(card))


def _ports(card: Card) -> tuple[Port, ...]:
    ports = []
    for trigger in could_start(card.screen):
        boxes = standing_for(card.inside.boxes, trigger)
        label = label_of(card.screen, trigger)
        if boxes:
            box = next((each for each in boxes if "chosen" in each.state), boxes[0])
            y = card.inside_top + box.y * INSIDE_SCALE
            area = Area(card.area.x, y, CARD, box.height * INSIDE_SCALE)
        else:
            bottom = card.area.y + card.area.height
            area = Area(card.area.x, bottom - 20, CARD, 16)
        ports.append(Port(trigger, label, area.y + area.height / 2, area))
    return tuple(ports)
