"""What Shape's strip says of a form and its fields."""

from __future__ import annotations

from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedScreen
from cadena.desktop.widgets.bound import Bound, replaced, without
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


LIVES: Final = (
    ("view", "while it is seen"),
    ("entry", "while it is open"),
    ("saved", "through a kill"),
    ("stored", "for good"),
)


def about_form(document: Document, form: FormScreen) -> list[Sentence]:
    """The form, its words, and each of its fields."""

    def change(what: str, **changed: Any) -> None:
        made = replace(form, **changed)
        document.edit(f"{what} of {form.id}", with_screen(document.app, made))

    def copy() -> None:
        app, made = shaping.copied(document.app, form)
        document.edit(f"copy {form.id}", app, SelectedScreen(made.id))

    def keep(what: str, **changed: Any) -> None:
        change(what, keep=replace(form.keep, **changed))

    bound = Bound(form, change, document.refuse)
    lives = Bound(form.keep, keep, document.refuse)
    new = f"is a form of {form.source}: none in {form.key} means new, any key edit."
    said = [
        Sentence(
            "",
            [
                Word("subject", form.id),
                Word("text", new),
                Word("do", "Copy it", copy, name="copy this form"),
            ],
        ),
        Sentence(
            "Titled",
            [
                bound.text("title", "title"),
                Word("text", "· new"),
                bound.text("title_new", "title when new"),
                Word("text", "· saved by"),
                bound.text("save_label", "save label"),
            ],
        ),
        Sentence("A draft lives", lives.one_of("draft", LIVES, "draft", "a draft lives {}")),
    ]
    for at, field in enumerate(form.fields):
        said.append(Sentence(field.field, _field_words(document, form, at, change)))
    there = {each.field for each in form.fields}
    options = [
        (each, partial(change, "fields", fields=(*form.fields, FormField(field=each))))
        for each in document.types.get(form.source, {})
        if each not in there
    ]
    return [*said, Sentence("", [Word("menu", "+ field", name="add a field", options=options)])]


def _field_words(document: Document, form: FormScreen, at: int, change: Any) -> list[Word]:
    field = form.fields[at]
    name = field.field
    kind = document.types.get(form.source, {}).get(name, "text")

    def made(what: str, **changed: Any) -> None:
        change(what, fields=replaced(form.fields, at, replace(field, **changed)))

    bound = Bound(field, made, document.refuse)
    take = partial(made, f"field {name}")
    limits = partial(_take_limits, document, take)
    choices = partial(_take_choices, document, take, name, kind)
    ends = ["" if each is None else f"{each:g}" for each in (field.least, field.most)]
    bounds = f"{ends[0]}–{ends[1]}" if any(ends) else ""
    sources = [("", "any"), *((each.id, f"a key of {each.id}") for each in document.app.sources)]
    up = partial(change, "order of fields", fields=moved(form.fields, at, -1))
    off = partial(change, "fields", fields=without(form.fields, at))
    has_source = by_id(document.app.sources, field.choices_from) is not None
    return [
        bound.toggle("required", "required", f"{name} required", f"field {name}"),
        Word("text", "limits"),
        Word("line", bounds, limits, name=f"limits of {name}"),
        Word("text", "one of"),
        Word("line", ", ".join(map(shown, field.choices)), choices, name=f"choices of {name}"),
        bound.menu(
            "choices_from",
            sources,
            f"keys for {name}",
            "" if has_source else "any",
            f"field {name}",
        ),
        Word("do", "Up", up, name=f"move {name} up"),
        Word("do", "✕", off, name=f"take {name} off the form"),
    ]


def _take_limits(document: Document, take: Any, text: str) -> None:
    least, _, most = text.partition("–" if "–" in text else "-")
    try:
        ends = [float(each) if each.strip() else None for each in (least, most)]
    except ValueError:
        document.failed.emit(f'"{text}" came, limits such as 1–14 were wanted')
        return
    take(least=ends[0], most=ends[1])


def _take_choices(document: Document, take: Any, name: str, kind: str, text: str) -> None:
    try:
        typed = [each.strip() for each in text.split(",") if each.strip()]
        values = tuple(carry(each, kind, convert=True) for each in typed)
    except Unfit as unfit:
        document.failed.emit(f"{name}: {unfit}")
        return
    take(choices=values)
