"""What the Shape stage says of itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from cadena.desktop.document.selection import Selection
from cadena.desktop.document.stages import Kind, Stage, counted
from cadena.model.app import App
from cadena.model.find import by_id

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.desktop.stages.shape.stage import ShapeStage


def _made(document: Document) -> ShapeStage:
    from cadena.desktop.stages.shape.stage import ShapeStage

    return ShapeStage(document)


def _screen_is_there(app: App, selection: Selection) -> bool:
    return by_id(app.screens, selection.name) is not None


STAGE = Stage(
    name="Shape",
    number=2,
    make=_made,
    kinds={name: Kind(_screen_is_there) for name in ("listing", "slot", "block")},
    codes=frozenset(
        {
            "empty-words-missing",
            "field-missing",
            "field-sparse",
            "form-field-missing",
            "form-misses-required",
            "limit-without-words",
            "nested-matches-nothing",
            "row-needs-item-call",
            "row-says-twice",
            "title-missing",
        }
    ),
    opened=counted("Shape"),
)
