"""What the Gather stage says of itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from cadena.desktop.document.selection import NewSource, SelectedField, SelectedSource
from cadena.desktop.document.stages import Kind, Stage, counted
from cadena.model.app import App
from cadena.model.find import by_id

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.desktop.stages.gather.stage import GatherStage


def _make(document: Document) -> GatherStage:
    from cadena.desktop.stages.gather.stage import GatherStage

    return GatherStage(document)


def _source_is_there(app: App, selection: SelectedSource) -> bool:
    return by_id(app.sources, selection.source) is not None


STAGE = Stage(
    name="Gather",
    about="Bring records from files and services, or make them up, and see what is in them.",
    number=1,
    make=_make,
    kinds={
        SelectedSource: Kind("source", SelectedSource, _source_is_there),
        SelectedField: Kind("field", SelectedField, _source_is_there),
        NewSource: Kind("new source", NewSource),
    },
    opened=counted("Gather"),
)
