"""Going back (rules.md, 4)."""

from __future__ import annotations

from typing import Literal, NamedTuple

from msgspec.structs import replace

from cadena.engine.events import Back
from cadena.engine.notes import Note, Notes
from cadena.engine.rules.by_rule import opens_by_rule, settle
from cadena.engine.rules.display import arrangement_for, can_slide, display_of, focus_of, runs_of
from cadena.engine.rules.forward import with_ahead
from cadena.engine.rules.picked import all_let_go, picked_on_display
from cadena.engine.session import LAYERS, Session, cut, has_menu, without_menu
from cadena.engine.wired import WiredApp


class Plan(NamedTuple):
    """What back would do: ``rule`` is its number in section 4; ``length`` the entries that stay."""

    rule: int
    does: Literal["close menu", "let go", "slide away", "remove", "go to start", "leave"]
    length: int


def plan_back(app: WiredApp, session: Session) -> Plan:
    """What back would do now: the first rule of section 4 that applies."""
    entries = session.entries
    if has_menu(session):
        return Plan(0, "close menu", len(entries))
    if picked_on_display(app, session):
        return Plan(14, "let go", len(entries))
    arrangement = arrangement_for(app, session.window)
    if session.slid and can_slide(entries, arrangement):
        return Plan(1, "slide away", len(entries))
    if any(each.opened in LAYERS for each in entries):
        return Plan(2, "remove", len(entries) - 1)
    runs = runs_of(entries)
    if runs and runs[-1][0] < runs[-1][1]:
        return Plan(3, "remove", len(entries) - 1)
    if len(runs) > arrangement.panes:
        return Plan(4, "remove", len(entries) - 1)
    if 2 <= len(runs) <= arrangement.panes and arrangement.back == "close":
        without = session.with_entries(cut(entries, runs[-1][0]))
        if not opens_by_rule(app, without):
            return Plan(5, "remove", runs[-1][0])
    start = app.app.start
    if app.app.platform.back_to_start and session.section != start and start in app.sections:
        return Plan(6, "go to start", len(entries))
    return Plan(6, "leave", len(entries))


def back_label(app: WiredApp, session: Session) -> str | None:
    """The title of what back newly shows; none where back leaves the app (3.5).

    Found by going back: so the label and the act are one decision. Where nothing is shown that
    was not before, it is the title of what then has the focus.
    """
    session = without_menu(session)
    session = all_let_go(session, picked_on_display(app, session))
    if not session.entries or plan_back(app, session).does == "leave":
        return None
    after, _ = settle(app, go_back(app, session, Back())[0])
    focus = focus_of(app, after)
    if after.section != session.section:
        new = [each.entry for each in display_of(app, after).shown]
    else:
        was, now = session.entries, after.entries
        before = {each.entry for each in display_of(app, session).shown}
        new = [
            pane.entry
            for pane in display_of(app, after).shown
            if pane.entry is not None
            and (
                pane.entry not in before
                or pane.entry >= len(was)
                or (was[pane.entry].screen, was[pane.entry].arguments)
                != (now[pane.entry].screen, now[pane.entry].arguments)
            )
        ]
    at = focus if focus in new or not new else new[-1]
    return None if at is None else app.title_of(after, after.entries[at])


def go_back(app: WiredApp, session: Session, event: Back) -> tuple[Session, Notes]:
    """Take one step back."""
    plan = plan_back(app, session)
    match plan.does:
        case "close menu":
            return without_menu(session), (Note("closed", "menu"),)
        case "let go":
            return all_let_go(session, picked_on_display(app, session)), (Note("let go"),)
        case "slide away":
            return replace(session, slid=False), (Note("back", "slid list"),)
        case "go to start":
            note = Note.of("back", "to start", section=app.app.start)
            start = replace(session, section=app.app.start, focus=-1)
            return with_ahead(app, session, start, len(session.entries)), (note,)
        case "leave":
            return replace(session, phase="left"), (Note("left"),)
    note = Note.of("back", screen=session.entries[-1].screen, rule=f"4.{plan.rule}")
    return with_ahead(app, session, session.cut_back(plan.length), plan.length), (note,)
