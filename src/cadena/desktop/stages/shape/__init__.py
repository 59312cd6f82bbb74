"""What the Shape stage says of itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from cadena.desktop.document.selection import OnScreen
from cadena.desktop.document.stages import Kind, Stage, counted
from cadena.desktop.stages.shape.selected import (
    SelectedBlock,
    SelectedFormField,
    SelectedList,
    SelectedSlot,
)
from cadena.model.app import App
from cadena.model.find import by_id

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.desktop.stages.shape.stage import ShapeStage


def _make(document: Document) -> ShapeStage:
    from cadena.desktop.stages.shape.stage import ShapeStage

    return ShapeStage(document)


def _screen_is_there(app: App, selection: OnScreen) -> bool:
    return by_id(app.screens, selection.screen) is not None


def _slot(screen: str, place: str) -> SelectedSlot:
    part, _, slot = place.partition("/")
    return SelectedSlot(screen, part, slot)


STAGE = Stage(
    name="Shape",
    about="Say what of a record goes on the row, and what waits for the detail.",
    number=2,
    make=_make,
    kinds={
        SelectedList: Kind("listing", SelectedList, _screen_is_there),
        SelectedSlot: Kind("slot", _slot, _screen_is_there),
        SelectedBlock: Kind("block", SelectedBlock, _screen_is_there),
        SelectedFormField: Kind("form field", SelectedFormField, _screen_is_there),
    },
    opened=counted("Shape"),
)
