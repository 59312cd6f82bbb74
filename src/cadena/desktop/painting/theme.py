"""Every colour, size and face of the interface, from one place."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Final, Literal, NamedTuple

from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontInfo, QPalette
from PySide6.QtWidgets import QApplication

Name = Literal["light", "dark"]


class Theme(NamedTuple):
    """The roles of product.md; each ``*_ink`` is text that reads on its wash and on paper.

    ``on_holds`` is text on what holds or is broken, ``action`` the ground of what is to be
    pressed first, ``frame`` the frame of a window.
    """

    name: Name
    ground: str
    paper: str
    card: str
    bench: str
    ink: str
    soft: str
    hairline: str
    brass: str
    brass_ink: str
    brass_wash: str
    holds: str
    holds_ink: str
    holds_wash: str
    on_holds: str
    broken: str
    broken_ink: str
    broken_wash: str
    action: str
    slate: str
    frame: str
    field: str
    on_slate: str
    on_slate_soft: str
    on_slate_broken: str
    quiet: str
    screen: str
    screen_soft: str
    screen_line: str
    screen_tile: str
    screen_link: str
    region1: str
    region2: str
    region3: str


LIGHT: Final = Theme(
    name="light",
    ground="#E9E6DF",
    paper="#F7F5F0",
    card="#FFFFFF",
    bench="#DAD6CB",
    ink="#1F2D33",
    soft="#505C61",
    hairline="#CFCBC1",
    brass="#A8741A",
    brass_ink="#7A5210",
    brass_wash="#F3E3C3",
    holds="#2C7A6B",
    holds_ink="#1F6558",
    holds_wash="#D6EBE4",
    on_holds="#FFFFFF",
    broken="#B3402A",
    broken_ink="#9A3320",
    broken_wash="#F6DAD3",
    action="#7A5210",
    slate="#2B3E47",
    frame="#2B3E47",
    field="#3E525C",
    on_slate="#FFFFFF",
    on_slate_soft="#C9D3D6",
    on_slate_broken="#F6C4B8",
    quiet="#B5B1A6",
    screen="#FFFFFF",
    screen_soft="#556166",
    screen_line="#E6E3DB",
    screen_tile="#E2DED2",
    screen_link="#2F6183",
    region1="#F1EEE7",
    region2="#DCE2E2",
    region3="#C8D2D5",
)
DARK: Final = Theme(
    name="dark",
    ground="#1B2428",
    paper="#222D32",
    card="#2A363C",
    bench="#151D20",
    ink="#EDEAE2",
    soft="#A9B4B7",
    hairline="#3D4A50",
    brass="#D9A441",
    brass_ink="#EBC272",
    brass_wash="#4A3B1C",
    holds="#5DB8A4",
    holds_ink="#86D0BF",
    holds_wash="#1E423B",
    on_holds="#0F171A",
    broken="#E07A63",
    broken_ink="#F0A08D",
    broken_wash="#4D2720",
    action="#4A3B1C",
    slate="#0F171A",
    frame="#5A676C",
    field="#26343A",
    on_slate="#FFFFFF",
    on_slate_soft="#B8C4C7",
    on_slate_broken="#F0A08D",
    quiet="#5A676C",
    screen="#20292D",
    screen_soft="#A9B4B7",
    screen_line="#364247",
    screen_tile="#39464B",
    screen_link="#8FC1E0",
    region1="#263136",
    region2="#33434A",
    region3="#42555D",
)
THEMES: Final[dict[Name, Theme]] = {"light": LIGHT, "dark": DARK}
FACE: Final = "Inter"
TEXT: Final = 13


class Look:
    """The theme in use now; widgets read it when they paint."""

    theme: Theme = LIGHT
    scale: float = 1.0


def theme() -> Theme:
    """The theme in use now."""
    return Look.theme


def colour(role: str) -> QColor:
    """The colour of a role in the theme in use now."""
    return QColor(getattr(Look.theme, role))


def px(size: float) -> int:
    """A size of the interface in px, larger where the desktop asks for large text."""
    return round(size * Look.scale)


@lru_cache
def _load_face() -> None:
    """Let the toolkit know the face, once."""
    for font in (Path(__file__).parents[2] / "fonts").glob("*.otf"):
        QFontDatabase.addApplicationFont(str(font))


def install(application: QApplication, name: Name) -> None:
    """Dress the application: face and palette. Windows put on the style sheet themselves.

    The face is the one that comes with Cadena, as on the Bench and in delivered apps: so that
    nothing is cut where the system has another. How large it is goes by the system's own.
    """
    Look.theme = THEMES[name]
    system = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont)
    Look.scale = min(2.0, max(1.0, QFontInfo(system).pixelSize() / TEXT))
    _load_face()
    font = QFont(FACE)
    font.setPixelSize(px(TEXT))
    application.setFont(font)
    application.setPalette(_palette(Look.theme))


def _palette(theme: Theme) -> QPalette:
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: theme.ground,
        QPalette.ColorRole.WindowText: theme.ink,
        QPalette.ColorRole.Base: theme.card,
        QPalette.ColorRole.AlternateBase: theme.paper,
        QPalette.ColorRole.Text: theme.ink,
        QPalette.ColorRole.Button: theme.paper,
        QPalette.ColorRole.ButtonText: theme.ink,
        QPalette.ColorRole.Highlight: theme.brass_wash,
        QPalette.ColorRole.HighlightedText: theme.ink,
        QPalette.ColorRole.PlaceholderText: theme.soft,
        QPalette.ColorRole.ToolTipBase: theme.paper,
        QPalette.ColorRole.ToolTipText: theme.ink,
    }
    for role, value in roles.items():
        palette.setColor(role, QColor(value))
    return palette


def mono(size: int = 11) -> QFont:
    """The face for identifiers, in px."""
    font = QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont)
    font.setPixelSize(size)
    return font


def style_sheet(t: Theme) -> str:
    """How the ordinary controls look. Painted pictures take their colours from the theme."""
    return f"""
    QToolTip {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.hairline}; padding: 4px; }}
    #head {{ background: {t.slate}; }}
    #head QLabel {{ color: {t.on_slate_soft}; background: transparent; }}
    #head QLabel#wordmark {{ color: {t.on_slate}; font-size: {px(17)}px; font-weight: 700; }}
    #head QPushButton {{ background: transparent; color: {t.on_slate}; border: 1px solid transparent;
        border-radius: 13px; padding: 4px 12px; }}
    #head QPushButton:hover {{ background: {t.field}; }}
    #head QPushButton:focus {{ border: 2px solid {t.on_slate}; padding: 3px 11px; }}
    #head QPushButton#ask {{ background: {t.field}; color: {t.on_slate_soft}; text-align: left;
        padding: 5px 16px; border-radius: 14px; }}
    #head QPushButton#findings[open="true"] {{ color: {t.on_slate_broken}; }}
    #head QPushButton#walks {{ background: {t.action};
        color: {t.on_slate}; padding: 5px 16px; }}
    #strip {{ background: {t.paper}; border: 1px solid {t.paper}; border-top-color: {t.hairline}; }}
    #strip QLabel, #bench QLabel, #board-head QLabel {{ background: transparent; }}
    #strip QLabel[role="about"], #bench QLabel[role="about"], QLabel[role="about"] {{ color: {t.soft}; }}
    QLabel[role="subject"] {{ font-size: {px(15)}px; font-weight: 700; }}
    QLabel[role="broken"] {{ color: {t.broken_ink}; }}
    #bench {{ background: {t.bench}; border-left: 1px solid {t.hairline}; }}
    #board-head {{ background: {t.ground}; }}
    QPushButton[role="choice"], QToolButton[role="choice"] {{ background: {t.card}; color: {t.ink};
        border: 1px solid {t.hairline}; border-radius: 11px; padding: 2px 10px; }}
    QPushButton[role="choice"]:hover {{ border-color: {t.soft}; }}
    QPushButton[role="choice"]:checked {{ background: {t.brass_wash}; border: 1px solid {t.brass};
        font-weight: 600; }}
    QPushButton[role="choice"]:disabled {{ color: {t.quiet}; background: {t.paper}; }}
    QPushButton[role="choice"]:focus {{ border: 2px solid {t.ink}; padding: 1px 9px; }}
    QPushButton[role="chip"] {{ background: {t.card}; color: {t.ink}; border: 1px solid {t.hairline};
        border-radius: 12px; padding: 3px 11px; }}
    QPushButton[role="offer"] {{ background: transparent; color: {t.soft}; border: 1px solid transparent;
        border-radius: 12px; padding: 3px 7px; }}
    QPushButton[role="act"] {{ background: transparent; color: {t.brass_ink}; border: 1px solid transparent;
        border-radius: 12px; padding: 3px 6px; }}
    QPushButton[role="act"]:hover {{ border-color: {t.hairline}; }}
    QPushButton[role="act"]:focus {{ border: 2px solid {t.ink}; padding: 2px 5px; }}
    QPushButton[role="chip"]:hover {{ border-color: {t.soft}; }}
    QPushButton[role="offer"]:hover {{ color: {t.ink}; }}
    QPushButton[role="chip"]:checked, QPushButton[role="offer"]:checked {{ background: {t.brass_wash};
        color: {t.ink}; border: 1px solid {t.brass}; }}
    QPushButton[role="chip"]:focus {{ border: 2px solid {t.ink}; padding: 2px 10px; }}
    QPushButton[role="offer"]:focus {{ border: 2px solid {t.ink}; padding: 2px 6px; }}
    #editor {{ background: {t.card}; border: 1px solid {t.brass}; border-radius: 10px; }}
    #editor QLabel, #editor-lines, #editor QScrollArea {{ background: transparent; }}
    QPushButton[role="card"], QPushButton[role="open card"] {{ background: {t.card}; color: {t.ink};
        border: 1px solid {t.hairline}; border-radius: 8px; padding: 6px 12px; text-align: left;
        min-width: {px(92)}px; }}
    QPushButton[role="card"]:hover, QPushButton[role="open card"]:hover {{ border-color: {t.soft}; }}
    QPushButton[role="card"]:checked {{ background: {t.brass_wash}; border: 2px solid {t.brass}; padding: 5px 11px; }}
    QPushButton[role="card"]:focus, QPushButton[role="open card"]:focus {{ border: 2px solid {t.ink}; padding: 5px 11px; }}
    QPushButton[role="open card"] {{ background: transparent; color: {t.brass_ink}; border: 1px dashed {t.brass}; }}
    QPushButton[role="field"], QPushButton[role="key field"] {{ background: {t.card}; color: {t.soft};
        border: 1px solid {t.hairline}; border-radius: 8px; padding: 1px 8px; font-size: {px(12)}px; }}
    QAbstractScrollArea::corner {{ background: transparent; border: none; }}
    QPushButton[role="field"]:checked, QPushButton[role="key field"]:checked {{ background: {t.holds_wash};
        color: {t.ink}; border: 1px solid {t.holds}; }}
    QPushButton[role="field"]:focus {{ border: 2px solid {t.ink}; padding: 0 7px; }}
    #marks {{ background: {t.ground}; border: none; }}
    #marks QHeaderView {{ background: {t.ground}; }}
    #marks QHeaderView::section, #marks QTableCornerButton::section {{ background: {t.ground}; color: {t.ink};
        border: none; border-bottom: 1px solid {t.hairline}; padding: 3px 1px 3px 8px; font-size: {px(12)}px; }}
    #marks QHeaderView::section:horizontal {{ padding: 3px 0; }}
    #marks::item:selected {{ background: transparent; }}
    QListWidget#fields, QListWidget#blocks {{ background: transparent; border: none; }}
    QListWidget#fields::item:selected, QListWidget#blocks::item:selected {{ background: transparent; }}
    QSlider::groove:horizontal {{ height: 4px; background: {t.hairline}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ width: 14px; margin: -5px 0; border-radius: 7px; background: {t.brass}; }}
    QSlider::handle:horizontal:disabled {{ background: {t.quiet}; }}
    QSlider:focus {{ border: 1px solid {t.ink}; border-radius: 4px; }}
    QProgressBar {{ background: {t.hairline}; border: none; border-radius: 4px; }}
    QProgressBar::chunk {{ background: {t.brass}; border-radius: 4px; }}
    QPushButton[role="mend"] {{ background: {t.action};
        color: #FFFFFF; border: 1px solid transparent; border-radius: 11px; padding: 2px 12px; }}
    QPushButton[role="mend"]:focus {{ border: 2px solid {t.ink}; }}
    QPushButton[role="section"] {{ background: transparent; color: {t.soft}; border: 2px solid transparent;
        border-radius: 6px; padding: 2px 8px; font-size: {px(14)}px; }}
    QPushButton[role="section"]:checked {{ color: {t.ink}; font-weight: 700; }}
    QPushButton[role="section"]:hover {{ color: {t.ink}; }}
    QPushButton[role="section"]:focus {{ border-color: {t.ink}; }}
    QLineEdit {{ background: {t.card}; color: {t.ink}; border: 1px solid {t.hairline};
        border-radius: 6px; padding: 3px 8px; selection-background-color: {t.brass_wash};
        selection-color: {t.ink}; }}
    QLineEdit:focus {{ border: 2px solid {t.brass}; padding: 2px 7px; }}
    QMenu {{ background: {t.card}; color: {t.ink}; border: 1px solid {t.hairline}; padding: 4px; }}
    QMenu::item {{ padding: 5px 18px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {t.brass_wash}; }}
    QMenu::item:disabled {{ color: {t.quiet}; }}
    QListView {{ background: {t.card}; border: none; outline: none; }}
    QListView::item {{ padding: 5px 10px; }}
    QListView::item:selected {{ background: {t.brass_wash}; color: {t.ink}; }}
    QScrollArea {{ border: none; background: transparent; }}
    QScrollBar:vertical {{ width: 10px; background: transparent; }}
    QScrollBar:horizontal {{ height: 10px; background: transparent; }}
    QScrollBar::handle {{ background: {t.quiet}; border-radius: 4px; min-height: 24px; min-width: 24px;
        margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QPlainTextEdit {{ background: transparent; border: none; color: {t.ink}; }}
    QPlainTextEdit[role="code"] {{ background: {t.card}; padding: 6px; }}
    """
