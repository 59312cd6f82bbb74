"""Hard cases for a list that is scrolled: what happens to it, as events."""

from __future__ import annotations

from typing import Any, Final

from cadena.engine import events as do
from cadena.engine.rules.window_change import resize_to
from cadena.engine.session import sized
from cadena.engine.wired import Listed, WiredApp
from cadena.model.app import DetailScreen
from cadena.model.blocks import BodyBlock
from cadena.model.listing import Sort
from cadena.model.values import Scalar
from cadena.records.changes import Change
from cadena.records.records import Records
from cadena.records.template import fields_in
from cadena.runs.keep.disturbances import Disturbance, Events, Spot, compared_fields, over_an_edge

ANSWERS: Final = 10_000
"""Ms of virtual time in which late answers come."""
ABOVE: Final = 3
LONG: Final = "A line that is told at length. " * 12


def answers(app: WiredApp) -> Events:
    """Time for what is called for to come."""
    return (do.Wait(ms=ANSWERS),) if app.late else ()


def _filled_list(spot: Spot) -> Listed | None:
    listed = spot.app.listed(spot.session, spot.entry, spot.part)
    return listed if listed is not None and len(listed.rows) else None


def _on(spot: Spot) -> dict[str, Any]:
    return {"screen": spot.entry.screen, "entry": spot.at, "list": spot.part}


def _first(spot: Spot) -> Scalar | None:
    """The key of the first row in view."""
    view = spot.entry.view
    anchor = view.across.get(spot.part, view.scroll)
    return anchor.key if anchor is not None and anchor.part == spot.part else None


def _chosen(spot: Spot) -> set[Scalar | None]:
    """The keys of rows that something is open for, or was."""
    view = spot.entry.view
    opened = {entry.row.key for entry in spot.session.entries if entry.row is not None}
    return {*opened, view.last.get(spot.part), view.choice.get(spot.part)}


def _other_width(spot: Spot) -> Events | None:
    """To the other side of the nearest breakpoint, to stay there."""
    there = over_an_edge(spot)
    if there is not None:
        return (there[0], *answers(spot.app))
    width, height = spot.session.window.size
    return (resize_to(sized(max(160.0, width * 0.6), height)), *answers(spot.app))


def _other_heights(spot: Spot) -> Events | None:
    """What is above the first row in view gets shorter, or longer."""
    entry = spot.entry
    screen = spot.app.screens[entry.screen]
    if isinstance(screen, DetailScreen):
        field = next((e.field for e in screen.blocks if isinstance(e, BodyBlock)), None)
        key = spot.app.key_of(entry)
        if field is None or key is None:
            return None
        return (do.Edit(source=screen.source, key=key, fields={field: LONG}),)
    listed, first = _filled_list(spot), _first(spot)
    if listed is None or first is None or listed.listing.layout != "rows":
        return None
    source, own = listed.listing.source, spot.app.as_read[listed.listing.source].types
    # What another record tells (13) is changed there.
    names = [each for each in fields_in(listed.listing.row.subtitle) if each in own]
    at = listed.rows.index_of(first)
    if not names or not at or listed.listing.row.picture or _weigh(spot.app, source, names):
        return None
    above = [listed.rows.key_at(each) for each in range(max(0, at - ABOVE), at)]
    empty = tuple(Change(key, dict.fromkeys(names)) for key in above)
    return (do.Refresh(source=source, changed=empty), *answers(spot.app))


def _weigh(app: WiredApp, source: str, names: Any) -> bool:
    """Whether rows would go elsewhere if some of these fields changed."""
    orders = {
        sort.field
        for listings in app.listings.values()
        for listing in listings.values()
        if listing.source == source
        for sort in listing.sort
    }
    return bool({*orders, *compared_fields(app, source)}.intersection(names))


def _group_closes(spot: Spot) -> Events | None:
    """A group above the one in view closes."""
    listed, first = _filled_list(spot), _first(spot)
    if listed is None or not listed.listing.has_closing_groups or first is None:
        return None
    at = listed.rows.index_of(first)
    groups = [
        title
        for number, (begin, title) in enumerate(listed.rows.groups)
        if number not in listed.closed and at is not None and begin <= at
    ][:-1]
    if not groups:
        return None
    return (do.ShowGroup(**_on(spot), title=groups[0], open=False),)


def _while_away(spot: Spot) -> Events | None:
    """Another section; there the records come again, the first gone and one new; and back."""
    other = next((each for each in spot.app.sections if each != spot.session.section), None)
    listed = _filled_list(spot)
    if other is None or listed is None or len(listed.rows) < 2:
        return None
    rows, source = listed.rows, listed.listing.source
    held = {*_chosen(spot), _first(spot)}
    gone = next((key for at in range(len(rows)) if (key := rows.key_at(at)) not in held), None)
    if gone is None:
        return None
    new = _another(rows.records, rows.record_at(0))
    refresh = do.Refresh(source=source, gone=(gone,), added=new)
    away, home = do.GoTo(section=other), do.GoTo(section=spot.session.section)
    return away, refresh, home, *answers(spot.app)


def _another(records: Records, like: dict[str, Any]) -> tuple[dict[str, Any], ...]:
    """One more record like this one, if a key can be made for it."""
    key = records.unused_key(records.source.id)
    return () if key is None else ({**like, records.source.key: key},)


def _other_order(spot: Spot) -> Events | None:
    """Sorted the other way round."""
    listed = _filled_list(spot)
    if listed is None or listed.listing.is_grouped or listed.listing.layout == "strip":
        return None
    now = spot.entry.view.sort.get(spot.part) or listed.listing.sort
    fields = [*listed.rows.records.types]
    field, down = (now[0].field, now[0].descending) if now else (fields[0], False)
    by = (Sort(field=field, descending=not down),)
    return (do.SortBy(**_on(spot), by=by), *answers(spot.app))


def _row_gone(spot: Spot) -> Events | None:
    """The first row in view goes."""
    listed, first = _filled_list(spot), _first(spot)
    if listed is None or first is None or first in _chosen(spot):
        return None
    return (do.Refresh(source=listed.listing.source, gone=(first,)), *answers(spot.app))


def _restored(spot: Spot) -> Events | None:
    return (do.Kill(), do.Restore(), *answers(spot.app))


def _choice_made(spot: Spot) -> Events | None:
    """One of the tiles of a strip on the same screen is chosen, which filters the list below."""
    screen = spot.entry.screen
    strip = next((at for of, at in spot.app.choosing if of == screen), None)
    listed = None if strip is None else _filled_list(spot._replace(part=strip))
    if strip is None or listed is None:
        return None
    view = spot.entry.view
    key = _first(spot) if spot.part == strip else listed.rows.key_at(0)
    if key is None or view.choice.get(strip) == key:
        return None
    choose = do.Choose(**_on(spot._replace(part=strip)), key=key)
    return (choose, *answers(spot.app))


CASES: Final = (
    Disturbance("other width", "a window of another width, to stay", _other_width),
    Disturbance("other heights", "what is above it gets higher or lower", _other_heights),
    Disturbance("group closed", "a group above it is closed", _group_closes),
    Disturbance("while away", "rows come and go while another section is open", _while_away),
    Disturbance("other order", "sorted the other way round", _other_order),
    Disturbance("first gone", "the first row in view goes", _row_gone),
    Disturbance("restored", "ended, restored, and loaded as far as it was", _restored),
    Disturbance("choice made", "a tile of its strip is chosen", _choice_made),
)
