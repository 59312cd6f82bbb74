"""Windows with names of our own, and edits of those that an app is made for."""

from __future__ import annotations

from typing import Final

from msgspec.structs import replace

from cadena.model.app import App, NamedWindow

LARGEST: Final = 20_000
NAMED: Final = (
    NamedWindow(name="Wrist", width=198, height=242),
    NamedWindow(name="Pocket", width=360, height=780),
    NamedWindow(name="Fold", width=673, height=841, fold=336),
    NamedWindow(name="Slate", width=820, height=1180),
    NamedWindow(name="Desk", width=1280, height=800),
)


def windows_of(app: App) -> tuple[NamedWindow, ...]:
    """The windows that an app is made for; those that cannot be are left out."""
    sound = tuple(each for each in app.windows if fault_of(each) is None)
    return sound or NAMED


def fault_of(window: NamedWindow) -> str | None:
    """Why a window cannot be, or none."""
    if not all(1 <= size <= LARGEST for size in (window.width, window.height)):
        return f"a window is 1 to {LARGEST} dp each way, not {window.width:g} × {window.height:g}"
    if window.fold is not None and not 0 < window.fold < window.width:
        return f"a window {window.width:g} dp wide cannot fold at {window.fold:g}"
    return None


def with_window(app: App, window: NamedWindow) -> App:
    """The app made for one more window, or for another of that name."""
    others = windows_of(app)
    if any(each.name == window.name for each in others):
        made = tuple(window if each.name == window.name else each for each in others)
    else:
        made = (*others, window)
    return replace(app, windows=made)


def without_window(app: App, name: str) -> App:
    """The app no longer made for a window; the last one stays."""
    made = tuple(each for each in windows_of(app) if each.name != name)
    return replace(app, windows=made) if made else app
