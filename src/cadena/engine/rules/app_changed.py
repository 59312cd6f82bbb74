"""An app that is changed under a running session (rules.md, 8.1)."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.app_start import started, unopened
from cadena.engine.rules.asking import with_asker
from cadena.engine.rules.dividing import fitting_divided
from cadena.engine.rules.forward import as_saved, fitting_ahead
from cadena.engine.rules.lifetimes import (
    doubted_entry,
    fitting,
    fitting_stored,
    fitting_writes,
    with_stored_views,
)
from cadena.engine.rules.picked import without_gone
from cadena.engine.rules.saved_state import SURVIVES_ALL
from cadena.engine.session import (
    Chain,
    Entry,
    Menu,
    Removal,
    Session,
)
from cadena.engine.wired import ITEM, WiredApp
from cadena.model.app import AppValue
from cadena.model.values import Value


def fitted(app: WiredApp, session: Session, before: WiredApp) -> tuple[Session, Notes]:
    """A session carried over to an app that has been changed under it (8.1).

    Only what no longer fits goes, and the notes say so: the clock, calls under way, pages that
    have come, a question, an open menu and an undoable removal stay as long as what they are
    about is there. A section that has been given another root starts there.

    Args:
        before: the app that the session is of.
    """
    changes = {name: each for name, each in session.changes.items() if name in app.as_read}
    if session.phase == "killed":
        return replace(session, changes=changes), ()
    notes: list[Note] = list(unopened(app))
    stored = fitting_stored(app, session.stored)
    # What is open stays as it is: only what is opened anew takes up what was stored of it.
    fresh = replace(started(app, session.window, changes), stored=stored)
    fresh = with_stored_views(app, fresh)
    chains: dict[str, Chain] = {}
    for name, chain in fresh.chains.items():
        had = session.chains.get(name)
        is_same = had is not None and name in before.sections
        is_same = is_same and before.sections[name].root == app.sections[name].root
        if had is None or not is_same or not had.entries:
            chains[name] = chain
            continue
        entries = _fitting_entries(app, before, had, notes)
        chains[name] = replace(had, entries=entries) if entries else chain
    values = {
        each.id: value
        for each in app.app.values
        if (value := _fitting_value(session, before, each, notes)) is not None
    }
    kept = replace(
        session,
        section=session.section if session.section in chains else fresh.section,
        chains=chains,
        values=values,
        changes=changes,
        stored=stored,
        writes=fitting_writes(app, session.writes),
        divided=fitting_divided(app, session.divided, SURVIVES_ALL),
        removal=session.removal if _is_source(app, session.removal) else None,
    )
    menu, ahead = _fitting_menu(app, session, kept), fitting_ahead(app, session, kept)
    kept = without_gone(app, replace(kept, menu=menu, ahead=ahead))
    return _with_calls(app, before, kept), tuple(notes)


def _is_source(app: WiredApp, removal: Removal | None) -> bool:
    return removal is not None and removal.source in app.as_read


def _fitting_menu(app: WiredApp, before: Session, after: Session) -> Menu | None:
    """The open menu, where its row is still on its list, and there is something in it."""
    menu = before.menu
    if menu is None or before.section != after.section or menu.entry >= len(after.entries):
        return None
    entry = after.entries[menu.entry]
    listed = app.listed(after, entry, menu.part)
    if menu.key is None:
        return menu if listed is not None and listed.listing.orders else None
    is_there = listed is not None and listed.rows.index_of(menu.key) is not None
    return menu if is_there and listed is not None and listed.listing.actions else None


def _fitting_entries(
    app: WiredApp, before: WiredApp, chain: Chain, notes: list[Note]
) -> tuple[Entry, ...]:
    """The entries of a chain up to the first that the app as it now is could not have opened."""
    entries: list[Entry] = []
    for index, entry in enumerate(chain.entries):
        try:
            made = doubted_entry(app, as_saved(entry), index, SURVIVES_ALL)
        except Refused as refused:
            gone = len(chain.entries) - index
            data = {"section": chain.section, "count": gone, "all": len(chain.entries)}
            why = refused.note
            notes.append(Note("dropped", "entries", {**data, "why": why}, why.where))
            break
        loads = {
            part: load
            for part, load in entry.loads.items()
            if (source := _load_from(app, made, part)) is not None
            and source == _load_from(before, entry, part)
        }
        made = with_asker(app, entries, replace(made, loads=loads))
        entries.append(entry if made == entry else made)
    return tuple(entries)


def _load_from(app: WiredApp, entry: Entry, part: str) -> tuple[str, str] | None:
    """The late source that a part of an open screen is brought from, and who serves it."""
    listing = app.listings.get(entry.screen, {}).get(part)
    source = app.source_of(entry) if listing is None and part == ITEM else ""
    source = source if listing is None else listing.source
    return (source, app.late[source].served) if source in app.late else None


def _with_calls(app: WiredApp, before: WiredApp, session: Session) -> Session:
    """With the calls under way that somebody still waits for; what waits in vain is asked anew.

    Numbers of calls are never used twice, so that no late answer is taken for another's.
    """
    requests = tuple(
        request
        for request in session.requests
        if request.source in app.late
        and request.source in before.late
        and app.late[request.source].served == before.late[request.source].served
    )
    numbers = {each.number for each in requests}
    session = replace(session, requests=requests)

    def waiting(chain: Chain, index: int, entry: Entry) -> Entry:
        loads = {
            part: load if not load.request or load.request in numbers else replace(load, request=0)
            for part, load in entry.loads.items()
        }
        return entry if loads == entry.loads else replace(entry, loads=loads)

    return session.with_each_entry(waiting)


def _fitting_value(
    session: Session, before: WiredApp, declared: AppValue, notes: list[Note]
) -> Value | None:
    """An app-wide value as it was, where it still fits; of a new one its default."""
    if declared.id not in before.values:
        return declared.default
    value = session.values.get(declared.id)
    if value is None:
        return None
    kept = fitting(declared.type, value)
    if kept is None:
        notes.append(Note.of("dropped", "value", value=declared.id))
        return declared.default
    return kept
