"""The claims made of every app, each told plainly of all ways there are: in how many moves."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, Final

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.rules.addresses import address_of
from cadena.engine.rules.asking import choosing_for, held_by_asker
from cadena.engine.rules.back import back_label
from cadena.engine.rules.display import arrangement_for, base_length, display_of
from cadena.engine.session import Entry, Session
from cadena.engine.step import start
from cadena.model.app import FormScreen, FromField, ListScreen
from cadena.model.values import same_value
from cadena.runs.possible import every_row, possible
from cadena.runs.prove.windows import to_window
from slow_prover import CHANGED, LEFT, REFUSED, ROUND, Everything, Way, run

BACKS: Final = 24
PRESSED: Final = (
    do.Choose,
    do.Press,
    do.Act,
    do.ActOnPicked,
    do.OpenFact,
    do.OpenField,
    do.Save,
)
Told = Iterator[int]
"""In how many moves each thing that breaks a claim is shown."""


def first(way: Way) -> do.Event:
    return way.events[0]


def shape(session: Session) -> list[Any]:
    """What a person sees: each screen, for what, and whether something is typed."""
    return [
        (each.screen, None if each.by == "rule" else each.arguments, bool(each.view.draft))
        for each in session.entries
    ]


def same(one: Entry, other: Entry) -> bool:
    return (one.screen, one.arguments) == (other.screen, other.arguments)


def opens(all_: Everything) -> Told:
    for way in all_.ways:
        if way.to == REFUSED and isinstance(first(way), PRESSED):
            yield all_.depths[way.state] + 1


def chosen(all_: Everything) -> Told:
    app = all_.app
    for way in _followed(all_):
        event, last, link = first(way), way.after.entries[-1], way.link
        if not isinstance(event, do.Choose | do.Act) or last.screen != link.to:
            continue
        target, part = app.screens[link.to], app.part_of(link.trigger)
        listing = app.listings[link.trigger.screen][part or ""]
        if isinstance(target, ListScreen) or target.source != listing.source:
            continue
        carries = next((e for e in link.arguments if e.parameter == target.key), None)
        key = app.as_read[listing.source].source.key
        if carries is None or (isinstance(carries, FromField) and carries.field != key):
            continue
        if not same_value(app.key_of(last), event.key):
            yield all_.depths[way.state] + 1


def there(all_: Everything) -> Told:
    for way in _followed(all_):
        last = way.after.entries[-1]
        key = all_.app.key_of(last)
        if way.to != CHANGED and key is not None:
            records = all_.app.records(way.after, all_.app.source_of(last))
            if records is None or records.row_of(key) is None:
                yield all_.depths[way.state] + 1


def backs(all_: Everything) -> Told:
    for at, session in enumerate(all_.sessions):
        if _backs_of(all_, session) is None:
            yield all_.depths[at] + BACKS
    for way in all_.ways:
        if way.to == CHANGED and _backs_of(all_, way.after) is None:
            yield all_.depths[way.state] + 1 + BACKS


def _backs_of(all_: Everything, session: Session) -> int | None:
    for count in range(BACKS + 1):
        if session.phase != "running":
            return count
        session, *_ = run(all_.app, session, (do.Back(),))
    return None


def label(all_: Everything) -> Told:
    app = all_.app
    for way in all_.ways:
        if not isinstance(first(way), do.Back):
            continue
        if any(note.kind == "let go" for note in way.notes):
            continue
        says = back_label(app, way.before)
        shown = [
            app.title_of(way.after, way.after.entries[pane.entry])
            for pane in (display_of(app, way.after).shown if way.to != LEFT else ())
            if pane.entry is not None
        ]
        if (says not in shown) if says is not None else (way.to != LEFT):
            yield all_.depths[way.state] + 1


def undoes(all_: Everything) -> Told:
    app = all_.app
    for way in _followed(all_):
        if way.to < 0 or len(way.after.entries) <= len(way.before.entries):
            continue
        back, _, _ = run(app, way.after, (do.Back(),))
        if back.phase != "running":
            if arrangement_for(app, way.before.window).back == "close":
                yield all_.depths[way.state] + 2
        elif len(back.entries) != len(way.before.entries):
            yield all_.depths[way.state] + 2


def turning(all_: Everything) -> Told:
    for at, session in enumerate(all_.sessions):
        for events, _ in all_.to_windows(session):
            there, *_ = run(all_.app, session, events)
            to = to_window(there.window, session.window)
            if to is not None:
                again, *_ = run(all_.app, there, (to,))
                if again.window == session.window and shape(again) != shape(session):
                    yield all_.depths[at] + 2


def ended(all_: Everything) -> Told:
    for at, session in enumerate(all_.sessions):
        back, *_ = run(all_.app, session, (do.Kill(), do.Restore()))
        if (
            back.section != session.section
            or not shown_again(session, back)
            or any(session.values.get(name) != back.values.get(name) for name in _read(all_))
        ):
            yield all_.depths[at] + 2


def shown_again(before: Session, after: Session) -> bool:
    """Whether the same is open for the same; for what a rule opened, any row will do."""
    pairs = zip(before.entries, after.entries, strict=False)
    return len(before.entries) == len(after.entries) and all(
        (one.screen, bool(one.view.draft)) == (other.screen, bool(other.view.draft))
        and (one.by == "rule" or one.arguments == other.arguments)
        for one, other in pairs
    )


def _read(all_: Everything) -> set[str]:
    links = (e for link in all_.app.app.links for e in link.arguments)
    claimed = {
        name for each in all_.app.app.claims for name in (*each.when.values, *each.so.values)
    }
    return claimed | {each.value for each in links if hasattr(each, "value")}


def unasked(all_: Everything) -> Told:
    for way in all_.ways:
        asked = any(note.kind == "asked" for note in way.notes)
        brought = any(note.kind == "brought" for note in way.notes)
        if way.to == REFUSED or asked or brought or isinstance(first(way), do.Save):
            continue
        had = [(e.screen, e.arguments) for e in way.before.entries if e.view.draft]
        has = [(e.screen, e.arguments) for e in way.after.entries if e.view.draft]
        if any(each not in has for each in had):
            yield all_.depths[way.state] + 1


def copy(all_: Everything) -> Told:
    for way in all_.ways:
        entries = way.after.entries
        opened = way.link is not None or len(entries) > len(way.before.entries)
        if way.to in (REFUSED, LEFT) or not entries or not opened:
            continue
        shown = [e.entry for e in display_of(all_.app, way.after).panes if e.entry is not None]
        before = [at for at, each in enumerate(entries[:-1]) if same(each, entries[-1])]
        beside = len(entries) - 1 in shown and any(at in shown for at in before)
        if len(entries) - 2 in before or beside:
            yield all_.depths[way.state] + 1


def after_saving(all_: Everything) -> Told:
    app = all_.app
    for way in all_.ways:
        saved = next((note for note in way.notes if note.kind == "saved"), None)
        if way.to == REFUSED or saved is None:
            continue
        forms = [
            at
            for at, each in enumerate(way.after.entries)
            if at
            and isinstance(app.screens[each.screen], FormScreen)
            and (app.source_of(each), app.key_of(each)) == (saved.data["source"], saved.data["key"])
        ]
        if forms:
            yield all_.depths[way.state] + 1 + len(way.after.entries) - 1 - forms[-1]


def address(all_: Everything) -> Told:
    for at, session in enumerate(all_.sessions):
        entries = session.entries
        if base_length(entries) < len(entries):
            continue
        address = address_of(all_.app, session, len(entries) - 1)
        if address is not None:
            begun, _ = start(all_.app, session.window)
            visited, *_ = run(all_.app, begun, (do.Visit(address=address),))
            if not visited.entries or not same(visited.entries[-1], entries[-1]):
                yield all_.depths[at] + 1


def grows(all_: Everything) -> Told:
    for way in all_.ways:
        if way.to != ROUND or way.link is None:
            continue
        entries = way.after.entries
        below = max(at for at, e in enumerate(entries[:-1]) if e.screen == entries[-1].screen)
        circle = [each.screen for each in entries[below + 1 :]]
        if _goes_round(all_, way.after, circle * 3):
            yield all_.depths[way.state] + 1 + len(circle)


def _goes_round(all_: Everything, session: Session, circle: list[str]) -> bool:
    if not circle:
        return True
    for each in possible(all_.app, session, every_row):
        if each.link is not None and each.link.to == circle[0]:
            after, _, refused = run(all_.app, session, (each.event,))
            if not refused and len(after.entries) > len(session.entries):
                return _goes_round(all_, after, circle[1:])
    return False


def saved_size(all_: Everything) -> Told:
    most = all_.app.app.platform.saved_most
    for at, session in enumerate(all_.sessions):
        plain = session.with_entries(
            tuple(
                replace(each, view=replace(each.view, scroll=None, across={}, marker={}, last={}))
                for each in session.entries
            )
        )
        _, notes, _ = run(all_.app, plain, (do.Kill(),))
        if notes[0].data.get("bytes", 0) > most:
            yield all_.depths[at] + 1


def second_tap(all_: Everything) -> Told:
    for way in _followed(all_):
        event, display = first(way), display_of(all_.app, way.after)
        top = display.layer or display.slid
        shown = [each.entry for each in (display.shown if top is None else (top,))]
        if event.entry not in shown:
            continue
        again, _, refused = run(all_.app, way.after, (event,))
        more = len(again.entries) > len(way.after.entries)
        if not refused and again.question is None and more:
            yield all_.depths[way.state] + 2


def order(all_: Everything) -> Told:
    for way in _followed(all_):
        if way.to < 0:
            continue
        for resized, _ in all_.to_windows(way.before):
            wide, *_ = run(all_.app, way.before, resized)
            offered = [each.event for each in possible(all_.app, wide, every_row)]
            last, _, impossible = run(all_.app, way.after, resized)
            if first(way) in offered and not impossible:
                other, _, refused = run(all_.app, wide, way.events)
                rounds = [e.screen for e in other.entries].count(other.entries[-1].screen) > 2
                if not refused and not rounds and shape(other) != shape(last):
                    yield all_.depths[way.state] + 2


def root(all_: Everything) -> Told:
    (section,) = all_.app.sections.values()
    at_root = {
        at
        for at, session in enumerate(all_.sessions)
        if session.entries[0].screen == section.root
        and any(pane.entry == 0 for pane in display_of(all_.app, session).shown)
    }
    leads = all_.leading_to(at_root)
    yield from (depth for at, depth in enumerate(all_.depths) if at not in leads)


def picked(all_: Everything) -> Told:
    for way in all_.ways:
        event = first(way)
        if not isinstance(event, do.ActOnPicked) or way.to == REFUSED:
            continue
        entry = way.before.entries[event.entry or 0]
        wanted = set(entry.view.picked[""])
        marks = [set(each.values.get("kept", ())) for each in (way.before, way.after)]
        gone = [set(c.gone) for each in (way.before, way.after)
                if (c := each.changes.get("huts")) is not None]  # fmt: skip
        if marks[0] != marks[1]:
            in_or_out = wanted <= marks[1] or not wanted & marks[1]
            done = wanted if in_or_out and marks[0] ^ marks[1] <= wanted else set()
        else:
            done = gone[-1] if gone else set()
        if done != wanted:
            yield all_.depths[way.state] + 1


def brought(all_: Everything) -> Told:
    app = all_.app
    for way in all_.ways:
        event = first(way)
        if not isinstance(event, do.Choose) or way.to == REFUSED:
            continue
        asking = choosing_for(app, way.before.entries, event.entry or 0, event.list)
        if asking is not None and held_by_asker(app, way.after, asking) != event.key:
            yield all_.depths[way.state] + 1


def neighbours(all_: Everything) -> Told:
    for at, session in enumerate(all_.sessions):
        for by in (-1, 1):
            goes = run(all_.app, session, (do.Neighbour(by=by),))  # type: ignore[arg-type]
            row = session.entries[-1].row
            listed = None if row is None else all_.app.listed(session, session.entries[0], row.part)
            if row is None or listed is None or goes[2] or row.part:
                continue
            place = listed.rows.index_of(row.key)
            if place is not None and not 0 <= place + by < len(listed.rows):
                yield all_.depths[at] + 1


def _followed(all_: Everything) -> Iterator[Way]:
    """The ways by a link, as far as they lead to a screen of the section."""
    for way in all_.ways:
        if way.link is not None and way.to not in (REFUSED, LEFT):
            yield way


SLOW: Final[dict[str, Callable[[Everything], Told]]] = {
    "opens": opens,
    "chosen": chosen,
    "there": there,
    "backs": backs,
    "label": label,
    "undoes": undoes,
    "turning": turning,
    "ended": ended,
    "unasked": unasked,
    "copy": copy,
    "after saving": after_saving,
    "address": address,
    "grows": grows,
    "saved size": saved_size,
    "second tap": second_tap,
    "order": order,
    "picked": picked,
    "brought": brought,
    "neighbours": neighbours,
    "root": root,
}


def never_reached(all_: Everything) -> set[str]:
    """The screens and links that some arrangement has not, by the names of their places."""
    columns = {arrangement_for(all_.app, each.window).id for each in all_.sessions}
    missing = {f"arrangements[{e.id}]" for e in all_.app.app.arrangements if e.id not in columns}
    seen: set[tuple[str, str]] = set()
    for session in all_.sessions:
        column = arrangement_for(all_.app, session.window).id
        seen |= {(column, f"screens[{each.screen}]") for each in session.entries}
    for way in _followed(all_):
        seen.add((arrangement_for(all_.app, way.before.window).id, f"links[{way.link.id}]"))
    open_ = {place for _, place in seen}
    for column in columns:
        for screen in all_.app.app.screens:
            if (column, f"screens[{screen.id}]") not in seen:
                missing.add(f"screens[{screen.id}]")
        for link in all_.app.app.links:
            is_open = f"screens[{link.trigger.screen}]" in open_
            if is_open and (column, f"links[{link.id}]") not in seen:
                missing.add(f"links[{link.id}]")
    return missing
