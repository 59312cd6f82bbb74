"""What is known of handing the open project over: a value of the document."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Final, Literal, NamedTuple

if TYPE_CHECKING:
    from cadena.deliver.delivery import Handed
    from cadena.deliver.drive.walks_driven import Outcome
    from cadena.deliver.wishes import WebWishes
    from cadena.engine.wired import WiredApp
    from cadena.model.problem import Problem

Form = Literal["web", "desktop", "contract", "report", "diagrams", "changes"]
FORMS: Final[tuple[Form, ...]] = (
    "web",
    "desktop",
    "contract",
    "report",
    "diagrams",
    "changes",
)


ON_DESKTOP: Final = " · desktop"
"""What is said after the name of a walk that is driven there."""


class HandedOver(NamedTuple):
    """What would be handed over: its files, what becomes of each, or why that cannot be; and what
    stays behind."""

    app: WiredApp
    files: dict[str, bytes]
    handed: tuple[Handed, ...]
    problems: tuple[Problem, ...] = ()
    left: tuple[str, ...] = ()


class Came(NamedTuple):
    """What came of driving a walk in a window, and what the app showed where it differed."""

    outcome: Outcome
    picture: bytes = b""


@dataclass
class HandOver:
    """By form what would be handed over; and by walk and window what came of driving it.

    ``driven`` is the app that it was driven against; ``is_driving`` whether it is under way,
    and ``planned`` how many walks that is;
    ``since`` the revision that the app is compared with, empty for the project as it was saved, and
    ``before`` that version of it.
    """

    form: Form = "web"
    made: dict[Form, HandedOver] = field(default_factory=dict)
    came: dict[tuple[str, str], Came] = field(default_factory=dict)
    driven: WiredApp | None = None
    is_driving: bool = False
    planned: int = 0
    since: str = ""
    before: WiredApp | None = None
    wishes: WebWishes | None = None

    @property
    def differing(self) -> tuple[Came, ...]:
        """What differs from what is wired."""
        return tuple(each for each in self.came.values() if each.outcome.differs is not None)
