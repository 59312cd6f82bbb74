"""The report of a project: measured, and painted by the one painter as SVG in which text stays."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from PySide6.QtCore import QBuffer, QIODevice, QRect, QSize
from PySide6.QtGui import QPainter

from cadena.check.check import check
from cadena.check.report_page import Shown, Told, page
from cadena.desktop.painting.painter import paint_scene
from cadena.desktop.painting.pictures import Pictures
from cadena.desktop.painting.theme import DARK, LIGHT, Look, Theme
from cadena.engine.rules.window_change import window_of
from cadena.engine.wired import WiredApp
from cadena.model.windows import windows_of
from cadena.runs.keep.matrix import matrix_of
from cadena.runs.prove.moves_in_words import moves_in_words
from cadena.runs.prove.prove import prove
from cadena.runs.shortest_walks import ways
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Scene
from cadena.sources.open_project import open_project

ROLES: Final = tuple(name for name in Theme._fields if name != "name")
MARKS: Final = {name: f"#{number + 1:02x}fe{255 - number:02x}" for number, name in enumerate(ROLES)}
"""A colour for each role that nothing else has: in the page it is the role itself."""
IMAGE: Final = re.compile(
    r'<image x="([^"]*)" y="([^"]*)" width="([^"]*)" height="([^"]*)"[^>]*'
    r'xlink:href="(data:[^"]*)" */>'
)
PLAIN: Final = (
    (re.compile(r' transform="matrix\(1,0,0,1,0,0\)"'), ""),
    (
        re.compile(
            r'(<g [^>]*?)\s*font-family="[^"]*" font-size="[^"]*" font-weight="[^"]*"'
            r' font-style="[^"]*"\s*>'
        ),
        r"\1>",
    ),
    (re.compile(r' font-family="[^"]*"'), ""),
    (re.compile(r' (?:stroke|fill)-opacity="1"| font-style="normal"| vector-effect="none"'), ""),
    (re.compile(r' stroke-linecap="square" stroke-linejoin="bevel"'), ""),
    (re.compile(r"\s*\n\s*"), " "),
    (re.compile(r"<g [^>]*>\s*</g>"), ""),
)


def report_of(project: Path) -> str:
    """Measure a project, and tell all of it as one page of HTML.

    Raises:
        Problem: for a project that cannot be used.
    """
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from cadena.desktop.shell.application import application

    application()
    opened = open_project(project)
    app = WiredApp(opened.app, opened.records)
    images: dict[str, str] = {}
    before = Look.theme
    Look.theme = Theme("light", **MARKS)
    try:
        shown = tuple(_shown(app, Pictures(opened.folder), images))
    finally:
        Look.theme = before
    colours = {name: (getattr(LIGHT, name), getattr(DARK, name)) for name in ROLES}
    findings = tuple(check(opened.app, opened.records, opened.look))
    told = Told(
        opened.app, findings, matrix_of(app), prove(app), shown, _names_of_images(images), colours
    )
    return page(told)


def _names_of_images(images: dict[str, str]) -> dict[str, str]:
    return {name: data for data, name in images.items()}


def _shown(app: WiredApp, pictures: Pictures, images: dict[str, str]) -> Iterator[Shown]:
    """Every screen in every named window that it can be come to in."""
    for named in windows_of(app.app):
        window = window_of(named)
        for screen, way in ways(app, window).items():
            scene = lay_out(app, way.session, way.session.window)
            said = ", ".join(moves_in_words(way.events)) or "at the start"
            where = f"{named.name} {named.width:g} × {named.height:g}"
            yield Shown(screen, where, named.width, _svg(scene, pictures, images), said)


def _svg(scene: Scene, pictures: Pictures, images: dict[str, str]) -> str:
    """A scene as SVG, its pictures named once for all, its colours by their roles."""
    from PySide6.QtSvg import QSvgGenerator

    buffer, made = QBuffer(), QSvgGenerator()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    made.setOutputDevice(buffer)
    made.setSize(QSize(round(scene.width), round(scene.height)))
    made.setViewBox(QRect(0, 0, round(scene.width), round(scene.height)))
    painter = QPainter(made)
    paint_scene(painter, scene, pictures)
    painter.end()
    text = bytes(buffer.data().data()).decode()

    def named(found: re.Match[str]) -> str:
        x, y, wide, high, data = found.groups()
        name = images.setdefault(data, f"i{len(images)}")
        return f'<use href="#{name}" transform="translate({x} {y}) scale({wide} {high})"/>'

    text = IMAGE.sub(named, text[text.index("<g ") : text.rindex("</svg>")])
    for pattern, instead in PLAIN:
        text = pattern.sub(instead, text)
    for role, mark in MARKS.items():
        text = text.replace(f'"{mark}"', f'"var(--{role})"')
    size = f"{scene.width:g} {scene.height:g}"
    return f'<svg viewBox="0 0 {size}" font-family="Inter,sans-serif">{text}</svg>'
