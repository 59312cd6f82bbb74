"""What the Fit stage says of itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from cadena.desktop.document.stages import Kind, Stage, open_in
from cadena.model.find import by_id

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.desktop.stages.fit.stage import FitStage


def _made(document: Document) -> FitStage:
    from cadena.desktop.stages.fit.stage import FitStage

    return FitStage(document)


def _count(document: Document) -> tuple[int, bool]:
    return open_in(STAGE, document), document.is_checked and document.measuring.is_done


STAGE = Stage(
    name="Fit",
    number=4,
    make=_made,
    kinds={
        "arrangement": Kind(
            lambda app, selection: by_id(app.arrangements, selection.name) is not None,
            lambda selection, each: each.where.startswith(f"arrangements[{selection.name}]"),
        ),
        "breakpoint": Kind(),
        "window": Kind(is_about=lambda selection, each: each.where == f"windows[{selection.name}]"),
        "gap": Kind(is_about=lambda selection, each: each.where == "arrangements"),
    },
    codes=frozenset(
        {
            "arrangement-cannot-be",
            "arrangement-unreachable",
            "list-hidden",
            "page-scrolls",
            "pane-under-least",
            "screen-asks-window",
            "text-cut",
            "window-cannot-be",
            "window-without-arrangement",
        }
    ),
    opened=_count,
    leads=True,
)
