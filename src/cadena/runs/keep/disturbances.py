"""What can happen to a running app that nobody asked for, as events."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, Final, NamedTuple

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.rules.display import arrangement_for
from cadena.engine.rules.window_change import resize_to, window_after, window_of
from cadena.engine.session import Entry, Session, sized
from cadena.engine.wired import WiredApp
from cadena.model.app import App, FromField, ListScreen, Parameter
from cadena.model.naming import fields_of_label, label_field
from cadena.model.values import Scalar, Value
from cadena.model.windows import windows_of
from cadena.records.changes import Change
from cadena.records.records import Records
from cadena.runs.keep.pieces import Piece
from cadena.runs.window_plane import plane_of

EXTRA: Final = "since"
Events = tuple[do.Event, ...]


class Spot(NamedTuple):
    """Where something happens: an open screen of a running app, and perhaps a list on it."""

    app: WiredApp
    session: Session
    at: int
    part: str = ""

    @property
    def entry(self) -> Entry:
        return self.session.entries[self.at]


class Disturbance(NamedTuple):
    """A disturbance: its name, and the events it is where it happens.

    None of them mean that it cannot happen there. ``about`` says the rest in words. ``version``
    makes another version of the app, in which a screen has changed.
    """

    name: str
    about: str
    events: Callable[[Spot], Events | None]
    version: Callable[[WiredApp, str], WiredApp] | None = None


def _turn(spot: Spot) -> Events | None:
    return (do.Turn(),) if spot.session.window.width != spot.session.window.height else None


def over_an_edge(spot: Spot) -> Events | None:
    """To the other side of the nearest breakpoint, and back."""
    width, height = spot.session.window.size
    found = []
    for breakpoint in plane_of(spot.app.app.arrangements).breakpoints:
        if breakpoint.axis == "width":
            to = breakpoint.at - 1 if width >= breakpoint.at else breakpoint.at
            found.append((abs(to - width), (to, height)))
        elif breakpoint.axis == "height":
            to = breakpoint.at - 1 if height >= breakpoint.at else breakpoint.at
            found.append((abs(to - height), (width, to)))
    if not found or spot.session.window.folded:
        return None
    _, (to_width, to_height) = min(found)
    return resize_to(sized(to_width, to_height)), resize_to(spot.session.window)


def _fold(spot: Spot) -> Events | None:
    return (do.Fold(), do.Unfold()) if spot.session.window.fold is not None else None


def _section(spot: Spot) -> Events | None:
    other = next((each for each in spot.app.sections if each != spot.session.section), None)
    is_covered = any(each.opened in ("modal", "popover") for each in spot.session.entries)
    if other is None or is_covered:
        return None
    return do.GoTo(section=other), do.GoTo(section=spot.session.section)


def _sleep(spot: Spot) -> Events | None:
    return do.Sleep(), do.Wake()


def _kill(spot: Spot) -> Events | None:
    return do.Kill(), do.Restore()


def _relaunch(spot: Spot) -> Events | None:
    return (do.Relaunch(),)


def _row(spot: Spot) -> tuple[str, Scalar] | None:
    """The source and the key of the row that an open screen is most about."""
    entry = spot.entry
    screen = spot.app.screens.get(entry.screen)
    if isinstance(screen, ListScreen):
        anchor = entry.view.scroll
        above = spot.session.entries[spot.at + 1 :]
        nearer = above[0].row if above else None
        if nearer is not None and nearer.part in spot.app.listings[screen.id]:
            return spot.app.listings[screen.id][nearer.part].source, nearer.key
        listed = spot.app.listed(spot.session, entry, "")
        if anchor is not None and anchor.key is not None:
            return spot.app.listings[screen.id][anchor.part].source, anchor.key
        if listed is None or not len(listed.rows):
            return None
        return screen.rows.source, listed.rows.key_at(0)
    opened = _opened_from(spot)
    return opened or _shown_by(spot)


def _record(spot: Spot) -> tuple[Records, Scalar] | None:
    """The records of that row and its key, if it is among them."""
    found = _row(spot)
    records = None if found is None else spot.app.records(spot.session, found[0])
    if found is None or records is None or records.row_of(found[1]) is None:
        return None
    return records, found[1]


def _opened_from(spot: Spot) -> tuple[str, Scalar] | None:
    """The source and the key of the row that a screen was opened from."""
    row = spot.entry.row
    if row is None or not spot.at:
        return None
    listing = spot.app.listings.get(spot.session.entries[spot.at - 1].screen, {}).get(row.part)
    return None if listing is None else (listing.source, row.key)


def _shown_by(spot: Spot) -> tuple[str, Scalar] | None:
    """The source and the key of the record that a screen shows, or one of those it came from."""
    for entry in reversed(spot.session.entries[: spot.at + 1]):
        source, key = spot.app.source_of(entry), spot.app.key_of(entry)
        records = spot.app.records(spot.session, source)
        if records is not None and records.row_of(key) is not None:
            return source, key
    return None


def _changed(spot: Spot, moves: bool) -> Events | None:
    found = _record(spot)
    if found is None:
        return None
    records, key = found
    source = records.source.id
    orders = [
        listing.sort[0].field
        for screen in spot.app.listings.values()
        for listing in screen.values()
        if listing.source == source and listing.sort
    ]
    if moves and not orders:
        above = records.key_at(0)
        return None if above == key else (do.Refresh(source=source, gone=(above,)),)
    label, *others = fields_of_label(label_field(records.source, records.types))
    held = {
        *orders,
        label,
        *others,
        records.source.key,
        *compared_fields(spot.app, source),
        *_carried(spot.app),
    }
    field = orders[0] if moves else next((e for e in records.types if e not in held), label)
    if field not in records.types or field == records.source.key:
        return None
    value = _other(records.types[field], records.by_key(key), field, moves)
    return (do.Refresh(source=source, changed=(Change(key, {field: value}),)),)


def _carried(app: WiredApp) -> set[str]:
    """The fields that links carry: a screen that was opened for one stays open for that."""
    arguments = (each for link in app.app.links for each in link.arguments)
    return {each.field for each in arguments if isinstance(each, FromField)}


def compared_fields(app: WiredApp, source: str) -> Iterator[str]:
    """The fields by which lists keep or group rows of a source: those rows would go elsewhere."""
    for listings in app.listings.values():
        for listing in listings.values():
            if listing.source == source:
                yield from (each.field for each in listing.where)
                for group in listing.groups:
                    yield from (each.field for each in group.where)


def _other(kind: str, record: dict[str, Value] | None, field: str, last: bool) -> Value:
    """Another value of a type; one that sorts last, where it should."""
    now = (record or {}).get(field)
    if kind == "yes/no":
        return now is not True
    if kind.startswith("list"):
        return ()
    some: dict[str, tuple[Value, Value, Value]] = {
        "whole number": (10**9, 7, 8),
        "number": (1e9, 7.5, 8.5),
        "date": ("2999-12-31", "2026-01-07", "2026-01-08"),
        "date and time": ("2999-12-31T00:00:00Z", "2026-01-07T09:30:00Z", "2026-01-07T09:31:00Z"),
    }
    at_the_end, one, other = some.get(kind, ("zzzz, moved", "changed", "changed again"))
    return at_the_end if last else other if now == one else one


def _moved(spot: Spot) -> Events | None:
    return _changed(spot, moves=True)


def _altered(spot: Spot) -> Events | None:
    return _changed(spot, moves=False)


def _gone(spot: Spot) -> Events | None:
    found = _record(spot)
    return None if found is None else (do.Refresh(source=found[0].source.id, gone=(found[1],)),)


def _nothing(spot: Spot) -> Events | None:
    return ()


def newer(app: App, screen: str) -> App:
    """A new version of an app: a screen takes one more thing, and no longer needs to."""
    extra = Parameter(name=EXTRA, need="default", default="new")
    screens = tuple(
        replace(each, parameters=(*each.parameters, extra)) if each.id == screen else each
        for each in app.screens
    )
    return replace(app, screens=screens)


def _new_version(app: WiredApp, screen: str) -> WiredApp:
    return app.remember(
        ("new version", screen),
        lambda: WiredApp(newer(app.app, screen), app.as_read, app.measure, app),
    )


DISTURBANCES: Final = (
    Disturbance("turn", "the window is turned", _turn),
    Disturbance("over an edge", "over a breakpoint and back", over_an_edge),
    Disturbance("fold", "folded, and opened again", _fold),
    Disturbance("section", "another section and back", _section),
    Disturbance("sleep", "asleep, and awake again", _sleep),
    Disturbance("kill", "ended by the system, then restored", _kill),
    Disturbance("relaunch", "started cold", _relaunch),
    Disturbance("row moved", "a refresh moves the row", _moved),
    Disturbance("row changed", "a refresh changes the row", _altered),
    Disturbance("row gone", "a refresh takes the row away", _gone),
    Disturbance("new version", "the app has changed", _nothing, _new_version),
)


def as_before(piece: Piece, value: Any) -> Any:
    """What a piece holds, without what a new version has added to it."""
    if piece.kind == "carried" and value is not None:
        return {name: each for name, each in value.items() if name != EXTRA} or None
    if piece.kind == "chain" and value is not None:
        return _without_extra(value)
    if piece.kind == "forward" and value is not None:
        return tuple(map(_without_extra, value))
    return value


def _without_extra(opened: Any) -> Any:
    return tuple(
        (screen, tuple(each for each in arguments if each[0] != EXTRA))
        for screen, arguments in opened
    )


def windows_that_matter(app: WiredApp) -> Iterator[int]:
    """The places of the named windows that differ in how they, or they turned, are arranged."""
    seen = set()
    for number, named in enumerate(windows_of(app.app)):
        window = window_of(named)
        turned = window_after(window, do.Turn())
        folds = window.fold is not None
        key = (arrangement_for(app, window).id, arrangement_for(app, turned).id, folds)
        if key not in seen:
            seen.add(key)
            yield number
