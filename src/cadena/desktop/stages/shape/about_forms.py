"""What Shape's strip says of a form and its fields."""

from __future__ import annotations

from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedScreen
from cadena.desktop.widgets.words import Sentence, Word
from cadena.model.app import FormScreen
from cadena.model.blocks import FormField
from cadena.model.edits import shaping
from cadena.model.edits.wiring import moved, with_screen
from cadena.model.find import by_id
from cadena.model.source import Source
from cadena.model.values import Unfit, carry, shown


def with_fields(form: FormScreen, fields: tuple[FormField, ...]) -> FormScreen:
    """The form with these fields."""
    return replace(form, fields=fields)


def add_form(document: Document, source: Source) -> None:
    """A new form of a source."""
    form = shaping.form_for(document.app, document.types, source)
    selection = SelectedScreen(form.id)
    document.edit(f"add form {form.id}", with_screen(document.app, form), selection)


def about_form(document: Document, form: FormScreen) -> list[Sentence]:
    """The form, its words, and each of its fields."""

    def change(what: str, **changed: Any) -> None:
        made = replace(form, **changed)
        document.edit(f"{what} of {form.id}", with_screen(document.app, made))

    def copy() -> None:
        app, made = shaping.copied(document.app, form)
        document.edit(f"copy {form.id}", app, SelectedScreen(made.id))

    lives = [
        Word(
            "choice",
            words,
            partial(change, "draft", keep=replace(form.keep, draft=each)),
            form.keep.draft == each,
            f"a draft lives {words}",
        )
        for each, words in (
            ("view", "while it is seen"),
            ("entry", "while it is open"),
            ("saved", "through a kill"),
            ("stored", "for good"),
        )
    ]
    said = [
        Sentence(
            "",
            [
                Word("subject", form.id),
                Word(
                    "text",
                    f"is a form of {form.source}: none in {form.key} means new, any key edit.",
                ),
                Word("do", "Copy it", copy, name="copy this form"),
            ],
        ),
        Sentence(
            "Titled",
            [
                Word("line", form.title, lambda text: change("title", title=text), name="title"),
                Word("text", "· new"),
                Word(
                    "line",
                    form.title_new,
                    lambda t: change("title", title_new=t),
                    name="title when new",
                ),
                Word("text", "· saved by"),
                Word(
                    "line",
                    form.save_label,
                    lambda t: change("label", save_label=t),
                    name="save label",
                ),
            ],
        ),
        Sentence("A draft lives", lives),
    ]
    for at, field in enumerate(form.fields):
        said.append(Sentence(field.field, _field_words(document, form, at, field, change)))
    there = {each.field for each in form.fields}
    options = [
        (each, partial(change, "fields", fields=(*form.fields, FormField(field=each))))
        for each in document.types.get(form.source, {})
        if each not in there
    ]
    said.append(Sentence("", [Word("menu", "+ field", name="add a field", options=options)]))
    return said


def _field_words(
    document: Document, form: FormScreen, at: int, field: FormField, change: Any
) -> list[Word]:
    kind = document.types.get(form.source, {}).get(field.field, "text")

    def made(**changed: Any) -> None:
        fields = (*form.fields[:at], replace(field, **changed), *form.fields[at + 1 :])
        change(f"field {field.field}", fields=fields)

    def move(by: int) -> None:
        change("order of fields", fields=moved(form.fields, at, by))

    def limits(text: str) -> None:
        least, _, most = text.partition("–" if "–" in text else "-")
        try:
            made(
                least=float(least) if least.strip() else None,
                most=float(most) if most.strip() else None,
            )
        except ValueError:
            document.failed.emit(f'"{text}" came, limits such as 1–14 were wanted')

    def choices(text: str) -> None:
        try:
            values = tuple(
                carry(each.strip(), kind, convert=True) for each in text.split(",") if each.strip()
            )
        except Unfit as unfit:
            document.failed.emit(f"{field.field}: {unfit}")
            return
        made(choices=values)

    ends = ["" if each is None else f"{each:g}" for each in (field.least, field.most)]
    bounds = f"{ends[0]}–{ends[1]}" if any(ends) else ""
    sources = [("any", partial(made, choices_from=""))]
    sources += [
        (f"a key of {each.id}", partial(made, choices_from=each.id))
        for each in document.app.sources
    ]
    chosen = by_id(document.app.sources, field.choices_from)
    return [
        Word(
            "toggle",
            "required",
            partial(made, required=not field.required),
            field.required,
            f"{field.field} required",
        ),
        Word("text", "limits"),
        Word("line", bounds, limits, name=f"limits of {field.field}"),
        Word("text", "one of"),
        Word(
            "line", ", ".join(map(shown, field.choices)), choices, name=f"choices of {field.field}"
        ),
        Word(
            "menu",
            "any" if chosen is None else f"a key of {chosen.id}",
            name=f"keys for {field.field}",
            options=sources,
        ),
        Word("do", "Up", partial(move, -1), name=f"move {field.field} up"),
        Word(
            "do",
            "✕",
            partial(change, "fields", fields=form.fields[:at] + form.fields[at + 1 :]),
            name=f"take {field.field} off the form",
        ),
    ]
