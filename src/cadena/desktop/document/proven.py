"""What is known by exploring the app: a value of the document that any stage may ask for."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from cadena.runs.prove.prove import Known, Proof


@dataclass
class Proven:
    """The proof there is, whether it is of the app as it is, and whether anybody has asked.

    ``done`` are the sections that are looked at by now.
    """

    proof: Proof | None = None
    is_fresh: bool = False
    is_asked: bool = False
    known: Known = field(default_factory=dict)
    done: int = 0
