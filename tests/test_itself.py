"""Cadena itself is used through accessibility, as by who does not see it: without a hook for tests,
by the names and roles that it tells. It is held to what it asks of others (README.md, *From
nothing*)."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Iterator
from typing import Any, NamedTuple

import pytest

from cadena.deliver.drive.accessibility import (
    ACCESSIBLE,
    CHECKED,
    COMPONENT,
    SHOWING,
    Element,
    Ref,
)
from cadena.deliver.drive.desktop_place import Place, desktop
from test_drive_desktop import pytestmark

__all__ = ["pytestmark"]

STARTS = f'/bin/sh -c "exec {sys.executable} -m cadena" cadena'
"""What it is told of being driven it takes no notice of."""


class Told(NamedTuple):
    """What an element says of itself to anybody."""

    ref: Ref
    name: str
    role: str
    states: int

    def has(self, state: int) -> bool:
        return bool(self.states >> state & 1)


class Listener:
    """Somebody who hears what is there, and presses it."""

    def __init__(self, place: Place) -> None:
        self.place = place
        self.reads = place.listens

    def all(self) -> Iterator[Told]:
        todo: list[Ref] = [self.place.app] if self.place.app else []
        while todo:
            ref = todo.pop()
            name, role, state, inside = self.reads.ask(
                [
                    (ref, "org.freedesktop.DBus.Properties", "Get", "ss", (ACCESSIBLE, "Name")),
                    (ref, ACCESSIBLE, "GetRoleName", None, ()),
                    (ref, ACCESSIBLE, "GetState", None, ()),
                    (ref, ACCESSIBLE, "GetChildren", None, ()),
                ]
            )
            if role and state:
                low, high = state[0]
                said = name[0][1] if name else ""
                yield Told(ref, said, role[0], low | high << 32)
                todo += [tuple(each) for each in reversed(inside[0] if inside else [])]

    def find(self, holds: Callable[[Told], Any], within: float = 8.0) -> Told:
        until = time.monotonic() + within
        while True:
            found = next((e for e in self.all() if e.has(SHOWING) and holds(e)), None)
            if found is not None:
                return found
            heard = sorted({e.name for e in self.all() if e.name})
            assert time.monotonic() < until, heard
            time.sleep(0.05)

    def named(self, name: str) -> Told:
        return self.find(lambda each: each.name == name)

    def press(self, name: str, at: float = 0.5) -> None:
        """A press of the pointer, so far down the element."""
        ref = self.named(name).ref
        x, y, width, height = self.reads.ask([(ref, COMPONENT, "GetExtents", "u", (0,))])[0][0]
        self.reads.mouse(x + width / 2, y + height * at, "b1c")

    def type(self, name: str, text: str) -> None:
        ref = self.named(name).ref
        self.reads.type_into(Element(ref, ref, "", 0, 0, 0, 0, 0, 0), text)
        self.reads.key("enter")


@pytest.fixture
def listener() -> Iterator[Listener]:
    with desktop(STARTS) as place:
        place.start(1280, 800)
        yield Listener(place)


@pytest.mark.long
def test_the_first_minute_is_done_by_names_and_roles_alone(listener: Listener) -> None:
    listener.type("begin with made-up records of", "boats")
    listener.named("Boats * · Cadena")
    rows = listener.find(lambda each: each.name.startswith("list, 3 rows in view"))
    listener.press(rows.name, 0.1)
    listener.find(lambda each: each.name.startswith("Back") and each.role == "push button")
    listener.press("turn the app")
    listener.find(lambda each: each.name.startswith("list, "))
    listener.press("kill the app")
    listener.press("restore the app")
    listener.find(lambda each: each.name.startswith("list, "))
    for number, name in enumerate(("Gather", "Shape", "Link", "Fit", "Keep"), 1):
        listener.reads.key(str(number), "control")
        listener.find(lambda each, of=f"stage {name}": each.name == of and each.has(CHECKED))  # type: ignore[misc]


@pytest.mark.long
def test_all_that_can_be_reached_says_what_it_is(listener: Listener) -> None:
    listener.type("begin with made-up records of", "boats")
    listener.named("Boats * · Cadena")
    nameless = [
        each
        for each in listener.all()
        if each.has(SHOWING)
        and each.role in ("push button", "check box", "radio button", "text", "list", "combo box")
        and not each.name
    ]
    assert nameless == []
