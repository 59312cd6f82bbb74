"""Walks driven in windows: does an app behave as it is wired?"""

from __future__ import annotations

import random
import tempfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Final, NamedTuple

import httpx
from msgspec.structs import replace

from cadena.deliver.drive.driving import PATIENCE, Difference, Driven, drive
from cadena.deliver.drive.gestures import Hand
from cadena.deliver.drive.overhearing import Overheard
from cadena.deliver.drive.webdriver import browser
from cadena.engine import events as do
from cadena.engine.session import Session, Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen
from cadena.model.values import Value
from cadena.runs.possible import possible
from cadena.runs.walks.walk import Expectation, Walk
from cadena.serve.call_services import Answers, Services

DRIVEN: Final = "driven"
"""What the query of an address says to an app that is driven: time and motion stand still; and
nothing is sent, where it does not say ``writes``."""
MOST_OVERHEARD: Final = 100_000
MOST_TRIES: Final = 12
TYPED: Final[Mapping[str, tuple[Value, ...]]] = {
    "text": ("Gull", "Tern", "a long name, with a comma", "Ü 9"),
    "whole number": (0, 3, 12),
    "number": (0.5, 7),
}
"""What is typed at random into fields of a type."""


class RandomSteps:
    """What is possible, at random: so many events told by a seed, each of what is there by then;
    half of them of those that lead to what is written."""

    def __init__(self, app: WiredApp, seed: int, length: int) -> None:
        self.app = app
        self.left = length
        self.given: list[do.Event] = []
        self._chance = random.Random(f"{seed} {length}")

    def __call__(self, session: Session) -> do.Event | None:
        if not self.left:
            return None
        self.left -= 1
        writing = do.Press | do.Type | do.Save | do.Act | do.Decide | do.Settle
        sending = do.SendAgain | do.GoBackTo | do.GiveUp
        event = random_event(self.app, session, self._chance)
        for _ in range(self._chance.choice((0, MOST_TRIES))):
            if isinstance(event, writing | sending):
                break
            event = random_event(self.app, session, self._chance)
        if isinstance(event, do.Type) and event.to is None and self._chance.random() < 0.8:
            form = self.app.screens[event.screen]
            records = self.app.as_read.get(form.source if isinstance(form, FormScreen) else "")
            kind = "" if records is None else records.types.get(event.field, "")
            event = replace(event, to=self._chance.choice(TYPED.get(kind, (None,))))
        self.given.append(event)
        return event

    def __iter__(self) -> Iterator[do.Event]:
        return iter(self.given)


class Plan(NamedTuple):
    """A walk to drive, in a window; both with the names that they are told by."""

    walk: str
    events: tuple[do.Event, ...] | RandomSteps
    window: str
    size: Window


class Outcome(NamedTuple):
    """What came of driving a walk: how many steps were taken, and the first that differs."""

    plan: Plan
    steps: int
    differs: Driven | None

    @property
    def differences(self) -> tuple[Difference, ...]:
        return () if self.differs is None else self.differs.differences


Seen = Callable[[Plan, Driven, Hand], None]
"""Told of each step when it was taken."""


def unseen(plan: Plan, driven: Driven, hand: Hand) -> None:
    """Nobody looks."""


def events_of(walk: Walk) -> tuple[do.Event, ...]:
    """The events of a walk; what it expects is for the engine."""
    return tuple(each for each in walk if not isinstance(each, Expectation))


def drive_all(
    app: WiredApp,
    at: str,
    plans: Sequence[Plan],
    seen: Seen = unseen,
    stop: Callable[[], bool] = lambda: False,
    patience: float = PATIENCE,
    writes: bool = False,
) -> Iterator[Outcome]:
    """Drive each plan in one browser, from a fresh start each.

    Where records come from real services, the engine asks them as the app does; where the app may
    write to them, it alone asks, and the engine is answered with what was overheard.

    Args:
        at: the address of the app.
        writes: whether the app may write to its services.
    """
    asks = any(each.served == "service" for each in app.app.sources)
    overhears = writes and asks
    with (
        tempfile.TemporaryDirectory(
            prefix="cadena-browser-", ignore_cleanup_errors=True
        ) as profile,
        browser(Path(profile), overhears) as driven_by,
    ):
        for plan in plans:
            if stop():
                return
            overheard = Overheard(driven_by, patience) if overhears else None
            answering = Answers(app) if asks else None
            if overheard is not None:
                services = Services(httpx.Client(transport=overheard))
                answering = Answers(app, app.sources, services, MOST_OVERHEARD)
            query = DRIVEN if overheard is None else f"{DRIVEN}=writes"
            hand = Hand(app, driven_by, f"{at}{'&' if '?' in at else '?'}{query}")
            yield _outcome(app, hand, plan, seen, stop, answering, overheard, patience)


def drive_all_on_desktop(
    app: WiredApp,
    command: str,
    plans: Sequence[Plan],
    seen: Seen = unseen,
    stop: Callable[[], bool] = lambda: False,
    patience: float = PATIENCE,
) -> Iterator[Outcome]:
    """Drive each plan in an app on a desktop of its own, from a fresh start each.

    Args:
        command: what starts the app.
    """
    from cadena.deliver.drive.desktop_place import desktop
    from cadena.deliver.drive.on_desktop import DesktopHand

    asks = any(each.served == "service" for each in app.app.sources)
    with desktop(command) as place:
        for plan in plans:
            if stop():
                return
            answering = Answers(app) if asks else None
            hand = DesktopHand(app, place)
            yield _outcome(app, hand, plan, seen, stop, answering, None, patience)


def _outcome(
    app: WiredApp,
    hand: Hand,
    plan: Plan,
    seen: Seen,
    stop: Callable[[], bool],
    answering: Answers | None,
    overheard: Overheard | None,
    patience: float,
) -> Outcome:
    steps = 0
    for driven in drive(app, hand, plan.events, plan.size, patience, stop, answering, overheard):
        steps = driven.step
        seen(plan, driven, hand)
        if driven.differences:
            return Outcome(plan, steps, driven)
    return Outcome(plan, steps, None)


def random_walk(app: WiredApp, window: Window, seed: int, length: int) -> tuple[do.Event, ...]:
    """A walk of what is possible at each step, told by its seed."""
    chance = random.Random(f"{seed} {length}")
    session, _ = start(app, window)
    events: list[do.Event] = []
    for _ in range(length):
        event = random_event(app, session, chance)
        events.append(event)
        session, *_ = step(app, session, event)
    return tuple(events)


def random_event(app: WiredApp, session: Session, chance: random.Random) -> do.Event:
    """One of what is possible now."""
    offered = [each.event for each in possible(app, session)]
    event = chance.choice(offered) if offered else do.Back()
    if isinstance(event, do.Kill | do.Sleep | do.Relaunch) and chance.random() < 0.5:
        event = do.Scroll(by=chance.choice([-200.0, 150.0, 700.0]))
    if isinstance(event, do.Search):
        event = replace(event, text=chance.choice(["a", "or", "", "zz"]))
    return event
