"""A form's fields as boxes: places to type, choices and switches, and what is at fault."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final, Literal

from cadena.engine.events import Cancel, OpenField, Save, Settle, Type
from cadena.engine.form_values import value_in
from cadena.engine.layout.column import Segment
from cadena.engine.layout.forms import (
    choices_of,
    has_input,
    is_switch,
    opening_link,
    said_in,
    write_at,
)
from cadena.engine.layout.panes import Area
from cadena.engine.layout.sizes import (
    BOTTOM_BAR,
    BUTTON,
    CHOICE,
    EDGE,
    FAULT,
    GAP,
    INPUT,
    INPUT_LINE,
    LABEL,
)
from cadena.engine.rules.unsent import UNDER_WAY, write_of
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen, Screen
from cadena.model.blocks import FormField
from cadena.scene.scene import Box

HINTS: Final = {"date": "YYYY-MM-DD", "date and time": "YYYY-MM-DDThh:mm:ssZ"}


def field_boxes(
    app: WiredApp,
    session: Session,
    index: int,
    screen: FormScreen,
    segment: Segment,
    area: Area,
    clip: Area,
) -> Iterator[Box]:
    """The boxes of one field of a form."""
    field = segment.block
    if not isinstance(field, FormField):
        return
    entry = session.entries[index]
    value = value_in(app, session, entry, field.field)
    label = field.label or app.say(screen.source).label(field.field)
    said = f"{label} *" if field.required else label
    is_wrong = bool(segment.lines)
    at: dict[str, Any] = {"entry": index, "part": field.field, "clip": clip}
    yield Box("form label", area.x, area.y, area.width, LABEL, said, **at)
    y = area.y + LABEL
    offered = choices_of(app, session, entry, field)
    name = f"{label}{', required' if field.required else ''}{', at fault' if is_wrong else ''}"
    if is_switch(app, screen.source, field.field) and not field.choices:
        does = Type(screen=screen.id, entry=index, field=field.field, to=value is not True)
        state = frozenset({"on"}) if value is True else frozenset()
        said = "yes" if value is True else "no" if value is False else "not said"
        text = app.words(said)
        yield Box("switch", area.x, y, area.width, INPUT, text, state, does, name=name, **at)
        y += INPUT
    elif opening_link(app, screen, field) is not None:
        state = frozenset({"wrong"}) if is_wrong else frozenset[str]()
        said = said_in(app, session, screen, field, value)
        opens = OpenField(screen=screen.id, entry=index, field=field.field)
        can_empty = bool(said) and not field.required
        wide = area.width - (INPUT if can_empty else 0)
        text = said or app.words("Choose…")
        name = f"{name}, {said}" if said else name
        state |= frozenset() if said else {"hint"}
        yield Box("chooser", area.x, y, wide, INPUT - 4, text, state, opens, name=name, **at)
        if can_empty:
            does = Type(screen=screen.id, entry=index, field=field.field)
            box = (area.x + wide + 4, y, INPUT - 4, INPUT - 4)
            plain, called = frozenset({"plain"}), app.words("Empty {label}", label=label)
            yield Box("button", *box, "×", plain, does, name=called, **at)
        y += INPUT
    elif has_input(app, session, screen, field):
        tall = INPUT + (field.lines - 1) * INPUT_LINE
        hint = HINTS.get(app.type_of(screen.source, field.field) or "", "")
        text = said_in(app, session, screen, field, value)
        state = frozenset({"wrong"} if is_wrong else ()) | ({"hint"} if not text else set())
        if field.lines > 1:
            state |= {"lines"}
        does = Type(screen=screen.id, entry=index, field=field.field)
        box = (area.x, y, area.width, tall - 4)
        yield Box("input", *box, text or hint, state, does, name=name, **at)
        y += tall
    for key, words in offered:
        to = None if key == value else key
        does = Type(screen=screen.id, entry=index, field=field.field, to=to)
        state = frozenset({"chosen"}) if key == value else frozenset()
        box = (area.x, y, area.width, CHOICE - 4)
        yield Box("option", *box, words, state, does, name=f"{label}: {words}", key=key, **at)
        y += CHOICE
    for line in segment.lines:
        yield Box("fault", area.x, y, area.width, 20, f"✕ {label} {line}", **at)
        y += 20
    write = write_at(session, entry)
    if write is not None and field.field in write.theirs:
        now = said_in(app, session, screen, field, write.theirs[field.field])
        was = said_in(app, session, screen, field, write.was.get(field.field))
        there = app.words("Now: {now}. Before: {was}.", now=now or "–", was=was or "–")
        yield Box("fault", area.x, y, area.width, 20, there, **at)
        on: dict[str, Any] = {"screen": screen.id, "entry": index, "field": field.field}
        yield from _whose(app, on, (area.x, y + 20, area.width), at, label)


def _whose(
    app: WiredApp,
    on: dict[str, Any],
    box: tuple[float, float, float],
    at: dict[str, Any],
    label: str = "",
) -> Iterator[Box]:
    """Whose value counts: mine, or theirs."""
    x, y, width = box
    half = (width - GAP) / 2
    ways: tuple[tuple[str, Literal["mine", "theirs"]], ...] = (
        ("Mine", "mine"),
        ("Theirs", "theirs"),
    )
    for number, (word, take) in enumerate(ways):
        said = app.words(word)
        does = Settle(**on, take=take)
        place = (x + number * (half + GAP), y, half, CHOICE - 4)
        name = f"{label}: {said}" if label else said
        yield Box("button", *place, said, frozenset({"plain"}), does, name=name, **at)


def sent_boxes(
    app: WiredApp, session: Session, index: int, segment: Segment, area: Area, clip: Area
) -> Iterator[Box]:
    """What a form says of what it has sent; where somebody was quicker, whose counts in all."""
    at: dict[str, Any] = {"entry": index, "clip": clip}
    for line in segment.lines:
        yield Box("fault", area.x, area.y, area.width, FAULT, line, **at)
    entry = session.entries[index]
    write = write_at(session, entry)
    if write is not None and write.theirs:
        on: dict[str, Any] = {"screen": entry.screen, "entry": index}
        yield from _whose(app, on, (area.x, area.y + FAULT, area.width), at, app.words("All"))


def _saving(
    app: WiredApp, session: Session, screen: FormScreen, index: int
) -> tuple[str, Save | None]:
    """What the button says that saves, and does: nothing while it is being sent (9.1)."""
    write = write_of(session, index)
    if write is not None and write.state in (*UNDER_WAY, "quicker"):
        return app.words("Being sent…") if write.state in UNDER_WAY else screen.save_label, None
    return app.words(screen.save_label), Save(screen=screen.id, entry=index)


def save_bar(
    app: WiredApp, session: Session, screen: FormScreen, index: int, area: Area
) -> Iterator[Box]:
    """Save and cancel, kept at the bottom of a form."""
    top = area.y + area.height - BOTTOM_BAR
    yield Box("bottom bar", area.x, top, area.width, BOTTOM_BAR, entry=index)
    room = area.width - 2 * EDGE - GAP
    wide = min(160.0, room / 2)
    y = top + (BOTTOM_BAR - BUTTON) / 2
    cancel = Cancel(screen=screen.id, entry=index)
    said, save = _saving(app, session, screen, index)
    right = area.x + area.width - EDGE
    yield Box(
        "button",
        right - 2 * wide - GAP,
        y,
        wide,
        BUTTON,
        app.words("Cancel"),
        frozenset({"plain"}),
        cancel,
        entry=index,
    )
    yield Box(
        "button",
        right - wide,
        y,
        wide,
        BUTTON,
        said,
        frozenset() if save is not None else frozenset({"plain"}),
        save,
        entry=index,
    )


def save_boxes(
    app: WiredApp, session: Session, screen: Screen, index: int, area: Area, clip: Area
) -> Iterator[Box]:
    """Save and cancel one under the other, at the end of a narrow form."""
    if not isinstance(screen, FormScreen):
        return
    said, save = _saving(app, session, screen, index)
    cancel = Cancel(screen=screen.id, entry=index)
    box = (area.x, area.y, area.width, BUTTON)
    yield Box("button", *box, said, does=save, clip=clip, entry=index)
    box = (area.x, area.y + BUTTON + 8, area.width, BUTTON)
    plain = frozenset({"plain"})
    yield Box("button", *box, app.words("Cancel"), plain, cancel, clip=clip, entry=index)
