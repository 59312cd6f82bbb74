"""The windows that an app is explored in: one for each way that it arranges itself."""

from __future__ import annotations

from typing import NamedTuple

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.rules.display import arrangement_for
from cadena.engine.rules.window_change import resize_to, window_of
from cadena.engine.session import Window, sized
from cadena.engine.wired import WiredApp
from cadena.model.windows import windows_of
from cadena.runs.window_plane import GAP, plane_of


class Tried(NamedTuple):
    """A window, and the identifier of the arrangement that it has."""

    window: Window
    arrangement: str


def windows_to_try(app: WiredApp) -> tuple[Tried, ...]:
    """One window for each arrangement and each side of its popover limit; one that folds is both.

    Named windows are taken before others. A folded window stands after the one it folds from.
    """
    links = any(each.how == "popover" for each in app.app.links)
    found: dict[tuple[str, bool], Window] = {}
    named = [window_of(each) for each in windows_of(app.app)]
    for window in (*sorted(named, key=lambda each: each.fold is None), *_unnamed(app)):
        arrangement = arrangement_for(app, window)
        is_wide = links and window.width >= arrangement.popover_from
        found.setdefault((arrangement.id, is_wide), window)
    made = []
    for (arrangement_id, _), window in sorted(found.items(), key=lambda each: each[1].width):
        made.append(Tried(window, arrangement_id))
        if window.fold is not None:
            folded = replace(window, folded=True)
            made.append(Tried(folded, arrangement_for(app, folded).id))
    return tuple(made)


def _unnamed(app: WiredApp) -> list[Window]:
    """A window for each arrangement there is one for; and one that no rule is for."""
    plane = plane_of(app.app.arrangements)
    sizes = (plane.size_in(each) for each in (*range(len(plane.rules)), GAP))
    return [sized(*each) for each in sizes if each is not None]


def to_window(now: Window, to: Window) -> do.Event | None:
    """The event that makes one window the other, or none where it takes more than one."""
    if to.folded:
        return do.Fold() if replace(to, folded=False) == now else None
    if now.folded and replace(now, folded=False) == to:
        return do.Unfold()
    return resize_to(to)
