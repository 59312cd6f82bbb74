"""The model of a wired app: immutable values, and nothing that runs.

The same structures are the project file: see ``project_file`` and the JSON Schema in ``docs/``.
What each property does is told in ``properties.json``. Every identifier is unique among its kind;
references are by identifier and may dangle, which is for ``cadena check`` to say.
"""

from __future__ import annotations

from typing import Annotated, Final, Literal

from msgspec import Meta, field

from cadena.model.blocks import Block, FormField, ListBlock
from cadena.model.claims import Aside, OwnClaim
from cadena.model.file.migrations import FORMAT, NEEDS
from cadena.model.listing import Button, Listing
from cadena.model.part import Lifetime, Part, Size
from cadena.model.source import Source, Test
from cadena.model.values import Value, ValueType

HOST: Final = r"^[A-Za-z0-9.-]+(:[0-9]{1,5})?$"
MOST_PANES: Final = 8
LEAST_DIVIDED: Final = {"across": 96.0, "down": 240.0}
"""How much of a pane a person's divider leaves, where nothing more is asked for, in dp."""
MOST_DURATION: Final = 10_000

How = Literal["push", "beside", "replace", "modal", "popover"]
Slot = Literal["picture", "title", "subtitle", "badge"]
On = Literal["row", "action", "button", "saved", "fact", "field"]
IfOpen = Literal["open again", "go back to it"]
NothingChosen = Literal["say so", "open first", "open last"]
Bar = Literal["bottom", "rail", "wide rail", "top", "button", "none"]
"""Where the section bar sits; a wide rail has room for words, a button opens it on demand."""


class Parameter(Part, frozen=True, kw_only=True):
    """What a screen must, or may, be opened with."""

    name: str
    type: ValueType = "text"
    need: Literal["required", "default", "none"] = "required"
    default: Value | None = None
    key_of: str = ""


class Keep(Part, frozen=True, kw_only=True):
    """How long the state of a screen lives (rules.md, 6)."""

    scroll: Lifetime = "saved"
    search: Lifetime = "saved"
    page: Lifetime = "saved"
    draft: Lifetime = "saved"


class ListScreen(Part, frozen=True, kw_only=True, tag_field="kind", tag="list"):
    """A screen that is one list; its trigger part is the empty text."""

    id: str
    title: str
    rows: Listing
    above: tuple[ListBlock, ...] = ()
    buttons: tuple[Button, ...] = ()
    parameters: tuple[Parameter, ...] = ()
    nothing_chosen: NothingChosen = "say so"
    nothing_chosen_words: str = "Nothing chosen"
    address: str = ""
    keep: Keep = Keep()


class Side(Part, frozen=True, kw_only=True):
    """Blocks that stand beside the others where a screen is given enough room.

    To go by the window is a mistake that can be made, run and found: beside a list the screen has
    less.
    """

    blocks: tuple[str, ...]
    least: Size = 640
    measured: Literal["room", "window"] = "room"


class DetailScreen(Part, frozen=True, kw_only=True, tag_field="kind", tag="detail"):
    """A screen about one record: the one whose key the parameter ``key`` carries."""

    id: str
    title: str
    source: str
    key: str
    parameters: tuple[Parameter, ...] = ()
    blocks: tuple[Block, ...] = ()
    side: Side | None = None
    when_gone: Literal["say so", "close", "next"] = "say so"
    neighbours: bool = False
    takes_ground: bool = False
    address: str = ""
    keep: Keep = Keep()


class FormScreen(Part, frozen=True, kw_only=True, tag_field="kind", tag="form"):
    """A form for one record (rules.md, 10).

    The parameter ``key`` decides: none means new, any value means edit. Where nobody types a
    key, one is made.
    """

    id: str
    title: str
    title_new: str = ""
    source: str
    key: str
    parameters: tuple[Parameter, ...] = ()
    fields: tuple[FormField, ...] = ()
    save_label: str = "Save"
    says: str = ""
    address: str = ""
    keep: Keep = Keep()


Screen = ListScreen | DetailScreen | FormScreen


class Trigger(Part, frozen=True, kw_only=True):
    """What a link starts from: a row of a list, an action of a row, a button, a fact, a field of
    a form, or saving one.

    ``part`` is the block of a nested list, the identifier of the button or action, or the name
    of the fact or field; it is empty for the rows of a list screen and for saving.
    """

    screen: str
    on: On = "row"
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


class Pair(Part, frozen=True, kw_only=True):
    """A slot of the row and the element of the screen it flies to: a block, or ``title``."""

    slot: Slot
    element: str


class Transition(Part, frozen=True, kw_only=True):
    """How a screen comes from the row that opens it, and goes back to it (rules.md, 12)."""

    pairs: tuple[Pair, ...] = ()
    duration: Annotated[int, Meta(ge=0, le=MOST_DURATION)] = 300
    fades: dict[str, Annotated[int, Meta(ge=0, le=MOST_DURATION)]] = {}


class Brings(Part, frozen=True, kw_only=True):
    """What a list that was opened to choose from brings to who asked (rules.md, 15).

    A field of a form and a fact take it themselves; from a button it goes into an app-wide
    ``value`` or an ``argument``.
    """

    field: str = ""
    value: str = ""
    argument: str = ""
    list: str = ""


Comes = Literal["at once", "from the side", "from below", "by fading"]


class RowKind(Part, frozen=True, kw_only=True):
    """The rows of a kind: those whose field passes a test."""

    field: str
    test: Test = "is"
    constant: Value | None = None


class Link(Part, frozen=True, kw_only=True):
    """From a trigger to a screen. ``sets`` keeps arguments as app-wide values, by value.

    Several can start from one list, each for rows of a kind (rules.md, 2.7).
    """

    id: str
    trigger: Trigger
    to: str
    how: How = "push"
    arguments: tuple[Argument, ...] = ()
    sets: dict[str, str] = {}
    if_open: IfOpen = "open again"
    transition: Transition | None = None
    comes: Comes = "at once"
    brings: Brings | None = None
    when: RowKind | None = None


class Section(Part, frozen=True, kw_only=True):
    """A top-level destination with a root screen and a chain of its own.

    ``address`` here and on screens is an RFC 6570 template, level 1 to 3.
    """

    id: str
    title: str
    root: str
    icon: str = ""
    in_bar: bool = True
    returns: Literal["as left", "root"] = "as left"
    address: str = ""
    keep: Lifetime = "saved"


class Range(Part, frozen=True, kw_only=True):
    """From ``least`` dp up to, but not including, ``below`` dp."""

    least: Size = 0
    below: Size | None = None

    def holds(self, size: float) -> bool:
        return size >= self.least and (self.below is None or size < self.below)

    @property
    def is_empty(self) -> bool:
        """Whether no size is in it."""
        return self.below is not None and self.below <= self.least


class When(Part, frozen=True, kw_only=True):
    """The windows that an arrangement is for; what is left out asks for nothing."""

    width: Range = Range()
    height: Range = Range()
    shape: Literal["portrait", "landscape"] | None = None
    fold: Literal["folded", "flat"] | None = None


class PaneWidth(Part, frozen=True, kw_only=True):
    """How wide a pane is: fixed in dp, a share of the room, or between a least and a most.

    It is how high the pane is where panes lie down. A pane with nothing said takes the room that
    is left. What is fixed gives way, down to its least, where another pane would get less than
    its own.
    """

    fixed: Size | None = None
    share: Size | None = None
    least: Size = 0
    most: Size | None = None


class Arrangement(Part, frozen=True, kw_only=True):
    """What the app makes of a window (rules.md, 3 and 5)."""

    id: str
    title: str = ""
    when: When = When()
    panes: Annotated[int, Meta(ge=1, le=MOST_PANES)] = 1
    lie: Literal["across", "down"] = "across"
    widths: tuple[PaneWidth, ...] = ()
    dividers: Literal["fixed", "the person's"] = "fixed"
    keep: Lifetime = "stored"
    bar: Bar = "bottom"
    first: Literal["scrolls", "stays"] = "scrolls"
    over: bool = False
    back: Literal["leave", "close"] = "leave"
    detail_first: Literal["no", "open first", "open last"] = "no"
    popover_from: Size = 0


class Platform(Part, frozen=True, kw_only=True):
    """What the system under the app does: which disturbances rebuild screens, where back ends.

    A screen whose state is stored is told by its section and arguments.
    """

    rebuilds: tuple[Literal["turn", "breakpoint"], ...] = ("turn", "breakpoint")
    back_to_start: bool = False
    forward: bool = False
    stored_most: Annotated[int, Meta(ge=1)] | None = None
    saved_most: Annotated[int, Meta(ge=1)] = 4096
    frames_from: tuple[Annotated[str, Meta(pattern=HOST)], ...] = ()


class AppValue(Part, frozen=True, kw_only=True):
    """A value shared by the whole app; rows can show that it holds their key (rules.md, 7.8)."""

    id: str
    type: ValueType = "text"
    default: Value | None = None
    keep: Lifetime = "saved"
    shown_on: str = ""


class NamedWindow(Part, frozen=True, kw_only=True):
    """A window that the app is made for, in dp."""

    name: str
    width: Size
    height: Size
    fold: Size | None = None


class App(Part, frozen=True, kw_only=True):
    """A wired app, whole."""

    cadena: int = field(default=FORMAT)
    needs: str = NEEDS
    name: str = "Untitled"
    locale: str = ""
    start: str = ""
    fallback: str = ""
    sources: tuple[Source, ...] = ()
    values: tuple[AppValue, ...] = ()
    screens: tuple[Screen, ...] = ()
    links: tuple[Link, ...] = ()
    sections: tuple[Section, ...] = ()
    arrangements: tuple[Arrangement, ...] = ()
    windows: tuple[NamedWindow, ...] = ()
    claims: tuple[OwnClaim, ...] = ()
    aside: tuple[Aside, ...] = ()
    platform: Platform = Platform()
