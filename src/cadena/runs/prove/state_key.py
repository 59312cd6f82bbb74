"""What two sessions of one app must share to go on alike, as one whole number.

Left out is what no rule of this app reads: where it is scrolled to, where its dividers are, its
pages and groups, the focus, the clock; of a draft, what was typed; of values and of changes,
those that nothing of the section reads.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

import msgspec

from cadena.engine.session import Chain, Entry, Session, Window
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen, FromField, FromRecord, FromValue, ListScreen
from cadena.model.claims import named_values
from cadena.model.listing import Listing
from cadena.model.values import Value
from cadena.records.changes import Changes

KEPT: Final = 8_192
OTHER: Final = ("another",)
encode: Final = msgspec.json.Encoder(order="deterministic").encode


class StateKey:
    """The key of each state of one section of an app.

    Args:
        windows: those that the app is explored in, by place.
        is_late: whether what a source is still to bring is part of a state.
    """

    def __init__(
        self, app: WiredApp, section: str, windows: tuple[Window, ...], is_late: bool = False
    ) -> None:
        self.app = app
        self.section = section
        self.windows = {each: at for at, each in enumerate(windows)}
        self.is_late = is_late
        self.screens = screens_of_section(app, section)
        self.reads_list = {name for name in self.screens if reads_list(app, name)}
        self.reads_asked = any(each.detail_first != "no" for each in app.arrangements)
        self.read = values_read(app, self.screens)
        # A claim reads what it names, wherever it is made.
        claimed = {k: v for k, v in named_values(app.app.claims).items() if k in app.values}
        self.values = tuple(sorted({*self.read, *claimed}))
        self._named = {
            name: {one for each in some for one in (each if isinstance(each, tuple) else (each,))}
            for name, some in claimed.items()
            if name not in self.read
        }
        self.fields = fields_read(app)
        self._entries: dict[bytes, int] = {}
        self._chains: dict[tuple[int, ...], int] = {}
        self._shapes: dict[tuple[int, ...], int] = {}
        self._parts: dict[bytes, int] = {}
        self._rests: dict[tuple[Any, ...], int] = {}
        self._of_entry: dict[int, tuple[Entry, int, int]] = {}
        self._of_chain: dict[int, tuple[Chain, int, int]] = {}

    def forget(self) -> None:
        """Let go of what was remembered, once nothing more is asked."""
        for known in (self._entries, self._chains, self._shapes, self._parts, self._rests):
            known.clear()
        self._of_entry.clear()
        self._of_chain.clear()

    def __call__(self, session: Session) -> int:
        """The key of a session, in one of the windows."""
        chain = self.chain(session)[0]
        return (chain << 32 | self._rest(session) << 8) | self.windows[session.window]

    def chain(self, session: Session) -> tuple[int, int]:
        """The number of the section's chain, and that of what it shows, drafts included."""
        chain = session.chains[self.section]
        known = self._of_chain.get(id(chain))
        if known is not None:
            return known[1], known[2]
        pairs = [self.entry(each) for each in chain.entries]
        asked = (-1,) if chain.asked and self.reads_asked else ()
        key = (*asked, *(each[0] for each in pairs))
        shape = tuple(each[1] for each in pairs)
        number = self._chains.setdefault(key, len(self._chains))
        shown = self._shapes.setdefault(shape, len(self._shapes))
        if len(self._of_chain) >= KEPT:
            self._of_chain.clear()
        self._of_chain[id(chain)] = chain, number, shown
        return number, shown

    def entry(self, entry: Entry) -> tuple[int, int]:
        """The number of an open screen, and that of what it shows."""
        known = self._of_entry.get(id(entry))
        if known is not None:
            return known[1], known[2]
        view, screen = entry.view, entry.screen
        by_rule, row = entry.by == "rule", entry.row
        # What a rule opened by itself may be opened anew for another row.
        shows = (screen, None if by_rule else entry.arguments, bool(view.draft))
        asked = entry.opened_for
        key: list[Any] = [*shows, entry.arguments, entry.opened, by_rule, view.choice, view.picked]
        key.append(None if asked is None else (asked.on, asked.part, asked.of))
        key.append(None if row is None else (row.part, row.key, row.of, row.action))
        if screen in self.app.fields_opening and (filled := self._filled_from_lists(entry)):
            key.append(filled)
        if screen in self.reads_list:
            key.append((view.search, view.sort, view.last))
        if self.is_late:
            key.append({part: (load.state, load.brought) for part, load in entry.loads.items()})
        number = self._entries.setdefault(encode(key), len(self._entries))
        shown = self._parts.setdefault(encode(shows), len(self._parts))
        if len(self._of_entry) >= KEPT:
            self._of_entry.clear()
        self._of_entry[id(entry)] = entry, number, shown
        return number, shown

    def _filled_from_lists(self, entry: Entry) -> list[bool]:
        """Of a form for a new record, which of the fields that are filled from a list hold
        something: one that does not may be what keeps it from being saved."""
        form, draft = self.app.screens[entry.screen], entry.view.draft
        if self.app.key_of(entry) is not None:
            return []
        return [
            field.argument in entry.arguments or draft.get(field.field) is not None
            for field in (form.fields if isinstance(form, FormScreen) else ())
            if field.opens
        ]

    def _rest(self, session: Session) -> int:
        away = session.section if session.section != self.section else ""
        read = self.values_of(session)
        values = encode(read) if any(each is not None for each in read) else b""
        due: object = 0
        if self.is_late:
            sent = [(each.source, each.kind, each.state) for each in session.writes]
            due = (len(session.requests), *sent)
        ahead = tuple(
            (chain.section, chain.length, *(self.entry(e)[0] for e in chain.entries))
            for chain in session.ahead
        )
        key = (session.slid, away, values, self.changes(session), session.phase, due, ahead)
        return self._rests.setdefault(key, len(self._rests))

    def values_of(self, session: Session) -> tuple[Any, ...]:
        """What a section tells apart of app-wide values: of those that only claims read, what of
        them is named, and whether there is anything else."""
        return tuple(self._told_apart(name, session.values.get(name)) for name in self.values)

    def _told_apart(self, name: str, value: Value | None) -> Any:
        named = self._named.get(name)
        if named is None or value is None:
            return value
        if isinstance(value, tuple):
            there = tuple(each for each in value if each in named)
            return (there, len(there) < len(value)) if value else None
        return value if value in named else OTHER

    def changes(self, session: Session) -> bytes:
        """What of the changes of the records anything reads."""
        if not session.changes:
            return b""
        read = {
            name: self._read(name, each)
            for name, each in session.changes.items()
            if each.gone or each.added or each.changed or each.alike
        }
        return encode(read) if any(any(each) for each in read.values()) else b""

    def _read(self, source: str, changes: Changes) -> tuple[Any, ...]:
        fields = self.fields.get(source, frozenset())
        changed: list[tuple[Any, dict[str, Value | None]]] = [
            (change.key, read)
            for change in changes.changed
            if (read := {name: to for name, to in change.fields.items() if name in fields})
        ]
        changed += [
            (change.keys, read)
            for change in changes.alike
            if (read := {name: to for name, to in change.fields.items() if name in fields})
        ]
        return changed, changes.gone, len(changes.added)


def screens_of_section(app: WiredApp, section: str) -> frozenset[str]:
    """The screens that links lead to from the root of a section."""
    found, waiting = set[str](), [app.sections[section].root]
    while waiting:
        name = waiting.pop()
        if name in app.screens and name not in found:
            found.add(name)
            waiting += [each.to for each in app.app.links if each.trigger.screen == name]
    return frozenset(found)


def reads_list(app: WiredApp, screen: str) -> bool:
    """Whether a rule opens a row of a list screen by itself, so that its rows matter."""
    of = app.screens.get(screen)
    is_first = any(each.detail_first != "no" for each in app.arrangements)
    return isinstance(of, ListScreen) and (of.nothing_chosen != "say so" or is_first)


def values_read(app: WiredApp, screens: frozenset[str]) -> tuple[str, ...]:
    """The app-wide values that links or lists of some screens read."""
    read = {
        argument.value
        for link in app.app.links
        if link.trigger.screen in screens
        for argument in link.arguments
        if isinstance(argument, FromValue)
    }
    for screen in screens:
        read |= {each.value for listing in app.listings[screen].values() for each in listing.where}
        shown = app.screens[screen]
        if isinstance(shown, FormScreen):
            read |= {each.value for each in shown.fields}
    return tuple(sorted(read & set(app.values)))


def fields_read(app: WiredApp) -> dict[str, frozenset[str]]:
    """For each source the fields that links carry, or that decide which rows a list has."""
    read: dict[str, set[str]] = {each: set() for each in app.as_read}
    carried = set()
    for link in app.app.links:
        if any(isinstance(each, FromRecord) for each in link.arguments):
            carried |= {name for each in app.as_read.values() for name in each.types}
        carried |= {each.field for each in link.arguments if isinstance(each, FromField)}
    for listings in app.listings.values():
        for listing in listings.values():
            read.setdefault(listing.source, set()).update(compared(listing))
    return {
        source: frozenset(each | (carried & set(app.as_read[source].types)))
        for source, each in read.items()
        if source in app.as_read
    }


def compared(listing: Listing) -> Iterator[str]:
    """The fields by which a list keeps its rows."""
    for condition in listing.where:
        yield condition.field
