"""The rows of a list in view, as boxes: one under another, in a grid, or across."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

from cadena.engine.events import Act, Choose, OpenMenu, Pick, ShowGroup, SortBy
from cadena.engine.layout.column import Segment
from cadena.engine.layout.panes import Area
from cadena.engine.layout.pieces import edge_of, is_narrow
from cadena.engine.layout.rows import foot_of
from cadena.engine.layout.sizes import (
    ACTION_MOST,
    BADGE_MOST,
    EDGE,
    GROUP,
    HEADS,
    HIDDEN,
    MORE,
    PICK,
    ROWS,
    SMALL_TILE,
    TILE_GAP,
    TILE_TEXT,
)
from cadena.engine.layout.table_columns import ColumnAt, columns_shown, order_by_head
from cadena.engine.rules.actions import is_on
from cadena.engine.rules.choosing import takes_press
from cadena.engine.rules.lists import across_of, row_chosen
from cadena.engine.session import Session
from cadena.engine.wired import Listed, WiredApp
from cadena.model.listing import Button, Listing, Row, TableColumn
from cadena.model.source import StandsOut
from cadena.model.values import shown
from cadena.records.formats import Sayings
from cadena.records.query import OTHERS
from cadena.records.template import fields_in, is_empty
from cadena.scene.scene import Box


class Texts(NamedTuple):
    """What a row says. ``rule`` is why its badge stands out, if it does."""

    title: str
    subtitle: str
    badge: str
    rule: StandsOut | None

    @property
    def name(self) -> str:
        """All of it in words, for assistive technology."""
        word = self.rule.word if self.rule is not None else ""
        return ", ".join(each for each in (self.title, self.subtitle, self.badge, word) if each)


def texts_of(sayings: Sayings, row: Row, record: dict[str, Any], key: Any) -> Texts:
    """What a row says of a record; its key, where the title says nothing."""
    badge = sayings.fill(row.badge, record)
    rules = [sayings.standing_out(name, record) for name in fields_in(row.badge)]
    rule = next(filter(None, rules), None)
    if rule is not None:
        badge = f"{rule.sign} {badge}" if badge else rule.sign
    title = sayings.fill(row.title, record) or shown(key)
    return Texts(title, sayings.fill(row.subtitle, record), badge, rule)


class Standing(NamedTuple):
    """The list that rows are of: where it stands in the app, and what of it is chosen.

    ``picked`` are the keys of its picked rows, and ``boxes`` whether each row shows a box to pick
    it by; ``held`` are the keys that app-wide values hold which its rows show (7.8).
    """

    app: WiredApp
    session: Session
    at: int
    part: str
    listing: Listing
    marks: dict[str, Any]
    opens: bool
    picked: frozenset[Any] = frozenset()
    boxes: bool = False
    held: frozenset[Any] = frozenset()

    @property
    def screen(self) -> str:
        return self.session.entries[self.at].screen

    def state_of(self, key: Any) -> frozenset[str]:
        own = [name for name, at in self.marks.items() if at == key and at is not None]
        if key in self.picked:
            own.append("picked")
        if key in self.held:
            own.append("held")
        return frozenset(own)


def standing_of(app: WiredApp, session: Session, index: int, part: str) -> Standing:
    """The list of a part of an open screen."""
    entry = session.entries[index]
    chosen = row_chosen(app, session, index)
    marks: dict[str, Any] = {"marked": entry.view.marker.get(part)}
    if part in entry.view.choice:
        marks["chosen"] = entry.view.choice[part]
    elif chosen is not None and chosen.part == part:
        marks["chosen"] = chosen.key
    elif part in entry.view.last:
        marks["last"] = entry.view.last[part]
    listing = app.listings[entry.screen][part]
    opens = takes_press(app, session, index, part)
    keys = entry.view.picked.get(part, ())
    picked = app.remember(("picked", id(keys)), lambda: (keys, frozenset(keys)))[1]
    boxes = listing.several == "with boxes" or bool(picked)
    held = frozenset(_keys_held(session, app.shown_on.get(listing.source, ())))
    return Standing(app, session, index, part, listing, marks, opens, picked, boxes, held)


def _keys_held(session: Session, values: tuple[str, ...]) -> Iterator[Any]:
    """The keys that some app-wide values hold."""
    for name in values:
        value = session.values.get(name)
        yield from value if isinstance(value, tuple) else () if value is None else (value,)


def row_boxes(
    app: WiredApp, session: Session, index: int, segment: Segment, view: Area, offset: float
) -> Iterator[Box]:
    """The boxes of the rows in view of one list of a screen, in a column scrolled by dp."""
    listed, stack = segment.listed, segment.stack
    if listed is None or stack is None or not len(listed.rows):
        return
    standing = standing_of(app, session, index, segment.part)
    first = stack.at(max(0.0, offset - segment.top))
    groups = {at: (number, title) for number, (at, title) in enumerate(listed.rows.groups)}
    top = view.y + segment.top - offset
    columns = columns_shown(standing.listing, view.width, bool(standing.picked))
    at = first - 1
    while (at := at + 1) < len(listed.rows):
        if top + stack.top(at) >= view.y + view.height:
            break
        if at in groups:
            yield _group(standing, listed, *groups[at], view, top + stack.top(at))
        if stack.is_hidden(at):
            at = stack.end(at) - 1
            continue
        place = stack.place(at, view.width)
        area = Area(view.x + place.x, top + place.y, place.width, place.height)
        if area.y + area.height <= view.y:
            continue
        key, record = listed.rows.key_at(at), listed.rows.record_at(at)
        yield from _row(standing, key, record, area, view, columns)
    if columns:
        # They stay in view as long as any row of theirs is.
        y = max(top, min(view.y, top + stack.total - HEADS))
        yield from head_boxes(standing, columns, view, y)


def _group(
    standing: Standing, listed: Listed, number: int, title: str, view: Area, y: float
) -> Box:
    """The title of a group; one that opens and closes says how many rows are in it."""
    place: dict[str, Any] = {"clip": view, "entry": standing.at, "part": standing.part}
    box = (view.x + EDGE, y, view.width - 2 * EDGE, GROUP)
    searched = standing.session.entries[standing.at].view.search.get(standing.part)
    said = standing.app.words(title) if title == OTHERS else title
    if not standing.listing.has_closing_groups or searched:
        return Box("group", *box, said, **place)
    begins = [at for at, _ in (*listed.rows.groups, (len(listed.rows), ""))]
    count = begins[number + 1] - begins[number]
    is_open = number not in listed.closed
    state = {"open" if is_open else "closed"}
    at = listed.rows.index_of(standing.marks.get("chosen"))
    if at is not None and begins[number] <= at < begins[number + 1]:
        state.add("chosen")
    on: dict[str, Any] = {"screen": standing.screen, "entry": standing.at, "list": standing.part}
    does = ShowGroup(**on, title=title, open=not is_open)
    name = f"{said}, {count} rows, {'open' if is_open else 'closed'}"
    return Box("group", *box, f"{said} · {count}", frozenset(state), does, name=name, **place)


def _row(
    standing: Standing,
    key: Any,
    record: dict[str, Any],
    area: Area,
    view: Area,
    columns: Sequence[ColumnAt] = (),
) -> Iterator[Box]:
    listing = standing.listing
    state = standing.state_of(key)
    sayings = standing.app.say(listing.source)
    if listing.density != "regular" and not listing.has_tiles:
        state |= {listing.density}
    cells = [cell_of(sayings, each.column, record) for each in columns]
    if columns:
        texts = Texts(cells[0].text or shown(key), _in_words(sayings, columns, cells), "", None)
    else:
        texts = texts_of(sayings, listing.row, record, key)
    on = sayings.ground(record) if listing.row.takes_ground else None
    if on is not None:
        state |= {"on ground", on.colour}
        if not any(each is not None for each in (texts.rule, *(cell.rule for cell in cells))):
            # Never the ground alone.
            texts = texts._replace(title=f"{on.sign} {texts.title}")
    is_tile = listing.has_tiles
    if is_tile:
        state |= {"tile"}
    at: dict[str, Any] = {"entry": standing.at, "part": standing.part, "key": key}
    does = (
        Choose(screen=standing.screen, entry=standing.at, list=standing.part, key=key)
        if standing.opens
        else None
    )
    name = f"{texts.name}, {standing.app.words('chosen')}" if "held" in state else texts.name
    if on is not None and on.word and on.word not in name:
        name += f", {on.word}"
    yield Box("row", *area, "", state, does, name=name, clip=view, **at)
    if is_tile:
        yield from tile_contents(listing, record, area, view, texts, state, at)
        if standing.boxes:
            beside = MORE if listing.actions and not standing.picked else 0.0
            yield _pick_box(standing, key, texts, (area.x + 2 + beside, area.y + 2), view)
        if "held" in state:
            yield _held_sign(area.x + area.width - 26, area.y + area.height - 26, view, at)
        if listing.actions and not standing.picked:
            opens = OpenMenu(screen=standing.screen, entry=standing.at, list=standing.part, key=key)
            top = area.y + (2 if listing.row.picture else (area.height - MORE) / 2)
            more = (area.x + 2, top, MORE, MORE)
            yield Box(
                "more",
                *more,
                "⋯",
                frozenset({"tile"}),
                opens,
                name=standing.app.words("More"),
                clip=view,
                **at,
            )
        return
    edge = edge_of(view.width)
    whole = area
    if standing.boxes:
        yield _pick_box(standing, key, texts, (area.x + 2, area.y + (area.height - MORE) / 2), view)
        area = area._replace(x=area.x + PICK, width=max(0.0, area.width - PICK))
    if "held" in state:
        yield _held_sign(area.x + area.width - 26, area.y + (area.height - 22) / 2, view, at)
        area = area._replace(width=max(0.0, area.width - 22))
    if columns:
        yield from _more(standing, key, whole, view)
        yield from cell_boxes(columns, cells, whole, view, texts, state, at)
    elif is_narrow(view.width):
        yield from narrow_contents(standing, key, area, view, texts, state)
    else:
        taken = 0.0
        for box in _row_actions(standing, key, record, area, view):
            taken = max(taken, area.x + area.width - box.x)
            yield box
        room = area._replace(width=area.width - taken)
        yield from row_contents(listing, record, room, view, texts, state, at)
    x, y, width, height = whole
    yield Box("divider", x + edge, y + height - 1, width - 2 * edge, 1, clip=view)


def _pick_box(
    standing: Standing, key: Any, texts: Texts, at: tuple[float, float], view: Area
) -> Box:
    """The box at the start of a row that it is picked by (14)."""
    state = frozenset({"on"}) if key in standing.picked else frozenset[str]()
    does = Pick(screen=standing.screen, entry=standing.at, list=standing.part, key=key)
    place: dict[str, Any] = {"entry": standing.at, "part": standing.part, "key": key}
    name = standing.app.words("Pick {title}", title=texts.title)
    return Box("pick", *at, MORE, MORE, "", state, does, name=name, clip=view, **place)


def _held_sign(x: float, y: float, view: Area, at: dict[str, Any]) -> Box:
    """The sign that an app-wide value holds the row (7.8)."""
    return Box("held", x, y, 22, 22, "✓", clip=view, **at)


def narrow_contents(
    standing: Standing, key: Any, area: Area, view: Area, texts: Texts, state: frozenset[str]
) -> Iterator[Box]:
    """A row with little room: no picture, its badge and its actions in a foot of their own."""
    at: dict[str, Any] = {"entry": standing.at, "part": standing.part, "key": key, "clip": view}
    edge = edge_of(view.width)
    x, width = area.x + edge, max(0.0, area.width - 2 * edge)
    foot = foot_of(standing.listing)
    middle = area.y + (area.height - foot) / 2
    yield from _lines(standing.listing, (x, middle, width), texts, state, at)
    top = area.y + area.height - foot - 4
    room = width
    if standing.listing.actions and not standing.picked:
        room -= MORE
        opens = OpenMenu(screen=standing.screen, entry=standing.at, list=standing.part, key=key)
        box = (x + room, top, MORE, min(MORE, foot))
        yield Box("more", *box, "⋯", does=opens, name=standing.app.words("More"), **at)
    if texts.badge:
        wide = min(room, 20 + 7.2 * len(texts.badge))
        yield badge(texts, state, (x, top + 4, wide, 24), view)._replace(**at)


def _row_actions(
    standing: Standing, key: Any, record: dict[str, Any], area: Area, view: Area
) -> Iterator[Box]:
    """The actions that stand on a row, and what opens the menu of the others."""
    if standing.picked:
        return
    right = area.x + area.width - 4
    middle = area.y + area.height / 2
    at: dict[str, Any] = {"entry": standing.at, "part": standing.part, "key": key}
    where: dict[str, Any] = {"screen": standing.screen, "entry": standing.at}
    actions = standing.listing.actions
    if standing.listing.layout != "rows":
        yield from _more(standing, key, area, view)
        return
    if any(not each.on_row for each in actions):
        yield from _more(standing, key, area, view)
        right -= MORE
    for button in reversed([each for each in actions if each.on_row]):
        label, state = action_label(standing, button, record, key)
        wide = min(ACTION_MOST, 24 + 7.6 * len(label))
        does = Act(**where, key=key, action=button.id)
        box = (right - wide, middle - 18, wide, 36)
        yield Box("row action", *box, label, state, does, clip=view, **at)
        right -= wide + 6


def _more(standing: Standing, key: Any, area: Area, view: Area) -> Iterator[Box]:
    """What opens the menu of a row's actions, at its end."""
    if standing.picked or not standing.listing.actions:
        return
    opens = OpenMenu(screen=standing.screen, entry=standing.at, list=standing.part, key=key)
    box = (area.x + area.width - 4 - MORE, area.y + area.height / 2 - MORE / 2, MORE, MORE)
    at: dict[str, Any] = {"entry": standing.at, "part": standing.part, "key": key, "clip": view}
    yield Box("more", *box, "⋯", does=opens, name=standing.app.words("More"), **at)


class Cell(NamedTuple):
    """What a column says of a record, and the rule by which it stands out."""

    text: str
    rule: StandsOut | None


def cell_of(sayings: Sayings, column: TableColumn, record: dict[str, Any]) -> Cell:
    """What a column says of a record."""
    named = fields_in(column.shows)
    said = sayings.fill(column.shows, record) if named else sayings.value(column.shows, record)
    rules = (sayings.standing_out(name, record) for name in named or (column.shows,))
    rule = next((each for each in rules if each is not None), None)
    return Cell(f"{rule.sign} {said}".strip() if rule is not None else said, rule)


def head_of(sayings: Sayings, column: TableColumn) -> str:
    """What stands over a column."""
    return column.head or sayings.label(column.sorts_by)


def _in_words(sayings: Sayings, columns: Sequence[ColumnAt], cells: Sequence[Cell]) -> str:
    """All cells but the first, each with its head."""
    said = [
        f"{head_of(sayings, at.column)}: {cell.text}" + (f", {cell.rule.word}" if cell.rule else "")
        for at, cell in zip(columns, cells, strict=True)
        if cell.text
    ]
    return ", ".join(said[1:] if cells[0].text else said)


def cell_boxes(
    columns: Sequence[ColumnAt],
    cells: Sequence[Cell],
    area: Area,
    clip: Area,
    texts: Texts,
    state: frozenset[str],
    at: dict[str, Any],
) -> Iterator[Box]:
    """The cells of a row, side by side."""
    for number, (column, cell) in enumerate(zip(columns, cells, strict=True)):
        box = (area.x + column.x, area.y, column.width, area.height)
        own = state | {column.column.side}
        if cell.rule is not None:
            own |= {cell.rule.colour}
        kind, text = ("cell", cell.text) if number else ("row title", texts.title)
        yield Box(kind, *box, text, own, clip=clip, **at)


def head_boxes(
    standing: Standing, columns: Sequence[ColumnAt], view: Area, y: float
) -> Iterator[Box]:
    """The heads of columns: a press takes an order, and once more the other way round (7.7)."""
    app, listing = standing.app, standing.listing
    sayings = app.say(listing.source)
    place: dict[str, Any] = {"clip": view, "entry": standing.at, "part": standing.part}
    on: dict[str, Any] = {"screen": standing.screen, "entry": standing.at, "list": standing.part}
    sort = standing.session.entries[standing.at].view.sort.get(standing.part) or listing.sort
    yield Box("heads", view.x, y, view.width, HEADS, **place)
    left_out = [head_of(sayings, each) for each in listing.columns[len(columns) :]]
    for column in columns:
        head, field = head_of(sayings, column.column), column.column.sorts_by
        taken = sort[0] if sort and sort[0].field == field else None
        state = frozenset({column.column.side}) | (
            {"current"} if taken is not None else frozenset()
        )
        text, name = head, app.words("Order: {name}", name=head)
        if taken is not None:
            text = f"{head} {'↓' if taken.descending else '↑'}"
            name += ", " + app.words("descending" if taken.descending else "ascending")
        does = SortBy(**on, by=order_by_head(sort, field))
        box = (view.x + column.x, y, column.width, HEADS)
        yield Box("head", *box, text, state, does, name=name, **place)
    if left_out:
        last = columns[-1]
        box = (view.x + last.x + last.width, y, HIDDEN, HEADS)
        name = app.words("Not shown here: {names}", names=", ".join(left_out))
        yield Box("head", *box, f"+{len(left_out)}", frozenset({"end"}), name=name, **place)


def action_label(
    standing: Standing, button: Button, record: dict[str, Any], key: Any
) -> tuple[str, frozenset[str]]:
    """The label of an action on a row, and whether what it marks or toggles is on."""
    source = standing.listing.source
    on = is_on(standing.app, standing.session, button.does, source, record, key)
    label = button.when_on if on and button.when_on else button.label
    return label, frozenset({"on"}) if on else frozenset()


def _lines(
    listing: Listing,
    at: tuple[float, float, float],
    texts: Texts,
    state: frozenset[str],
    box: dict[str, Any],
) -> Iterator[Box]:
    """Title over subtitle, about a middle: from the left, the middle, and so wide."""
    x, middle, width = at
    sizes = ROWS[listing.density]
    title, below = sizes.title[1], sizes.subtitle[1] if texts.subtitle else 0.0
    top = middle - (title + below) / 2
    yield Box("row title", x, top, width, title, texts.title, state, **box)
    if texts.subtitle:
        yield Box("row subtitle", x, top + title, width, below, texts.subtitle, state, **box)


def row_contents(
    listing: Listing,
    record: dict[str, Any],
    area: Area,
    clip: Area,
    texts: Texts,
    state: frozenset[str],
    at: dict[str, Any] | None = None,
) -> Iterator[Box]:
    """What stands on a row: picture, title over subtitle, badge.

    Args:
        at: of which row of the app these are, for boxes that are to be found again.
    """
    at, row, picture = at or {}, listing.row, ROWS[listing.density].picture
    left, right = area.x + EDGE, area.x + area.width - EDGE
    middle = area.y + area.height / 2
    if row.picture:
        box = (left, middle - picture / 2, picture, picture)
        yield thumb(row, record, box, clip)._replace(**at)
        left += picture + 12
    if texts.badge:
        width = min(BADGE_MOST, 20 + 7.2 * len(texts.badge))
        yield badge(texts, state, (right - width, middle - 12, width, 24), clip)._replace(**at)
        right -= width + 8
    width = max(0.0, right - left)
    yield from _lines(listing, (left, middle, width), texts, state, {"clip": clip, **at})


def thumb(
    row: Row, record: dict[str, Any], box: tuple[float, float, float, float], clip: Area
) -> Box:
    """The picture of a row."""
    file = record.get(row.picture)
    picture = "" if is_empty(file) else str(file)
    return Box("thumb", *box, state=frozenset({row.picture_fit}), picture=picture, clip=clip)


def badge(
    texts: Texts, state: frozenset[str], box: tuple[float, float, float, float], clip: Area
) -> Box:
    """The badge of a row."""
    if texts.rule is not None:
        state |= {texts.rule.colour}
    return Box("badge", *box, texts.badge, state, clip=clip)


def tile_contents(
    listing: Listing,
    record: dict[str, Any],
    area: Area,
    clip: Area,
    texts: Texts,
    state: frozenset[str],
    at: dict[str, Any] | None = None,
) -> Iterator[Box]:
    """What stands on a tile: its picture above its title, the badge over the picture.

    Args:
        at: of which row of the app these are, for boxes that are to be found again.
    """
    at = at or {}
    row = listing.row
    text_top = area.y
    if row.picture:
        tall = area.height - TILE_TEXT
        yield thumb(row, record, (area.x, area.y, area.width, tall), clip)._replace(**at)
        text_top += tall
    if texts.badge:
        width = min(area.width - 12, 20 + 7.2 * len(texts.badge))
        box = (area.x + area.width - width - 6, area.y + 6, width, 24)
        yield badge(texts, state, box, clip)._replace(**at)
    room = area.y + area.height - text_top
    top = text_top + (room - (40 if texts.subtitle else 22)) / 2
    inset = 8.0 if area.width >= SMALL_TILE else 4.0
    if listing.actions and not row.picture:
        inset = MORE
    inner = (area.x + inset, area.width - 2 * inset)
    yield Box("row title", inner[0], top, inner[1], 22, texts.title, state, clip=clip, **at)
    if texts.subtitle:
        box = (inner[0], top + 22, inner[1], 18)
        yield Box("row subtitle", *box, texts.subtitle, state, clip=clip, **at)


def strip_boxes(
    app: WiredApp, session: Session, index: int, segment: Segment, view: Area, top: float
) -> Iterator[Box]:
    """The tiles in view of a strip across."""
    listed = segment.listed
    if listed is None:
        return
    standing = standing_of(app, session, index, segment.part)
    offset = across_of(app, session, index, view.width, segment.part)
    each = listed.listing.tile + TILE_GAP
    yield Box("strip", view.x, top, view.width, segment.height, entry=index, part=segment.part)
    first = max(0, int((offset - EDGE) // each))
    for at in range(first, len(listed.rows)):
        x = view.x + EDGE + at * each - offset
        if x >= view.x + view.width:
            break
        area = Area(x, top, listed.listing.tile, segment.height - TILE_GAP)
        yield from _row(standing, listed.rows.key_at(at), listed.rows.record_at(at), area, view)
