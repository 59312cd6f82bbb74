"""Going forward to what back took away (rules.md, 17)."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.engine.events import Forward
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.lifetimes import doubted_entry, outlives_view
from cadena.engine.rules.saved_state import SURVIVES_ALL, SavedEntry, is_missing, pared
from cadena.engine.session import LAYERS, Ahead, Entry, Session, on_base, touched
from cadena.engine.wired import WiredApp


def with_ahead(app: WiredApp, before: Session, after: Session, length: int) -> Session:
    """A session after back, with what that took away ahead of it.

    What was typed is gone, it was asked for; a row that a rule had opened on what a rule had
    opened comes and goes by rule alone, so that nothing is ahead then.
    """
    if not app.app.platform.forward:
        return after
    if length and before.entries[length - 1].by == "rule":
        return replace(after, ahead=())
    entries = tuple(_taken_away(app, each) for each in before.entries[length:])
    return replace(after, ahead=(*before.ahead, Ahead(before.section, length, entries)))


def _taken_away(app: WiredApp, entry: Entry) -> Entry:
    view = entry.view
    if entry.screen in app.with_view_lifetimes:
        view = pared(app.screens.get(entry.screen), view, outlives_view)
    if view.draft or view.tried:
        view = replace(view, draft={}, tried=False)
    return touched(replace(entry, view=view, loads={}))


def can_go_forward(app: WiredApp, session: Session) -> bool:
    """Whether there is anything to go forward to."""
    return _gone_forward(app, session) is not None


def go_forward(app: WiredApp, session: Session, event: Forward) -> tuple[Session, Notes]:
    """Take one step forward."""
    after = _gone_forward(app, session)
    if after is None:
        raise Refused("nothing ahead")
    if after.section != session.section:
        return after, (Note.of("forward", "to section", section=after.section),)
    return after, (Note.of("forward", screen=after.entries[-1].screen),)


def _gone_forward(app: WiredApp, session: Session) -> Session | None:
    if not session.ahead:
        return None
    entries, ahead, left = session.entries, session.ahead[-1], session.ahead[:-1]
    if not ahead.entries:
        is_there = ahead.section in session.chains and ahead.section != session.section
        after = replace(session, section=ahead.section, slid=False, focus=-1, ahead=left)
        return after if is_there and after.entries else None
    if ahead.section != session.section:
        return None
    if ahead.entries[0].opened in LAYERS:
        entries = on_base(entries, ahead.entries, ahead.length)
    elif len(entries) >= ahead.length and all(
        entry.by == "rule" for entry in entries[ahead.length :]
    ):
        entries = (*entries[: ahead.length], *ahead.entries)
    else:
        return None
    return replace(session.with_entries(entries), slid=False, focus=-1, ahead=left)


def without_ahead(app: WiredApp, before: Session, after: Session) -> Session:
    """Once something else has been opened, or another section, nothing is ahead any more; nor is
    a screen that would have closed with its record, with what lay over it."""
    if not after.ahead:
        return after
    if after.ahead is before.ahead and _by_hand(before) != _by_hand(after):
        return replace(after, ahead=())
    if after.changes is before.changes:
        return after
    kept: list[Ahead] = []
    for ahead in reversed(after.ahead):
        there = _still_there(app, before, after, ahead.entries)
        if there or not ahead.entries:
            kept.insert(0, replace(ahead, entries=there))
        if len(there) < len(ahead.entries):
            break
    return replace(after, ahead=tuple(kept))


def _still_there(
    app: WiredApp, before: Session, after: Session, entries: tuple[Entry, ...]
) -> tuple[Entry, ...]:
    """The entries up to the first whose screen goes with its record, where that has gone."""
    for at, entry in enumerate(entries):
        if is_missing(app, after, entry) and not is_missing(app, before, entry):
            return entries[:at]
    return entries


def _by_hand(session: Session) -> tuple[object, ...]:
    """What of the chain on display does not come and go by rule."""
    opened = ((e.screen, e.arguments, e.opened) for e in session.entries if e.by != "rule")
    return (session.section, *opened)


def fitting_ahead(app: WiredApp, before: Session, after: Session) -> tuple[Ahead, ...]:
    """What is still ahead in an app that has changed: what it could have opened (8.1)."""
    kept: list[Ahead] = []
    was, now = ((s.section, [each.screen for each in s.entries]) for s in (before, after))
    if was != now or not app.app.platform.forward:
        return ()
    for ahead in reversed(before.ahead):
        try:
            entries = tuple(
                doubted_entry(app, as_saved(entry), ahead.length + at, SURVIVES_ALL)
                for at, entry in enumerate(ahead.entries)
            )
        except Refused:
            break
        kept.insert(0, replace(ahead, entries=entries))
    return tuple(kept)


def as_saved(entry: Entry) -> SavedEntry:
    """An entry as it would be saved whole."""
    return SavedEntry(
        entry.screen,
        entry.arguments,
        entry.opened,
        entry.by,
        entry.row,
        entry.view,
        opened_for=entry.opened_for,
    )
