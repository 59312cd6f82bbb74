"""A picture of each step that is driven: what the engine shows, and what the app does."""

from __future__ import annotations

import os
from pathlib import Path

from PySide6.QtGui import QImage

from cadena.deliver.drive.driving import Driven
from cadena.deliver.drive.gestures import Hand
from cadena.deliver.drive.walks_driven import Plan
from cadena.desktop.painting import theme
from cadena.desktop.painting.pictures import Pictures
from cadena.desktop.painting.side_by_side import painted, side_by_side
from cadena.engine.wired import WiredApp
from cadena.model.find import slug
from cadena.model.problem import Problem
from cadena.sources.open_project import Project


class Shots:
    """Keeps a picture of each step in a folder: WALK-WINDOW/STEP-EVENT.png."""

    def __init__(self, opened: Project, app: WiredApp, folder: Path) -> None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        from cadena.desktop.shell.application import application

        theme.install(application(), "light")
        self.app = app
        self.folder = folder
        self.pictures = Pictures(opened.folder)

    def __call__(self, plan: Plan, driven: Driven, hand: Hand) -> None:
        event = "start" if driven.event is None else str(driven.event.__struct_config__.tag)
        folder = self.folder / slug(f"{plan.walk} {plan.window}")
        to = folder / f"{driven.step:02}-{slug(event)}.png"
        there = QImage.fromData(hand.picture())
        image = side_by_side(painted(self.app, driven.session, self.pictures), there)
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise Problem(
                str(folder), "", f"it cannot be made ({error.strerror})", "a free name"
            ) from None
        if not image.save(str(to)):
            raise Problem(str(to), "", "the picture cannot be written", "a folder that can be")
