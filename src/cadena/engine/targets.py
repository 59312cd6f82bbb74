"""Which open screen an event is for."""

from __future__ import annotations

from cadena.engine import events as do
from cadena.engine.display import Area, Display
from cadena.engine.notes import Refused
from cadena.engine.session import Entry, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen


def target_of(app: WiredApp, session: Session, display: Display, event: object) -> tuple[int, Area]:
    """The entry on display that an event is for, and its area (see ``events.On``).

    Raises:
        Refused: when no such entry is on display, or a modal or popover covers it (2.5).
    """
    screen, at = getattr(event, "screen", ""), getattr(event, "entry", None)
    entries = session.entries
    for pane in reversed(display.shown):
        if pane.entry is None or (at is not None and pane.entry != at):
            continue
        entry = entries[pane.entry]
        if (screen and entry.screen != screen) or not _can_take(app, entry, event):
            continue
        if display.layer is not None and pane is not display.layer:
            top = app.title_of(session, entries[-1])
            raise Refused(f'"{top}" lies over it: close it first', f"screens[{entry.screen}]")
        return pane.entry, pane.area
    what = f"screen {screen}" if screen else "a screen that can take this"
    raise Refused(f"{what} is not on display")


def _can_take(app: WiredApp, entry: Entry, event: object) -> bool:
    match event:
        case do.Press():
            return event.button in app.buttons.get(entry.screen, ())
        case do.Act():
            return event.action in app.actions.get(entry.screen, ())
        case do.Type() | do.Save() | do.Cancel():
            return isinstance(app.screens.get(entry.screen), FormScreen)
        case do.TurnPage():
            return event.to in app.pages.get(entry.screen, ())
        case do.Retry():
            return any(each.state == "failed" for each in entry.loads.values())
        case do.Scroll():
            return not event.list or event.list in app.listings.get(entry.screen, {})
    return getattr(event, "list", "") in app.listings.get(entry.screen, {})
