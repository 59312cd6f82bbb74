"""Pictures of a stage, drawn without a screen."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Final

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QApplication

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.desktop.document.stages import selection_named, stage_named, stages
from cadena.desktop.painting import theme
from cadena.desktop.painting.faces import forget_fonts
from cadena.desktop.painting.painter import paint_scene
from cadena.desktop.process.settings import Settings
from cadena.engine.session import Session, Window
from cadena.model.problem import Problem
from cadena.runs.walks.walk import Expectation, Walk
from cadena.scene.lay_out import lay_out

BENCH: Final = "bench"


def take_shot(
    project: Path,
    stage: str,
    size: Window,
    name: str,
    window: Window,
    walk: Walk,
    out: Path,
    of: str = "",
) -> None:
    """Draw a stage, or the app alone on the Bench, as a PNG.

    Args:
        size: of the picture, in px; for "bench", of the box the window is scaled to fit in.
        window: the Bench's window, in dp.
        walk: what happens first.
        of: what is selected in the stage, as KIND:NAME or KIND:NAME:PART.

    Raises:
        Problem: when the project cannot be used, or the picture not written.
    """
    known = [*(each.name.lower() for each in stages()), BENCH]
    if stage not in known:
        raise Problem("--stage", "", f'"{stage}" came', "one of: " + ", ".join(known))
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from cadena.desktop.shell.application import application

    app = application()
    theme.install(app, "dark" if name == "dark" else "light")
    forget_fonts()
    document = Document()
    document.session = Session(window)
    document.open(project)
    document.check()
    if stage != BENCH:
        stage_named(stage).ready(document)
    for event in walk:
        if not isinstance(event, Expectation):
            document.do(event)
    document.stage = stage_named(stage).name if stage != BENCH else document.stage
    image = _bench(document, size) if stage == BENCH else _stage(document, size, of)
    if not image.save(str(out)):
        raise Problem(
            str(out), "", "the picture cannot be written", "a *.png in a folder that can be"
        )


def selection_of(document: Document, text: str) -> Selection:
    """What ``KIND:NAME:PART`` selects.

    Raises:
        Problem: when it is not of that form.
    """
    kind, *names = text.split(":")
    try:
        return selection_named(kind, names)
    except (KeyError, TypeError, ValueError):
        wanted = "KIND:NAME, such as field:huts:about"
        raise Problem("--select", "", f'"{text}" came', wanted) from None


def _stage(document: Document, size: Window, of: str) -> QImage:
    from cadena.desktop.shell.window import MainWindow

    window = MainWindow(document, Settings(), remembers=False)
    window.setAttribute(Qt.WidgetAttribute.WA_DontShowOnScreen)
    window.resize(round(size.width), round(size.height))
    window.show()
    if of:
        document.select(selection_of(document, of))
    QApplication.processEvents()
    window.stage.picture.clearFocus()
    window.stage.setFocus()
    image = window.grab().toImage()
    document.unsaved.forget()
    window.hide()
    window.deleteLater()
    return image


def _bench(document: Document, size: Window) -> QImage:
    scene = lay_out(document.wired, document.session, document.session.window)
    scale = min(2.0, size.width / scene.width, size.height / scene.height)
    image = QImage(
        round(scene.width * scale), round(scene.height * scale), QImage.Format.Format_RGB32
    )
    painter = QPainter(image)
    painter.scale(scale, scale)
    paint_scene(painter, scene, document.pictures)
    painter.end()
    return image
