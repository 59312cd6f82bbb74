"""The one way in: ``step(app, session, event) -> (session, notes)``. Pure, and always the same."""

from __future__ import annotations

import math
from typing import Any

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.back import go_back
from cadena.engine.changing import edit, refresh, remove
from cadena.engine.display import arrangement_for, base_length, can_slide, display_of
from cadena.engine.lifetimes import (
    SURVIVES_COLD,
    SURVIVES_KILL,
    come_back,
    end,
    off_display,
    rebuild,
    saved_state,
    started,
    store,
)
from cadena.engine.lists import (
    goal_of,
    mark,
    scroll,
    search,
    shown_row,
    sort,
    target_of,
)
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.opening import link_of, open_link
from cadena.engine.rules import settle
from cadena.engine.session import Chain, RowRef, Session, Window, cut
from cadena.engine.wired import WiredApp
from cadena.model.app import Trigger
from cadena.model.values import Scalar, Unfit, carry, shown

LARGEST_WINDOW = 20_000
AWAKE = (
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
        after, notes = _take(app, session, event)
    except Refused as refused:
        return session, (refused.note,)
    if after.phase != "killed":
        after, settled = settle(app, after)
        notes = (*notes, *settled)
        if after.slid and not can_slide(after.entries, arrangement_for(app, after.window)):
            after = replace(after, slid=False)
        if app.has_view_lifetimes:
            after = off_display(app, after)
        if app.has_stored:
            after = store(app, after)
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
    if not isinstance(event, (*ways, *AWAKE)) or (phase == "killed" and isinstance(event, do.Kill)):
        ends = {
            "asleep": "wake it",
            "left": "wake or relaunch it",
            "killed": "restore or relaunch it",
        }
        said = {"asleep": "asleep", "left": "left", "killed": "ended"}
        raise Refused(f"the app is {said[phase]}: {ends[phase]} first")


def _take(app: WiredApp, session: Session, event: do.Event) -> tuple[Session, Notes]:
    match event:
        case do.Choose():
            return _choose(app, session, event, event.list, event.key)
        case do.Press():
            return _press(app, session, event)
        case do.Scroll():
            index, area = target_of(app, session, display_of(app, session), event)
            return scroll(app, session, index, area, event)
        case do.Search():
            index, _ = target_of(app, session, display_of(app, session), event)
            return search(app, session, index, event)
        case do.SortBy():
            index, _ = target_of(app, session, display_of(app, session), event)
            return sort(app, session, index, event)
        case do.Move():
            return _move(app, session, event)
        case do.Enter():
            return _enter(app, session, event)
        case do.Back():
            return go_back(app, session)
        case do.PressOutside():
            return _press_outside(app, session)
        case do.SlideList():
            return _slide(app, session)
        case do.GoTo():
            return _go_to(app, session, event.section)
        case do.Resize() | do.Turn() | do.Fold() | do.Unfold():
            return _resized(app, session, event)
        case do.Refresh():
            return refresh(app, session, event)
        case do.Remove():
            return remove(app, session, event)
        case do.Edit():
            return edit(app, session, event)
        case do.SetValue():
            return _set_value(app, session, event)
        case _:
            return _pass_on(app, session, event)


def _choose(
    app: WiredApp, session: Session, event: do.On, part: str, key: Scalar
) -> tuple[Session, Notes]:
    """A row is chosen: its link is followed, and it is in view."""
    display = display_of(app, session)
    index, area = target_of(app, session, display, event)
    entry = session.entries[index]
    listed = app.listed(session, entry, part)
    if listed is None or listed.rows.index_of(key) is None:
        raise Refused(f"row {shown(key)} is not on the list", f"screens[{entry.screen}]")
    link = link_of(app, Trigger(screen=entry.screen, part=part))
    slid = display.slid is not None and display.slid.entry == index
    opened, notes = open_link(app, session, index, link, RowRef(part, key))
    if index < len(opened.entries) and opened.entries[index].screen == entry.screen:
        if part in entry.view.marker:
            markers = {each: at for each, at in entry.view.marker.items() if each != part}
            opened = opened.with_view(index, marker=markers)
        if display_of(app, opened).area_of(index) == area:
            opened = shown_row(app, opened, index, area, part, key)
    return (replace(opened, slid=False) if slid else opened), notes


def _press(app: WiredApp, session: Session, event: do.Press) -> tuple[Session, Notes]:
    index, _ = target_of(app, session, display_of(app, session), event)
    screen = session.entries[index].screen
    link = link_of(app, Trigger(screen=screen, on="button", part=event.button))
    return open_link(app, session, index, link, None)


def _move(app: WiredApp, session: Session, event: do.Move) -> tuple[Session, Notes]:
    """A key moves along a list: to the neighbour where the detail is beside, else the marker."""
    display = display_of(app, session)
    index, area = target_of(app, session, display, event)
    goal, here = goal_of(app, session, index, area, event)
    link = app.row_links.get((session.entries[index].screen, event.list))
    is_beside = (
        link is not None
        and link.how == "beside"
        and display.arrangement.panes > 1
        and index < base_length(session.entries)
    )
    if is_beside and goal != here:
        return _choose(app, session, event, event.list, goal)
    return mark(app, session, index, area, event.list, goal)


def _enter(app: WiredApp, session: Session, event: do.Enter) -> tuple[Session, Notes]:
    index, _ = target_of(app, session, display_of(app, session), event)
    view = session.entries[index].view
    key = view.marker.get(event.list, view.last.get(event.list))
    if key is None:
        raise Refused("no row is marked", f"screens[{session.entries[index].screen}]")
    return _choose(app, session, event, event.list, key)


def _press_outside(app: WiredApp, session: Session) -> tuple[Session, Notes]:
    display = display_of(app, session)
    if display.slid is not None:
        return replace(session, slid=False), (Note("closed", "the list slides away"),)
    if display.layer is None or display.layer_as != "popover":
        raise Refused("no popover is open")
    entries = session.entries
    closed = session.with_entries(cut(entries, len(entries) - 1))
    return closed, (Note("closed", f"{entries[-1].screen} by a press outside (rule 2.5)"),)


def _slide(app: WiredApp, session: Session) -> tuple[Session, Notes]:
    if not can_slide(session.entries, arrangement_for(app, session.window)):
        raise Refused("there is no list to slide over (rule 3.3)")
    return replace(session, slid=True), ()


def _go_to(app: WiredApp, session: Session, section: str) -> tuple[Session, Notes]:
    """A section's chain as it was left; the current one again is cut to its root (2.6)."""
    if section not in app.sections:
        raise Refused(f"there is no section {section}", "sections")
    if base_length(session.entries) < len(session.entries):
        title = app.title_of(session, session.entries[-1])
        raise Refused(f'"{title}" lies over the section bar: close it first', "sections")
    chain = session.chains[section]
    if section != session.section:
        entries = chain.entries[:1] if app.sections[section].returns == "root" else chain.entries
        session = session.with_chain(Chain(section, entries))
        return replace(session, section=section), (Note("section", f"{section}, as it was left"),)
    if len(chain.entries) > 1:
        cut_to = Chain(section, cut(chain.entries, 1))
        return session.with_chain(cut_to), (Note("section", f"{section}, cut to its root"),)
    session = session.with_chain(Chain(section, chain.entries))
    if chain.entries:
        view = replace(chain.entries[0].view, scroll=None, marker={}, last={})
        session = session.with_entry(0, replace(chain.entries[0], view=view))
    return session, (Note("section", f"{section}, its list at the top"),)


def _resized(app: WiredApp, session: Session, event: do.Event) -> tuple[Session, Notes]:
    """Another window: the chain stays, its projection and perhaps its screens are made anew."""
    old = session.window
    window = _window_after(old, event)
    if window == old:
        return session, ()
    was, now = arrangement_for(app, old), arrangement_for(app, window)
    (width, height), (before_w, before_h) = window.size, old.size
    notes = [Note("window", f"{before_w:g} × {before_h:g} to {width:g} × {height:g}")]
    session = replace(session, window=window)
    if was is not now:
        notes.append(
            Note("arranged", f"{was.id or 'one pane'} to {now.id or 'one pane'}, chain unchanged")
        )
    rebuilds = app.app.platform.rebuilds
    if (isinstance(event, do.Turn) and "turn" in rebuilds) or (
        was is not now and "breakpoint" in rebuilds
    ):
        session = rebuild(app, session)
        notes.append(Note("rebuilt", "the screens are made anew (rule 5.4)"))
    return session, tuple(notes)


def _window_after(window: Window, event: do.Event) -> Window:
    match event:
        case do.Resize():
            sizes = (event.width, event.height)
            if not all(math.isfinite(size) and 1 <= size <= LARGEST_WINDOW for size in sizes):
                raise Refused(
                    f"a window is 1 to {LARGEST_WINDOW} dp each way, "
                    f"not {sizes[0]:g} × {sizes[1]:g}"
                )
            if event.fold is not None and not 0 < event.fold < event.width:
                raise Refused(f"a window {event.width:g} dp wide cannot fold at {event.fold:g}")
            return Window(event.width, event.height, event.fold)
        case do.Turn():
            return replace(
                window,
                width=window.height,
                height=window.width,
                fold_across=window.fold is not None and not window.fold_across,
            )
        case _:
            if window.fold is None:
                raise Refused("this window does not fold")
            return replace(window, folded=isinstance(event, do.Fold))


def _set_value(app: WiredApp, session: Session, event: do.SetValue) -> tuple[Session, Notes]:
    declared = next((each for each in app.app.values if each.id == event.value), None)
    if declared is None:
        raise Refused(f"there is no app-wide value {event.value}", "values")
    values = {name: value for name, value in session.values.items() if name != event.value}
    if event.to is not None:
        try:
            values[event.value] = carry(event.to, declared.type)
        except Unfit as unfit:
            raise Refused(f"{event.value}: {unfit}", f"values[{event.value}]") from None
    return replace(session, values=values), (Note("set", f"{event.value} to {shown(event.to)}"),)


def _pass_on(app: WiredApp, session: Session, event: Any) -> tuple[Session, Notes]:
    """What happens to the whole app: sleep, wake, kill, restore, relaunch (6)."""
    match event:
        case do.Sleep():
            return replace(session, phase="asleep"), (Note("asleep", "the process goes on"),)
        case do.Wake():
            return replace(session, phase="running"), (Note("awake", "as it was"),)
        case do.Kill():
            ended = end(app, session)
            return ended, (Note("killed", f"{len(ended.kept.encode())} bytes are kept"),)
        case do.Restore():
            back, notes = come_back(app, session, SURVIVES_KILL)
            return back, (Note("restored", "from what was kept"), *notes)
    if session.phase != "killed":
        session = replace(session, kept=saved_state(app, session, SURVIVES_COLD))
    back, notes = come_back(app, session, SURVIVES_COLD)
    return back, (Note("relaunched", "cold: only what is stored remains"), *notes)
