"""A wired app ready to run: the model with its records, and what is worth finding once."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable, Mapping
from typing import Any, Final, TypeVar

from cadena.data.query import Rows, query
from cadena.data.records import Changes, Records
from cadena.data.template import fill
from cadena.engine.measure import Measure, plain_measure
from cadena.engine.session import Entry, Session, Window
from cadena.engine.stack import RowStack, stack_rows
from cadena.model.app import (
    App,
    Arrangement,
    DetailScreen,
    Link,
    Listing,
    Screen,
    Trigger,
    buttons,
    listings,
)

Made = TypeVar("Made")
Asked = TypeVar("Asked", bound=Hashable)
KEPT: Final = 48
MANY: Final = 1024


class BoundedDict(dict[Asked, Made]):
    """A dictionary that forgets everything once it holds too much."""

    def __setitem__(self, key: Asked, value: Made) -> None:
        if len(self) >= MANY:
            self.clear()
        super().__setitem__(key, value)


class WiredApp:
    """What ``step`` and ``lay_out`` run on. It never changes; it only remembers.

    Args:
        app: the model.
        records: the records of each source, as read.
        measure: breaks running text into lines; see ``measure.Measure``.
    """

    def __init__(
        self, app: App, records: Mapping[str, Records], measure: Measure = plain_measure
    ) -> None:
        self.app = app
        self.as_read = dict(records)
        self.measure = measure
        self.screens: dict[str, Screen] = {each.id: each for each in app.screens}
        self.sections = {each.id: each for each in app.sections if each.root in self.screens}
        self.links: dict[tuple[str, str, str], Link] = {}
        for link in app.links:
            at = link.trigger
            self.links.setdefault((at.screen, at.on, at.part), link)
        self.row_links = {
            (link.trigger.screen, link.trigger.part): link
            for link in self.links.values()
            if link.trigger.on == "row"
        }
        self.listings = {screen.id: listings(screen) for screen in app.screens}
        self.buttons = {screen.id: buttons(screen) for screen in app.screens}
        self.arrangements = app.arrangements or (Arrangement(id="one"),)
        keeps = [
            life for screen in app.screens for life in (screen.keep.scroll, screen.keep.search)
        ]
        self.has_view_lifetimes = "view" in keeps
        self.has_stored = "stored" in keeps
        self.arranged: BoundedDict[Window, Arrangement] = BoundedDict()
        self.displays: BoundedDict[Hashable, Any] = BoundedDict()
        self._kept: OrderedDict[Hashable, Any] = OrderedDict()

    def link_from(self, trigger: Trigger) -> Link | None:
        """The link that starts from a trigger, or none."""
        return self.links.get((trigger.screen, trigger.on, trigger.part))

    def remember(self, key: Hashable, make: Callable[[], Made]) -> Made:
        """What was made for this key not long ago, or what is made now."""
        if key in self._kept:
            self._kept.move_to_end(key)
            return self._kept[key]  # type: ignore[no-any-return]
        made = make()
        self._kept[key] = made
        if len(self._kept) > KEPT:
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
        # The changes are part of what is remembered, so their identity stays theirs.
        made: tuple[Changes, Records] = self.remember(
            ("records", source, id(changes)), lambda: (changes, base.with_changes(changes))
        )
        return made[1]

    def listed(self, session: Session, entry: Entry, part: str) -> Listed | None:
        """The rows of a list on an open screen, and how they stack."""
        listing = self.listings.get(entry.screen, {}).get(part)
        records = None if listing is None else self.records(session, listing.source)
        if listing is None or records is None:
            return None
        used: tuple[Any, ...] = ()
        if listing.where:
            used = tuple([entry.arguments.get(each.argument) for each in listing.where])
        search = entry.view.search.get(part, "")
        sort = entry.view.sort.get(part)
        key = ("rows", records.serial, entry.screen, part, used, search, sort)
        return self.remember(
            key, lambda: Listed(listing, query(records, listing, entry.arguments, search, sort))
        )

    def record_of(self, session: Session, entry: Entry) -> dict[str, Any] | None:
        """The record that a detail is about; none for a list, or when it is gone."""
        screen = self.screens.get(entry.screen)
        if not isinstance(screen, DetailScreen):
            return None
        records = self.records(session, screen.source)
        key = entry.arguments.get(screen.key)
        return None if records is None or key is None else records.by_key(key)

    def title_of(self, session: Session, entry: Entry) -> str:
        """The title that an open screen shows; a detail whose record is gone says its kind."""
        screen = self.screens.get(entry.screen)
        if screen is None:
            return ""
        if isinstance(screen, DetailScreen) and "{" in screen.title:
            record = self.record_of(session, entry)
            return "Not there" if record is None else fill(screen.title, record)
        return screen.title

    def opens_beside(self, entry: Entry) -> Link | None:
        """The row link of an open list screen, if it opens beside."""
        link = self.row_links.get((entry.screen, ""))
        return link if link is not None and link.how == "beside" else None


class Listed:
    """The rows of a list as they now are, and how they stack."""

    def __init__(self, listing: Listing, rows: Rows) -> None:
        self.listing = listing
        self.rows = rows
        self.stack: RowStack = stack_rows(listing.row, rows)
