"""Lists: which records, in what order, what a row shows, and what can be done with one."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from cadena.model.naming import names_in
from cadena.model.part import Part, Size
from cadena.model.source import Test
from cadena.model.values import Value

Fit = Literal["fill", "whole"]
Density = Literal["compact", "regular", "roomy"]
"""How roomy rows are (rules.md, 7.9)."""


class Condition(Part, frozen=True, kw_only=True):
    """Keeps the records whose field passes a test.

    It is compared with a constant, with an argument of the screen, with an app-wide value,
    or with what is chosen in a strip of the same screen (``choice`` names its block).
    """

    field: str
    test: Test = "is"
    constant: Value | None = None
    argument: str = ""
    value: str = ""
    choice: str = ""


class Sort(Part, frozen=True, kw_only=True):
    field: str
    descending: bool = False


class Order(Part, frozen=True, kw_only=True):
    """An order that a list offers its person, by name (rules.md, 7.7)."""

    name: str
    sort: tuple[Sort, ...]


class Row(Part, frozen=True, kw_only=True):
    """What a row shows: ``picture`` is a field, the others are texts with ``{field}`` in them."""

    title: str = ""
    subtitle: str = ""
    picture: str = ""
    picture_fit: Fit = "fill"
    badge: str = ""
    takes_ground: bool = False


class TableColumn(Part, frozen=True, kw_only=True):
    """A column of a list: a field, or a text with ``{field}`` in it (rules.md, 7.5)."""

    shows: str
    head: str = ""
    least: Size = 96
    share: Annotated[float, Meta(gt=0)] = 1
    side: Literal["start", "end"] = "start"

    @property
    def sorts_by(self) -> str:
        """The field whose order a press on its head takes: the first that it shows."""
        named = names_in(self.shows)
        return named[0] if named else self.shows


class Group(Part, frozen=True, kw_only=True):
    """The records that pass all conditions and belong to no group before it."""

    title: str
    where: tuple[Condition, ...] = ()


class Follow(Part, frozen=True, kw_only=True, tag_field="do", tag="open"):
    """Opens the screen that the button is linked to."""


class RemoveRecord(Part, frozen=True, kw_only=True, tag_field="do", tag="remove"):
    """Removes the record."""

    confirm: str = ""
    undo: bool = True


class Mark(Part, frozen=True, kw_only=True, tag_field="do", tag="mark"):
    """Puts the record's key into an app-wide list of keys, or takes it out."""

    value: str


class SetField(Part, frozen=True, kw_only=True, tag_field="do", tag="set"):
    field: str
    to: Value | None = None


class ToggleField(Part, frozen=True, kw_only=True, tag_field="do", tag="toggle"):
    """Yes and no, or the next of the values named."""

    field: str
    between: tuple[Value, ...] = ()


class SaveRows(Part, frozen=True, kw_only=True, tag_field="do", tag="save rows"):
    """Hands the rows of a list out, as they are kept, found and sorted."""

    form: Literal["csv", "json"] = "csv"


class LeaveFor(Part, frozen=True, kw_only=True, tag_field="do", tag="leave for"):
    """Leaves the app for the outside address in a field of the record (rules.md, 7.10)."""

    field: str


Does = Follow | RemoveRecord | Mark | SetField | ToggleField | SaveRows | LeaveFor
DoneToRecords = RemoveRecord | Mark | SetField | ToggleField
"""What can be done to several records at once as to one (rules.md, 14)."""


class SetValue(Part, frozen=True, kw_only=True, tag_field="do", tag="set value"):
    """Sets an app-wide value to the row's key."""

    value: str


class TakeMarker(Part, frozen=True, kw_only=True, tag_field="do", tag="take marker"):
    """Only takes the marker: the row is the one that keys go on from."""


OnPress = Follow | SetValue | Mark | TakeMarker | LeaveFor


class ForSeveral(Part, frozen=True, kw_only=True):
    """The words of an action on several rows at once, with ``{count}`` in them (rules.md, 14)."""

    label: str = ""
    confirm: str = ""
    says: str = ""


class Button(Part, frozen=True, kw_only=True):
    """A button of a screen, or an action of a row."""

    id: str
    label: str
    does: Does = Follow()
    when_on: str = ""
    on_row: bool = False
    says: str = ""
    several: ForSeveral | None = None


class Listing(Part, frozen=True, kw_only=True):
    """Records laid out as rows, as a grid, as a strip across or in columns (rules.md, 7.1 and 7.5).

    Of ``groups_start``, ``fixed`` groups are always open; the others people open and close.
    """

    source: str
    where: tuple[Condition, ...] = ()
    search: tuple[str, ...] = ()
    sort: tuple[Sort, ...] = ()
    orders: tuple[Order, ...] = ()
    group_by: str = ""
    groups: tuple[Group, ...] = ()
    groups_start: Literal["fixed", "open", "closed"] = "fixed"
    limit: Annotated[int, Meta(ge=1)] | None = None
    past_limit: str = ""
    layout: Literal["rows", "grid", "strip", "columns"] = "rows"
    columns: tuple[TableColumn, ...] = ()
    tile: Size = 132
    density: Density = "regular"
    row: Row = Row()
    actions: tuple[Button, ...] = ()
    empty: str = ""
    not_found: str = ""
    keep_in_view: bool = True
    press: OnPress = Follow()
    several: Literal["no", "yes", "with boxes"] = "no"

    @property
    def has_tiles(self) -> bool:
        """Whether its rows are tiles."""
        return self.layout in ("grid", "strip")

    @property
    def has_bar(self) -> bool:
        """Whether there is a bar over its rows, to search in or to choose an order from."""
        return bool(self.search or self.orders)

    @property
    def is_grouped(self) -> bool:
        """Whether its rows stand in groups."""
        return bool(self.group_by or self.groups) and self.layout != "strip"

    @property
    def has_closing_groups(self) -> bool:
        """Whether the person can open and close its groups."""
        return self.is_grouped and self.groups_start != "fixed"
