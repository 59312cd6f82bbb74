"""What Shape's strip says of buttons and row actions."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import OnScreen
from cadena.desktop.widgets.bound import Bound, replaced, without
from cadena.desktop.widgets.words import Sentence, Word, chip
from cadena.model.app import AppValue
from cadena.model.find import by_id, slug, unused
from cadena.model.listing import (
    Button,
    Does,
    DoneToRecords,
    Follow,
    ForSeveral,
    LeaveFor,
    Mark,
    RemoveRecord,
    SaveRows,
    SetField,
    ToggleField,
)
from cadena.model.screen_parts import actions, buttons, source_shown
from cadena.model.values import LIST, Unfit, carry, shown

Taken = Callable[[tuple[Button, ...]], object]
NEW_LIST: Final = "marks"
WORDS: Final[dict[type, str]] = {
    Follow: "opens a screen",
    RemoveRecord: "removes the record",
    Mark: "marks it",
    SetField: "sets a field",
    ToggleField: "toggles a field",
    SaveRows: "saves the rows",
    LeaveFor: "leaves for an address",
}


def action_chips(
    document: Document,
    about: str,
    called: str,
    made: tuple[Button, ...],
    take: Taken,
    on_row: bool = False,
) -> Sentence:
    """Each button as a chip with what it does, and a way to another."""
    has_record = on_row or called != "button"
    words = [
        chip(
            f"{button.label} · {WORDS[type(button.does)]}",
            f"{called} {at + 1}, {button.label}",
            partial(_about_button, document, f"{called} {at + 1}", made, at, take, has_record),
        )
        for at, button in enumerate(made)
    ]
    add = partial(_add, document, made, take)
    return Sentence(about, [*words, Word("do", f"+ {called}", add, role="offer")])


def _about_button(
    document: Document,
    name: str,
    made: tuple[Button, ...],
    at: int,
    take: Taken,
    has_record: bool,
) -> list[Sentence]:
    """What a button says, what it does, and where it stands."""
    button = made[at]

    def change(what: str, **changed: Any) -> None:
        take(replaced(made, at, replace(button, **changed)))

    bound = Bound(button, change, document.refuse)
    options = [
        (words, partial(_do, document, change, does)) for words, does in _ways(document, has_record)
    ]
    does = Word("menu", WORDS[type(button.does)], name=f"{name} does", options=options)
    said = [
        Sentence("Says", [bound.text("label", f"label {at + 1}")]),
        Sentence("Does", [does, *_detail_words(document, bound, name)]),
    ]
    if name.startswith("row action"):
        stands = bound.toggle("on_row", "on the row itself", f"{name} on the row")
        said.append(Sentence("Stands", [stands]))
        if isinstance(button.does, DoneToRecords):
            said += _for_several(document, bound, name)
    if isinstance(button.does, DoneToRecords):
        says = bound.text("says", f"{name} says once done")
        said.append(Sentence("Once done, says", [says]))
    drop = Word("do", "Remove it", partial(take, without(made, at)), name=f"remove {name}")
    return [*said, Sentence("", [drop])]


def _for_several(document: Document, bound: Bound, name: str) -> list[Sentence]:
    """Whether an action can be done to all that is picked, and what it then says (14)."""
    several = bound.of.several
    on = partial(bound.change, "for several", several=None if several else ForSeveral())
    toggle = Word("toggle", "for several at once", on, several is not None, f"{name} for several")
    if several is None:
        return [Sentence("Done", [toggle])]

    own = bound.inner("several")
    return [
        Sentence("Done", [toggle, Word("text", "{count} is how many")]),
        Sentence("Then says", [own.text("label", f"{name} label for several")]),
        Sentence("asking", [own.text("confirm", f"{name} asks for several")]),
        Sentence("once done", [own.text("says", f"{name} says of several")]),
    ]


def _add(document: Document, made: tuple[Button, ...], take: Taken) -> None:
    used = {
        name for screen in document.app.screens for name in (*buttons(screen), *actions(screen))
    }
    used |= {each.id for each in made}
    take((*made, Button(id=unused(slug("action"), used), label="Action")))


def _do(document: Document, change: Any, does: Does) -> None:
    """Let a button do something; the list that it marks in is declared where there is none."""
    if isinstance(does, Mark) and by_id(document.app.values, does.value) is None:
        selection = document.selection
        of = selection.screen if isinstance(selection, OnScreen) else ""
        screen = by_id(document.app.screens, of)
        source = by_id(document.app.sources, source_shown(screen)) if screen is not None else None
        kind = "text"
        if source is not None:
            kind = document.types.get(source.id, {}).get(source.key, "text")
        made = AppValue(id=does.value, type=f"{LIST}{kind}", keep="stored")  # type: ignore[arg-type]
        values = (*document.app.values, made)
        document.edit(f"add app-wide {does.value}", replace(document.app, values=values))
    change("what it does", does=does)


def _ways(document: Document, has_record: bool) -> list[tuple[str, Does]]:
    """What a button can be made to do."""
    ways: list[tuple[str, Does]] = [("opens a screen", Follow())]
    if has_record:
        ways.append(("removes the record", RemoveRecord(confirm="Remove it?")))
        ways += [
            (f"marks it in {value.id}", Mark(value=value.id))
            for value in document.app.values
            if value.type.startswith("list of")
        ]
        ways.append(("marks it in a new list", Mark(value=NEW_LIST)))
        ways.append(("sets a field", SetField(field="")))
        ways.append(("toggles a field", ToggleField(field="")))
        ways.append(("leaves for an address", LeaveFor(field="")))
    if not has_record:
        ways.append(("saves the rows as CSV", SaveRows()))
        ways.append(("saves the rows as JSON", SaveRows(form="json")))
    return ways


def _detail_words(document: Document, button: Bound, name: str) -> list[Word]:
    bound = button.inner("does")
    change = bound.change
    match bound.of:
        case RemoveRecord():
            asks = bound.text("confirm", f"{name} asks")
            return [
                Word("text", "asking"),
                asks,
                bound.toggle("undo", "with undo", f"{name} with undo"),
            ]
        case SetField() | ToggleField() as does:
            fields = sorted({field for types in document.types.values() for field in types})
            choose = does.field or "choose a field"
            menu = bound.menu("field", [(each, each) for each in fields], f"{name} field", choose)
            if isinstance(does, ToggleField):
                between = partial(_take_between, document, change, does)
                now = ", ".join(map(shown, does.between))
                values = Word("line", now, between, name=f"{name} between")
                return [menu, Word("text", "yes and no, or between"), values]
            take = partial(_take_value, document, change, does)
            value = "" if does.to is None else shown(does.to)
            return [menu, Word("line", value, take, name=f"{name} value")]
        case LeaveFor() as does:
            fields = sorted({field for types in document.types.values() for field in types})
            choose = does.field or "choose a field"
            menu = bound.menu("field", [(e, e) for e in fields], f"{name} address", choose)
            return [Word("text", "in"), menu]
        case Mark() as does:
            said = Word("text", f"in {does.value}; when on it says")
            return [said, button.text("when_on", f"{name} when on")]
        case SaveRows() as does:
            return [Word("text", f"as {does.form.upper()}")]
    return []


def _take_between(document: Document, change: Any, does: ToggleField, text: str) -> None:
    """The values that follow each other, of the type of the field."""
    kinds = [types[does.field] for types in document.types.values() if does.field in types]
    parts = [each.strip() for each in text.split(",") if each.strip()]
    for kind in kinds or ["text"]:
        try:
            values = tuple(carry(each, kind, convert=True) for each in parts)
        except Unfit:
            continue
        change("values", between=values)
        return
    document.failed.emit(f'"{text}" came, values of {kinds[0]} were wanted, apart by commas')


def _take_value(document: Document, change: Any, does: SetField, text: str) -> None:
    """The value to set, of the type that some field of that name has."""
    kinds = [types[does.field] for types in document.types.values() if does.field in types]
    for kind in kinds or ["text"]:
        try:
            change("value", to=carry(text, kind, convert=True) if text else None)
        except Unfit:
            continue
        return
    document.failed.emit(f'"{text}" came, {kinds[0]} was wanted')
