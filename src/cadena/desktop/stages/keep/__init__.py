"""What the Keep stage says of itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from cadena.desktop.document.stages import Kind, Stage, stage_of
from cadena.desktop.stages.keep.selected import SavedState, SelectedMark

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.desktop.stages.keep.stage import KeepStage


def _make(document: Document) -> KeepStage:
    from cadena.desktop.stages.keep.stage import KeepStage

    return KeepStage(document)


def _count(document: Document) -> tuple[int, bool]:
    # What a run has shown is counted by its marks.
    read = sum(stage_of(each) is STAGE and not each.run for each in document.findings)
    return read + document.measured.broken, document.keeping.is_done


def _ready(document: Document) -> None:
    document.keeping.finish()


STAGE = Stage(
    name="Keep",
    about="See by measurement what outlives a turn, a kill, a refresh and a cold start.",
    number=5,
    make=_make,
    kinds={
        SelectedMark: Kind("mark", SelectedMark),
        SavedState: Kind("saved state", SavedState),
    },
    opened=_count,
    ready=_ready,
    leads=True,
)
