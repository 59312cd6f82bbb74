"""The first rows of the first list, as they stand in the page before its script has run."""

from __future__ import annotations

import html
from typing import Final

from cadena.engine.session import sized
from cadena.engine.step import start
from cadena.engine.wired import WiredApp
from cadena.model.app import ListScreen
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box

WINDOW: Final = sized(400, 1200)
TALL: Final = 60
"""From how many dp a row has a picture, or a second line."""
MOST: Final = 16


def early_rows(app: WiredApp) -> str:
    """The rows as markup, or nothing where the first screen is no list of rows."""
    session, _ = start(app, WINDOW)
    screen = app.screens.get(session.entries[0].screen) if session.entries else None
    if not isinstance(screen, ListScreen) or screen.rows.has_tiles:
        return ""
    if len(session.entries) > 1 or screen.rows.is_grouped:
        return ""
    boxes = lay_out(app, session, WINDOW).boxes
    if any(each.kind == "heads" for each in boxes):
        return ""
    rows = [each for each in boxes if each.kind == "row" and "tile" not in each.state][:MOST]
    if not rows:
        return ""
    bar = next(each for each in boxes if each.kind == "title bar")
    above = max(0, round(rows[0].y - bar.height))
    items = "".join(_row(row, [e for e in boxes if e.key == row.key]) for row in rows)
    # A style of its own is not allowed to the page: what stands above the rows has the height
    # of a picture that is not drawn.
    room = f'<canvas width="1" height="{above}"></canvas>'
    return f'{room}<ul class="early{" tall" if rows[0].height >= TALL else ""}">{items}</ul>'


def _row(row: Box, boxes: list[Box]) -> str:
    said = {each.kind: html.escape(each.text) for each in boxes if each.kind.startswith("row ")}
    badge = next((each for each in boxes if each.kind == "badge"), None)
    ground = "" if badge is None else next((f" {each}" for each in badge.state), "")
    parts = [
        '<span class="no picture"></span>' if any(e.kind == "thumb" for e in boxes) else "",
        f'<span class="texts"><span class="row-title">{said.get("row title", "")}</span>',
        f'<span class="row-subtitle">{said["row subtitle"]}</span>'
        if said.get("row subtitle")
        else "",
        "</span>",
        "" if badge is None else f'<span class="badge{ground}">{html.escape(badge.text)}</span>',
    ]
    return f'<li class="row plain"><div class="contents">{"".join(parts)}</div></li>'
