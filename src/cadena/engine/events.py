"""What can happen to a running app. Each event is a JSON object; ``do`` says which it is."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from cadena.model.listing import Sort
from cadena.model.values import Scalar, Value, in_brief
from cadena.records.changes import Change

Steps = Literal["up", "down", "left", "right", "home", "end", "page up", "page down"]


class Happening(
    Struct,
    frozen=True,
    kw_only=True,
    omit_defaults=True,
    forbid_unknown_fields=True,
    tag_field="do",
):
    """What every event shares."""


class On(Happening, frozen=True, kw_only=True):
    """An event on one screen on display.

    ``screen`` names it and ``entry`` its place in the chain, counted from 0; with neither,
    the deepest on display that can take the event. ``list`` is the block of a nested list.
    """

    screen: str = ""
    entry: int | None = None
    list: str = ""


def in_short(event: Happening, *fields: str) -> str:
    """What an event is called, and what it says in some of its fields, where it has them."""
    said = [
        in_brief(value)
        for field in fields
        if (value := getattr(event, field, None)) not in (None, "")
    ]
    return " ".join([str(event.__struct_config__.tag), *said])


class Choose(On, frozen=True, kw_only=True, tag="choose"):
    key: Scalar


class Press(On, frozen=True, kw_only=True, tag="press"):
    button: str


class OpenFact(On, frozen=True, kw_only=True, tag="open"):
    """Open the record that a fact of a detail refers to."""

    fact: str


class OpenField(On, frozen=True, kw_only=True, tag="open field"):
    """Open the list that a field of a form is filled from (rules.md, 15)."""

    field: str


class Scroll(On, frozen=True, kw_only=True, tag="scroll"):
    """Scroll by some dp, to some dp from the top, or so that a row is the first in view."""

    by: float | None = None
    to: float | None = None
    row: Scalar | None = None


class Search(On, frozen=True, kw_only=True, tag="search"):
    text: str


class SortBy(On, frozen=True, kw_only=True, tag="sort"):
    by: tuple[Sort, ...] = ()


class Move(On, frozen=True, kw_only=True, tag="move"):
    to: Steps


class Enter(On, frozen=True, kw_only=True, tag="enter"):
    """Open the marked row."""


class Act(On, frozen=True, kw_only=True, tag="act"):
    """An action of a row."""

    key: Scalar
    action: str


class Pick(On, frozen=True, kw_only=True, tag="pick"):
    """Pick a row, or let it go (rules.md, 14)."""

    key: Scalar


class PickTo(On, frozen=True, kw_only=True, tag="pick to"):
    """Pick all rows between the one picked last and this one, in the order now shown."""

    key: Scalar


class PickAll(On, frozen=True, kw_only=True, tag="pick all"):
    """Pick all rows that a list shows."""


class LetGo(On, frozen=True, kw_only=True, tag="let go"):
    """Let all go that is picked."""


class ActOnPicked(On, frozen=True, kw_only=True, tag="act on picked"):
    """An action of rows, on all that are picked at once."""

    action: str


class OpenMenu(On, frozen=True, kw_only=True, tag="menu"):
    """Open the menu of a row's actions; without a key that of the orders of a list."""

    key: Scalar | None = None


class CloseMenu(Happening, frozen=True, kw_only=True, tag="close menu"):
    """Close the menu of a row's actions, as a press beside it does."""


class ShowGroup(On, frozen=True, kw_only=True, tag="group"):
    """Open or close a group of a list, by its title."""

    title: str
    open: bool


class TurnPage(On, frozen=True, kw_only=True, tag="page"):
    """Show another page of a detail."""

    to: str


class Type(On, frozen=True, kw_only=True, tag="type"):
    """A field of a form is given a value, or emptied: that makes a draft."""

    field: str
    to: Value | None = None


class Neighbour(On, frozen=True, kw_only=True, tag="neighbour"):
    """From a detail to the row before its own, or to the next (rules.md, 16)."""

    by: Literal[-1, 1] = 1


class Save(On, frozen=True, kw_only=True, tag="save"):
    pass


class Cancel(On, frozen=True, kw_only=True, tag="cancel"):
    pass


class Retry(On, frozen=True, kw_only=True, tag="try again"):
    """Call once more for what has failed."""


class Decide(Happening, frozen=True, kw_only=True, tag="answer"):
    """Answer the question that is asked."""

    yes: bool


class Undo(Happening, frozen=True, kw_only=True, tag="undo"):
    """Put the record back that an action removed."""


class PutAway(Happening, frozen=True, kw_only=True, tag="put away"):
    """Put away what is said for a moment, or what is offered to be undone."""


class Wait(Happening, frozen=True, kw_only=True, tag="wait"):
    """Virtual time goes on by some ms."""

    ms: int


class Answered(Happening, frozen=True, kw_only=True, tag="answered"):
    """A real service has answered a request, or has failed to."""

    request: int
    records: tuple[dict[str, Value | None], ...] = ()
    more: bool = False
    missing: bool = False
    failed: str = ""


class Written(Happening, frozen=True, kw_only=True, tag="written"):
    """A real service has answered a write, or has failed to (rules.md, 9.1).

    ``request`` is the number of the call. ``record`` is what the answer says of the record, of one
    that somebody else was quicker with what is there now; ``after`` is when it may be sent again,
    in ms.
    """

    request: int
    outcome: Literal["done", "refused", "quicker", "gone", "later", "unsent"] = "done"
    record: dict[str, Value | None] | None = None
    faults: dict[str, str] = {}
    why: str = ""
    after: int | None = None

    def __hash__(self) -> int:
        return hash((self.request, self.outcome, self.why, self.after))


class SendAgain(Happening, frozen=True, kw_only=True, tag="send again"):
    """Send once more what was not sent (rules.md, 9.1)."""

    write: int


class GiveUp(Happening, frozen=True, kw_only=True, tag="give up"):
    """What was not sent is not to be."""

    write: int


class GoBackTo(Happening, frozen=True, kw_only=True, tag="go back to"):
    """Back to what was typed in a form that was left, and was not sent."""

    write: int


class Settle(On, frozen=True, kw_only=True, tag="settle"):
    """Of what somebody else has changed as well, mine counts or theirs: of one field, or of all."""

    take: Literal["mine", "theirs"]
    field: str = ""


class Back(Happening, frozen=True, kw_only=True, tag="back"):
    pass


class Forward(Happening, frozen=True, kw_only=True, tag="forward"):
    """Go forward to what back took away (rules.md, 17)."""


class PressOutside(Happening, frozen=True, kw_only=True, tag="press outside"):
    """A press beside a popover, or beside a list slid over the detail."""


class SlideList(Happening, frozen=True, kw_only=True, tag="slide list"):
    """Slide the list over the detail (3.3)."""


class Divide(Happening, frozen=True, kw_only=True, tag="divide"):
    """Move the divider after a pane until that is so many dp wide, or high (rules.md, 3.2).

    Panes are counted from 0.
    """

    pane: int
    to: float


class OpenSections(Happening, frozen=True, kw_only=True, tag="open sections"):
    """Open the section bar, where it is behind a button."""


class GoTo(Happening, frozen=True, kw_only=True, tag="section"):
    section: str


class Visit(Happening, frozen=True, kw_only=True, tag="visit"):
    """An address is visited (rules.md, 11)."""

    address: str


class Resize(Happening, frozen=True, kw_only=True, tag="resize"):
    width: float
    height: float
    fold: float | None = None


class SetText(Happening, frozen=True, kw_only=True, tag="text"):
    """The person sets larger text: 1 is usual, 2 twice as large."""

    size: float


class ReadFrom(Happening, frozen=True, kw_only=True, tag="read from"):
    """The person reads from the left, or from the right."""

    side: Literal["left", "right"]


class Turn(Happening, frozen=True, kw_only=True, tag="turn"):
    pass


class Fold(Happening, frozen=True, kw_only=True, tag="fold"):
    pass


class Unfold(Happening, frozen=True, kw_only=True, tag="unfold"):
    pass


class Sleep(Happening, frozen=True, kw_only=True, tag="sleep"):
    pass


class Wake(Happening, frozen=True, kw_only=True, tag="wake"):
    pass


class Kill(Happening, frozen=True, kw_only=True, tag="kill"):
    """The system ends the process."""


class Restore(Happening, frozen=True, kw_only=True, tag="restore"):
    """The person comes back to an app that the system ended."""


class Relaunch(Happening, frozen=True, kw_only=True, tag="relaunch"):
    """The app is started cold."""


class Refresh(Happening, frozen=True, kw_only=True, tag="refresh"):
    """The records of a source come again: some changed, some gone, some new."""

    source: str
    changed: tuple[Change, ...] = ()
    gone: tuple[Scalar, ...] = ()
    added: tuple[dict[str, Value | None], ...] = ()


class Remove(Happening, frozen=True, kw_only=True, tag="remove"):
    source: str
    key: Scalar


class Edit(Happening, frozen=True, kw_only=True, tag="change"):
    """Fields of one record change in place."""

    source: str
    key: Scalar
    fields: dict[str, Value | None]


class SetValue(Happening, frozen=True, kw_only=True, tag="set"):
    """An app-wide value changes; no ``to`` makes it none."""

    value: str
    to: Value | None = None


Event = (
    Choose
    | Press
    | OpenFact
    | OpenField
    | Scroll
    | Search
    | SortBy
    | Move
    | Enter
    | Act
    | Pick
    | PickTo
    | PickAll
    | LetGo
    | ActOnPicked
    | OpenMenu
    | CloseMenu
    | ShowGroup
    | TurnPage
    | Type
    | Neighbour
    | Save
    | Cancel
    | Retry
    | Decide
    | Undo
    | PutAway
    | Wait
    | Answered
    | Written
    | SendAgain
    | GiveUp
    | GoBackTo
    | Settle
    | Back
    | Forward
    | PressOutside
    | SlideList
    | Divide
    | OpenSections
    | GoTo
    | Visit
    | Resize
    | SetText
    | ReadFrom
    | Turn
    | Fold
    | Unfold
    | Sleep
    | Wake
    | Kill
    | Restore
    | Relaunch
    | Refresh
    | Remove
    | Edit
    | SetValue
)
