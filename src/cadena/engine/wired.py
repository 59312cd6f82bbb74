"""A wired app ready to run: the model with its records, and what is worth finding once."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable, Mapping
from functools import partial
from math import inf
from typing import Any, Final, NamedTuple, TypeVar

from msgspec import json
from msgspec.structs import astuple, replace

from cadena.engine.layout.measure import Measure, plain_measure
from cadena.engine.layout.rows import RowStack, stack_rows
from cadena.engine.layout.sizes import NARROW
from cadena.engine.layout.table_columns import columns_shown
from cadena.engine.session import Entry, Load, Session, Window
from cadena.model.app import (
    App,
    Arrangement,
    DetailScreen,
    FormScreen,
    Link,
    ListScreen,
    RowKind,
    Screen,
    Trigger,
)
from cadena.model.app_words import AppWords
from cadena.model.listing import Listing, Sort
from cadena.model.references import (
    Types,
    field_named,
    from_others,
    label_paths,
    orders_of_others,
    paths_of,
)
from cadena.model.screen_parts import (
    actions,
    buttons,
    choosing,
    facts_that_leave,
    facts_that_open,
    listings,
    pages,
    source_shown,
)
from cadena.model.service_order import sort_asked
from cadena.model.source import Source, takes_of
from cadena.model.values import FieldType, Scalar
from cadena.records.changes import Changes
from cadena.records.conditions import passing
from cadena.records.formats import Sayings
from cadena.records.joined import joined, leads_of
from cadena.records.query import Asked, Rows, compared_with, query
from cadena.records.records import Records

Made = TypeVar("Made")
Wanted = TypeVar("Wanted", bound=Hashable)
KEPT: Final = 48
KEPT_OF_SMALL: Final = 512
SMALL: Final = 20_000
"""Records of an app for which more is remembered: it takes little room."""
FEW: Final = 16
ITEM: Final = "*"
NOT_LOADED: Final = Load()
PLAINLY: Final = Sayings(Source(id="", key=""), {})
MANY: Final = 1024


TriggerAt = tuple[str, str, str]
"""The screen of a trigger, what it is on, and its part."""


class OfKind(NamedTuple):
    """A link that is for the rows of a kind (2.7)."""

    link: Link
    field: str
    test: Callable[[Any], bool] | bool

    def holds(self, record: Mapping[str, Any]) -> bool:
        return self.test if isinstance(self.test, bool) else self.test(record.get(self.field))


def trigger_at(link: Link) -> TriggerAt:
    """The trigger of a link, as what it is found by."""
    return link.trigger.screen, link.trigger.on, link.trigger.part


def _by_kind(link: Link) -> RowKind | None:
    """For which rows a link is; of a trigger that has no row, for whatever it is."""
    return link.when if link.trigger.on in ("row", "action") else None


class BoundedDict(dict[Wanted, Made]):
    """A dictionary that forgets everything once it holds too much."""

    def __setitem__(self, key: Wanted, value: Made) -> None:
        if len(self) >= MANY:
            self.clear()
        super().__setitem__(key, value)


def _chosen_among(source: Source, sources: Mapping[str, Source]) -> dict[str, str]:
    """The fields of a source that hold the key of a record, each with that record's source.

    Of a source that answers late all its keys are not known.
    """
    return {
        field.name: field.refers.to
        for field in source.fields
        if field.refers is not None
        and not field.refers.by
        and field.refers.to in sources
        and sources[field.refers.to].served == "file"
    }


def _with_references(screen: Screen, chosen_among: Mapping[str, Mapping[str, str]]) -> Screen:
    """A form of which each field that is a reference chooses among what it refers to (10)."""
    to = chosen_among.get(screen.source) if isinstance(screen, FormScreen) else None
    if not to or not isinstance(screen, FormScreen):
        return screen
    fields = tuple(
        replace(field, choices_from=to[field.field])
        if field.field in to and not (field.choices or field.choices_from)
        else field
        for field in screen.fields
    )
    return screen if fields == screen.fields else replace(screen, fields=fields)


class WiredApp:
    """What ``step`` and ``lay_out`` run on. It never changes; it only remembers.

    Args:
        app: the model.
        records: the records of each source, as read.
        measure: breaks running text into lines; see ``measure.Measure``.
        like: an app of the same sources and records, whose screens bind the same fields.
        views: whether it is kept where screens are scrolled to by themselves; who only asks
            which screens are open, and for what, need not pay for it.
    """

    def __init__(
        self,
        app: App,
        records: Mapping[str, Records],
        measure: Measure = plain_measure,
        like: WiredApp | None = None,
        views: bool = True,
    ) -> None:
        self.app = app
        self.views = views
        # What a real service serves is not there until it has answered.
        services = {each.id for each in app.sources if each.served == "service"}
        self.as_read = {
            name: each.none() if name in services else each for name, each in records.items()
        }
        self.measure = measure
        self.sources = {each.id: each for each in app.sources}
        self.chosen_among = {
            name: _chosen_among(source, self.sources) for name, source in self.sources.items()
        }
        self.screens: dict[str, Screen] = {
            screen.id: _with_references(screen, self.chosen_among) for screen in app.screens
        }
        self.sections = {each.id: each for each in app.sections if each.root in self.screens}
        self.in_bar = [each for each in self.sections.values() if each.in_bar]
        # By kind (2.7), the one that is for all other rows stands for them all, else the first.
        self.links: dict[TriggerAt, Link] = {}
        for link in sorted(app.links, key=lambda each: _by_kind(each) is not None):
            self.links.setdefault(trigger_at(link), link)
        self.brings = any(link.brings is not None for link in app.links)
        self.has_transitions = any(
            link.transition is not None or link.comes != "at once" for link in app.links
        )
        self.row_links = {
            (link.trigger.screen, link.trigger.part): link
            for link in self.links.values()
            if link.trigger.on == "row"
        }
        self.listings = {screen.id: listings(screen) for screen in app.screens}
        self.buttons = {screen.id: buttons(screen) for screen in app.screens}
        self.actions = {screen.id: actions(screen) for screen in app.screens}
        self.kinds = self._kinds(app.links)
        self.followed = tuple(each for at in self.links for each in self.links_at(at))
        self.choosing = {(screen.id, part) for screen in app.screens for part in choosing(screen)}
        self.pages = {screen.id: tuple(each.id for each in pages(screen)) for screen in app.screens}
        self.late = {each.id: each for each in app.sources if each.served != "file"}
        self.writes = {each.id: some for each in self.late.values() if (some := takes_of(each))}
        self.late_screens = {
            screen.id
            for screen in app.screens
            if source_shown(screen) in self.late
            or any(each.source in self.late for each in self.listings[screen.id].values())
        }
        self.values = {each.id: each for each in app.values}
        self.with_values = {
            screen
            for screen, some in self.listings.items()
            if any(
                condition.value
                for listing in some.values()
                for where in (listing.where, *(group.where for group in listing.groups))
                for condition in where
            )
        } | {
            screen.id
            for screen in app.screens
            if isinstance(screen, FormScreen) and any(each.value for each in screen.fields)
        }
        sides = {each.id: getattr(each, "side", None) for each in app.screens}
        self.by_window = {
            name for name, side in sides.items() if side is not None and side.measured == "window"
        }
        self.facts = {screen.id: facts_that_open(screen) for screen in app.screens}
        self.leaving = {screen.id: facts_that_leave(screen) for screen in app.screens}
        types = {name: each.types for name, each in self.as_read.items()}
        self.paths: dict[str, tuple[str, ...]] = (
            paths_of(app, types) if like is None else like.paths
        )
        orders = orders_of_others(app)
        self.leads = {
            name: leads_of(self.sources, name, paths, orders) for name, paths in self.paths.items()
        }
        self._sayings: dict[str, Sayings] = (
            {name: self._sayings_of(name, types) for name in self.as_read}
            if like is None
            else like._sayings
        )
        self.arrangements = app.arrangements or (Arrangement(id="one"),)
        lives = {each.id: astuple(each.keep) for each in app.screens}
        self.words = AppWords(app.locale)
        self.with_several = {
            (screen, part)
            for screen, some in self.listings.items()
            for part, each in some.items()
            if each.several != "no"
        }
        self.fields_opening = {
            screen.id: tuple(each.field for each in screen.fields if each.opens)
            for screen in app.screens
            if isinstance(screen, FormScreen)
        }
        self.shown_on: dict[str, tuple[str, ...]] = {
            source: tuple(each.id for each in app.values if each.shown_on == source)
            for source in {each.shown_on for each in app.values if each.shown_on}
        }
        self.with_neighbours = {
            each.id for each in app.screens if isinstance(each, DetailScreen) and each.neighbours
        }
        self.with_view_lifetimes = {name for name, keeps in lives.items() if "view" in keeps}
        self.has_stored = any("stored" in keeps for keeps in lives.values())
        self.arranged: BoundedDict[Window, Arrangement] = BoundedDict()
        self.displays: BoundedDict[Hashable, Any] = BoundedDict()
        self.on_list: BoundedDict[tuple[int, ...], tuple[Any, bool]] = BoundedDict()
        self.viewed: BoundedDict[Hashable, tuple[float, float]] = BoundedDict()
        self.displayed: tuple[Any, ...] = (None, None, None, None, None)
        self.targeted: tuple[Any, ...] = (None, None, None, None, None)
        self.settled: dict[str, tuple[Any, ...]] = {}
        self._kept: OrderedDict[Hashable, Any] = OrderedDict()
        is_small = sum(len(each) for each in self.as_read.values()) <= SMALL
        self._most = KEPT_OF_SMALL if is_small else KEPT

    def _sayings_of(self, name: str, types: Types) -> Sayings:
        """How a source's values are said, and what its references lead to."""
        sources = self.sources
        source = sources.get(name, self.as_read[name].source)
        fields = (field_named(sources, types, name, path) for path in self.paths.get(name, ()))
        labels = label_paths(sources, types, name)
        far = tuple(each for each in fields if each is not None)
        return Sayings(source, types[name], self.app.locale, far, labels)

    def say(self, source: str) -> Sayings:
        """How the values of a source are said; plainly, where there is no such source."""
        return self._sayings.get(source, PLAINLY)

    def type_of(self, source: str, field: str) -> FieldType | None:
        """The type of a field, or none where it is not there."""
        records = self.as_read.get(source)
        return None if records is None else records.types.get(field)

    def can_sort(self, listing: Listing, field: str) -> bool:
        """Whether a list can be sorted by a field, or by a path (13): one that the list itself
        sorts by, or offers, or that a head of its columns takes."""
        records = self.as_read.get(listing.source)
        if records is None or field in records.types:
            return records is not None
        orders = (listing.sort, *(each.sort for each in listing.orders))
        offered = {by.field for order in orders for by in order}
        offered |= {each.sorts_by for each in listing.columns}
        return field in offered and field in self.paths.get(listing.source, ())

    def _kinds(self, links: Iterable[Link]) -> dict[TriggerAt, list[OfKind]]:
        """The links that are for rows of a kind, by their trigger."""
        made: dict[TriggerAt, list[OfKind]] = {}
        for link in links:
            kind, part = _by_kind(link), self.part_of(link.trigger)
            listing = self.listings.get(link.trigger.screen, {}).get(part or "")
            if kind is not None and listing is not None:
                type_ = self.type_of(listing.source, kind.field) or "text"
                test = passing(kind.test, kind.constant, type_)
                made.setdefault(trigger_at(link), []).append(OfKind(link, kind.field, test))
        return made

    def link_for(self, at: TriggerAt, record: Mapping[str, Any]) -> Link | None:
        """The link that is followed from a row of this record (2.7), or none."""
        for of_kind in self.kinds.get(at, ()):
            if of_kind.holds(record):
                return of_kind.link
        rest = self.links.get(at)
        return rest if rest is None or _by_kind(rest) is None else None

    def links_at(self, at: TriggerAt) -> tuple[Link, ...]:
        """All links that a trigger may follow."""
        base = self.links.get(at)
        kinds = tuple(each.link for each in self.kinds.get(at, ()))
        return kinds if base is None or base in kinds else (*kinds, base)

    def link_from(self, trigger: Trigger) -> Link | None:
        """The link that starts from a trigger, or none."""
        return self.links.get((trigger.screen, trigger.on, trigger.part))

    def part_of(self, trigger: Trigger) -> str | None:
        """The list whose row a trigger is about; none for buttons and for saving."""
        if trigger.on == "row":
            return trigger.part
        if trigger.on == "action":
            return self.actions.get(trigger.screen, {}).get(trigger.part, ("",))[0]
        return None

    def forget(self) -> None:
        """Let go of all that is remembered: it is found anew where it is asked for."""
        for known in (
            self.arranged,
            self.displays,
            self.on_list,
            self.viewed,
            self.settled,
            self._kept,
        ):
            known.clear()
        self.displayed = self.targeted = (None, None, None, None, None)

    def remember(self, key: Hashable, make: Callable[[], Made]) -> Made:
        """What was made for this key not long ago, or what is made now."""
        if key in self._kept:
            self._kept.move_to_end(key)
            return self._kept[key]  # type: ignore[no-any-return]
        made = make()
        self._kept[key] = made
        if len(self._kept) > self._most:
            self._kept.popitem(last=False)
        return made

    def records(self, session: Session, source: str) -> Records | None:
        """The records of a source as they are now."""
        changes = session.changes.get(source)
        if changes is None:
            return self.as_read.get(source)
        base = self.as_read.get(source)
        if base is None:
            return None
        # What is remembered by identity is remembered with it, so its identity stays its own.
        made: tuple[Changes, Records] = self.remember(
            ("records", source, id(changes)),
            lambda: (changes, self._changed(source, base, changes)),
        )
        return made[1]

    def shown(self, session: Session, source: str) -> Records | None:
        """The records of a source as they now are, with what their references lead to (13)."""
        records, leads = self.records(session, source), self.leads.get(source)
        if records is None or leads is None:
            return records
        return joined(records, leads, self.sources, partial(self.records, session))

    def _changed(self, source: str, base: Records, changes: Changes) -> Records:
        """The records with changes; where these are few, the same ones serve again."""
        if len(changes.changed) <= FEW and len(changes.added) + len(changes.gone) <= FEW:
            others = self.remember(
                ("others", source, json.encode((changes.added, changes.gone))),
                lambda: base.with_others(changes),
            )
            others = self._with_alike(others, changes)
            key = ("edits", others.serial, json.encode(changes.changed))
            return self.remember(key, lambda: others.with_edits(changes))
        alike: tuple[Changes, Records] = self.remember(
            ("others", source, id(changes.added), id(changes.gone)),
            lambda: (changes, base.with_others(changes)),
        )
        return self._with_alike(alike[1], changes).with_edits(changes)

    def _with_alike(self, records: Records, changes: Changes) -> Records:
        """Records with what is changed alike in many of them; the very same serves again."""
        if not changes.alike:
            return records
        made: tuple[Changes, Records] = self.remember(
            ("changed alike", records.serial, id(changes.alike)),
            lambda: (changes, records.with_alike(changes.alike)),
        )
        return made[1]

    def listed(self, session: Session, entry: Entry, part: str) -> Listed | None:
        """The rows of a list on an open screen, and how they stack."""
        listing = self.listings.get(entry.screen, {}).get(part)
        records = None if listing is None else self.shown(session, listing.source)
        if listing is None or records is None:
            return None
        used = self._used(session, entry, listing)
        search = entry.view.search.get(part, "")
        sort = entry.view.sort.get(part)
        brought = -1
        if listing.source in self.late:
            load = entry.loads.get(part, NOT_LOADED)
            asks = self.asks(self.late[listing.source], entry, part)
            # What a service is not asked for is found in what has come of it.
            search = load.search if asks[0] == search else search
            sort = load.sort if asks[1] == sort else sort
            brought = load.brought
        key = ("rows", records.serial, entry.screen, part, used, search, sort, brought)
        listed = self.remember(
            key,
            lambda: self._pages_brought(
                records,
                listing,
                Asked(
                    entry.arguments, search, sort, values=session.values, choices=entry.view.choice
                ),
                brought,
            ),
        )
        if not listing.has_closing_groups or search:
            return listed
        turned = entry.view.groups.get(part, ())
        return self.remember((*key, turned), lambda: listed.with_turned(turned))

    def _used(self, session: Session, entry: Entry, listing: Listing) -> tuple[Any, ...]:
        """What the rows of a list depend on, beside its records and what is asked of it."""
        if not listing.where and not listing.groups:
            return ()
        groups = (each for group in listing.groups for each in group.where)
        of = entry.arguments, session.values, entry.view.choice
        return tuple([compared_with(each, *of) for each in (*listing.where, *groups)])

    def asks(self, source: Source, entry: Entry, part: str) -> tuple[str, tuple[Sort, ...] | None]:
        """The word and the order that a source which answers late is asked for."""
        search, sort = entry.view.search.get(part, ""), entry.view.sort.get(part)
        if source.served == "stand-in":
            return search, sort
        service = source.service
        if service is None:
            return "", None
        listing = self.listings.get(entry.screen, {}).get(part)
        # The order that the list has by itself is one that the service is asked for as well.
        sort = sort or (listing.sort if listing is not None else ()) or None
        can_sort = sort is not None and bool(sort_asked(service, sort))
        return (search if service.search else ""), (sort if can_sort else None)

    def _pages_brought(
        self, records: Records, listing: Listing, asked: Asked, brought: int
    ) -> Listed:
        if brought < 0:
            return Listed(listing, query(records, listing, asked))
        source = self.late[listing.source]
        partly = self._as_listed(records, source)
        if source.served == "service":
            return Listed(listing, query(partly, listing, asked))
        rows = query(partly, listing, asked)
        return Listed(listing, rows.first(min(len(rows), brought * source.stand_in.page)), rows)

    def _as_listed(self, records: Records, source: Source) -> Records:
        """The records as a list call brings them: some fields are left to the item call."""
        if not source.list_brings:
            return records
        return self.remember(
            ("brought", records.serial), lambda: records.with_only(self._brought(source))
        )

    def _brought(self, source: Source) -> tuple[str, ...]:
        """The fields that a list call brings, and what is found by those."""
        brings = source.list_brings
        far = (
            path
            for path in self.paths.get(source.id, ())
            if path.split(".")[0] in brings or from_others(self.sources, source.id, path)
        )
        return (*brings, *far)

    def source_of(self, entry: Entry) -> str:
        """The source that an open detail or form is about, or the empty text."""
        screen = self.screens.get(entry.screen)
        return "" if screen is None or isinstance(screen, ListScreen) else screen.source

    def key_of(self, entry: Entry) -> Any:
        """The key of the record that a detail or form is about, or none."""
        screen = self.screens.get(entry.screen)
        if screen is None or isinstance(screen, ListScreen):
            return None
        return entry.arguments.get(screen.key)

    def record_of(self, session: Session, entry: Entry) -> dict[str, Any] | None:
        """The record that a detail or form is about; none for a list, or when it is not there.

        Of a source that answers late, what the list brought stands until the item call has.
        """
        source, key = self.source_of(entry), self.key_of(entry)
        records = self.shown(session, source)
        if records is None or key is None:
            return None
        if source in self.late:
            load = entry.loads.get(ITEM, NOT_LOADED)
            if load.state == "missing" or (entry.row is None and not load.brought):
                return None
            if not load.brought:
                records = self._as_listed(records, self.late[source])
        return records.by_key(key)

    def title_of(self, session: Session, entry: Entry) -> str:
        """The title that an open screen shows; a detail whose record is gone says its kind."""
        screen = self.screens.get(entry.screen)
        if screen is None:
            return ""
        if isinstance(screen, FormScreen) and self.key_of(entry) is None:
            return screen.title_new or screen.title
        if not isinstance(screen, ListScreen) and "{" in screen.title:
            record = self.record_of(session, entry)
            if record is None:
                load = entry.loads.get(ITEM)
                return (
                    "…" if load is not None and load.state == "loading" else self.words("Not there")
                )
            return self.say(screen.source).fill(screen.title, record)
        return screen.title

    def opens_beside(self, entry: Entry) -> Link | None:
        """The row link of an open list screen, if it opens beside."""
        if entry.opened_for is not None:
            return None
        link = self.row_links.get((entry.screen, ""))
        return link if link is not None and link.how == "beside" else None


PAST_LIMIT: Final = "{shown} shown, {found} found, {all} in all"


class Listed:
    """The rows of a list as they now are.

    ``asked`` are all that were asked for, come or not; ``closed`` the groups, by number, whose
    rows are not shown.
    """

    def __init__(
        self,
        listing: Listing,
        rows: Rows,
        asked: Rows | None = None,
        closed: frozenset[int] = frozenset(),
    ) -> None:
        self.listing = listing
        self.rows = rows
        self.asked = asked or rows
        self.closed = closed
        self._stacks: dict[float, RowStack] = {}

    def with_turned(self, turned: tuple[str, ...]) -> Listed:
        """The same rows, with the groups of these titles not as they are at first."""
        is_closed = self.listing.groups_start == "closed"
        closed = frozenset(
            number
            for number, (_, title) in enumerate(self.rows.groups)
            if is_closed != (title in turned)
        )
        return Listed(self.listing, self.rows, self.asked, closed)

    def is_hidden(self, at: int) -> bool:
        """Whether a row is in a closed group."""
        return bool(self.closed) and self.stack(NARROW).is_hidden(at)

    def keys_shown(self) -> tuple[Scalar, ...]:
        """The keys of all rows that have one and are in no closed group, in the order shown; one
        that records share is there once."""
        keys = self.rows.keys()
        if self.closed:
            keys = [key for at, key in enumerate(keys) if not self.is_hidden(at)]
        records = self.rows.records
        if len(records.gaps(records.source.key)):
            keys = [key for key in keys if key is not None]
        return tuple(keys) if records.are_different else tuple(dict.fromkeys(keys))

    @property
    def first(self) -> int | None:
        """The first row that is in no closed group, or none."""
        if not self.closed:
            return 0 if len(self.rows) else None
        groups = enumerate(self.rows.groups)
        return next((at for number, (at, _) in groups if number not in self.closed), None)

    def counts(self, words: AppWords) -> str:
        """What the list says of the rows that it does not show (7.1)."""
        rows = self.rows
        counts = {"shown": len(rows), "found": rows.found, "all": rows.kept}
        return words(self.listing.past_limit or PAST_LIMIT, **counts)

    def stack(self, width: float) -> RowStack:
        """How the rows stack in a column ``width`` dp wide."""
        # Tiles of a grid depend on the width, plain rows only on whether they are narrow, and rows
        # in columns on whether these have room.
        if columns_shown(self.listing, width):
            width = inf
        elif self.listing.layout != "grid":
            width = 0.0 if width >= NARROW else NARROW / 2
        if width not in self._stacks:
            self._stacks[width] = stack_rows(self.listing, self.rows, width, self.closed)
        return self._stacks[width]
