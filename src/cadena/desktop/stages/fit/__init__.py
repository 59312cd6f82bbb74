"""What the Fit stage says of itself."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from cadena.desktop.document.stages import Kind, Stage, open_in
from cadena.desktop.stages.fit.selected import (
    Gap,
    SelectedArrangement,
    SelectedBreakpoint,
    SelectedWindow,
)
from cadena.model.find import by_id

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.desktop.stages.fit.stage import FitStage


def _make(document: Document) -> FitStage:
    from cadena.desktop.stages.fit.stage import FitStage

    return FitStage(document)


def _count(document: Document) -> tuple[int, bool]:
    return open_in(STAGE, document), document.is_checked and document.measuring.is_done


def _breakpoint(axis: Literal["width", "height", "shape"], at: str) -> SelectedBreakpoint:
    return SelectedBreakpoint(axis, float(at))


STAGE = Stage(
    name="Fit",
    about="Drag through all windows: where one pane becomes two, and what is still true.",
    number=4,
    make=_make,
    kinds={
        SelectedArrangement: Kind(
            "arrangement",
            SelectedArrangement,
            lambda app, selection: by_id(app.arrangements, selection.arrangement) is not None,
            lambda selection, each: each.is_about("arrangement", selection.arrangement),
        ),
        SelectedBreakpoint: Kind("breakpoint", _breakpoint),
        SelectedWindow: Kind(
            "window",
            SelectedWindow,
            is_about=lambda selection, each: each.is_about("window", selection.window),
        ),
        Gap: Kind("gap", Gap, is_about=lambda _, each: each.is_about("arrangements")),
    },
    opened=_count,
    leads=True,
)
