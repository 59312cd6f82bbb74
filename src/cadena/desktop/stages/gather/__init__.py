"""What the Gather stage says of itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from cadena.desktop.document.selection import Selection
from cadena.desktop.document.stages import Kind, Stage, counted
from cadena.model.app import App
from cadena.model.find import by_id

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.desktop.stages.gather.stage import GatherStage


def _made(document: Document) -> GatherStage:
    from cadena.desktop.stages.gather.stage import GatherStage

    return GatherStage(document)


def _source_is_there(app: App, selection: Selection) -> bool:
    return by_id(app.sources, selection.name) is not None


STAGE = Stage(
    name="Gather",
    number=1,
    make=_made,
    kinds={
        "source": Kind(_source_is_there),
        "field": Kind(_source_is_there),
        "new source": Kind(),
    },
    codes=frozenset({"key-gap", "key-duplicate", "records-left-out", "secret-in-project"}),
    opened=counted("Gather"),
)
