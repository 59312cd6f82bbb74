"""What rules open and take away by themselves: nothing chosen, coming from wide, detail first.

Rules 5.2, 5.3 and 5.5 of rules.md; they hold after every event.
"""

from __future__ import annotations

from typing import Any, Final

from msgspec.structs import replace

from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.display import Display, base_length, display_of, runs_of
from cadena.engine.rules.opening import link_for, open_link
from cadena.engine.session import LAYERS, Chain, Entry, RowRef, Session, on_base, owner_of
from cadena.engine.wired import WiredApp
from cadena.model.app import Arrangement, Link, ListScreen
from cadena.model.values import Scalar

NOTHING: Final[tuple[Any, ...]] = (None,)
OPENS: Final = ("open first", "open last")


def settle(app: WiredApp, session: Session) -> tuple[Session, Notes]:
    """Make the three rules hold: 5.3 for every section's chain, the others for the one shown."""
    before, display = session, display_of(app, session)
    arrangement = display.arrangement
    notes: Notes = ()
    changes, values = session.changes, session.values if app.with_values else None
    for name, chain in session.chains.items():
        if len(chain.entries) < 2:
            continue
        # Most chains are as they were an event ago: the very same one stays as it is.
        known = app.settled.get(name, NOTHING)
        if (
            known[0] is chain
            and known[1] is arrangement
            and known[2] is changes
            and known[3] is values
        ):
            continue
        settled = take_away(app, session, chain, arrangement)
        if settled is chain:
            app.settled[name] = chain, arrangement, changes, values
        else:
            gone = len(chain.entries) - len(settled.entries)
            note = Note.of("closed by rule", section=chain.section, count=gone)
            session, notes = session.with_chain(settled), (*notes, note)
    if session is not before:
        display = display_of(app, session)
    while (asked := _asked_to_open(app, session, display)) is not None:
        try:
            opened, said = open_link(app, session, *asked, by="rule")
        except Refused as refused:
            why = Note.of("not opened by rule", "", refused.note.where, why=refused.note)
            return session, (*notes, why)
        # What is open already elsewhere (2.4) is not fetched by a rule.
        if len(opened.entries) <= len(session.entries):
            break
        session, notes = opened, (*notes, *said)
        display = display_of(app, session)
    return session, notes


def opens_by_rule(app: WiredApp, session: Session) -> bool:
    """Whether 5.2 or 5.5 would open a row at once."""
    asked = _asked_to_open(app, session, display_of(app, session))
    if asked is None:
        return False
    try:
        opened, _ = open_link(app, session, *asked, by="rule")
    except Refused:
        return False
    return len(opened.entries) > len(session.entries)


def _asked_to_open(
    app: WiredApp, session: Session, display: Display
) -> tuple[int, Link, RowRef] | None:
    """The entry, its link and the row that 5.2 or 5.5 asks to open, or none."""
    chain = session.chain
    wish = display.wishes[chain.asked]
    if wish not in OPENS:
        return None
    index = display.base - 1
    last = chain.entries[index]
    link, key = app.opens_beside(last), _row_to_open(app, session, last, wish)
    if link is None or key is None:
        return None
    row = RowRef("", key)
    link = link_for(app, session, index, link, row)
    return (index, link, row) if link is not None and link.how == "beside" else None


def _row_to_open(app: WiredApp, session: Session, last: Entry, wish: str) -> Scalar | None:
    """The key of the row that a list opens by itself, or none."""
    listed = app.listed(session, last, "")
    if listed is None or not len(listed.rows):
        return None
    remembered = last.view.last.get("")
    if (
        wish == "open last"
        and remembered is not None
        and listed.rows.index_of(remembered) is not None
    ):
        return remembered
    first: Scalar | None = None if listed.first is None else listed.rows.key_at(listed.first)
    return first


def take_away(app: WiredApp, session: Session, chain: Chain, arrangement: Arrangement) -> Chain:
    """Remove the last runs that a rule opened and that the arrangement, or the list that the
    row is of, would not have there now (5.3)."""
    entries = chain.entries
    if entries[-1].by != "rule" and not any(each.opened in LAYERS for each in entries):
        return chain
    while len(entries) > 1:
        base = base_length(entries)
        if not base or entries[base - 1].by != "rule":
            break
        runs = runs_of(entries)
        starts = _starts_by_rule(entries, runs)
        if not starts:
            break
        start = next((at for at in starts if not _is_on_list(app, session, entries, at)), None)
        if start is None:
            start = starts[-1]
            parent = entries[start - 1]
            if _is_asked_for(app, parent, len(runs), start, chain.asked, arrangement):
                break
        # What comes and goes with its pane leaves the list as it was.
        entries = on_base(entries[:start], entries[base:], base)
    return chain if entries is chain.entries else replace(chain, entries=entries)


def _starts_by_rule(entries: tuple[Entry, ...], runs: tuple[tuple[int, int], ...]) -> list[int]:
    """Where the last runs begin that were opened by rule alone, below any modal."""
    starts: list[int] = []
    for first, last in reversed(runs[1:]):
        if any(each.by != "rule" for each in entries[first : last + 1]):
            break
        starts.insert(0, first)
    return starts


def _is_on_list(app: WiredApp, session: Session, entries: tuple[Entry, ...], at: int) -> bool:
    """Whether the row that opened an entry is still on its list."""
    row = entries[at].row
    if row is None:
        return True
    owner = entries[owner_of(row, at)]
    # Asked after every event, and seldom otherwise than before: the very same answer the same.
    of = (owner, row, session.changes, session.values if app.with_values else None)
    key = tuple(map(id, of))
    known = app.on_list.get(key)
    if known is None:
        listed = app.listed(session, owner, row.part)
        is_there = listed is not None and listed.rows.index_of(row.key) is not None
        known = app.on_list[key] = (of, is_there)
    return known[1]


def _is_asked_for(
    app: WiredApp, parent: Entry, runs: int, length: int, asked: bool, arrangement: Arrangement
) -> bool:
    screen = app.screens.get(parent.screen)
    by_nothing_chosen = (
        runs <= arrangement.panes
        and isinstance(screen, ListScreen)
        and screen.nothing_chosen != "say so"
    )
    by_detail_first = (
        arrangement.panes == 1
        and arrangement.detail_first != "no"
        and not asked
        and length == 1
        and runs == 2
    )
    return by_nothing_chosen or by_detail_first
