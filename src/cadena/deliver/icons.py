"""Icons of one open set (Phosphor, MIT): found in the package that brings their font, and drawn
as outlines for what is handed over."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache
from importlib.util import find_spec
from pathlib import Path
from typing import Final

import msgspec

PACKAGE: Final = "qtawesome"
STEM: Final = "phosphor"


def _fonts() -> Path | None:
    """The folder of the package with its fonts, found without running any of it."""
    found = find_spec(PACKAGE)
    places = None if found is None else found.submodule_search_locations
    return Path(next(iter(places))) / "fonts" if places else None


@lru_cache
def glyphs() -> dict[str, str]:
    """The code of the letter of each icon, by its name; none where the font is not there."""
    folder = _fonts()
    table = next(iter(folder.glob(f"{STEM}-charmap-*.json")), None) if folder else None
    if table is None:
        return {}
    return msgspec.json.decode(table.read_bytes(), type=dict[str, str])


def letter_of(name: str) -> str | None:
    """The letter of the font for an icon, or none."""
    code = glyphs().get(name)
    return None if code is None else chr(int(code, 16))


def font_file() -> Path | None:
    """The file of the font, or none where it is not there."""
    folder = _fonts()
    return next(iter(folder.glob(f"{STEM}-*.ttf")), None) if folder else None


def outlines(names: Iterable[str]) -> dict[str, str]:
    """The outline of each icon as the data of an SVG path, in a box of 1000 by 1000."""
    wanted = {name: letter for name in names if (letter := letter_of(name)) is not None}
    file = font_file()
    if not wanted or file is None:
        return {}
    from fontTools.pens.svgPathPen import SVGPathPen
    from fontTools.pens.transformPen import TransformPen
    from fontTools.ttLib import TTFont

    with TTFont(file, lazy=True) as font:
        known, drawn = font.getBestCmap(), font.getGlyphSet()
        scale = 1000 / font["head"].unitsPerEm
        top = font["hhea"].ascent * scale
        made = {}
        for name, letter in wanted.items():
            pen = SVGPathPen(drawn, ntos=lambda number: str(round(number)))
            outline = TransformPen(pen, (scale, 0, 0, -scale, 0, top))
            drawn[known[ord(letter)]].draw(outline)
            made[name] = pen.getCommands()
    return made
