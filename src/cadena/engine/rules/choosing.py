"""Choosing rows, pressing buttons, and moving along lists by key."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.layout.panes import Area
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.actions import pressed_row
from cadena.engine.rules.asking import choosing_for
from cadena.engine.rules.bringing import bring
from cadena.engine.rules.display import arrangement_for, base_length, can_slide, display_of
from cadena.engine.rules.leaving import leave_for
from cadena.engine.rules.lists import goal_of, mark, shown_row, standing
from cadena.engine.rules.opening import link_for, link_of, open_link
from cadena.engine.rules.picking import is_picking, pick_or_let_go
from cadena.engine.rules.targets import target_of
from cadena.engine.session import RowRef, Session, cut, has_menu, without_menu
from cadena.engine.wired import WiredApp
from cadena.model.listing import Follow, LeaveFor, TakeMarker
from cadena.model.values import Scalar


def choose_row(
    app: WiredApp, session: Session, event: do.On, part: str, key: Scalar
) -> tuple[Session, Notes]:
    """A row is chosen: its link is followed, and it is in view."""
    display = display_of(app, session)
    index, area = target_of(app, session, display, event)
    entry = session.entries[index]
    listed = app.listed(session, entry, part)
    if listed is None or listed.rows.index_of(key) is None:
        raise Refused("row not listed", f"screens[{entry.screen}]", key=key)
    if (entry.screen, part) in app.choosing:
        return _choose_in_strip(session, index, part, key)
    if is_picking(entry, part):
        return pick_or_let_go(app, session, index, part, key)
    asking = choosing_for(app, session.entries, index, part) if app.brings else None
    if asking is not None:
        return bring(app, session, index, asking, listed.listing.source, key)
    does = listed.listing.press
    if picks_by_press(app, entry.screen, part):
        return pick_or_let_go(app, session, index, part, key)
    if isinstance(does, TakeMarker):
        return mark(app, session, index, area, part, key)
    if isinstance(does, LeaveFor):
        at = listed.rows.index_of(key)
        after = mark(app, session, index, area, part, key)[0]
        return leave_for(after, None if at is None else listed.rows.record_at(at), does.field)
    if not isinstance(does, Follow):
        after, notes = pressed_row(app, session, does, key)
        return mark(app, after, index, area, part, key)[0], notes
    slid = display.slid is not None and display.slid.entry == index
    opened, notes = open_row(app, session, index, area, part, key)
    return (replace(opened, slid=False) if slid else opened), notes


def picks_by_press(app: WiredApp, screen: str, part: str) -> bool:
    """Whether a press on a row picks it, also where nothing is picked: it opens nothing (14)."""
    follows = isinstance(app.listings[screen][part].press, Follow)
    return (screen, part) in app.with_several and (screen, part) not in app.row_links and follows


def takes_press(app: WiredApp, session: Session, index: int, part: str) -> bool:
    """Whether a press on a row of a list does anything."""
    at = session.entries[index].screen, part
    return (
        at in app.row_links
        or at in app.choosing
        or at in app.with_several
        or not isinstance(app.listings[at[0]][part].press, Follow)
        or (app.brings and choosing_for(app, session.entries, index, part) is not None)
    )


def opens_by_press(app: WiredApp, session: Session, index: int, part: str) -> bool:
    """Whether a press on a row of a list follows its link: not of one that was opened to choose,
    nor of one whose press does something else (7.8, 15)."""
    listing = app.listings[session.entries[index].screen][part]
    if not isinstance(listing.press, Follow):
        return False
    return not app.brings or choosing_for(app, session.entries, index, part) is None


def open_row(
    app: WiredApp, session: Session, index: int, area: Area | None, part: str, key: Scalar
) -> tuple[Session, Notes]:
    """Follow the link of a row of entry ``index``, whose list then shows it.

    Args:
        area: where that entry lies, if it is on display.
    """
    entry = session.entries[index]
    link = link_of(app, entry.screen, "row", part)
    opened, notes = open_link(app, session, index, link, RowRef(part, key))
    if index < len(opened.entries) and opened.entries[index].screen == entry.screen:
        if part in entry.view.marker:
            markers = {each: at for each, at in entry.view.marker.items() if each != part}
            opened = opened.with_view(index, marker=markers)
        if area is not None and app.views and display_of(app, opened).area_of(index) == area:
            opened = shown_row(app, opened, index, area, part, key)
    return opened, notes


def _choose_in_strip(session: Session, index: int, part: str, key: Scalar) -> tuple[Session, Notes]:
    """A strip's choice filters the list below; once more, and it does not (7.5)."""
    choice = dict(session.entries[index].view.choice)
    is_chosen = choice.pop(part, None) == key
    if not is_chosen:
        choice[part] = key
    session = session.with_view(index, choice=choice, scroll=None)
    note = Note.of("filtered", "all" if is_chosen else "", part=part, key=key)
    return session, (note,)


def choose(app: WiredApp, session: Session, event: do.Choose) -> tuple[Session, Notes]:
    """A row is chosen."""
    return choose_row(app, session, event, event.list, event.key)


def open_fact(app: WiredApp, session: Session, event: do.OpenFact) -> tuple[Session, Notes]:
    """A fact that is a reference opens the record that it holds the key of (13); for an address
    outside the app is left (7.10)."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    if event.fact in app.leaving.get(entry.screen, ()):
        return leave_for(session, app.record_of(session, entry), event.fact)
    link = link_of(app, entry.screen, "fact", event.fact)
    return open_link(app, session, index, link, None)


def move(app: WiredApp, session: Session, event: do.Move) -> tuple[Session, Notes]:
    """A key moves along a list: to the neighbour where the detail is beside, else the marker."""
    display = display_of(app, session)
    index, area = target_of(app, session, display, event)
    goal, here = goal_of(app, session, index, area, event)
    link = app.row_links.get((session.entries[index].screen, event.list))
    if link is not None:
        link = link_for(app, session, index, link, RowRef(event.list, goal))
    is_beside = (
        link is not None
        and link.how == "beside"
        and display.arrangement.panes > 1
        and index < base_length(session.entries)
        and not is_picking(session.entries[index], event.list)
        and opens_by_press(app, session, index, event.list)
    )
    if is_beside and goal != here:
        return choose_row(app, session, event, event.list, goal)
    return mark(app, session, index, area, event.list, goal)


def enter(app: WiredApp, session: Session, event: do.Enter) -> tuple[Session, Notes]:
    """The marked row is pressed by key (7.4)."""
    index, _ = target_of(app, session, display_of(app, session), event)
    key = standing(app, session, index, event.list)
    if key is None:
        raise Refused("no marked row", f"screens[{session.entries[index].screen}]")
    return choose_row(app, session, event, event.list, key)


def press_outside(app: WiredApp, session: Session, event: do.PressOutside) -> tuple[Session, Notes]:
    """A press beside a menu, a list that is slid in or a popover closes it (2.5)."""
    display = display_of(app, session)
    if has_menu(session):
        return without_menu(session), (Note("closed", "menu"),)
    if display.slid is not None:
        return replace(session, slid=False), (Note("closed", "slid list"),)
    if display.layer is None or display.layer_as != "popover":
        raise Refused("no popover")
    entries = session.entries
    popover = max(at for at, each in enumerate(entries) if each.opened == "popover")
    closed = session.with_entries(cut(entries, popover))
    return closed, (Note.of("closed", "by a press outside", screen=entries[popover].screen),)


def slide_list(app: WiredApp, session: Session, event: do.SlideList) -> tuple[Session, Notes]:
    """The list is slid over its detail, where it has no room beside it (3.3)."""
    if not can_slide(session.entries, arrangement_for(app, session.window)):
        raise Refused("no list to slide")
    return replace(session, slid=True), ()


def open_sections(app: WiredApp, session: Session, event: do.OpenSections) -> tuple[Session, Notes]:
    """The section bar is opened, where the arrangement has it behind a button."""
    if arrangement_for(app, session.window).bar != "button":
        raise Refused("section bar is shown")
    if base_length(session.entries) < len(session.entries):
        title = app.title_of(session, session.entries[-1])
        raise Refused("sections are covered", "sections", title=title)
    return replace(session, sections_open=True), ()
