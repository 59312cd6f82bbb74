"""The one way in: ``step(app, session, event)``. Pure, and always the same."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final, NamedTuple

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.form_values import draft_lost
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.actions import act, close_menu, open_menu, press, question_before, undo
from cadena.engine.rules.addresses import visit
from cadena.engine.rules.app_changed import fitted
from cadena.engine.rules.app_lifecycle import go_to, kill, relaunch, restore, set_value, sleep, wake
from cadena.engine.rules.app_start import started, unopened
from cadena.engine.rules.asking import keeps_draft
from cadena.engine.rules.back import go_back
from cadena.engine.rules.bringing import open_field
from cadena.engine.rules.by_rule import settle
from cadena.engine.rules.calling_again import called_again
from cadena.engine.rules.choosing import (
    choose,
    enter,
    move,
    open_fact,
    open_sections,
    press_outside,
    slide_list,
)
from cadena.engine.rules.display import arrangement_for, base_length, can_slide, display_of
from cadena.engine.rules.dividing import divide
from cadena.engine.rules.editing import edit
from cadena.engine.rules.forms import cancel, save, type_in
from cadena.engine.rules.forward import go_forward, without_ahead
from cadena.engine.rules.groups import show_group
from cadena.engine.rules.late import answered, call, retry, wait
from cadena.engine.rules.lifetimes import off_display, store, without_drafts
from cadena.engine.rules.lists import scroll, search, sort, turn_page
from cadena.engine.rules.neighbours import neighbour
from cadena.engine.rules.passing import put_away
from cadena.engine.rules.picking import act_on_picked, let_go, pick, pick_all, pick_to
from cadena.engine.rules.records_changed import refresh, remove
from cadena.engine.rules.targets import target_of
from cadena.engine.rules.window_change import resized
from cadena.engine.rules.writing import (
    give_up,
    go_back_to,
    send_again,
    send_waiting,
    settle_conflict,
    written,
)
from cadena.engine.session import Question, Session, Window, touched
from cadena.engine.wired import WiredApp

TAKES: Final[dict[type, Callable[[WiredApp, Session, Any], tuple[Session, Notes]]]] = {
    do.Choose: choose,
    do.Press: press,
    do.OpenFact: open_fact,
    do.OpenField: open_field,
    do.Scroll: scroll,
    do.Search: search,
    do.SortBy: sort,
    do.Act: act,
    do.Pick: pick,
    do.PickTo: pick_to,
    do.PickAll: pick_all,
    do.LetGo: let_go,
    do.ActOnPicked: act_on_picked,
    do.OpenMenu: open_menu,
    do.CloseMenu: close_menu,
    do.ShowGroup: show_group,
    do.TurnPage: turn_page,
    do.Type: type_in,
    do.Neighbour: neighbour,
    do.Save: save,
    do.Cancel: cancel,
    do.Retry: retry,
    do.Undo: undo,
    do.PutAway: put_away,
    do.Wait: wait,
    do.Answered: answered,
    do.Move: move,
    do.Enter: enter,
    do.Written: written,
    do.SendAgain: send_again,
    do.GiveUp: give_up,
    do.GoBackTo: go_back_to,
    do.Settle: settle_conflict,
    do.Back: go_back,
    do.Forward: go_forward,
    do.PressOutside: press_outside,
    do.SlideList: slide_list,
    do.Divide: divide,
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
    do.Written,
)
OF_A_PHASE: Final = frozenset({do.Decide, do.Wake, do.Restore})
"""Events that a running app takes only now and then."""
ASKS_FIRST: Final = frozenset(
    {
        do.Back,
        do.Cancel,
        do.Choose,
        do.Neighbour,
        do.Press,
        do.OpenFact,
        do.OpenField,
        do.PressOutside,
        do.Act,
        do.ActOnPicked,
        do.Save,
        do.Move,
        do.Enter,
        do.GoTo,
        do.GoBackTo,
        do.Visit,
    }
)
KEEPS_REMOVAL: Final = (
    do.Wait,
    do.Answered,
    do.Written,
    do.Scroll,
    do.ShowGroup,
    do.CloseMenu,
    do.Move,
    do.Resize,
    do.Turn,
    do.Divide,
)


class Step(NamedTuple):
    """What ``step`` gives: the session after an event, what is to be said of it, and whether the
    event was refused; the session is then the very one that was."""

    session: Session
    notes: Notes
    refused: bool = False


def start(app: WiredApp, window: Window) -> tuple[Session, Notes]:
    """Start an app in a window; the notes name each section that cannot open its root."""
    session, notes = settle(app, started(app, window))
    session, called = call(app, session)
    return session, (*unopened(app), *notes, *called)


def resume(app: WiredApp, session: Session, before: WiredApp) -> tuple[Session, Notes]:
    """Go on with a session after the app has been changed under it (8.1, see ``fitted``)."""
    session, notes = fitted(app, session, before)
    if session.phase == "killed":
        return session, notes
    session = _asked_again(app, session)
    session, settled = settle(app, session)
    session, called = call(app, session)
    return session, (*notes, *settled, *called)


def _asked_again(app: WiredApp, session: Session) -> Session:
    """A question is asked again of the app as it now is; it goes where nothing is to be asked."""
    if session.question is None:
        return session
    without = replace(session, question=None)
    try:
        again, _ = _taken(app, without, session.question.event)
    except Refused:
        return without
    return replace(session, question=again.question)


def seen_in(app: WiredApp, session: Session, window: Window) -> Session:
    """A session as another window shows it: projected, and with what rules open there.

    Nothing is rebuilt and nothing is called for: looking loses nothing.
    """
    if session.window == window or session.phase != "running":
        return replace(session, window=window)
    return settle(app, replace(session, window=window, sections_open=False))[0]


def step(app: WiredApp, session: Session, event: do.Event) -> Step:
    """What an event makes of a session, and what is to be said of it.

    A refused event leaves the session as it is; its one note is of kind "refused".
    """
    try:
        if session.phase != "running" or type(event) in OF_A_PHASE:
            _demand_phase(session, event)
        if session.question is not None and not isinstance(event, WITHOUT_SCREENS):
            after, notes = _answered_question(app, session, event)
        else:
            after, notes = _taken(app, session, event)
    except Refused as refused:
        return Step(session, (refused.note,), refused=True)
    if after.phase == "killed":
        return Step(after, notes)
    after, settled = settle(app, after)
    if after.ahead:
        after = without_ahead(app, session, after)
    if after.slid and not can_slide(after.entries, arrangement_for(app, after.window)):
        after = replace(after, slid=False)
    if app.with_view_lifetimes:
        after = off_display(app, after)
    if app.has_stored:
        after = store(app, after)
    if not app.late:
        return Step(after, (*notes, *settled))
    sent: Notes = ()
    if after.writes:
        after, sent = send_waiting(app, after)
    after, called = call(app, after)
    return Step(after, (*notes, *settled, *sent, *called))


def _taken(app: WiredApp, session: Session, event: do.Event) -> tuple[Session, Notes]:
    """Take an event, unless something must be asked first (4.2 and 10)."""
    is_asking = type(event) in ASKS_FIRST
    if is_asking and (asked := question_before(app, session, event)) is not None:
        text, yes = asked
        return _question(session, Question(text, yes, app.words("Cancel"), event))
    target = _target(app, session, event)
    after, notes = TAKES[type(event)](app, session, event)
    saved = target if type(event) is do.Save else None
    asker = None if target is None or not app.brings else keeps_draft(app, session, target)
    if is_asking and (lost := draft_lost(session, after, saved, asker)) is not None:
        title = app.title_of(session, lost)
        text = app.words('What was typed in "{title}" is not saved.', title=title)
        question = Question(text, app.words("Discard"), app.words("Keep"), event)
        return _question(session, question)
    if type(event) is do.Save:
        after = without_drafts(session, after)
    if type(event) is do.Refresh:
        after = called_again(app, after, event.source)
    return _touched(session, _tidied(session, after, event), target), notes


def _question(session: Session, question: Question) -> tuple[Session, Notes]:
    event = question.event
    if isinstance(event, do.On) and base_length(session.entries) < len(session.entries):
        # Over the panes only the last entry takes events, wherever it may have moved meanwhile.
        question = replace(question, event=replace(event, entry=None))
    return replace(session, question=question, menu=None), (
        Note.of("asked", question=question.text),
    )


def _target(app: WiredApp, session: Session, event: do.Event) -> int | None:
    """The entry that an event is for, or none for what is not about one screen."""
    if not isinstance(event, do.On):
        return None
    return target_of(app, session, display_of(app, session), event)[0]


def _touched(before: Session, after: Session, target: int | None) -> Session:
    """The screen that was used counts as touched (5.3), and has the focus until its section is
    left."""
    if target is None:
        focus = after.focus if after.section == before.section else -1
        return after if focus == after.focus else replace(after, focus=focus)
    entries = after.entries
    if after.section == before.section and target < len(entries):
        was, now = before.entries[target], entries[target]
        if now.by == "rule" and (now.screen, now.arguments) == (was.screen, was.arguments):
            after = after.with_entry(target, touched(now))
    return after if after.focus == target else replace(after, focus=target)


def _tidied(before: Session, after: Session, event: do.Event) -> Session:
    """A menu closes, and what was removed stays so, once something else is done."""
    if after.passing is not None and (
        after.clock >= after.passing.until
        or (after.passing is before.passing and not isinstance(event, KEEPS_REMOVAL))
    ):
        after = replace(after, passing=None)
    if after.menu is None and after.removal is None and not after.sections_open:
        return after
    by_itself = isinstance(event, do.Wait | do.Answered | do.Written)
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
        raise Refused("question is asked")
    session = replace(session, question=None)
    if not event.yes:
        return session, (Note("kept"),)
    target = _target(app, session, question.event)
    after, notes = TAKES[type(question.event)](app, session, question.event)
    after = without_drafts(session, after)
    return _touched(session, _tidied(session, after, question.event), target), notes


def _demand_phase(session: Session, event: do.Event) -> None:
    phase = session.phase
    if isinstance(event, do.Decide) and session.question is None:
        raise Refused("no question is asked")
    if phase == "running":
        if isinstance(event, do.Wake | do.Restore):
            raise Refused("app is running")
        return
    ways = {
        "asleep": (do.Wake,),
        "left": (do.Wake, do.Sleep),
        "killed": (do.Restore,),
    }[phase]
    if not isinstance(event, (*ways, *WITHOUT_SCREENS)) or (
        phase == "killed" and isinstance(event, do.Kill)
    ):
        raise Refused(f"app is {phase}")
