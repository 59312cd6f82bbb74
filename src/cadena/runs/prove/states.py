"""Claims about one state by itself: it is tried on, and nothing is gone on from that."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.rules.addresses import address_of
from cadena.engine.rules.display import base_length, display_of
from cadena.engine.session import Entry, Session
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.listing import Mark
from cadena.model.screen_parts import every_button
from cadena.model.values import Value
from cadena.runs.possible import every_row, possible
from cadena.runs.prove.explore import Explored
from cadena.runs.prove.found import Found
from cadena.runs.walks.walk import Expected


def judged_at_start(explored: Explored, state: int, session: Session) -> Iterator[Found]:
    """What a state breaks of the claims that are about one state, tried by itself."""
    if session.section != explored.section:
        return
    shown = {e.entry for e in display_of(explored.app, session).shown}
    if session.entries[0].screen == explored.app.sections[session.section].root and 0 in shown:
        explored.at_root.add(state)
    if session.slid or session.changes:
        return
    yield from _ended(explored, state, session)
    yield from _address(explored, state, session)


def chain_of(entries: tuple[Entry, ...]) -> tuple[str, ...]:
    """The screens of a chain."""
    return tuple(each.screen for each in entries)


def drafts(session: Session) -> dict[tuple[str, str], tuple[str, ...]]:
    """The drafts of a session: by screen and arguments, the fields that are typed in."""
    return {
        (entry.screen, repr(sorted(entry.arguments.items()))): tuple(sorted(entry.view.draft))
        for chain in session.chains.values()
        for entry in chain.entries
        if entry.view.draft
    }


def _ended(explored: Explored, state: int, session: Session) -> Iterator[Found]:
    """Ended by the system and restored: the chain, its drafts and what is read are as before."""
    app = explored.app
    number = explored.key.chain(session)[0]
    read = explored.key.values_of(session)
    if not explored.once("ended", number, read):
        return
    ended, *_ = step(app, session, do.Kill())
    yield from _saved_size(explored, state, session)
    back, *_ = step(app, ended, do.Restore())
    tail = (do.Kill(), do.Restore())
    if back.section != session.section:
        where, what = f"sections[{session.section}].keep", "another section is shown"
    elif not _is_shown_again(session.entries, back.entries):
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


def _saved_size(explored: Explored, state: int, session: Session) -> Iterator[Found]:
    """More is saved than should be: at once, or once so many of the rows shown are marked."""
    app, most = explored.app, explored.app.app.platform.saved_most
    size = _size_saved(app, session)
    if explored.most_marked is None:
        marked = replace(session, values={**session.values, **_all_marked(app)})
        explored.most_marked = _size_saved(app, marked) - size
    # While rows are picked none is marked by itself: that is looked at where nothing is.
    is_picking = any(each.view.picked for each in session.entries)
    could_be = size if is_picking else size + explored.most_marked
    after, tail = session, list[do.Event]()
    for event in _marks_on_display(app, session) if size <= most < could_be else ():
        after, *_ = step(app, after, event)
        tail.append(event)
        size = _size_saved(app, after)
        if size > most:
            break
    if could_be > most:
        # Marked elsewhere as well it could be more: where that is not seen, it is not decided.
        what = f"{max(size, most + 1)} bytes are saved, and {most} is the limit"
        where = "platform.saved_most" if size > most else "values"
        expect = Expected(saved_most=most)
        yield Found("saved size", where, what, None, state, (*tail, do.Kill()), expect)


def _marks_on_display(app: WiredApp, session: Session) -> Iterator[do.Event]:
    """The marks that rows on display offer and that are not set."""
    for event, _ in possible(app, session, every_row):
        if isinstance(event, do.Act):
            does = app.actions[event.screen][event.action][1].does
            if isinstance(does, Mark):
                marked = session.values.get(does.value)
                if event.key not in (marked if isinstance(marked, tuple) else ()):
                    yield event


def _size_saved(app: WiredApp, session: Session) -> int:
    """How many bytes are saved when the system ends the app now, its lists apart."""
    entries = tuple(
        replace(entry, view=replace(entry.view, scroll=None, across={}, marker={}, last={}))
        for entry in session.entries
    )
    plain = session.with_entries(entries)
    size: int = step(app, plain, do.Kill()).notes[0].data["bytes"]
    return size


def _all_marked(app: WiredApp) -> dict[str, Value]:
    """The app-wide lists that rows and records are marked in, with all there are."""
    marked: dict[str, Value] = {}
    for name, screen in app.screens.items():
        for part, each in every_button(screen):
            own = getattr(screen, "source", "") if part is None else ""
            source = own or app.listings[name][part or ""].source
            if isinstance(each.does, Mark) and source in app.as_read:
                keys = tuple(app.as_read[source].keys)
                marked[each.does.value] = (*marked.get(each.does.value, ()), *keys)  # type: ignore[misc]
    return marked


def _is_shown_again(before: tuple[Entry, ...], after: tuple[Entry, ...]) -> bool:
    """Whether the same screens are open for the same, with something typed where there was; what
    a rule opened may be opened anew for another row."""
    return len(before) == len(after) and all(
        was.screen == now.screen
        and (was.by == "rule" or was.arguments == now.arguments)
        and bool(was.view.draft) == bool(now.view.draft)
        for was, now in zip(before, after, strict=True)
    )


def _address(explored: Explored, state: int, session: Session) -> Iterator[Found]:
    """The address of the deepest screen, visited from a fresh start, leads to it."""
    app = explored.app
    if not session.entries or base_length(session.entries) < len(session.entries):
        return
    index = len(session.entries) - 1
    entry = session.entries[index]
    key = explored.key.chain(session)[0]
    if not explored.once("address", key, session.window):
        return
    address = address_of(app, session, index)
    if address is None or not explored.once("address of", address, session.window):
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
