"""What the Prove stage says of itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from cadena.desktop.document.stages import Kind, Stage
from cadena.desktop.stages.prove.selected import SelectedClaim, SelectedReach

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.desktop.stages.prove.stage import ProveStage


def _make(document: Document) -> ProveStage:
    from cadena.desktop.stages.prove.stage import ProveStage

    return ProveStage(document)


def _count(document: Document) -> tuple[int, bool]:
    from cadena.desktop.document.proven import Proven

    state = document.own(Proven)
    broken = 0 if state.proof is None else len(state.proof.broken)
    return broken, state.is_fresh


def _ready(document: Document) -> None:
    from cadena.desktop.document.proving import proving_of

    proving_of(document).finish()


STAGE = Stage(
    name="Prove",
    about="Ask whether anything is broken anywhere, and walk the shortest way to it.",
    number=6,
    make=_make,
    kinds={
        SelectedClaim: Kind("claim", SelectedClaim),
        SelectedReach: Kind("reached", SelectedReach),
    },
    opened=_count,
    ready=_ready,
)
