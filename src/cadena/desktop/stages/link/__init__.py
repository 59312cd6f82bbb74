"""What the Link stage says of itself."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from cadena.desktop.document.selection import (
    SelectedLink,
    SelectedScreen,
    SelectedSection,
    SelectedTrigger,
    WholeApp,
)
from cadena.desktop.document.stages import Kind, Stage, counted
from cadena.model.app import Trigger
from cadena.model.find import by_id

if TYPE_CHECKING:
    from PySide6.QtCore import QObject

    from cadena.desktop.document.actions import Action
    from cadena.desktop.document.document import Document
    from cadena.desktop.stages.link.stage import LinkStage


def _make(document: Document) -> LinkStage:
    from cadena.desktop.stages.link.stage import LinkStage

    return LinkStage(document)


def _commands(
    document: Document, stage: Callable[[], LinkStage], owner: QObject
) -> tuple[Action, ...]:
    from cadena.desktop.document.actions import Action

    def start_link() -> None:
        document.show_stage(STAGE.name)
        stage().picture.setFocus()
        stage().strip.start_link()

    def is_open() -> bool:
        return document.is_open

    return (
        Action(
            "Link the selected trigger to a screen",
            start_link,
            owner=owner,
            keys="L",
            can=is_open,
            of_picture=True,
        ),
        Action("Fit the board", lambda: stage().picture.fit(), owner=owner, can=is_open),
    )


STAGE = Stage(
    name="Link",
    about="Pull from a row to the screen it opens, carrying its key, and watch it run.",
    number=3,
    make=_make,
    kinds={
        SelectedLink: Kind(
            "link",
            SelectedLink,
            lambda app, selection: by_id(app.links, selection.link) is not None,
            lambda selection, each: each.link == selection.link,
        ),
        WholeApp: Kind("app", WholeApp),
        SelectedTrigger: Kind(
            "trigger",
            lambda screen, part="": SelectedTrigger(Trigger(screen=screen, part=part)),
            lambda app, selection: by_id(app.screens, selection.trigger.screen) is not None,
        ),
        SelectedScreen: Kind(
            "screen",
            SelectedScreen,
            lambda app, selection: by_id(app.screens, selection.screen) is not None,
            lambda selection, each: each.screen == selection.screen and not each.link,
        ),
        SelectedSection: Kind(
            "section",
            SelectedSection,
            lambda app, selection: by_id(app.sections, selection.section) is not None,
            lambda selection, each: each.is_about("section", selection.section),
        ),
    },
    # What no other stage mends is mended here.
    opened=counted("Link"),
    commands=_commands,
)
