"""Walks driven in windows: does an app behave as it is wired?"""

from __future__ import annotations

import random
import tempfile
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Final, NamedTuple

from cadena.deliver.drive.driving import PATIENCE, Difference, Driven, drive
from cadena.deliver.drive.webdriver import Browser, browser
from cadena.engine import events as do
from cadena.engine.session import Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.runs.possible import possible
from cadena.runs.walks.walk import Answering, Expectation, Walk
from cadena.serve.call_services import Answers

DRIVEN: Final = "driven"
"""What the query of an address says to an app that is driven: time and motion stand still."""


class Plan(NamedTuple):
    """A walk to drive, in a window; both with the names that they are told by."""

    walk: str
    events: tuple[do.Event, ...]
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


Seen = Callable[[Plan, Driven, Browser], None]
"""Told of each step when it was taken."""


def unseen(plan: Plan, driven: Driven, browser: Browser) -> None:
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
) -> Iterator[Outcome]:
    """Drive each plan in one browser, from a fresh start each.

    Where records come from real services, the engine asks them as the app does.

    Args:
        at: the address of the app.
    """
    asks = any(each.served == "service" for each in app.app.sources)
    with (
        tempfile.TemporaryDirectory(
            prefix="cadena-browser-", ignore_cleanup_errors=True
        ) as profile,
        browser(Path(profile)) as driven_by,
    ):
        for plan in plans:
            if stop():
                return
            answering = Answers(app) if asks else None
            yield _outcome(app, driven_by, at, plan, seen, stop, answering, patience)


def _outcome(
    app: WiredApp,
    driven_by: Browser,
    at: str,
    plan: Plan,
    seen: Seen,
    stop: Callable[[], bool],
    answering: Answering | None,
    patience: float,
) -> Outcome:
    steps = 0
    told = f"{at}{'&' if '?' in at else '?'}{DRIVEN}"
    for each in drive(app, driven_by, told, plan.events, plan.size, patience, stop, answering):
        steps = each.step
        seen(plan, each, driven_by)
        if each.differences:
            return Outcome(plan, steps, each)
    return Outcome(plan, steps, None)


def random_walk(app: WiredApp, window: Window, seed: int, length: int) -> tuple[do.Event, ...]:
    """A walk of what is possible at each step, told by its seed."""
    chance = random.Random(f"{seed} {length}")
    session, _ = start(app, window)
    events: list[do.Event] = []
    for _ in range(length):
        offered = [each.event for each in possible(app, session)]
        event = chance.choice(offered) if offered else do.Back()
        if isinstance(event, do.Kill | do.Sleep | do.Relaunch) and chance.random() < 0.5:
            event = do.Scroll(by=chance.choice([-200.0, 150.0, 700.0]))
        if isinstance(event, do.Search):
            event = do.Search(
                screen=event.screen,
                entry=event.entry,
                list=event.list,
                text=chance.choice(["a", "or", "", "zz"]),
            )
        events.append(event)
        session, *_ = step(app, session, event)
    return tuple(events)
