"""An app as the kit reads it: the words of the project, with what was found in the data said."""

from __future__ import annotations

from typing import Any, Final

from msgspec import Struct
from msgspec.structs import replace

from cadena.engine.wired import WiredApp
from cadena.model.address import fault_of_template
from cadena.model.app_words import words_in
from cadena.model.naming import label_field
from cadena.model.part import said
from cadena.model.references import counted_words, orders_of_others, others_of
from cadena.model.source import Field, Source
from cadena.records.formats import known_locale
from cadena.records.records import Records

OF_THE_WORKBENCH: Final = ("cadena", "needs", "windows", "claims", "aside")
"""What a project holds for those who work on it, and a delivered app has no use for."""
OF_READING: Final = ("file", "at", "inside", "csv", "key_from", "numbered", "made_up")
"""How records were read; what is delivered has them read."""


def described(app: WiredApp) -> dict[str, Any]:
    """An app as plain values: what is as it is by default is left out, names as JavaScript has
    them."""
    whole: dict[str, Any] = plain(app.app)
    for name in OF_THE_WORKBENCH:
        whole.pop(name, None)
    others = _others(app)
    whole["sources"] = [
        _source(source, app.as_read.get(source.id), others.get(source.id, []))
        for source in app.app.sources
    ]
    whole["screens"] = [plain(app.screens[each.id]) for each in app.app.screens]
    # As BCP 47 writes it, and only where it is one: a browser takes no other.
    whole["locale"] = known_locale(app.app.locale).replace("_", "-")
    language = app.words.language
    whole["words"] = {"language": language, "said": words_in(language)}
    for thing in (*whole.get("sections", ()), *whole["screens"]):
        # An address that cannot be one is never told, and never read.
        if fault_of_template(thing.get("address", "/")) is not None:
            del thing["address"]
    return whole


def plain(node: Any) -> Any:
    """A value of the model as plain values, without what is as it is by default."""
    if isinstance(node, Struct):
        return {camel(name): plain(value) for name, value in said(node)}
    if isinstance(node, dict):
        return {name: plain(each) for name, each in node.items()}
    if isinstance(node, tuple | list):
        return [plain(each) for each in node]
    return node


def camel(name: str) -> str:
    """A name as JavaScript has it: ``nothing_chosen`` is nothingChosen."""
    first, *others = name.split("_")
    return first + "".join(each.capitalize() for each in others)


def _source(
    source: Source, records: Records | None, others: list[dict[str, Any]]
) -> dict[str, Any]:
    """A source with every field that was found, its type, and the field that is its label."""
    made: dict[str, Any] = plain(source)
    for name in OF_READING:
        made.pop(camel(name), None)
    types = {} if records is None else records.types
    known = {each.name: each for each in source.fields}
    fields = [replace(known.get(name, Field(name=name)), type=kind) for name, kind in types.items()]
    made["fields"] = [
        {name: value for name, value in plain(field).items() if name not in ("written", "madeOf")}
        for field in fields
    ]
    made["label"] = label_field(source, types)
    if others:
        made["others"] = others
    return made


def _others(app: WiredApp) -> dict[str, list[dict[str, Any]]]:
    """What paths read of the records that refer to those of a source: by which field of which
    source, and in which order they are taken."""
    orders = orders_of_others(app.app)
    return {
        name: [
            {
                "to": step.to,
                "field": step.field,
                "by": step.by,
                "label": (title := app.sources[step.to].title or step.to),
                "words": counted_words(title),
                "sort": plain(orders.get((step.to, step.field), ())),
            }
            for step in steps
        ]
        for name, steps in others_of(app.sources, app.paths).items()
    }


def records_of(records: Records) -> list[dict[str, Any]]:
    """The records of a source as JSON holds them."""
    return [records.record(row) for row in range(len(records))]
