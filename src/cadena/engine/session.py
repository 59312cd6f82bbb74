"""What is open, chosen, typed and scrolled: the whole state of a running app, as one value."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final, Literal, TypeVar

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from cadena.engine.events import Event
from cadena.model.listing import Sort
from cadena.model.values import Scalar, Value
from cadena.records.changes import Changes

Opened = Literal["root", "push", "beside", "modal", "popover"]
Phase = Literal["running", "asleep", "killed", "left"]
LAYERS: Final = ("modal", "popover")
Divided = tuple[float | None, ...]
"""How wide (or high) the panes of an arrangement were left by hand, in dp; none as wired."""


class State(Struct, frozen=True, gc=False, omit_defaults=True, forbid_unknown_fields=True):
    """What every structure of a session shares."""


class Window(State, frozen=True, gc=False):
    """A window as it now lies, in dp.

    ``fold`` is how far from the left (or, ``fold_across``, from the top) it folds;
    ``folded`` windows have only that much of themselves. ``text`` is how large text is set,
    1 to 2; ``rtl`` windows read from right to left.
    """

    width: float
    height: float
    fold: float | None = None
    fold_across: bool = False
    folded: bool = False
    text: float = 1.0
    rtl: bool = False

    @property
    def size(self) -> tuple[float, float]:
        """Width and height in dp of what can be seen."""
        if not self.folded or self.fold is None:
            return self.width, self.height
        return (self.width, self.fold) if self.fold_across else (self.fold, self.height)

    @property
    def room(self) -> tuple[float, float]:
        """The size in units of its own text: large text makes them larger, and so fewer."""
        width, height = self.size
        return (width, height) if self.text == 1.0 else (width / self.text, height / self.text)


def sized(width: float, height: float, fold: float | None = None) -> Window:
    """A window of this size; sizes are kept as fractions, so that they are written alike."""
    return Window(float(width), float(height), None if fold is None else float(fold))


class Anchor(State, frozen=True, gc=False):
    """Where a screen is scrolled to (rules.md, 7.2).

    ``part`` and ``key`` name the first item in view: a row, or with no key a block.
    ``above`` dp of it are over the edge (less than 0 where the title of its group is in view);
    ``index`` is where it stood. ``seen`` is the size of the view that it was scrolled in: in a
    view of another size the chosen row is brought into view as well (7.3).
    """

    part: str
    key: Scalar | None
    above: float
    index: int
    seen: tuple[float, float] | None = None


class RowRef(State, frozen=True, gc=False):
    """The row that an entry was opened from.

    ``of`` is the entry whose list it is of, where that is not the one right below; ``action``
    is the row's action that opened it, where the row itself did not.
    """

    part: str
    key: Scalar
    of: int | None = None
    action: str = ""


class OpenedFor(State, frozen=True, gc=False):
    """What a screen was opened to choose for (rules.md, 15): a field, a fact or a button.

    ``of`` is the entry that asked, where that is not the one right below.
    """

    on: Literal["field", "fact", "button"]
    part: str
    of: int | None = None


class View(State, frozen=True, gc=False):
    """The view state of an entry; the dictionaries go by the part of the screen.

    ``across`` is where its strips are scrolled to, ``choice`` what is chosen in those that
    filter. ``page`` is the page shown and ``turned`` where the others were scrolled to.
    ``groups`` are the titles of the groups that are not as they were at first. ``draft`` are
    the fields of a form that were typed in; ``tried`` to save it, its faults
    are shown. ``picked`` are the keys of the rows that are picked, the last of them last (14).
    """

    scroll: Anchor | None = None
    search: dict[str, str] = {}
    sort: dict[str, tuple[Sort, ...]] = {}
    marker: dict[str, Scalar] = {}
    last: dict[str, Scalar] = {}
    across: dict[str, Anchor] = {}
    choice: dict[str, Scalar] = {}
    page: str = ""
    turned: dict[str, Anchor] = {}
    draft: dict[str, Value | None] = {}
    tried: bool = False
    groups: dict[str, tuple[str, ...]] = {}
    picked: dict[str, tuple[Scalar, ...]] = {}


class Load(State, frozen=True, gc=False):
    """How far a list, or the record of a detail, has come from a source that answers late.

    ``request`` is the newest one made for it, 0 when none is under way; ``brought`` the pages
    (of a record, 1) that have come; ``search`` and ``sort`` what they were asked with; ``failed``
    what the last call asked for, where it failed; ``again`` how many of its pages are still to be
    asked for anew, after a refresh; ``came`` the keys that a service has listed since its first
    page, which call ``first`` was for.
    """

    state: Literal["loading", "shown", "failed", "missing"] = "loading"
    request: int = 0
    brought: int = 0
    more: bool = False
    search: str = ""
    sort: tuple[Sort, ...] | None = None
    failed: tuple[str, tuple[Sort, ...] | None] | None = None
    again: int = 0
    came: tuple[Scalar, ...] = ()
    first: int = 0


class Request(State, frozen=True, gc=False):
    """A call under way. ``due`` is when the stand-in answers, in ms of virtual time.

    Without ``due`` it is for a real service, whose answer comes as an event. ``part`` names
    the list, or is ``*`` for an item call. ``kept`` are the fields by whose values the service is
    asked to keep records, where it says how.
    """

    number: int
    source: str
    section: str
    screen: str
    part: str
    due: int | None = None
    key: Scalar | None = None
    page: int = 0
    search: str = ""
    sort: tuple[Sort, ...] | None = None
    kept: tuple[tuple[str, Scalar], ...] = ()


class Question(State, frozen=True, gc=False):
    """What is asked before an event is taken: it waits for yes."""

    text: str
    yes: str
    no: str
    event: Event


class Menu(State, frozen=True, gc=False):
    """The menu of a row's actions, open on one row; without a key, that of a list's orders."""

    entry: int
    part: str
    key: Scalar | None


class Removal(State, frozen=True, gc=False):
    """The records that an action removed, and that can be put back; the title is that of one."""

    source: str
    keys: tuple[Scalar, ...]
    title: str


class FormAt(State, frozen=True, gc=False):
    """The form that something was saved in, and what was typed in it."""

    section: str
    screen: str
    arguments: dict[str, Value] = {}
    draft: dict[str, Value | None] = {}

    def is_of(self, section: str, entry: Entry) -> bool:
        """Whether an entry of a section is that form."""
        return (section, entry.screen, entry.arguments) == self.place

    @property
    def place(self) -> tuple[str, str, dict[str, Value]]:
        return self.section, self.screen, self.arguments


class Write(State, frozen=True, gc=False):
    """Something to be written to a service, until that is confirmed or given up (rules.md, 9.1).

    ``key`` is that of the record; of a new one there is none. ``fields`` are sent, and ``was`` is
    what they were before. ``call`` is the number of the newest call made for it, ``due`` when the
    stand-in answers that, or when it is made again by itself. ``form`` is where it was saved;
    without one it was an act, which shows at once. ``why`` and ``faults`` say what was refused,
    ``theirs`` what somebody else has changed of the same fields. ``done``: the service has taken
    it and nobody was told, ``made`` with that key. ``away``: what is said of it was put away.
    """

    number: int
    source: str
    kind: Literal["create", "change", "remove"]
    key: Scalar | None = None
    fields: dict[str, Value | None] = {}
    was: dict[str, Value | None] = {}
    state: Literal["held", "queued", "sending", "later", "unsent", "refused", "quicker"] = "sending"
    call: int = 0
    due: int | None = None
    form: FormAt | None = None
    why: str = ""
    faults: dict[str, str] = {}
    theirs: dict[str, Value | None] = {}
    done: bool = False
    made: Scalar | None = None
    away: bool = False


class Confirmed(State, frozen=True, gc=False):
    """A record that a service has made, changed or removed, as was told after so many ``calls``:
    what was called for by then may still say how it was before."""

    source: str
    key: Scalar | None
    calls: int


class Passing(State, frozen=True, gc=False):
    """What is said for a moment, until some time in ms of virtual time (8)."""

    text: str
    until: int


class Entry(State, frozen=True, gc=False):
    """One open screen of a chain."""

    screen: str
    arguments: dict[str, Value] = {}
    opened: Opened = "push"
    by: Literal["hand", "rule", "address"] = "hand"
    row: RowRef | None = None
    view: View = View()
    loads: dict[str, Load] = {}
    opened_for: OpenedFor | None = None


class Chain(State, frozen=True, gc=False):
    """A section's entries, root first. ``asked``: back has asked for the list (5.5)."""

    section: str
    entries: tuple[Entry, ...]
    asked: bool = False


class Ahead(State, frozen=True, gc=False):
    """What one back took away, and can be gone forward to (17).

    ``entries`` lay over the first ``length`` of the chain of ``section``; there are none where
    back went from that section to the start section.
    """

    section: str
    length: int = 0
    entries: tuple[Entry, ...] = ()


class Stored(State, frozen=True, gc=False):
    """View state that outlives its entry: by section, screen and arguments."""

    section: str
    screen: str
    arguments: dict[str, Value]
    view: View


class Session(State, frozen=True, gc=False):
    """The whole state of a running app.

    ``slid``: the list is slid over the detail; ``sections_open``: the section bar is, where it
    is behind a button. ``focus`` is the entry that the person used last. ``kept``: what the
    system kept of an app that it ended. ``changes``: what differs from the records as read, by
    source. ``clock`` is virtual time in ms, ``calls`` counts the requests made, ``requests``
    are those under way. ``ahead`` is what back took away, the last of it last.
    ``passing`` is what is said for a moment. ``divided`` is where the dividers of arrangements
    were left (3.2). ``writes`` are those to services that are not confirmed (9.1).
    """

    window: Window
    section: str = ""
    chains: dict[str, Chain] = {}
    phase: Phase = "running"
    slid: bool = False
    values: dict[str, Value] = {}
    changes: dict[str, Changes] = {}
    stored: tuple[Stored, ...] = ()
    kept: str = ""
    clock: int = 0
    calls: int = 0
    requests: tuple[Request, ...] = ()
    question: Question | None = None
    menu: Menu | None = None
    removal: Removal | None = None
    sections_open: bool = False
    focus: int = -1
    ahead: tuple[Ahead, ...] = ()
    passing: Passing | None = None
    divided: dict[str, Divided] = {}
    writes: tuple[Write, ...] = ()
    confirmed: tuple[Confirmed, ...] = ()

    @property
    def chain(self) -> Chain:
        """The chain of the section on display."""
        return self.chains.get(self.section, NO_CHAIN)

    @property
    def entries(self) -> tuple[Entry, ...]:
        return self.chains.get(self.section, NO_CHAIN).entries

    def with_chain(self, chain: Chain) -> Session:
        return replace(self, chains={**self.chains, chain.section: chain})

    def with_each_entry(self, change: Callable[[Chain, int, Entry], Entry]) -> Session:
        """With every entry of every chain changed by a function of chain, index and entry."""
        chains: dict[str, Chain] = {}
        for name, chain in self.chains.items():
            made = tuple([change(chain, at, entry) for at, entry in enumerate(chain.entries)])
            if any(now is not was for now, was in zip(made, chain.entries, strict=True)):
                chains[name] = replace(chain, entries=made)
        return replace(self, chains={**self.chains, **chains}) if chains else self

    def with_entries(self, entries: tuple[Entry, ...]) -> Session:
        chain = replace(self.chain, entries=entries)
        return replace(self, chains={**self.chains, chain.section: chain})

    def cut_back(self, length: int) -> Session:
        """With the first entries of the chain; whoever comes back to its root asks for it (5.5)."""
        entries = cut(self.entries, length)
        asked = self.chain.asked or len(entries) == 1
        return self.with_chain(replace(self.chain, entries=entries, asked=asked))

    def with_entry(self, index: int, entry: Entry) -> Session:
        entries = self.entries
        return self.with_entries((*entries[:index], entry, *entries[index + 1 :]))

    def with_view(self, index: int, **changed: Any) -> Session:
        """With the view state of an entry changed; that counts as touching it (5.3)."""
        entry = self.entries[index]
        view = replace(entry.view, **changed)
        return self.with_entry(index, replace(entry, view=view, by=_by_hand(entry)))


NO_CHAIN: Final = Chain("", ())


def _by_hand(entry: Entry) -> Any:
    return "hand" if entry.by == "rule" else entry.by


def touched(entry: Entry) -> Entry:
    """An entry that a rule opened and a person has used counts as opened by hand (5.3)."""
    return replace(entry, by="hand") if entry.by == "rule" else entry


def owner_of(of: RowRef | OpenedFor, index: int) -> int:
    """The entry that entry ``index`` was opened from, or for: whose list a row is of, who asked."""
    return index - 1 if of.of is None else of.of


def opened_from(entries: tuple[Entry, ...], index: int) -> RowRef | None:
    """The row of entry ``index`` that opened the next one: its chosen row, which is not stored."""
    row = entries[index + 1].row if index + 1 < len(entries) else None
    return row if row is not None and owner_of(row, index + 1) == index else None


Owned = TypeVar("Owned", RowRef, OpenedFor)


def on_base(below: tuple[Entry, ...], layers: tuple[Entry, ...], was: int) -> tuple[Entry, ...]:
    """Modals and popovers over other entries than the ``was`` that they lay over.

    What they were opened from keeps its place among the entries, or moves with them.
    """
    moved = len(below) - was

    def lifted(of: Owned, at: int) -> Owned:
        owner = owner_of(of, at)
        owner += moved if owner >= was else 0
        now = None if owner == at + moved - 1 else owner
        return of if now == of.of else replace(of, of=now)

    layers = tuple(
        entry
        if entry.row is None and entry.opened_for is None
        else replace(
            entry,
            row=entry.row and lifted(entry.row, at),
            opened_for=entry.opened_for and lifted(entry.opened_for, at),
        )
        for at, entry in enumerate(layers, was)
    )
    return (*below, *layers)


def cut(entries: tuple[Entry, ...], length: int) -> tuple[Entry, ...]:
    """The first entries; each of them remembers the row that had led on from it (4)."""
    stays = list(entries[:length])
    for index in range(len(entries) - 1, length - 1, -1):
        row = entries[index].row
        owner = length if row is None else owner_of(row, index)
        if row is not None and 0 <= owner < length:
            view = stays[owner].view
            last = {**view.last, row.part: row.key}
            stays[owner] = replace(stays[owner], view=replace(view, last=last))
    return tuple(stays)


def to_json(session: Session) -> str:
    """A session as JSON text."""
    return msgspec.json.encode(session).decode()


def from_json(text: str | bytes) -> Session:
    """The session that ``to_json`` wrote.

    Raises:
        msgspec.ValidationError: for JSON of another shape.
    """
    return msgspec.json.decode(text, type=Session)


def has_menu(session: Session) -> bool:
    """Whether a menu, or a section bar that opens on demand, lies over everything (4.0)."""
    return session.menu is not None or session.sections_open


def without_menu(session: Session) -> Session:
    """The session with no menu open, and the section bar behind its button."""
    return replace(session, menu=None, sections_open=False) if has_menu(session) else session
