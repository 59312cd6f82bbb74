"""Claims about one state by itself: it is tried on, and nothing is gone on from that."""

from __future__ import annotations

from collections.abc import Iterator

from cadena.engine import events as do
from cadena.engine.rules.addresses import address_of
from cadena.engine.rules.display import base_length
from cadena.engine.session import Entry, Session
from cadena.engine.step import start, step
from cadena.runs.prove.explore import Explored
from cadena.runs.prove.found import Found
from cadena.runs.walks.walk import Expected


def judged_at_start(explored: Explored, state: int, session: Session) -> Iterator[Found]:
    """What a state breaks of the claims that are about one state, tried by itself."""
    if session.section != explored.section or session.slid or session.changes:
        return
    yield from _ended(explored, state, session)
    yield from _address(explored, state, session)


def chain_of(entries: tuple[Entry, ...]) -> tuple[str, ...]:
    return tuple(each.screen for each in entries)


def drafts(session: Session) -> dict[tuple[str, str], tuple[str, ...]]:
    """The drafts of a session: by screen and arguments, the fields that are typed in."""
    return {
        (each.screen, repr(sorted(each.arguments.items()))): tuple(sorted(each.view.draft))
        for chain in session.chains.values()
        for each in chain.entries
        if each.view.draft
    }


def _ended(explored: Explored, state: int, session: Session) -> Iterator[Found]:
    """Ended by the system and restored: the chain, its drafts and what is read are as before."""
    app = explored.app
    number, shape = explored.key.chain(session)
    read = explored.key.values_of(session)
    if not explored.once("ended", number, read):
        return
    ended, notes, _ = step(app, session, do.Kill())
    size = notes[0].data.get("bytes", 0)
    most = app.app.platform.saved_most
    if size > most:
        what = f"{size} bytes are saved, and {most} is the limit"
        expect = Expected(saved_most=most)
        yield Found("saved size", "platform.saved_most", what, None, state, (do.Kill(),), expect)
    back, *_ = step(app, ended, do.Restore())
    tail = (do.Kill(), do.Restore())
    if back.section != session.section:
        where, what = f"sections[{session.section}].keep", "another section is shown"
    elif explored.key.chain(back)[1] != shape:
        had, has = drafts(session), drafts(back)
        if chain_of(back.entries) != chain_of(session.entries):
            where = f"sections[{session.section}].keep"
            what = f"{len(back.entries)} of {len(session.entries)} screens are open again"
        else:
            screen = next((each[0] for each in had if each not in has), session.entries[-1].screen)
            where, what = f"screens[{screen}].keep.draft", f"what was typed in {screen} is gone"
    else:
        lost = [
            name
            for name in explored.key.values
            if session.values.get(name) != back.values.get(name)
        ]
        if not lost:
            return
        where, what = f"values[{lost[0]}].keep", f"{lost[0]} is not what it was"
    yield Found("ended", where, what, None, state, tail, ())


def _address(explored: Explored, state: int, session: Session) -> Iterator[Found]:
    """The address of the deepest screen, visited from a fresh start, leads to it."""
    app = explored.app
    if not session.entries or base_length(session.entries) < len(session.entries):
        return
    index = len(session.entries) - 1
    entry = session.entries[index]
    key = explored.key.chain(session)[0]
    if not explored.once("address", key):
        return
    address = address_of(app, session, index)
    if address is None or not explored.once("address of", address):
        return
    begun, _ = start(app, session.window)
    after, *_ = step(app, begun, do.Visit(address=address))
    last = after.entries[-1] if after.entries else None
    if last is not None and (last.screen, last.arguments) == (entry.screen, entry.arguments):
        return
    shown = "nothing" if last is None else last.screen
    what = f"{address} leads to {shown}"
    where = f"screens[{entry.screen}].address"
    expect = Expected(arguments=entry.arguments, address=address)
    if last is not None and last.screen != entry.screen:
        expect = Expected(title=app.title_of(session, entry), address=address)
    tail = (do.Visit(address=address),)
    yield Found("address", where, what, None, state, tail, expect)
