"""The one way in: ``step(app, session, event) -> (session, notes)``. Pure, and always the same."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.back import go_back
from cadena.engine.changing import edit, refresh, remove
from cadena.engine.choosing import choose, enter, move, press, press_outside, slide_list
from cadena.engine.display import arrangement_for, can_slide
from cadena.engine.lifetimes import off_display, started, store
from cadena.engine.lists import scroll, search, sort
from cadena.engine.notes import Notes, Refused
from cadena.engine.rules import settle
from cadena.engine.session import Session, Window
from cadena.engine.whole import go_to, kill, relaunch, restore, set_value, sleep, wake
from cadena.engine.windows import resized
from cadena.engine.wired import WiredApp

TAKES: Final[dict[type, Callable[[WiredApp, Session, Any], tuple[Session, Notes]]]] = {
    do.Choose: choose,
    do.Press: press,
    do.Scroll: scroll,
    do.Search: search,
    do.SortBy: sort,
    do.Move: move,
    do.Enter: enter,
    do.Back: go_back,
    do.PressOutside: press_outside,
    do.SlideList: slide_list,
    do.GoTo: go_to,
    do.Resize: resized,
    do.Turn: resized,
    do.Fold: resized,
    do.Unfold: resized,
    do.Refresh: refresh,
    do.Remove: remove,
    do.Edit: edit,
    do.SetValue: set_value,
    do.Sleep: sleep,
    do.Wake: wake,
    do.Kill: kill,
    do.Restore: restore,
    do.Relaunch: relaunch,
}
WITHOUT_SCREENS: Final = (
    do.Kill,
    do.Relaunch,
    do.Resize,
    do.Turn,
    do.Fold,
    do.Unfold,
    do.Refresh,
    do.Remove,
    do.Edit,
)


def start(app: WiredApp, window: Window) -> tuple[Session, Notes]:
    """Start an app in a window."""
    return settle(app, started(app, window))


def step(app: WiredApp, session: Session, event: do.Event) -> tuple[Session, Notes]:
    """What an event makes of a session, and what is to be said of it.

    A refused event leaves the session as it is; its one note is of kind "refused".
    """
    try:
        _demand_phase(session, event)
        after, notes = TAKES[type(event)](app, session, event)
    except Refused as refused:
        return session, (refused.note,)
    if after.phase != "killed":
        after, settled = settle(app, after)
        notes = (*notes, *settled)
        if after.slid and not can_slide(after.entries, arrangement_for(app, after.window)):
            after = replace(after, slid=False)
        after = store(app, off_display(app, after))
    return after, notes


def _demand_phase(session: Session, event: do.Event) -> None:
    phase = session.phase
    if phase == "running":
        if isinstance(event, do.Wake | do.Restore):
            raise Refused("the app is running already")
        return
    ways = {
        "asleep": (do.Wake,),
        "left": (do.Wake, do.Sleep),
        "killed": (do.Restore,),
    }[phase]
    if not isinstance(event, (*ways, *WITHOUT_SCREENS)) or (
        phase == "killed" and isinstance(event, do.Kill)
    ):
        ends = {
            "asleep": "wake it",
            "left": "wake or relaunch it",
            "killed": "restore or relaunch it",
        }
        said = {"asleep": "asleep", "left": "left", "killed": "ended"}
        raise Refused(f"the app is {said[phase]}: {ends[phase]} first")
