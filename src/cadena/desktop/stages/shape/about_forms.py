"""What Shape's strip says of a form and its fields."""

from __future__ import annotations

from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedScreen
from cadena.desktop.widgets.bound import Bound, without
from cadena.desktop.widgets.words import Sentence, Word, calmly, chip, one_line
from cadena.model.app import FormScreen
from cadena.model.blocks import FormField
from cadena.model.edits import shaping
from cadena.model.edits.targets import form_for
from cadena.model.edits.wiring import moved, with_screen
from cadena.model.find import by_id
from cadena.model.source import Source
from cadena.model.values import Unfit, carry, shown
from cadena.words.explained import LIVES


def with_fields(form: FormScreen, fields: tuple[FormField, ...]) -> FormScreen:
    """The form with these fields."""
    return replace(form, fields=fields)


def add_form(document: Document, source: Source) -> None:
    """A new form of a source."""
    form = form_for(document.app, document.types, source)
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

    bound = Bound(form, change, document.refuse)
    lives = bound.inner("keep")
    first = [
        Word("subject", form.id),
        Word("text", f"is a form of {form.source}: none in {form.key} is new, any key edits"),
    ]
    act = Word("do", "Copy it", copy, name="copy this form")
    matters = [
        bound.matter("title", form.title and f"“{form.title}”", one_line(_titles, bound)),
        bound.said("save_label", "save label"),
        bound.said("says", "says once saved"),
        lives.chosen("draft", control="a draft lives {}", values=LIVES),
    ]
    fields = [
        chip(
            _field_in_short(field),
            f"field {field.field}",
            partial(_about_field, document, bound, at),
        )
        for at, field in enumerate(form.fields)
    ]
    there = {each.field for each in form.fields}
    options = [
        (each, partial(change, "fields", fields=(*form.fields, FormField(field=each))))
        for each in document.types.get(form.source, {})
        if each not in there
    ]
    more = Word("menu", "+ field", name="add a field", options=options, role="offer")
    return calmly(first, matters, Sentence("Asks for", [*fields, more]), act=[act])


def _titles(bound: Bound) -> list[Word]:
    return [
        bound.text("title", "title"),
        Word("text", "· new"),
        bound.text("title_new", "title when new"),
    ]


def _field_in_short(field: FormField) -> str:
    said = [
        "required" if field.required else "",
        _limits_in_short(field),
        f"one of {len(field.choices)}" if field.choices else "",
        f"a key of {field.choices_from}" if field.choices_from else "",
        "from a list" if field.opens else "",
        f"from {field.argument or field.value}" if field.argument or field.value else "",
        "" if field.default is None else f"first {shown(field.default)}",
    ]
    return " · ".join([field.field, *filter(None, said)])


def _limits_in_short(field: FormField) -> str:
    match field.least, field.most:
        case None, None:
            return ""
        case None, most:
            return f"up to {most:g}"
        case least, None:
            return f"from {least:g}"
        case least, most:
            return f"{least:g}–{most:g}"


def _about_field(document: Document, of_form: Bound, at: int) -> list[Sentence]:
    form, bound, change = of_form.of, of_form.item("fields", at), of_form.change
    field = bound.of
    name = field.field
    kind = document.types.get(form.source, {}).get(name, "text")
    take = partial(bound.change, f"field {name}")
    limits = partial(_take_limits, document, take)
    choices = partial(_take_choices, document, take, name, kind)
    ends = ["" if each is None else f"{each:g}" for each in (field.least, field.most)]
    bounds = f"{ends[0]}–{ends[1]}" if any(ends) else ""
    sources = [("", "any"), *((each.id, f"a key of {each.id}") for each in document.app.sources)]
    up = partial(change, "order of fields", fields=moved(form.fields, at, -1))
    off = partial(change, "fields", fields=without(form.fields, at))
    has_source = by_id(document.app.sources, field.choices_from) is not None
    one_of = Word("line", ", ".join(map(shown, field.choices)), choices, name=f"choices of {name}")
    keys = bound.menu(
        "choices_from", sources, f"keys for {name}", "" if has_source else "any", f"field {name}"
    )
    tall = bound.number("lines", f"lines of {name}")
    return [
        Sentence("Labelled", [bound.text("label", f"label of {name}", f"field {name}")]),
        Sentence("Lines", [tall]),
        Sentence("", [bound.toggle("required", "required", f"{name} required", f"field {name}")]),
        Sentence("From – to", [Word("line", bounds, limits, name=f"limits of {name}")]),
        Sentence("One of", [one_of, Word("text", "or"), keys]),
        Sentence(
            "Filled",
            [
                bound.toggle(
                    "opens", "from a list that it opens", f"{name} opens a list", f"field {name}"
                )
            ],
        ),
        Sentence("Begins with", _begin_words(document, form, field, bound, kind)),
        Sentence(
            "",
            [
                Word("do", "Up", up, name=f"move {name} up"),
                Word("do", "Take it off", off, name=f"take {name} off the form"),
            ],
        ),
    ]


def _begin_words(
    document: Document, form: FormScreen, field: FormField, bound: Bound, kind: str
) -> list[Word]:
    """What a new record begins with: an argument, an app-wide value, a constant, or nothing."""
    nothing: dict[str, Any] = {"argument": "", "value": "", "default": None}
    name = field.field
    change = partial(bound.change, f"what {name} begins with")
    options: list[tuple[str, Any]] = [("nothing, or a constant", partial(change, **nothing))]
    options += [
        (f"argument {parameter.name}", partial(change, **{**nothing, "argument": parameter.name}))
        for parameter in form.parameters
        if parameter.name != form.key
    ]
    options += [
        (f"app-wide {value.id}", partial(change, **{**nothing, "value": value.id}))
        for value in document.app.values
    ]
    now = "nothing, or a constant"
    if field.argument or field.value:
        now = f"argument {field.argument}" if field.argument else f"app-wide {field.value}"
    constant = bound.value("default", f"{name} begins with", kind, f"what {name} begins with")
    menu = Word("menu", now, name=f"where {name} begins", options=options)
    return [menu, Word("text", "else"), constant]


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
