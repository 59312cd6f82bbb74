"""What Shape's strip says of buttons and row actions."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import OnScreen
from cadena.desktop.widgets.words import Sentence, Word
from cadena.model.app import AppValue
from cadena.model.find import by_id, slug, unused
from cadena.model.listing import (
    Button,
    Does,
    Follow,
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
}


def action_sentences(
    document: Document,
    about: str,
    made: tuple[Button, ...],
    take: Taken,
    on_row: bool = False,
) -> list[Sentence]:
    """Each button with what it does, and a way to another."""
    said: list[Sentence] = []
    for at, button in enumerate(made):

        def change(at: int = at, button: Button = button, **changed: Any) -> None:
            take((*made[:at], replace(button, **changed), *made[at + 1 :]))

        words: list[Word] = [
            Word(
                "line",
                button.label,
                lambda text, change=change: change(label=text),
                name=f"label {at + 1}",
            ),
            Word(
                "menu",
                WORDS[type(button.does)],
                name=f"{about.lower()} {at + 1} does",
                options=[
                    (words, partial(_do, document, change, does))
                    for words, does in _ways(document, on_row or about != "Its actions")
                ],
            ),
            *_detail_words(document, button, change, f"{about.lower()} {at + 1}"),
        ]
        if on_row:
            words.append(
                Word(
                    "toggle",
                    "on the row",
                    partial(change, on_row=not button.on_row),
                    button.on_row,
                    f"action {at + 1} on the row",
                )
            )
        words.append(
            Word(
                "do",
                "✕",
                partial(take, made[:at] + made[at + 1 :]),
                name=f"remove {about.lower()} {at + 1}",
            )
        )
        said.append(Sentence(about if not at else "", words))

    def add() -> None:
        used = {
            name for screen in document.app.screens for name in (*buttons(screen), *actions(screen))
        }
        used |= {each.id for each in made}
        take((*made, Button(id=unused(slug("action"), used), label="Action")))

    said.append(
        Sentence("" if said else about, [Word("do", "+ one", add, name=f"add to {about.lower()}")])
    )
    return said


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
        made = AppValue(id=does.value, type=f"{LIST}{kind}")  # type: ignore[arg-type]
        values = (*document.app.values, made)
        document.edit(f"add app-wide {does.value}", replace(document.app, values=values))
    change(does=does)


def _ways(document: Document, has_record: bool) -> list[tuple[str, Does]]:
    """What a button can be made to do."""
    ways: list[tuple[str, Does]] = [("opens a screen", Follow())]
    if has_record:
        ways.append(("removes the record", RemoveRecord(confirm="Remove it?")))
        ways += [
            (f"marks it in {each.id}", Mark(value=each.id))
            for each in document.app.values
            if each.type.startswith("list of")
        ]
        ways.append(("marks it in a new list", Mark(value=NEW_LIST)))
        ways.append(("sets a field", SetField(field="")))
        ways.append(("toggles a field", ToggleField(field="")))
    if not has_record:
        ways.append(("saves the rows as CSV", SaveRows()))
        ways.append(("saves the rows as JSON", SaveRows(form="json")))
    return ways


def _detail_words(document: Document, button: Button, change: Any, name: str) -> list[Word]:
    match button.does:
        case RemoveRecord() as does:
            return [
                Word("text", "asking"),
                Word(
                    "line",
                    does.confirm,
                    lambda text: change(does=replace(does, confirm=text)),
                    name=f"{name} asks",
                ),
                Word(
                    "toggle",
                    "with undo",
                    partial(change, does=replace(does, undo=not does.undo)),
                    does.undo,
                    f"{name} with undo",
                ),
            ]
        case SetField() | ToggleField() as does:
            fields = sorted({field for types in document.types.values() for field in types})
            words = [
                Word(
                    "menu",
                    does.field or "choose a field",
                    name=f"{name} field",
                    options=[
                        (each, partial(change, does=replace(does, field=each))) for each in fields
                    ],
                )
            ]
            if isinstance(does, SetField):
                words.append(
                    Word(
                        "line",
                        "" if does.to is None else shown(does.to),
                        partial(_take_value, document, change, does),
                        name=f"{name} value",
                    )
                )
            return words
        case Mark() as does:
            return [
                Word("text", f"in {does.value}; when on it says"),
                Word(
                    "line",
                    button.when_on,
                    lambda text: change(when_on=text),
                    name=f"{name} when on",
                ),
            ]
        case SaveRows() as does:
            return [Word("text", f"as {does.form.upper()}")]
    return []


def _take_value(document: Document, change: Any, does: SetField, text: str) -> None:
    """The value to set, of the type that some field of that name has."""
    kinds = [types[does.field] for types in document.types.values() if does.field in types]
    for kind in kinds or ["text"]:
        try:
            change(does=replace(does, to=carry(text, kind, convert=True) if text else None))
        except Unfit:
            continue
        return
    document.failed.emit(f'"{text}" came, {kinds[0]} was wanted')
