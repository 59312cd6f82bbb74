"""What outlives the process, as plain JSON, and how it is read again (rules.md, 6)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final, TypeVar

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from cadena.engine.notes import Note, Refused
from cadena.engine.rules.dividing import fitting_divided
from cadena.engine.rules.unsent import NO_ANSWER
from cadena.engine.session import (
    Divided,
    Entry,
    OpenedFor,
    RowRef,
    Session,
    Stored,
    View,
    Write,
)
from cadena.engine.wired import WiredApp
from cadena.model.app import DetailScreen, Screen
from cadena.model.part import Lifetime

SURVIVES_KILL: Final[frozenset[Lifetime]] = frozenset({"saved", "stored"})

SURVIVES_COLD: Final[frozenset[Lifetime]] = frozenset({"stored"})

SURVIVES_ALL: Final[frozenset[Lifetime]] = frozenset({"view", "entry", "saved", "stored"})

Keeps = Callable[[Lifetime], bool]

Read = TypeVar("Read")


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
    opened_for: OpenedFor | None = None


class SavedChain(Struct, frozen=True, omit_defaults=True):
    section: str
    entries: tuple[SavedEntry, ...]
    asked: bool = False


class ReadChain(Struct, frozen=True):
    """A chain as it is read: each entry is doubted by itself."""

    section: str
    entries: tuple[msgspec.Raw, ...]
    asked: bool = False


class Saved(Struct, frozen=True, omit_defaults=True):
    """What outlives the process, as plain JSON; of what is read, each part is read by itself."""

    section: str = ""
    chains: tuple[SavedChain, ...] = ()
    values: dict[str, Any] = {}
    stored: tuple[Stored, ...] = ()
    divided: dict[str, Divided] = {}
    writes: tuple[Write, ...] = ()


class Kept(Struct, frozen=True):
    """What was saved, as far as it could be read."""

    section: str
    chains: tuple[ReadChain, ...]
    values: dict[str, Any]
    stored: tuple[Stored, ...]
    divided: dict[str, Any]
    writes: tuple[Write, ...]


def _part(raw: msgspec.Raw | None, kind: type[Read], what: str, notes: list[Note]) -> Read | None:
    """One part of what was saved; none, and a note, where it cannot be read."""
    if raw is None:
        return None
    try:
        return msgspec.json.decode(raw, type=kind)
    except (msgspec.MsgspecError, RecursionError, UnicodeDecodeError) as error:
        notes.append(Note.of("dropped", "unreadable", what=what, error=str(error)))
        return None


def read_saved(text: str, notes: list[Note]) -> Kept:
    """What was saved, as far as each of its parts can be read; the notes name the others.

    Raises:
        Refused: for a text that is no JSON object at all.
    """
    try:
        parts = msgspec.json.decode(text or "{}", type=dict[str, msgspec.Raw])
    except (msgspec.MsgspecError, RecursionError, UnicodeError) as error:
        raise Refused("kept state unreadable", error=str(error)) from None
    raws = list[msgspec.Raw]
    chains = []
    for raw in _part(parts.get("chains"), raws, "what was open", notes) or ():
        chain = _part(raw, ReadChain, "a chain", notes)
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
    divided = _part(parts.get("divided"), dict[str, Any], "where dividers were left", notes) or {}
    writes = []
    for raw in _part(parts.get("writes"), raws, "what was not sent", notes) or ():
        unsent = _part(raw, Write, "something that was not sent", notes)
        if unsent is not None:
            writes.append(unsent)
    section = _part(parts.get("section"), str, "the section", notes) or ""
    return Kept(section, tuple(chains), values, tuple(stored), divided, tuple(writes))


def saved_entry(raw: msgspec.Raw) -> SavedEntry:
    """An entry as it was saved.

    Raises:
        Refused: where it cannot be read.
    """
    try:
        return msgspec.json.decode(raw, type=SavedEntry)
    except (msgspec.MsgspecError, RecursionError, UnicodeDecodeError) as error:
        raise Refused("entry unreadable", error=str(error)) from None


def pared(screen: Screen | None, view: View, keeps: Keeps) -> View:
    """The view state of a screen with only the pieces whose lifetime is kept."""
    if screen is None:
        return View()
    keep = screen.keep
    if not keeps(keep.scroll):
        view = replace(view, scroll=None, marker={}, last={}, across={}, turned={})
    if not keeps(keep.search):
        view = replace(view, search={}, sort={}, choice={}, groups={}, picked={})
    if not keeps(keep.page) and view.page:
        view = replace(view, page="")
    if not keeps(keep.draft) and view.draft:
        view = replace(view, draft={}, tried=False)
    return view


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
                is_missing(app, session, entry),
                entry.opened_for,
            )
            for entry in chain.entries
        )
        chains.append(SavedChain(chain.section, entries, chain.asked))
    values = {
        value.id: session.values[value.id]
        for value in app.app.values
        if value.id in session.values and value.keep in survives
    }
    divided = fitting_divided(app, session.divided, survives)
    writes = tuple(_as_saved(e) for e in session.writes if outlives(app, e, survives))
    saved = Saved(session.section, tuple(chains), values, session.stored, divided, writes)
    return msgspec.json.encode(saved).decode()


def outlives(app: WiredApp, write: Write, survives: frozenset[Lifetime]) -> bool:
    """What was typed lives as a draft does; an act that was not sent is kept whatever happens."""
    screen = None if write.form is None else app.screens.get(write.form.screen)
    return write.form is None or (screen is not None and screen.keep.draft in survives)


def _as_saved(write: Write) -> Write:
    """Of what was under way nobody will hear an answer; what was put away is said again."""
    write = replace(write, away=False) if write.away else write
    if write.state == "sending":
        return replace(write, state="unsent", due=None, why=NO_ANSWER)
    return replace(write, state="queued", due=None) if write.state == "later" else write


def is_missing(app: WiredApp, session: Session, entry: Entry) -> bool:
    """Whether a screen that goes with its record is about one that is not there."""
    screen = app.screens.get(entry.screen)
    if not isinstance(screen, DetailScreen) or screen.when_gone == "say so":
        return False
    records = app.records(session, screen.source)
    is_there = records is not None and records.row_of(app.key_of(entry)) is not None
    return screen.source not in app.late and not is_there
