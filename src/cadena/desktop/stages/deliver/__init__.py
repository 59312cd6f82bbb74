"""What the Deliver stage says of itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from cadena.desktop.document.handed import FORMS, HandOver
from cadena.desktop.document.stages import Kind, Stage
from cadena.desktop.stages.deliver.selected import SelectedDriven, SelectedFile, SelectedForm

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.desktop.stages.deliver.stage import DeliverStage


def _make(document: Document) -> DeliverStage:
    from cadena.desktop.stages.deliver.stage import DeliverStage

    return DeliverStage(document)


def _count(document: Document) -> tuple[int, bool]:
    """Walks that the app takes otherwise than it is wired, once they were driven."""
    state = document.own(HandOver)
    return len(state.differing), state.driven is document.wired and not state.is_driving


def _ready(document: Document) -> None:
    from cadena.desktop.document.handing import handing_of

    for form in FORMS[:4]:
        handing_of(document).finish(form)


STAGE = Stage(
    name="Deliver",
    about="Hand it to your app, drive it, and see that it behaves as it is wired.",
    number=7,
    make=_make,
    kinds={
        SelectedForm: Kind("form", SelectedForm),
        SelectedFile: Kind("file", SelectedFile),
        SelectedDriven: Kind("driven", SelectedDriven),
    },
    opened=_count,
    ready=_ready,
)
