"""Which open screen an event is for."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final

from cadena.engine import events as do
from cadena.engine.layout.panes import Area
from cadena.engine.notes import Refused
from cadena.engine.rules.display import Display, picking_at
from cadena.engine.session import Entry, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen


def target_of(app: WiredApp, session: Session, display: Display, event: object) -> tuple[int, Area]:
    """The entry on display that an event is for, and its area (see ``events.On``).

    Raises:
        Refused: when no such entry is on display, or something covers it: a modal or popover
            (2.5), or the list that is slid over it (3.3).
    """
    entries = session.entries
    last = app.targeted
    if last[0] is event and last[1] is display and last[2] is entries:
        return last[3]  # type: ignore[no-any-return]
    screen, at = getattr(event, "screen", ""), getattr(event, "entry", None)
    for pane in reversed(display.shown):
        if pane.entry is None or (at is not None and pane.entry != at):
            continue
        entry = entries[pane.entry]
        if (screen and entry.screen != screen) or not _can_take(app, entry, event):
            continue
        picking = picking_at(session, display) if app.with_several else None
        if picking is not None and pane.entry > picking:
            raise Refused("rows are picked", f"screens[{entry.screen}]")
        top = display.layer or display.slid
        if top is not None and top.entry is not None and pane is not top:
            over = app.title_of(session, entries[top.entry])
            raise Refused("covered", f"screens[{entry.screen}]", title=over)
        app.targeted = event, display, entries, (pane.entry, pane.area)
        return pane.entry, pane.area
    raise Refused("screen not on display" if screen else "nothing can take this", screen=screen)


def _on_form(app: WiredApp, entry: Entry, event: Any) -> bool:
    return isinstance(app.screens.get(entry.screen), FormScreen)


def _on_several(app: WiredApp, entry: Entry, event: Any) -> bool:
    return (entry.screen, event.list) in app.with_several


ABOUT: Final[dict[type, Callable[[WiredApp, Entry, Any], bool]]] = {
    do.Press: lambda app, entry, event: event.button in app.buttons.get(entry.screen, ()),
    do.OpenFact: lambda app, entry, event: (
        event.fact in (*app.facts.get(entry.screen, ()), *app.leaving.get(entry.screen, ()))
    ),
    do.OpenField: lambda app, entry, event: event.field in app.fields_opening.get(entry.screen, ()),
    do.Pick: _on_several,
    do.PickTo: _on_several,
    do.PickAll: _on_several,
    do.LetGo: _on_several,
    do.ActOnPicked: lambda app, entry, event: event.action in app.actions.get(entry.screen, ()),
    do.Act: lambda app, entry, event: event.action in app.actions.get(entry.screen, ()),
    do.Neighbour: lambda app, entry, event: entry.screen in app.with_neighbours,
    do.Type: _on_form,
    do.Save: _on_form,
    do.Cancel: _on_form,
    do.Settle: _on_form,
    do.TurnPage: lambda app, entry, event: event.to in app.pages.get(entry.screen, ()),
    do.Retry: lambda app, entry, event: any(
        load.state == "failed" for load in entry.loads.values()
    ),
}
"""Whether a screen has what an event is about; what is not here is about a list."""


def _can_take(app: WiredApp, entry: Entry, event: object) -> bool:
    has = ABOUT.get(type(event))
    if has is not None:
        return has(app, entry, event)
    part = getattr(event, "list", "")
    # Without a list, it is the screen that is scrolled.
    return part in app.listings.get(entry.screen, {}) or (type(event) is do.Scroll and not part)
