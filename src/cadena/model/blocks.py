"""Blocks: what a detail shows, one under another."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from cadena.model.listing import Button, Fit, Listing
from cadena.model.part import Part, Size
from cadena.model.values import Value


class PictureBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="picture"):
    id: str
    field: str
    fit: Fit = "fill"


class HeadingBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="heading"):
    id: str
    text: str


class FactsBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="facts"):
    """Fields to read; those that are also ``in_place`` can be changed where they stand.

    References among them that are also in ``opens`` are triggers: each opens what it refers to.
    For the outside address in one that is also in ``leaves`` the app is left (rules.md, 7.10).
    """

    id: str
    fields: tuple[str, ...]
    in_place: tuple[str, ...] = ()
    opens: tuple[str, ...] = ()
    leaves: tuple[str, ...] = ()


class BodyBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="body"):
    id: str
    field: str


class AddressBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="address"):
    """A web address to read; pressing it opens nothing by itself.

    With a ``frame``, so many dp high, what is there is shown under it, where the app names its
    host (rules.md, 7.10).
    """

    id: str
    field: str
    frame: Size = 0


class ListBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="list"):
    id: str
    heading: str
    rows: Listing


class ActionsBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="actions"):
    """Buttons in the flow of the blocks, in the title bar, or kept at the bottom."""

    id: str
    buttons: tuple[Button, ...]
    place: Literal["flow", "bar", "bottom"] = "flow"


class PageBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="page"):
    """Begins a page: the blocks after it, up to the next, are on it.

    What stands before the first page is on every page.
    """

    id: str
    title: str


Block = (
    PictureBlock
    | HeadingBlock
    | FactsBlock
    | BodyBlock
    | AddressBlock
    | ListBlock
    | ActionsBlock
    | PageBlock
)


class FormField(Part, frozen=True, kw_only=True):
    """A field of a form, and what its value must be.

    ``least`` and ``most`` bound a number, or the length of a text. A new record begins with
    ``argument``, else with the app-wide ``value``, else with ``default``. ``choices_from``
    offers the keys of another source. ``opens``: it is a trigger, whose link opens a list to
    choose from (rules.md, 15).
    """

    field: str
    label: str = ""
    required: bool = False
    choices: tuple[Value, ...] = ()
    choices_from: str = ""
    least: float | None = None
    most: float | None = None
    default: Value | None = None
    argument: str = ""
    value: str = ""
    lines: Annotated[int, Meta(ge=1, le=20)] = 1
    opens: bool = False
