"""The commands of the window: keys, the menu and Ctrl+K are made of these, and of the stages'."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import TYPE_CHECKING, Any, Final

from PySide6.QtCore import QObject, QPoint
from PySide6.QtWidgets import QMenu, QWidget

from cadena.desktop.bench.bench import TEXTS
from cadena.desktop.document.actions import Action
from cadena.desktop.document.bench_windows import add_window
from cadena.desktop.document.change import ANEW, Change
from cadena.desktop.document.selection import AllWalks
from cadena.desktop.document.stages import stages
from cadena.engine.events import (
    Back,
    Event,
    Forward,
    Kill,
    ReadFrom,
    Relaunch,
    Restore,
    SetText,
    Sleep,
    Turn,
    Wake,
)
from cadena.engine.rules.window_change import window_of
from cadena.model.app import NamedWindow
from cadena.model.windows import windows_of

if TYPE_CHECKING:
    from cadena.desktop.shell.window import MainWindow

HAPPENINGS: Final[tuple[tuple[str, Event], ...]] = (
    ("back", Back()),
    ("forward", Forward()),
    ("turn", Turn()),
    ("sleep", Sleep()),
    ("wake", Wake()),
    ("kill", Kill()),
    ("restore", Restore()),
    ("relaunch", Relaunch()),
    *((f"text {size:.0%}", SetText(size=size)) for size in TEXTS),
    ("read from the left", ReadFrom(side="left")),
    ("read from the right", ReadFrom(side="right")),
)


class Commands(QObject):
    """Every action there is, made once; those of named windows follow the windows of the app."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window, self.document = window, window.document
        self._windows: tuple[NamedWindow, ...] = ()
        self._of_windows: list[Action] = []
        self._of_stages = {each.name: self._of_stage(each.name) for each in stages()}
        self._own = [*self._of_project(), *self._of_work(), *self._of_bench()]
        self._by_can = self._asked_once()
        for action in self._own:
            window.addAction(action)
        for of_stage in self._of_stages.values():
            for action in of_stage:
                if not action.of_picture:
                    window.addAction(action)
        self.document.watch(ANEW | Change.WINDOWS, self.refresh)
        self.refresh()

    def __iter__(self) -> Iterator[Action]:
        yield from self._own
        for of_stage in self._of_stages.values():
            yield from of_stage
        yield from self._of_windows

    def refresh(self) -> None:
        """Whether each can be given may have changed, and which windows there are."""
        there = windows_of(self.document.app)
        if there != self._windows:
            for gone in self._of_windows:
                gone.deleteLater()
            self._windows, self._of_windows = there, list(self._of_named(there))
            self._by_can = self._asked_once()
        for can, actions in self._by_can.items():
            now = can()
            for action in actions:
                action.setEnabled(now)

    def _asked_once(self) -> dict[Callable[[], bool], list[Action]]:
        """The actions by what lets them be given."""
        by_can: dict[Callable[[], bool], list[Action]] = {}
        for action in self:
            by_can.setdefault(action.can, []).append(action)
        return by_can

    def _is_open(self) -> bool:
        return self.document.is_open

    def bind_to(self, stage: str, picture: QWidget) -> None:
        """The keys of a stage that are for its picture alone work in it from now on."""
        for action in self._of_stages[stage]:
            if action.of_picture:
                picture.addAction(action)

    def open_menu(self, at: QPoint) -> None:
        """The menu of the project."""
        menu = QMenu(self.window)
        history = self.document.history
        undone = {"Undo": history.undoes, "Redo": history.redoes}
        for group in ("Project", "Edit"):
            for action in self:
                if action.group == group:
                    named = f"{action.name} {undone.get(action.name, '')}".strip()
                    action.setText(named.replace("&", "&&"))
                    menu.addAction(action)
            menu.addSeparator()
        menu.popup(at)

    def open_keys(self, over: QWidget) -> None:
        """The keys of the stage that is shown, of the Bench, and of everything."""
        from cadena.desktop.shell.keys_page import KeysPage

        stage = self.document.stage
        KeysPage(over, stage, self._of_stages[stage], self._own).open_over(over)

    def _action(self, name: str, does: Callable[[], object], **said: Any) -> Action:
        """An action that takes an open project."""
        return Action(name, does, owner=self, can=self._is_open, **said)

    def _of_stage(self, name: str) -> tuple[Action, ...]:
        stage = next(each for each in stages() if each.name == name)
        return stage.commands(self.document, partial(self.window.stage_of, name), self)

    def _of_project(self) -> Iterator[Action]:
        window, document, own = self.window, self.document, partial(Action, owner=self)
        undo, redo = (
            (lambda: bool(document.history.undoes)),
            (lambda: bool(document.history.redoes)),
        )
        yield self._action("Save", window.save, keys="Ctrl+S", menu="Project")
        yield own("Undo", document.undo, keys="Ctrl+Z", can=undo, menu="Edit")
        yield own("Redo", document.redo, keys="Ctrl+Shift+Z", can=redo, menu="Edit")
        yield own("Open a project…", window.choose_project, keys="Ctrl+O", menu="Project")
        yield own("Start with nothing", window.make_project, keys="Ctrl+N", menu="Project")
        yield own("Open the demo", window.open_demo, menu="Project")
        yield self._action("Close the project", window.close_project, keys="Ctrl+W", menu="Project")
        yield own("Make a project of data files…", window.taking.make_of_files, menu="Project")
        yield self._action("Add records from files…", window.taking.add_records, menu="Edit")
        yield self._action("Let the app call its services", document.allow_calls)

    def _of_work(self) -> Iterator[Action]:
        window, own = self.window, partial(Action, owner=self)
        yield self._action("About the app", window.about_app, menu="Project")
        yield self._action("Show open findings", window.show_findings)
        yield self._action("Run all walks", window.run_walks, keys="F5", menu="Edit")
        show_walks = partial(self.document.select, AllWalks())
        yield self._action("Show the walks", show_walks, keys="Ctrl+Shift+W", menu="Edit")
        for stage in stages():
            go = partial(window.go_to_stage, stage.name)
            yield self._action(f"Stage {stage.name}", go, keys=f"Ctrl+{stage.number}")
        yield self._action("Next part", partial(window.next_part, 1), keys="F6")
        yield self._action("Part before", partial(window.next_part, -1), keys="Shift+F6")
        yield own("Light or dark", window.change_theme, menu="Edit")
        yield own("Motion or none", window.change_motion, menu="Edit")
        yield self._action("Do anything", window.ask, keys="Ctrl+K")
        yield self._action("Show the keys", window.show_keys, keys="?", menu="Edit")
        yield own("Quit", window.close, keys="Ctrl+Q", menu="Project")

    def _of_bench(self) -> Iterator[Action]:
        for name, event in HAPPENINGS:
            yield self._action(f"Bench: {name}", partial(self.document.do, event))
        yield self._action("Bench: start anew", self.document.restart)
        yield self._action("Bench at large", self.window.bench_at_large, keys="B")
        yield self._action("Bench in a window of its own", self.window.bench_apart, keys="Shift+B")

    def _of_named(self, named: tuple[NamedWindow, ...]) -> Iterator[Action]:
        document = self.document
        for size in named:
            name = f"Window {size.name} {size.width:g} × {size.height:g}"
            to = partial(document.resize, size.width, size.height, size.fold)
            yield self._action(name, to)
            add = partial(add_window, document, window_of(size))
            yield self._action(f"Bench: add window {size.name}", add)
