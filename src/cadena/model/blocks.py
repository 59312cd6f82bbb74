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
    """Fields to read, some of them ``in_place`` to change; those in ``opens`` are triggers."""

    id: str
    fields: tuple[str, ...]
    in_place: tuple[str, ...] = ()
    opens: tuple[str, ...] = ()
    leaves: tuple[str, ...] = ()


class BodyBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="body"):
    id: str
    field: str


class AddressBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="address"):
    """A web address to read; pressing it opens nothing by itself (rules.md, 7.10)."""

    id: str
    field: str
    frame: Size = 0


class ListBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="list"):
    id: str
    heading: str
    rows: Listing


class ActionsBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="actions"):
    """Buttons of a detail, in order."""

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

    A new record begins with ``argument``, else with the app-wide ``value``, else with ``default``.
    One that ``opens`` is a trigger (rules.md, 15).
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
