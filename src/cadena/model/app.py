"""The model of a wired app: immutable values, and nothing that runs.

The same structures are the project file: see ``project_file`` and the JSON Schema
in ``docs/``. Every identifier is unique among its kind; references are by
identifier and may dangle, which is for ``cadena check`` to say.
"""

from __future__ import annotations

from typing import Annotated, Final, Literal

from msgspec import Meta, field

from cadena.model.blocks import Block, FormField, ListBlock
from cadena.model.listing import Button, Listing
from cadena.model.part import Lifetime, Part, Size
from cadena.model.source import Source
from cadena.model.values import Value, ValueType

FORMAT: Final = 1
MOST_PANES: Final = 8

How = Literal["push", "beside", "replace", "modal", "popover"]
NothingChosen = Literal["say so", "open first", "open last"]


class Parameter(Part, frozen=True, kw_only=True):
    """What a screen must, or may, be opened with.

    ``key_of`` names the source whose key the parameter carries, if it carries one.
    """

    name: str
    type: ValueType = "text"
    need: Literal["required", "default", "none"] = "required"
    default: Value | None = None
    key_of: str = ""


class Keep(Part, frozen=True, kw_only=True):
    """How long the state of a screen lives (behaviour.md, 6)."""

    scroll: Lifetime = "saved"
    search: Lifetime = "saved"
    page: Lifetime = "saved"
    draft: Lifetime = "saved"


class ListScreen(Part, frozen=True, kw_only=True, tag_field="kind", tag="list"):
    """A screen that is one list; its trigger part is the empty text.

    ``above`` are strips over the list, whose choice can filter it; ``buttons`` are the list's
    own actions.
    """

    id: str
    title: str
    rows: Listing
    above: tuple[ListBlock, ...] = ()
    buttons: tuple[Button, ...] = ()
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


class FormScreen(Part, frozen=True, kw_only=True, tag_field="kind", tag="form"):
    """A form for one record (behaviour.md, 10).

    The parameter ``key`` decides: none means new, any value means edit. A new record is
    titled ``title_new``. Where nobody types a key, one is made.
    """

    id: str
    title: str
    title_new: str = ""
    source: str
    key: str
    parameters: tuple[Parameter, ...] = ()
    fields: tuple[FormField, ...] = ()
    save_label: str = "Save"
    keep: Keep = Keep()


Screen = ListScreen | DetailScreen | FormScreen


class Trigger(Part, frozen=True, kw_only=True):
    """What a link starts from: a row of a list, an action of a row, a button, or saving a form.

    ``part`` is the block of a nested list, or the identifier of the button or action; it is
    empty for the rows of a list screen and for saving.
    """

    screen: str
    on: Literal["row", "action", "button", "saved"] = "row"
    part: str = ""


class FromField(Part, frozen=True, kw_only=True, tag_field="from", tag="field"):
    """The value of a field of the row's record (or, from a button, of the screen's own)."""

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
    """From a trigger to a screen. ``sets`` keeps arguments as app-wide values, by value."""

    id: str
    trigger: Trigger
    to: str
    how: How = "push"
    arguments: tuple[Argument, ...] = ()
    sets: dict[str, str] = {}


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
    """A wired app, whole. ``locale`` (BCP 47) says how numbers and dates are written."""

    cadena: int = field(default=FORMAT)
    name: str = "Untitled"
    locale: str = ""
    start: str = ""
    sources: tuple[Source, ...] = ()
    values: tuple[AppValue, ...] = ()
    screens: tuple[Screen, ...] = ()
    links: tuple[Link, ...] = ()
    sections: tuple[Section, ...] = ()
    arrangements: tuple[Arrangement, ...] = ()
    platform: Platform = Platform()
