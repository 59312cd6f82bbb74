"""A thread never outlives what it tells: where that is gone, nothing of it is touched."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from typing import Any

import pytest
import shiboken6
from msgspec.structs import replace
from PySide6.QtCore import QCoreApplication, QObject
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from builders import small_app
from cadena.desktop.document.document import KEEP_AFTER
from cadena.desktop.jobs.calls import Calls
from cadena.desktop.jobs.work import Work
from cadena.desktop.process.background import REST
from cadena.desktop.process.crash import reports
from cadena.engine.events import Answered
from cadena.engine.session import Request
from cadena.engine.wired import WiredApp
from cadena.model.problem import Problem
from cadena.model.source import Service
from cadena.records.reading import Progress, Stopped
from cadena.serve.call_services import Services
from test_desktop import Person, person

__all__ = ["person"]


@pytest.fixture
def said(qapp: QApplication, monkeypatch: pytest.MonkeyPatch) -> Iterator[list[str]]:
    """What went wrong anywhere, in a line each."""
    heard: list[str] = []
    monkeypatch.setattr(threading, "excepthook", lambda of: heard.append(repr(of.exc_value)))
    hear = lambda word, _: heard.append(word)  # noqa: E731
    reports().happened.connect(hear)
    yield heard
    reports().happened.disconnect(hear)


def end(name: str, go_on: Callable[[], None]) -> None:
    """Let a thread go on to its end, and what it tells be heard."""
    (thread,) = [each for each in threading.enumerate() if each.name == name]
    go_on()
    thread.join(5)
    assert not thread.is_alive()
    QCoreApplication.processEvents()


@pytest.mark.parametrize("ends", ["well", "badly", "wrongly"])
def test_work_stops_when_its_owner_goes(said: list[str], ends: str) -> None:
    owner, begun, go_on = QObject(), threading.Event(), threading.Event()
    came: list[object] = []
    stopped: list[bool] = []

    def function(progress: Progress) -> int:
        begun.set()
        go_on.wait(5)
        try:
            progress(0.5)
        except Stopped:
            stopped.append(True)
        if ends == "badly":
            raise Problem("it", "", "cannot be", "another")
        if ends == "wrongly":
            raise MemoryError
        return 1

    Work(owner).start("counting", function, came.append)
    assert begun.wait(5)
    shiboken6.delete(owner)
    end("counting", go_on.set)
    assert (came, stopped, said) == ([], [True], [])


class Stand(QObject):
    """As much of a document as calls are made for."""

    def __init__(self) -> None:
        super().__init__()
        source = replace(small_app().sources[0], service=Service(list="http://x.invalid/huts"))
        self.wired = WiredApp(small_app(sources=(source,)), {})
        self.services = Services()

    def watch(self, *_: Any) -> None:
        """Nothing changes here."""


def test_a_call_that_comes_after_its_document_is_told_to_nobody(
    said: list[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    begun, go_on = threading.Event(), threading.Event()

    def answer(*_: object) -> Answered:
        begun.set()
        go_on.wait(5)
        return Answered(request=1)

    monkeypatch.setattr("cadena.serve.call_services.Services.answer", answer)
    stand: Any = Stand()
    Calls(stand)._call(Request(1, "huts", "huts", "huts", ""))
    assert begun.wait(5)
    shiboken6.delete(stand)
    end("call huts", go_on.set)
    assert said == []


def test_what_is_measured_ends_with_the_window(person: Person, qtbot: QtBot) -> None:
    """Else it goes on behind whatever is opened next."""
    document, told = person.document, []
    document.keeping.start(document.wired)
    document.keeping.done.connect(told.append)
    person.window.close()
    qtbot.wait(KEEP_AFTER + REST)
    assert document.keeping.is_done
    assert document.measuring.is_done
    assert not told
