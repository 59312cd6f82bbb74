"""The one way in: ``step(app, session, event) -> (session, notes)``. Pure, and always the same."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.actions import act, open_menu, press, question_before, undo
from cadena.engine.addresses import visit
from cadena.engine.back import go_back
from cadena.engine.changing import edit, refresh, remove
from cadena.engine.choosing import choose, enter, move, open_sections, press_outside, slide_list
from cadena.engine.display import arrangement_for, can_slide, display_of
from cadena.engine.drafts import draft_lost
from cadena.engine.forms import cancel, save, type_in
from cadena.engine.groups import show_group
from cadena.engine.late import answered, call, called_again, retry, wait
from cadena.engine.lifetimes import fitted, off_display, started, store
from cadena.engine.lists import scroll, search, sort, turn_page
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules import settle
from cadena.engine.session import Question, Session, Window
from cadena.engine.targets import target_of
from cadena.engine.whole import go_to, kill, relaunch, restore, set_value, sleep, wake
from cadena.engine.windows import resized
from cadena.engine.wired import WiredApp

TAKES: Final[dict[type, Callable[[WiredApp, Session, Any], tuple[Session, Notes]]]] = {
    do.Choose: choose,
    do.Press: press,
    do.Scroll: scroll,
    do.Search: search,
    do.SortBy: sort,
    do.Act: act,
    do.OpenMenu: open_menu,
    do.ShowGroup: show_group,
    do.TurnPage: turn_page,
    do.Type: type_in,
    do.Save: save,
    do.Cancel: cancel,
    do.Retry: retry,
    do.Undo: undo,
    do.Wait: wait,
    do.Answered: answered,
    do.Move: move,
    do.Enter: enter,
    do.Back: go_back,
    do.PressOutside: press_outside,
    do.SlideList: slide_list,
    do.OpenSections: open_sections,
    do.GoTo: go_to,
    do.Visit: visit,
    do.Resize: resized,
    do.Turn: resized,
    do.Fold: resized,
    do.Unfold: resized,
    do.SetText: resized,
    do.ReadFrom: resized,
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
    do.SetText,
    do.ReadFrom,
    do.Refresh,
    do.Remove,
    do.Edit,
    do.Wait,
    do.Answered,
)
ASKS_FIRST: Final = (
    do.Back,
    do.Cancel,
    do.Choose,
    do.Press,
    do.PressOutside,
    do.Act,
    do.Move,
    do.Enter,
    do.GoTo,
    do.Visit,
)
KEEPS_REMOVAL: Final = (
    do.Wait,
    do.Answered,
    do.Scroll,
    do.ShowGroup,
    do.Move,
    do.Resize,
    do.Turn,
)


def start(app: WiredApp, window: Window) -> tuple[Session, Notes]:
    """Start an app in a window."""
    session, notes = settle(app, started(app, window))
    session, called = call(app, session)
    return session, (*notes, *called)


def resume(app: WiredApp, session: Session, before: WiredApp) -> tuple[Session, Notes]:
    """Go on with a session after the app has been changed under it (see ``fitted``)."""
    session, notes = fitted(app, session, before)
    session, settled = settle(app, session)
    session, called = call(app, session)
    return session, (*notes, *settled, *called)


def seen_in(app: WiredApp, session: Session, window: Window) -> Session:
    """A session as another window shows it: projected, and with what rules open there.

    Nothing is rebuilt and nothing is called for: looking loses nothing.
    """
    if session.window == window or session.phase != "running":
        return replace(session, window=window)
    return settle(app, replace(session, window=window, sections_open=False))[0]


def step(app: WiredApp, session: Session, event: do.Event) -> tuple[Session, Notes]:
    """What an event makes of a session, and what is to be said of it.

    A refused event leaves the session as it is; its one note is of kind "refused".
    """
    try:
        _demand_phase(session, event)
        if session.question is not None and not isinstance(event, WITHOUT_SCREENS):
            after, notes = _answered_question(app, session, event)
        else:
            after, notes = _taken(app, session, event)
    except Refused as refused:
        return session, (refused.note,)
    if after.phase == "killed":
        return after, notes
    after, settled = settle(app, after)
    if after.slid and not can_slide(after.entries, arrangement_for(app, after.window)):
        after = replace(after, slid=False)
    after = store(app, off_display(app, after))
    if not app.late:
        return after, (*notes, *settled)
    after, called = call(app, after)
    return after, (*notes, *settled, *called)


def _taken(app: WiredApp, session: Session, event: do.Event) -> tuple[Session, Notes]:
    """Take an event, unless something must be asked first (4.2 and 10)."""
    is_asking = isinstance(event, ASKS_FIRST)
    if is_asking and (asked := question_before(app, session, event)) is not None:
        text, yes = asked
        question = Question(text, yes, "Cancel", event)
        return replace(session, question=question, menu=None), (Note("asked", text),)
    after, notes = TAKES[type(event)](app, session, event)
    if is_asking and (lost := draft_lost(session, after)) is not None:
        text = f'What was typed in "{app.title_of(session, lost)}" is not saved.'
        question = Question(text, "Discard", "Keep", event)
        return replace(session, question=question, menu=None), (Note("asked", text),)
    if isinstance(event, do.Refresh):
        after = called_again(app, after, event.source)
    return _focused(app, session, _tidied(session, after, event), event), notes


def _focused(app: WiredApp, before: Session, after: Session, event: do.Event) -> Session:
    """The screen that the person has used last has the focus, until its section is left."""
    focus = after.focus
    if isinstance(event, do.On):
        display = display_of(app, before)
        only = display.shown[0].entry if len(display.shown) == 1 else None
        focus = target_of(app, before, display, event)[0] if only is None else only
    elif after.section != before.section:
        focus = -1
    return after if focus == after.focus else replace(after, focus=focus)


def _tidied(before: Session, after: Session, event: do.Event) -> Session:
    """A menu closes, and what was removed stays so, once something else is done."""
    by_itself = isinstance(event, do.Wait | do.Answered)
    if after.menu is not None and after.menu is before.menu and not by_itself:
        after = replace(after, menu=None)
    if after.sections_open and before.sections_open and not by_itself:
        after = replace(after, sections_open=False)
    if (
        after.removal is not None
        and after.removal is before.removal
        and not isinstance(event, KEEPS_REMOVAL)
    ):
        after = replace(after, removal=None)
    return after


def _answered_question(app: WiredApp, session: Session, event: do.Event) -> tuple[Session, Notes]:
    question = session.question
    if question is None or not isinstance(event, do.Decide):
        raise Refused("a question is asked: answer it first")
    session = replace(session, question=None)
    if not event.yes:
        return session, (Note("kept", "nothing is done"),)
    after, notes = TAKES[type(question.event)](app, session, question.event)
    return _tidied(session, after, question.event), notes


def _demand_phase(session: Session, event: do.Event) -> None:
    phase = session.phase
    if isinstance(event, do.Decide) and session.question is None:
        raise Refused("no question is asked")
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
