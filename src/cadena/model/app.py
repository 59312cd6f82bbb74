"""The model of a wired app: immutable values, and nothing that runs.

The same structures are the project file: see ``project_file`` and the JSON Schema
in ``docs/``. Every identifier is unique among its kind; references are by
identifier and may dangle, which is for ``cadena check`` to say.
"""

from __future__ import annotations

from typing import Annotated, Final, Literal

from msgspec import Meta, Struct, field

from cadena.model.values import FieldType, Value, ValueType

FORMAT: Final = 1
MOST_PANES: Final = 8

Size = Annotated[float, Meta(ge=0)]
"""A width or a height in dp, or a share of one."""

How = Literal["push", "beside", "replace", "modal", "popover"]
Lifetime = Literal["view", "entry", "saved", "stored"]
NothingChosen = Literal["say so", "open first", "open last"]
Test = Literal[
    "is", "is not", "under", "over", "at least", "at most", "contains", "is empty", "is filled"
]


class Part(Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """What every structure of the model shares: frozen, exact, its defaults not written."""


class Field(Part, frozen=True, kw_only=True):
    """One typed column of a source."""

    name: str
    type: FieldType = "text"


class Source(Part, frozen=True, kw_only=True):
    """A set of records, each found by its key.

    ``file`` is a path inside the project folder; its ending tells the format.
    Without ``fields`` names and types are those found in the data.
    """

    id: str
    file: str
    key: str
    title: str = ""
    fields: tuple[Field, ...] = ()


class Parameter(Part, frozen=True, kw_only=True):
    """What a screen must, or may, be opened with.

    ``key_of`` names the source whose key the parameter carries, if it carries one.
    """

    name: str
    type: ValueType = "text"
    need: Literal["required", "default", "none"] = "required"
    default: Value | None = None
    key_of: str = ""


class Condition(Part, frozen=True, kw_only=True):
    """Keeps the records whose field passes a test against a constant or an argument."""

    field: str
    test: Test = "is"
    constant: Value | None = None
    argument: str = ""


class Sort(Part, frozen=True, kw_only=True):
    field: str
    descending: bool = False


class Row(Part, frozen=True, kw_only=True):
    """What a row shows: ``picture`` is a field, the others are texts with ``{field}`` in them."""

    title: str = ""
    subtitle: str = ""
    picture: str = ""
    badge: str = ""


class Listing(Part, frozen=True, kw_only=True):
    """Records laid out as rows (behaviour.md, 7.1)."""

    source: str
    where: tuple[Condition, ...] = ()
    search: tuple[str, ...] = ()
    sort: tuple[Sort, ...] = ()
    limit: Annotated[int, Meta(ge=1)] | None = None
    row: Row = Row()
    empty: str = ""
    not_found: str = ""
    keep_in_view: bool = True


class Keep(Part, frozen=True, kw_only=True):
    """How long the state of a screen lives (behaviour.md, 6)."""

    scroll: Lifetime = "saved"
    search: Lifetime = "saved"


class PictureBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="picture"):
    id: str
    field: str


class HeadingBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="heading"):
    id: str
    text: str


class FactsBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="facts"):
    id: str
    fields: tuple[str, ...]


class BodyBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="body"):
    id: str
    field: str


class ListBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="list"):
    id: str
    heading: str
    rows: Listing


class Button(Part, frozen=True, kw_only=True):
    id: str
    label: str


class ActionsBlock(Part, frozen=True, kw_only=True, tag_field="block", tag="actions"):
    id: str
    buttons: tuple[Button, ...]


Block = PictureBlock | HeadingBlock | FactsBlock | BodyBlock | ListBlock | ActionsBlock


class ListScreen(Part, frozen=True, kw_only=True, tag_field="kind", tag="list"):
    """A screen that is one list; its trigger part is the empty text."""

    id: str
    title: str
    rows: Listing
    parameters: tuple[Parameter, ...] = ()
    nothing_chosen: NothingChosen = "say so"
    nothing_chosen_words: str = "Nothing chosen"
    keep: Keep = Keep()


class DetailScreen(Part, frozen=True, kw_only=True, tag_field="kind", tag="detail"):
    """A screen about one record: the one whose key the parameter ``key`` carries."""

    id: str
    title: str
    source: str
    key: str
    parameters: tuple[Parameter, ...] = ()
    blocks: tuple[Block, ...] = ()
    when_gone: Literal["say so", "close", "next"] = "say so"
    keep: Keep = Keep()


Screen = ListScreen | DetailScreen


class Trigger(Part, frozen=True, kw_only=True):
    """What a link starts from: a row of a list, or a button.

    ``part`` is the block of a nested list or the button's identifier; it is empty
    for the rows of a list screen.
    """

    screen: str
    on: Literal["row", "button"] = "row"
    part: str = ""


class FromField(Part, frozen=True, kw_only=True, tag_field="from", tag="field"):
    """The value of a field of the row's record (or, from a button, of the detail's)."""

    parameter: str
    field: str
    convert: bool = False


class FromArgument(Part, frozen=True, kw_only=True, tag_field="from", tag="argument"):
    """An argument of the screen that links."""

    parameter: str
    argument: str
    convert: bool = False


class FromValue(Part, frozen=True, kw_only=True, tag_field="from", tag="value"):
    """An app-wide value."""

    parameter: str
    value: str
    convert: bool = False


class FromConstant(Part, frozen=True, kw_only=True, tag_field="from", tag="constant"):
    parameter: str
    constant: Value
    convert: bool = False


class FromPosition(Part, frozen=True, kw_only=True, tag_field="from", tag="position"):
    """The row's position in the present order: a mistake that can be made, run and found."""

    parameter: str
    convert: bool = False


class FromRecord(Part, frozen=True, kw_only=True, tag_field="from", tag="record"):
    """The whole record, written as JSON text: likewise a mistake."""

    parameter: str
    convert: bool = False


Argument = FromField | FromArgument | FromValue | FromConstant | FromPosition | FromRecord


class Link(Part, frozen=True, kw_only=True):
    id: str
    trigger: Trigger
    to: str
    how: How = "push"
    arguments: tuple[Argument, ...] = ()


class Section(Part, frozen=True, kw_only=True):
    """A top-level destination with a root screen and a chain of its own."""

    id: str
    title: str
    root: str
    in_bar: bool = True
    returns: Literal["as left", "root"] = "as left"
    keep: Lifetime = "saved"


class Range(Part, frozen=True, kw_only=True):
    """From ``least`` dp up to, but not including, ``below`` dp."""

    least: Size = 0
    below: Size | None = None

    def holds(self, size: float) -> bool:
        return size >= self.least and (self.below is None or size < self.below)


class When(Part, frozen=True, kw_only=True):
    """The windows that an arrangement is for; what is left out asks for nothing."""

    width: Range = Range()
    height: Range = Range()
    shape: Literal["portrait", "landscape"] | None = None
    fold: Literal["folded", "flat"] | None = None


class PaneWidth(Part, frozen=True, kw_only=True):
    """How wide a pane is: fixed in dp, a share of the room, or between a least and a most.

    A pane with nothing said takes the room that is left.
    """

    fixed: Size | None = None
    share: Size | None = None
    least: Size = 0
    most: Size | None = None


class Arrangement(Part, frozen=True, kw_only=True):
    """What the app makes of a window (behaviour.md, 3 and 5)."""

    id: str
    title: str = ""
    when: When = When()
    panes: Annotated[int, Meta(ge=1, le=MOST_PANES)] = 1
    widths: tuple[PaneWidth, ...] = ()
    bar: Literal["bottom", "rail", "top", "none"] = "bottom"
    first: Literal["scrolls", "stays"] = "scrolls"
    over: bool = False
    back: Literal["leave", "close"] = "leave"
    detail_first: Literal["no", "open first", "open last"] = "no"
    popover_from: Size = 0


class Platform(Part, frozen=True, kw_only=True):
    """What the system under the app does: which disturbances rebuild screens, where back ends."""

    rebuilds: tuple[Literal["turn", "breakpoint"], ...] = ("turn", "breakpoint")
    back_to_start: bool = False


class AppValue(Part, frozen=True, kw_only=True):
    """A value shared by the whole app."""

    id: str
    type: ValueType = "text"
    default: Value | None = None
    keep: Lifetime = "saved"


class App(Part, frozen=True, kw_only=True):
    """A wired app, whole."""

    cadena: int = field(default=FORMAT)
    name: str = "Untitled"
    start: str = ""
    sources: tuple[Source, ...] = ()
    values: tuple[AppValue, ...] = ()
    screens: tuple[Screen, ...] = ()
    links: tuple[Link, ...] = ()
    sections: tuple[Section, ...] = ()
    arrangements: tuple[Arrangement, ...] = ()
    platform: Platform = Platform()


def listings(screen: Screen) -> dict[str, Listing]:
    """Every list on a screen, by its trigger part."""
    if isinstance(screen, ListScreen):
        return {"": screen.rows}
    return {block.id: block.rows for block in screen.blocks if isinstance(block, ListBlock)}


def buttons(screen: Screen) -> dict[str, Button]:
    """Every button on a screen, by its identifier."""
    if isinstance(screen, ListScreen):
        return {}
    return {
        button.id: button
        for block in screen.blocks
        if isinstance(block, ActionsBlock)
        for button in block.buttons
    }


def triggers(screen: Screen) -> tuple[Trigger, ...]:
    """Everything on a screen that a link can start from, in the order it is shown."""
    if isinstance(screen, ListScreen):
        return (Trigger(screen=screen.id),)
    found: list[Trigger] = []
    for block in screen.blocks:
        if isinstance(block, ListBlock):
            found.append(Trigger(screen=screen.id, part=block.id))
        elif isinstance(block, ActionsBlock):
            found += [
                Trigger(screen=screen.id, on="button", part=button.id) for button in block.buttons
            ]
    return tuple(found)


def source_shown(screen: Screen) -> str:
    """The source whose records a screen is about."""
    return screen.rows.source if isinstance(screen, ListScreen) else screen.source


def opens_with(screen: Screen) -> Parameter | None:
    """The parameter that carries the key of a detail's record, if the screen declares it."""
    if isinstance(screen, DetailScreen):
        return next((each for each in screen.parameters if each.name == screen.key), None)
    return None
