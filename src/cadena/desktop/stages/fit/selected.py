"""What can be selected in Fit."""

from __future__ import annotations

from typing import Literal

from cadena.desktop.document.selection import Selection
from cadena.runs.window_plane import Breakpoint


class SelectedArrangement(Selection, frozen=True):
    arrangement: str


class SelectedBreakpoint(Selection, frozen=True):
    """Where one rule ends and another begins: width, height or shape, and how much."""

    axis: Literal["width", "height", "shape"]
    at: float

    @classmethod
    def of(cls, each: Breakpoint) -> SelectedBreakpoint:
        return cls(each.axis, each.at)


class SelectedWindow(Selection, frozen=True):
    """A window that the app is made for, by its name."""

    window: str


class Gap(Selection, frozen=True):
    """The windows that no rule is for."""
