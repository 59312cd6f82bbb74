"""Contrast: every text reads on every ground it stands on, in both themes."""

from __future__ import annotations

import pytest
from PySide6.QtGui import QColor, QFont, QFontDatabase
from PySide6.QtWidgets import QApplication

from cadena.desktop.painting.theme import DARK, LIGHT, Theme, install, px, style_sheet

PAIRS = [
    *(
        ("ink", ground)
        for ground in ("ground", "paper", "card", "bench", "brass_wash", "screen", "broken_wash")
    ),
    *(("soft", ground) for ground in ("ground", "paper", "card", "bench", "screen")),
    *(("screen_soft", ground) for ground in ("screen", "paper", "brass_wash", "screen_tile")),
    ("screen_link", "screen"),
    ("ink", "screen_tile"),
    ("brass_ink", "brass_wash"),
    ("brass_ink", "paper"),
    ("broken_ink", "broken_wash"),
    ("broken_ink", "paper"),
    ("broken_ink", "bench"),
    ("broken_ink", "screen"),
    ("on_slate", "slate"),
    ("on_slate_soft", "slate"),
    ("on_slate_soft", "field"),
    ("on_slate_broken", "slate"),
]


def luminance(name: str) -> float:
    """Relative luminance, WCAG 2."""
    parts = [channel / 255 for channel in QColor(name).getRgb()[:3]]  # type: ignore[index]
    red, green, blue = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: str, other: str) -> float:
    high, low = sorted((luminance(one), luminance(other)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=lambda theme: theme.name)
@pytest.mark.parametrize(("text", "ground"), PAIRS)
def test_text_reads_on_its_ground(theme: Theme, text: str, ground: str) -> None:
    assert contrast(getattr(theme, text), getattr(theme, ground)) >= 4.5


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=lambda theme: theme.name)
def test_buttons_read(theme: Theme) -> None:
    assert contrast(theme.on_holds, theme.holds) >= 4.5
    assert contrast("#FFFFFF", theme.action) >= 4.5


def test_large_text_of_the_desktop_makes_the_interface_larger(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """A desktop with text of 20 px gets an interface half as large again."""
    application = QApplication.instance() or QApplication([])
    assert isinstance(application, QApplication)
    large = QFont("DejaVu Sans")
    large.setPixelSize(20)
    monkeypatch.setattr(QFontDatabase, "systemFont", staticmethod(lambda _: large))
    install(application, "light")
    assert application.font().pixelSize() == 20
    assert px(10) == 15
    assert "font-size: 26px" in style_sheet(LIGHT)
    monkeypatch.undo()
    install(application, "light")
    assert px(10) == 10
