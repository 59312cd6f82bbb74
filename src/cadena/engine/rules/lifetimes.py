"""How long state lives: rebuilding, ending and coming back (rules.md, 5.4 and 6)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final, TypeVar

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.display import display_of
from cadena.engine.rules.opening import fill_in
from cadena.engine.session import (
    LAYERS,
    Anchor,
    Chain,
    Entry,
    Menu,
    Removal,
    RowRef,
    Session,
    Stored,
    View,
    Window,
    owner_of,
)
from cadena.engine.wired import ITEM, WiredApp
from cadena.model.app import AppValue, DetailScreen, FormScreen, Screen
from cadena.model.part import Lifetime
from cadena.model.values import Scalar, Unfit, Value, carry, in_brief

SURVIVES_KILL: Final[frozenset[Lifetime]] = frozenset({"saved", "stored"})
SURVIVES_COLD: Final[frozenset[Lifetime]] = frozenset({"stored"})
SURVIVES_ALL: Final[frozenset[Lifetime]] = frozenset({"view", "entry", "saved", "stored"})
Keeps = Callable[[Lifetime], bool]


class SavedEntry(Struct, frozen=True, omit_defaults=True):
    """An entry as it is saved; everything in it is doubted again when it is read.

    ``missing``: its record was not there already, so that it has not gone meanwhile (8).
    """

    screen: str
    arguments: dict[str, Any] = {}
    opened: str = "push"
    by: str = "hand"
    row: RowRef | None = None
    view: View = View()
    missing: bool = False


class SavedChain(Struct, frozen=True, omit_defaults=True):
    section: str
    entries: tuple[msgspec.Raw | SavedEntry, ...]
    asked: bool = False


class Saved(Struct, frozen=True, omit_defaults=True):
    """What outlives the process, as plain JSON; of what is read, each part is read by itself."""

    section: str = ""
    chains: tuple[SavedChain, ...] = ()
    values: dict[str, Any] = {}
    stored: tuple[Stored, ...] = ()


Read = TypeVar("Read")


def _part(raw: msgspec.Raw | None, kind: type[Read], what: str, notes: list[Note]) -> Read | None:
    """One part of what was saved; none, and a note, where it cannot be read."""
    if raw is None:
        return None
    try:
        return msgspec.json.decode(raw, type=kind)
    except (msgspec.MsgspecError, RecursionError, UnicodeDecodeError) as error:
        notes.append(Note("dropped", f"{what} cannot be read ({error})"))
        return None


def read_saved(text: str, notes: list[Note]) -> Saved:
    """What was saved, as far as each of its parts can be read; the notes name the others.

    Raises:
        Refused: for a text that is no JSON object at all.
    """
    try:
        parts = msgspec.json.decode(text or "{}", type=dict[str, msgspec.Raw])
    except (msgspec.MsgspecError, RecursionError, UnicodeError) as error:
        raise Refused(f"what was kept cannot be read ({error}); the app starts anew") from None
    raws = list[msgspec.Raw]
    chains = []
    for raw in _part(parts.get("chains"), raws, "what was open", notes) or ():
        chain = _part(raw, SavedChain, "a chain", notes)
        if chain is not None:
            chains.append(chain)
    values = {}
    by_name = dict[str, msgspec.Raw]
    for name, raw in (_part(parts.get("values"), by_name, "app-wide values", notes) or {}).items():
        # A value is never none: that is one that is not there.
        values[name] = _part(raw, Any, f"app-wide value {name}", notes)
    stored = []
    for raw in _part(parts.get("stored"), raws, "what was stored", notes) or ():
        one = _part(raw, Stored, "what was stored of a screen", notes)
        if one is not None:
            stored.append(one)
    section = _part(parts.get("section"), str, "the section", notes) or ""
    return Saved(section, tuple(chains), values, tuple(stored))


def pared(screen: Screen | None, view: View, keeps: Keeps) -> View:
    """The view state of a screen with only the pieces whose lifetime is kept."""
    if screen is None:
        return View()
    keep = screen.keep
    if not keeps(keep.scroll):
        view = replace(view, scroll=None, marker={}, last={}, across={}, turned={})
    if not keeps(keep.search):
        view = replace(view, search={}, sort={}, choice={}, groups={})
    if not keeps(keep.page) and view.page:
        view = replace(view, page="")
    if not keeps(keep.draft) and view.draft:
        view = replace(view, draft={}, tried=False)
    return view


def rebuild(app: WiredApp, session: Session) -> Session:
    """Make every screen anew: what lives only as long as its view is gone (5.4)."""
    if not app.with_view_lifetimes:
        return session
    return _pare_all(app, session, lambda chain, index: True)


def off_display(app: WiredApp, session: Session) -> Session:
    """What lives only as long as its view goes when its screen goes off display (6)."""
    if not app.with_view_lifetimes:
        return session
    shown = {each.entry for each in display_of(app, session).shown}
    return _pare_all(
        app, session, lambda chain, index: chain.section != session.section or index not in shown
    )


def _pare_all(app: WiredApp, session: Session, loses: Callable[[Chain, int], bool]) -> Session:
    def without(chain: Chain, index: int, entry: Entry) -> Entry:
        if entry.screen not in app.with_view_lifetimes or not loses(chain, index):
            return entry
        view = pared(app.screens.get(entry.screen), entry.view, _outlives_view)
        return replace(entry, view=view)

    return session.with_each_entry(without)


def _outlives_view(lifetime: Lifetime) -> bool:
    return lifetime != "view"


def store(app: WiredApp, session: Session) -> Session:
    """Keep what is to be stored, by section, screen and arguments (6)."""
    if not app.has_stored:
        return session
    kept = {_identity(each): each for each in session.stored}
    for chain in session.chains.values():
        for entry in chain.entries:
            screen = app.screens.get(entry.screen)
            view = pared(screen, entry.view, lambda lifetime: lifetime == "stored")
            made = Stored(chain.section, entry.screen, entry.arguments, view)
            if view != View() or _identity(made) in kept:
                kept.pop(_identity(made), None)
                kept[_identity(made)] = made
    most = app.app.platform.stored_most
    stored = tuple(kept.values())
    return replace(session, stored=stored if most is None else stored[-most:])


def _identity(stored: Stored) -> tuple[str, str, str]:
    return (
        stored.section,
        stored.screen,
        msgspec.json.encode(stored.arguments, order="sorted").decode(),
    )


def saved_state(app: WiredApp, session: Session, survives: frozenset[Lifetime]) -> str:
    """What would outlive the process, as JSON text."""
    chains = []
    for chain in session.chains.values():
        section = app.sections.get(chain.section)
        if section is None or section.keep not in survives:
            continue
        entries = tuple(
            SavedEntry(
                entry.screen,
                entry.arguments,
                entry.opened,
                entry.by,
                entry.row,
                pared(app.screens.get(entry.screen), entry.view, survives.__contains__),
                _is_missing(app, session, entry),
            )
            for entry in chain.entries
        )
        chains.append(SavedChain(chain.section, entries, chain.asked))
    values = {
        each.id: session.values[each.id]
        for each in app.app.values
        if each.id in session.values and each.keep in survives
    }
    saved = Saved(session.section, tuple(chains), values, session.stored)
    return msgspec.json.encode(saved).decode()


def _is_missing(app: WiredApp, session: Session, entry: Entry) -> bool:
    """Whether a screen that goes with its record is about one that is not there."""
    screen = app.screens.get(entry.screen)
    if not isinstance(screen, DetailScreen) or screen.when_gone == "say so":
        return False
    records = app.records(session, screen.source)
    is_there = records is not None and records.row_of(app.key_of(entry)) is not None
    return screen.source not in app.late and not is_there


def started(app: WiredApp, window: Window, changes: dict[str, Any] | None = None) -> Session:
    """A session started with nothing kept: every section at its root."""
    chains = {each.id: Chain(each.id, _root(app, each.root)) for each in app.sections.values()}
    start = app.app.start if app.app.start in app.sections else next(iter(app.sections), "")
    values = {each.id: each.default for each in app.app.values if each.default is not None}
    return Session(window, start, chains, values=values, changes=changes or {})


def _root(app: WiredApp, screen: str) -> tuple[Entry, ...]:
    try:
        return (_root_entry(app, screen),)
    except Refused:
        return ()


def _root_entry(app: WiredApp, screen: str) -> Entry:
    filled = {
        each.name: fill_in(each, None, f"root {screen}", f"screens[{screen}]")
        for each in app.screens[screen].parameters
    }
    arguments = {name: value for name, value in filled.items() if value is not None}
    return Entry(screen, arguments, "root")


def unopened(app: WiredApp) -> Notes:
    """A note for each section whose root asks for what nobody gives it: its chain is empty."""
    notes: list[Note] = []
    for section in app.sections.values():
        try:
            _root_entry(app, section.root)
        except Refused as refused:
            text = f"section {section.id}: {refused.note.text}"
            notes.append(Note("not opened", text, refused.note.where))
    return tuple(notes)


def end(app: WiredApp, session: Session) -> Session:
    """The system ends the process: only what is saved or stored remains, as text."""
    kept = saved_state(app, session, SURVIVES_KILL)
    return Session(
        session.window,
        phase="killed",
        changes=session.changes,
        kept=kept,
        clock=session.clock,
        calls=session.calls,
    )


def come_back(
    app: WiredApp, session: Session, survives: frozenset[Lifetime]
) -> tuple[Session, Notes]:
    """Start the app again from what was kept of it, trusting nothing in it (6)."""
    fresh = started(app, session.window, session.changes)
    fresh = replace(fresh, clock=session.clock, calls=session.calls)
    notes: list[Note] = []
    try:
        saved = read_saved(session.kept, notes)
    except Refused as refused:
        return fresh, (Note("dropped", refused.note.text),)
    stored = tuple(
        replace(
            each, view=pared(app.screens[each.screen], each.view, lambda life: life == "stored")
        )
        for each in saved.stored
        if each.screen in app.screens and each.section in app.sections
    )
    back = replace(fresh, stored=stored)
    for saved_chain in saved.chains:
        section = app.sections.get(saved_chain.section)
        if section is None:
            notes.append(Note("dropped", f"section {saved_chain.section} is not there any more"))
        elif section.keep in survives:
            entries = _doubted(app, fresh, saved_chain, survives, notes)
            chain = Chain(section.id, entries, saved_chain.asked)
            back = back.with_chain(chain) if entries else back
    values = dict(back.values)
    for each in app.app.values:
        if each.id in saved.values and each.keep in survives:
            value = _fitting(each.type, saved.values[each.id])
            if value is None:
                notes.append(Note("dropped", f"app-wide value {each.id} does not fit its type"))
            else:
                values[each.id] = value
    section_id = (
        saved.section if saved.section in app.sections and "saved" in survives else back.section
    )
    back = replace(back, section=section_id, values=values)
    return with_stored_views(app, back), tuple(notes)


def with_stored_views(app: WiredApp, session: Session) -> Session:
    """Give entries that have no view state of their own what was stored of them."""
    if not session.stored:
        return session
    views = {_identity(each): each.view for each in session.stored}

    def restored(chain: Chain, _: int, entry: Entry) -> Entry:
        identity = _identity(Stored(chain.section, entry.screen, entry.arguments, View()))
        if entry.view != View() or identity not in views:
            return entry
        return replace(entry, view=views[identity])

    return session.with_each_entry(restored)


def _fitting(kind: str, value: Any) -> Value | None:
    try:
        return carry(value, kind)
    except Unfit:
        return None


def _doubted(
    app: WiredApp,
    session: Session,
    chain: SavedChain,
    survives: frozenset[Lifetime],
    notes: list[Note],
) -> tuple[Entry, ...]:
    """The entries of a chain as it was saved, up to the first that can no longer be opened, or
    whose record has gone meanwhile, where its screen then closes (8)."""
    entries: list[Entry] = []
    for index, each in enumerate(chain.entries):
        left = f"{len(chain.entries) - index} of {len(chain.entries)} entries of {chain.section}"
        try:
            saved = each if isinstance(each, SavedEntry) else _saved_entry(each)
            entry = _doubted_entry(app, saved, index, survives)
        except Refused as refused:
            notes.append(Note("dropped", f"{left}: {refused.note.text}", refused.note.where))
            break
        if index and not saved.missing and _is_missing(app, session, entry):
            key = in_brief(app.key_of(entry))
            text = f"{left}: {entry.screen} {key} has gone meanwhile (rule 8)"
            notes.append(Note("closed", text))
            break
        entries.append(entry)
    return tuple(entries)


def _saved_entry(raw: msgspec.Raw) -> SavedEntry:
    try:
        return msgspec.json.decode(raw, type=SavedEntry)
    except (msgspec.MsgspecError, RecursionError, UnicodeDecodeError) as error:
        raise Refused(f"an entry cannot be read ({error})") from None


def _doubted_entry(
    app: WiredApp, saved: SavedEntry, index: int, survives: frozenset[Lifetime]
) -> Entry:
    """An entry as it was saved.

    Raises:
        Refused: where it can no longer be opened so.
    """
    screen = app.screens.get(saved.screen)
    if screen is None:
        raise Refused(f"screen {saved.screen} is not there any more")
    if (saved.opened == "root") != (index == 0) or saved.opened not in (
        "root",
        "push",
        "beside",
        *LAYERS,
    ):
        raise Refused(f"{saved.screen} was opened as {saved.opened} at depth {index}")
    names = {each.name for each in screen.parameters}
    if extra := sorted(set(saved.arguments) - names):
        raise Refused(f"{saved.screen} has no parameter {extra[0]} any more")
    arguments: dict[str, Value] = {}
    for parameter in screen.parameters:
        came = saved.arguments.get(parameter.name)
        value = fill_in(parameter, came, f"{saved.screen} as saved", f"screens[{saved.screen}]")
        if value is not None:
            arguments[parameter.name] = value
    by = saved.by if saved.by in ("hand", "rule", "address") else "hand"
    opened: Any = saved.opened
    made_by: Any = by
    view = pared(screen, _sound(app, screen, saved.view), survives.__contains__)
    row = saved.row
    if row is not None and not 0 <= owner_of(row, index) < index:
        row = None
    return Entry(screen.id, arguments, opened, made_by, row, view)


def _sound(app: WiredApp, screen: Screen, view: View) -> View:
    """View state with only the parts that the screen still has, and an anchor that can be."""
    parts = app.listings[screen.id]
    listed = {part: listing.source for part, listing in parts.items()}
    anchor: Anchor | None = view.scroll
    if anchor is not None and not _is_sound(anchor):
        anchor = None
    sort = {
        part: by
        for part, by in view.sort.items()
        if part in parts
        and (records := app.as_read.get(listed[part])) is not None
        and all(each.field in records.types for each in by)
    }

    def kept(texts: dict[str, Any]) -> dict[str, Any]:
        return {part: value for part, value in texts.items() if part in parts}

    fields = (
        {each.field for each in screen.fields} if isinstance(screen, FormScreen) else frozenset()
    )
    markers: dict[str, Scalar] = kept(view.marker)
    across = {part: each for part, each in kept(view.across).items() if _is_sound(each)}
    marks = app.pages[screen.id]
    turned = {part: each for part, each in view.turned.items() if part in marks and _is_sound(each)}
    return View(
        anchor,
        kept(view.search),
        sort,
        markers,
        kept(view.last),
        across,
        kept(view.choice),
        view.page if view.page in marks else "",
        turned,
        {name: value for name, value in view.draft.items() if name in fields},
        view.tried,
        {part: each for part, each in view.groups.items() if part in parts},
    )


def _is_sound(anchor: Anchor) -> bool:
    return anchor.index >= 0 and abs(anchor.above) < 1e9


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
    fresh = started(app, session.window, changes)
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
    stored = tuple(
        replace(
            each, view=pared(app.screens[each.screen], each.view, lambda life: life == "stored")
        )
        for each in session.stored
        if each.screen in app.screens and each.section in app.sections
    )
    kept = replace(
        session,
        section=session.section if session.section in chains else fresh.section,
        chains=chains,
        values=values,
        changes=changes,
        stored=stored,
        removal=session.removal if _is_source(app, session.removal) else None,
    )
    kept = replace(kept, menu=_fitting_menu(app, session, kept))
    return _with_calls(app, before, with_stored_views(app, kept)), tuple(notes)


def _is_source(app: WiredApp, removal: Removal | None) -> bool:
    return removal is not None and removal.source in app.as_read


def _fitting_menu(app: WiredApp, before: Session, after: Session) -> Menu | None:
    """The open menu, where its row is still on its list, and there is something in it."""
    menu = before.menu
    if menu is None or before.section != after.section or menu.entry >= len(after.entries):
        return None
    entry = after.entries[menu.entry]
    listed = app.listed(after, entry, menu.part)
    is_there = listed is not None and listed.rows.index_of(menu.key) is not None
    return menu if is_there and listed is not None and listed.listing.actions else None


def _fitting_entries(
    app: WiredApp, before: WiredApp, chain: Chain, notes: list[Note]
) -> tuple[Entry, ...]:
    """The entries of a chain up to the first that the app as it now is could not have opened."""
    entries: list[Entry] = []
    for index, entry in enumerate(chain.entries):
        saved = SavedEntry(
            entry.screen, entry.arguments, entry.opened, entry.by, entry.row, entry.view
        )
        try:
            made = _doubted_entry(app, saved, index, SURVIVES_ALL)
        except Refused as refused:
            gone = len(chain.entries) - index
            text = f"{gone} of {len(chain.entries)} entries of {chain.section}: {refused.note.text}"
            notes.append(Note("dropped", text, refused.note.where))
            break
        loads = {
            part: load
            for part, load in entry.loads.items()
            if (source := _load_from(app, made, part)) is not None
            and source == _load_from(before, entry, part)
        }
        made = replace(made, loads=loads)
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
        each
        for each in session.requests
        if each.source in app.late
        and each.source in before.late
        and app.late[each.source].served == before.late[each.source].served
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
    kept = _fitting(declared.type, value)
    if kept is None:
        notes.append(Note("dropped", f"app-wide value {declared.id} does not fit its type"))
        return declared.default
    return kept
