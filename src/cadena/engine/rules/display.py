"""What is on display: the chain projected on the panes of a window (rules.md, 3 and 5.1)."""

from __future__ import annotations

from typing import Final, NamedTuple

from cadena.engine.layout.panes import Area, areas_in
from cadena.engine.layout.sizes import POPOVER, SHEET, SHEET_FROM, SLID_MOST
from cadena.engine.session import LAYERS, NO_CHAIN, Chain, Entry, Session, Window
from cadena.engine.wired import WiredApp
from cadena.model.app import Arrangement, ListScreen, When


class Pane(NamedTuple):
    """A pane and the entry it shows; no entry means that it says nothing is chosen."""

    entry: int | None
    area: Area


class Display(NamedTuple):
    """What is on display.

    ``runs`` are the first and last entry of each run. ``layer`` is the entry shown over
    the panes, and whether as modal or popover; ``slid`` the pane slid over the detail;
    ``shown`` everything of these that shows an entry, topmost last; ``late`` the entries of
    it that show what answers late, with their areas. ``base`` are the entries below any modal.
    ``wishes`` is what the list at their end opens by itself (5.2, 5.5), before and after back
    has asked for it.
    """

    arrangement: Arrangement
    runs: tuple[tuple[int, int], ...]
    panes: tuple[Pane, ...]
    slid: Pane | None
    layer: Pane | None
    layer_as: str
    shown: tuple[Pane, ...]
    late: tuple[tuple[int, Area], ...]
    base: int
    wishes: tuple[str, str]

    def area_of(self, entry: int) -> Area | None:
        """Where an entry is shown, or none when it is not on display."""
        return next((each.area for each in reversed(self.shown) if each.entry == entry), None)


def base_length(entries: tuple[Entry, ...]) -> int:
    """How many entries lie below the first modal or popover (3.1)."""
    for index, entry in enumerate(entries):
        if entry.opened in LAYERS:
            return index
    return len(entries)


def runs_of(entries: tuple[Entry, ...]) -> tuple[tuple[int, int], ...]:
    """The first and the last entry of each run below any modal (3.1)."""
    runs: list[tuple[int, int]] = []
    start = 0
    for index, entry in enumerate(entries):
        if entry.opened in LAYERS:
            return (*runs, (start, index - 1)) if index else ()
        if entry.opened == "beside" and index:
            runs.append((start, index - 1))
            start = index
    return (*runs, (start, len(entries) - 1)) if entries else ()


def arrangement_for(app: WiredApp, window: Window) -> Arrangement:
    """The first arrangement that asks for no more than this window has (5.1).

    Where none matches, one pane with the section bar at the bottom.
    """
    found = app.arranged.get(window)
    if found is None:
        matching = (each for each in app.arrangements if matches(each.when, window))
        found = app.arranged[window] = next(matching, PLAIN)
    return found


PLAIN: Final = Arrangement(id="")
NO_WISHES: Final = ("no", "no")


def matches(when: When, window: Window) -> bool:
    """Whether a window is one of those that a rule asks for."""
    width, height = window.size
    shape = "portrait" if height >= width else "landscape"
    fold = "folded" if window.folded else "flat"
    return (
        when.width.holds(width)
        and when.height.holds(height)
        and when.shape in (None, shape)
        and when.fold in (None, fold)
    )


def says_nothing_chosen(app: WiredApp, entries: tuple[Entry, ...], panes: int) -> bool:
    """Whether one more pane says that nothing is chosen (3.2)."""
    base = base_length(entries)
    has_room = len(runs_of(entries)) < panes
    return has_room and base > 0 and app.opens_beside(entries[base - 1]) is not None


def display_of(app: WiredApp, session: Session, chain: Chain | None = None) -> Display:
    """Project a chain (the one on display, unless another is given) on the window."""
    entries = (chain or session.chains.get(session.section, NO_CHAIN)).entries
    # A step asks several times for the very same one.
    last = app.displayed
    if (
        last[0] is entries
        and last[1] is session.window
        and last[2] is session.slid
        and last[3] is session.divided
    ):
        return last[4]  # type: ignore[no-any-return]
    # Only which screens are open, and how, decides; scrolling or choosing another row does not.
    key = (
        tuple([(each.opened, each.screen, each.opened_for is None) for each in entries]),
        session.window,
        session.slid,
        tuple(session.divided.items()) if session.divided else None,
    )
    known: Display | None = app.displays.get(key)
    if known is None:
        known = app.displays[key] = _display_of(app, session, entries)
    app.displayed = entries, session.window, session.slid, session.divided, known
    return known


def _display_of(app: WiredApp, session: Session, entries: tuple[Entry, ...]) -> Display:
    arrangement = arrangement_for(app, session.window)
    runs = runs_of(entries)
    shown: list[int | None]
    if len(runs) >= arrangement.panes:
        shown = [last for _, last in runs[-arrangement.panes :]]
        if arrangement.first == "stays" and arrangement.panes > 1:
            shown = [runs[0][1], *(last for _, last in runs[1 - arrangement.panes :])]
    else:
        shown = [last for _, last in runs]
        if says_nothing_chosen(app, entries, arrangement.panes):
            shown.append(None)
    divided = session.divided.get(arrangement.id, ())
    areas = app.remember(
        ("panes", arrangement.id, session.window, len(shown), divided),
        lambda: areas_in(arrangement, session.window, len(shown), divided),
    )
    panes = tuple(map(Pane, shown, areas))
    layer, layer_as = _layer(entries, arrangement, session.window)
    slid = None
    if session.slid and can_slide(entries, arrangement):
        area = areas[0]
        slid = Pane(runs[-2][1], area._replace(width=min(SLID_MOST, area.width * 0.85)))
    over = tuple(each for each in (slid, layer) if each is not None)
    all_shown = (*(each for each in panes if each.entry is not None), *over)
    late = tuple(
        (each.entry, each.area)
        for each in all_shown
        if each.entry is not None and entries[each.entry].screen in app.late_screens
    )
    base = base_length(entries)
    wishes = _wishes(app, entries[:base], len(runs), arrangement)
    return Display(arrangement, runs, panes, slid, layer, layer_as, all_shown, late, base, wishes)


def _wishes(
    app: WiredApp, entries: tuple[Entry, ...], runs: int, arrangement: Arrangement
) -> tuple[str, str]:
    """What the list at the end of the entries opens by itself, before and after it was asked for:
    its first row, its last chosen one, or none (5.2, 5.5)."""
    screen = app.screens.get(entries[-1].screen) if entries else None
    if not isinstance(screen, ListScreen) or app.opens_beside(entries[-1]) is None:
        return NO_WISHES
    if runs < arrangement.panes:
        return screen.nothing_chosen, screen.nothing_chosen
    if arrangement.panes == 1 and len(entries) == 1:
        return arrangement.detail_first, "no"
    return NO_WISHES


def can_slide(entries: tuple[Entry, ...], arrangement: Arrangement) -> bool:
    """Whether there is a list that can be slid over the one pane shown (3.3)."""
    no_layer = base_length(entries) == len(entries)
    return arrangement.over and arrangement.panes == 1 and no_layer and len(runs_of(entries)) > 1


def _layer(
    entries: tuple[Entry, ...], arrangement: Arrangement, window: Window
) -> tuple[Pane | None, str]:
    if base_length(entries) == len(entries):
        return None, ""
    width, height = window.room
    kind = next(entry.opened for entry in reversed(entries) if entry.opened in LAYERS)
    if kind == "popover" and window.size[0] < arrangement.popover_from:
        kind = "modal"
    wanted = POPOVER if kind == "popover" else SHEET
    if kind == "modal" and width < SHEET_FROM:
        area = Area(0, 0, width, height)
    else:
        wide, high = min(wanted[0], width - 32), min(wanted[1], height - 48)
        area = Area((width - wide) / 2, (height - high) / 2, max(0.0, wide), max(0.0, high))
    return Pane(len(entries) - 1, area), kind


def picking_at(session: Session, display: Display) -> int | None:
    """The entry of the first pane on whose list something is picked: the panes after it say how
    many are (14). None where something lies over the panes."""
    if display.layer is not None or display.slid is not None:
        return None
    entries = session.entries
    return next(
        (
            pane.entry
            for pane in display.panes
            if pane.entry is not None and entries[pane.entry].view.picked
        ),
        None,
    )


def taking_events(app: WiredApp, session: Session, display: Display) -> tuple[Pane, ...]:
    """What on display takes events: what lies over the panes alone (2.5, 3.3), else the panes up
    to the first on which rows are picked (14)."""
    top = display.layer or display.slid
    if top is not None:
        return (top,)
    picking = picking_at(session, display) if app.with_several else None
    shown = display.shown
    return shown if picking is None else tuple(e for e in shown if (e.entry or 0) <= picking)


def focus_of(app: WiredApp, session: Session) -> int | None:
    """The entry that has the focus: the one used last, else the deepest on display."""
    display = display_of(app, session)
    shown = taking_events(app, session, display) if app.with_several else display.shown
    if not shown:
        return None
    is_covered = base_length(session.entries) < len(session.entries) or session.slid
    if not is_covered and any(each.entry == session.focus for each in shown):
        return session.focus
    return shown[-1].entry
