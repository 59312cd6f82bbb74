"""What the Link stage says of itself."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from cadena.desktop.document.selection import Selection
from cadena.desktop.document.stages import Kind, Stage, counted
from cadena.model.app import App
from cadena.model.find import by_id

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.desktop.shell.commands import Command
    from cadena.desktop.stages.link.stage import LinkStage


def _made(document: Document) -> LinkStage:
    from cadena.desktop.stages.link.stage import LinkStage

    return LinkStage(document)


def _commands(document: Document, stage: Callable[[], LinkStage]) -> tuple[Command, ...]:
    from cadena.desktop.shell.commands import Command

    def start_link() -> None:
        document.show_stage(STAGE.name)
        stage().picture.setFocus()
        stage().strip.start_link()

    def is_open() -> bool:
        return document.is_open

    return (
        Command("Link the selected trigger to a screen", "L on the board", start_link, is_open),
        Command("Fit the board", "", lambda: stage().picture.fit(), is_open),
    )


def _link_is_there(app: App, selection: Selection) -> bool:
    return by_id(app.links, selection.name) is not None


def _trigger_is_there(app: App, selection: Selection) -> bool:
    trigger = selection.trigger
    return trigger is not None and by_id(app.screens, trigger.screen) is not None


STAGE = Stage(
    name="Link",
    number=3,
    make=_made,
    kinds={
        "link": Kind(_link_is_there, lambda selection, each: each.link == selection.name),
        "trigger": Kind(_trigger_is_there),
        "screen": Kind(
            lambda app, selection: by_id(app.screens, selection.name) is not None,
            lambda selection, each: each.screen == selection.name and not each.link,
        ),
        "section": Kind(
            lambda app, selection: by_id(app.sections, selection.name) is not None,
            lambda selection, each: f"sections[{selection.name}]" in each.where,
        ),
    },
    # What no other stage mends is mended here.
    codes=frozenset(),
    opened=counted("Link"),
    commands=_commands,
)
