"""The stages there are. Each is a folder that says of itself all that the others must know."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from importlib import import_module
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from cadena.check.finding import Finding, mistakes
from cadena.desktop.document.selection import Selection
from cadena.model.app import App

if TYPE_CHECKING:
    from PySide6.QtCore import QObject

    from cadena.desktop.document.actions import Action
    from cadena.desktop.document.document import Document


FOLDERS: Final = ("gather", "shape", "link", "fit", "keep", "prove", "deliver")
"""The folders under ``desktop/stages``: a stage is added by its folder, and here."""
FIRST: Final = "Link"


def never(*_: Any) -> bool:
    """Of a kind that no finding is about."""
    return False


def always(*_: Any) -> bool:
    """Of a kind that is there whatever the app is."""
    return True


def nothing(*_: Any) -> tuple[()]:
    """Of a stage without commands of its own."""
    return ()


class Kind(NamedTuple):
    """A kind of thing that can be selected.

    Args:
        word: what it is called where somebody names it (``cadena shot --select``).
        of: makes the selection of the names in it; a wrong number of them is a ``TypeError``.
        is_there: whether it is still there.
        is_about: whether a finding is about it.
    """

    word: str
    of: Callable[..., Selection]
    is_there: Callable[[App, Any], bool] = always
    is_about: Callable[[Any, Finding], bool] = never


ANY: Final = Kind("", Selection)


class Stage(NamedTuple):
    """What a stage says of itself.

    Args:
        name: what it is called.
        about: what one does in it, in a sentence.
        number: the number that it has among all stages; its key is Ctrl and that.
        make: makes its widget, with a ``picture`` that is worked on and a ``strip``. Called when
            it is first gone to, so that it may import then what it needs.
        kinds: the kinds of thing that can be selected in it, by their types.
        opened: how much is open in it, and whether that is known by now.
        commands: its own commands, given the document, what makes the widget, and the owner.
        ready: finishes what is measured for it, for a picture of it.
        leads: whether a finding of it, shown in the list of all, leads to the stage.
    """

    name: str
    about: str
    number: int
    make: Callable[[Document], Any]
    kinds: Mapping[type[Selection], Kind]
    opened: Callable[[Document], tuple[int, bool]]
    commands: Callable[[Document, Callable[[], Any], QObject], tuple[Action, ...]] = nothing
    ready: Callable[[Document], object] = nothing
    leads: bool = False


@lru_cache
def stages() -> tuple[Stage, ...]:
    """All stages, in the order of the work."""
    return tuple(import_module(f"cadena.desktop.stages.{each}").STAGE for each in FOLDERS)


def stage_named(name: str) -> Stage:
    """The stage of that name, whatever its letters' case.

    Raises:
        KeyError: when there is none.
    """
    return {each.name.lower(): each for each in stages()}[name.lower()]


def stage_of(finding: Finding) -> Stage:
    """The stage in which a finding is mended."""
    kind = mistakes().get(finding.code)
    return stage_named(FIRST if kind is None else kind.stage)


def kind_of(selection: Selection) -> Kind:
    """What is known of a kind of selection; of one that no stage names, nothing."""
    of = type(selection)
    return next((stage.kinds[of] for stage in stages() if of in stage.kinds), ANY)


def selection_named(word: str, names: Sequence[str]) -> Selection:
    """The selection of that kind and with those names in it.

    Raises:
        KeyError: when there is no such kind.
        TypeError, ValueError: when it takes other names.
    """
    kinds = {each.word: each for stage in stages() for each in stage.kinds.values()}
    return kinds[word].of(*names)


def is_there(app: App, selection: Selection) -> bool:
    """Whether what is selected is still there."""
    return kind_of(selection).is_there(app, selection)


def open_in(stage: Stage, document: Document) -> int:
    """How many findings are mended in a stage."""
    return sum(stage_of(each) is stage for each in document.findings)


def counted(name: str) -> Callable[[Document], tuple[int, bool]]:
    """Counts the findings of a stage, known once the project has been read through."""
    return lambda document: (open_in(stage_named(name), document), document.is_checked)
