"""What Gather's strip says of a source, of one of its fields, and of a new one."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, Final

import polars as pl
from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.known_references import AT_ONCE
from cadena.desktop.document.selection import (
    NewSource,
    SelectedField,
    SelectedScreen,
    SelectedSource,
    Selection,
)
from cadena.desktop.document.typing import can_be_typed, rename_field
from cadena.desktop.stages.field_sentences import saying_matters
from cadena.desktop.stages.gather.about_keys import (
    choose_key,
    key_said,
    key_words,
    label_words,
    refers_said,
    refers_words,
)
from cadena.desktop.stages.gather.about_made_up import (
    exchange_matter,
    made_up_field_matters,
    made_up_matters,
    not_found_sentences,
)
from cadena.desktop.stages.gather.services import about_new, service_matters
from cadena.desktop.widgets.bound import Bound, matter_of
from cadena.desktop.widgets.locale_words import locale_sentences
from cadena.desktop.widgets.struct_editor import struct_sentences
from cadena.desktop.widgets.words import NOTHING, Matter, Sentence, Word, calmly, one_line
from cadena.model.edits.shaping import field_of, with_field, with_source
from cadena.model.edits.shown_fields import shown_nowhere, with_fields_shown
from cadena.model.field_uses import uses
from cadena.model.find import by_id
from cadena.model.naming import label_field
from cadena.model.source import Field, Source
from cadena.model.values import FieldType, shown
from cadena.records.records import Records
from cadena.sources.file_kinds import ENDINGS, ending_of
from cadena.sources.infer_types import GAPS
from cadena.sources.profile import Head, extremes, loss_of
from cadena.sources.written_forms import forms_of

HeadOf = Callable[[str], Head | None]
TYPES: Final = ("text", "whole number", "number", "yes/no", "date", "date and time", "picture")
ENCODINGS: Final = (
    "utf-8",
    "cp1252",
    "cp1250",
    "cp1251",
    "utf-16",
    "shift_jis",
    "euc_kr",
    "gb18030",
    "big5",
)
DELIMITERS: Final = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
MOST_USES: Final = 8
PLAINLY: Final = "plainly"


def of(head_of: HeadOf, document: Document) -> list[Sentence]:
    """The sentences of what is selected."""
    selection, app = document.selection, document.app
    if isinstance(selection, NewSource) or not app.sources:
        return about_new(document)
    source = by_id(app.sources, selection.source) if isinstance(selection, SelectedSource) else None
    if isinstance(selection, SelectedField) and source is not None:
        name, records = selection.field, document.records.get(source.id)
        if records is not None and name in records.types:
            return about_field(document, source, records, name, head_of(name))
    if source is None:
        return [Sentence("", [Word("text", "Select a source, or the head of a field.")])]
    return about_source(document, source)


def about_source(document: Document, source: Source) -> list[Sentence]:
    """A source: where it is from, how it was read, and its key."""
    records = document.records.get(source.id)
    count = 0 if records is None else len(records)

    def change(what: str, **changed: Any) -> None:
        app = with_source(document.app, replace(source, **changed))
        document.edit(f"{what} {source.id}", app)

    is_csv = ENDINGS.get(ending_of(Path(source.file))) == "csv"
    where = source.file + (f" at {source.at}" if source.at else "") or "no file"
    bound = Bound(source, change, document.refuse)
    locale = document.app.locale
    served = "" if source.served == "file" else f"the {source.served}"
    first = [
        Word("subject", source.title or source.id),
        Word("text", f"{count} records from {where}"),
    ]
    matters = [
        bound.matter("key", key_said(source), one_line(key_words, document, source)),
        bound.matter(
            "label",
            label_field(source, document.types.get(source.id, {})),
            one_line(label_words, document, source),
        ),
        bound.said("title", "source title", "title"),
        *made_up_matters(document, source),
        bound.matter("csv", source.csv.encoding, one_line(_csv_words, source, change))
        if is_csv
        else NOTHING,
        *service_matters(document, source),
        Matter(
            "in an app of locale", locale, "locale of the app", partial(locale_sentences, document)
        ),
        bound.matter("served", served, partial(_served, document, source)),
        exchange_matter(document, source),
    ]
    lines = [
        Sentence("", [Word("broken", f"! {fault}.")])
        for fault in (records.faults if records is not None else ())[:3]
    ]
    lines += not_found_sentences(document, source)
    if hidden := shown_nowhere(document.app, document.types, source.id):
        lines.append(_hidden(document, source, hidden))
    act = [Word("do", "Remove", partial(_remove, document, source), name="remove this source")]
    if source.service is not None:
        bring = partial(document.wants_bringing.emit, source)
        act.insert(0, Word("mend", "Bring the records", bring))
    return calmly(first, matters, *lines, act=act)


def _served(document: Document, source: Source) -> list[Sentence]:
    """Who answers when the app runs, and how the stand-in does."""

    def change(what: str, **changed: Any) -> None:
        app = with_source(document.app, replace(source, **changed))
        document.edit(f"{what} {source.id}", app)

    def stand_in(what: str, made: Any) -> None:
        change(f"{what} of the stand-in of", stand_in=made)

    options = [("file", "the file"), ("stand-in", "the stand-in")]
    options += [("service", "the service")] if source.service is not None else []
    pills = Bound(source, change, document.refuse).one_of("served", "{}", "{} answers", options)
    more = struct_sentences(source.stand_in, stand_in, document.refuse, of="stand-in: ")
    return [Sentence("", pills), *more]


def _hidden(document: Document, source: Source, hidden: tuple[str, ...]) -> Sentence:
    """The fields that no screen shows, and a way to show them all at once."""

    def show() -> None:
        app = with_fields_shown(document.app, source.id, hidden)
        document.edit(f"show {', '.join(hidden[:MOST_USES])} of {source.id}", app)

    more = f" and {len(hidden) - MOST_USES} more" if len(hidden) > MOST_USES else ""
    return Sentence(
        "On no screen",
        [
            Word("text", ", ".join(hidden[:MOST_USES]) + more),
            Word("do", "Show them", show, name="show them on row and detail"),
        ],
    )


def _csv_words(source: Source, change: Callable[..., None]) -> list[Word]:
    """How a CSV file is written, as it was found; each can be said otherwise."""
    form = source.csv

    def take(what: str, **changed: Any) -> None:
        change(what, csv=replace(form, **changed))

    encodings = [(each, partial(take, "encoding", encoding=each)) for each in ENCODINGS]
    words = [
        Word("menu", form.encoding, name="encoding", options=encodings),
        Word("text", "fields apart by"),
        *(
            Word(
                "choice",
                name,
                partial(take, "delimiter", delimiter=each),
                form.delimiter == each,
                f"fields apart by {name}",
            )
            for each, name in DELIMITERS.items()
        ),
        Word(
            "toggle",
            "with a header",
            partial(take, "header", header=not form.header),
            form.header,
            "with a header",
        ),
        Word(
            "toggle",
            "blanks apart",
            partial(take, "blanks", blanks=not form.blanks),
            form.blanks,
            "blanks around values are no part of them",
        ),
    ]
    skipped = Bound(form, take, lambda why: None).number("skip", "lines to skip")
    words += [Word("text", "skipping"), skipped, Word("text", "lines")]
    for gap in dict.fromkeys((*form.gaps, *GAPS[:1])):
        is_gap = gap in form.gaps
        gaps = tuple(e for e in form.gaps if e != gap) if is_gap else (*form.gaps, gap)
        does = partial(take, "words for nothing", gaps=gaps)
        words.append(Word("toggle", f"{gap} is empty", does, is_gap, f"{gap} is read as empty"))
    return words


def _remove(document: Document, source: Source) -> None:
    left = tuple(each for each in document.app.sources if each.id != source.id)
    app = replace(document.app, sources=left)
    document.edit(f"remove source {source.id}", app, Selection())


def about_field(
    document: Document, source: Source, records: Records, name: str, head: Head | None
) -> list[Sentence]:
    """A field: what is in it, where it is used, and how it is read and said."""
    first: list[Word] = [Word("subject", f"{source.id}.{name}")]
    if head is not None:
        first.append(_filled_word(head))
        first.append(Word("text", f"{head.distinct} different"))
    first += _key_of_field(document, source, name, head)
    is_made = name == source.key and bool(source.key_from or source.numbered)
    called = NOTHING
    if can_be_typed(source) and not is_made:
        rename = Word(
            "line", name, partial(rename_field, document, source.id, name), name="field name"
        )
        called = matter_of(Field, "name", "", lambda: [Sentence("", [rename])])
    refers = field_of(source, document.types, name).refers
    used = uses(document.app, source.id, name)
    matters = [
        matter_of(
            Field,
            "type",
            records.types[name],
            one_line(_type_words, document, source, records, name),
        ),
        matter_of(
            Field,
            "refers",
            "" if refers is None else refers_said(refers),
            one_line(refers_words, document, source, name),
        ),
        Matter(
            "used",
            f"{len(used)} times" if len(used) != 1 else "once",
            "uses of the field",
            one_line(_use_words, document, source, name),
        )
        if used
        else NOTHING,
        *made_up_field_matters(document, source, name),
        *saying_matters(document, source, name),
        called,
    ]
    found = extremes(records, name) if len(records) <= AT_ONCE * 10 else None
    if found is not None:
        longest, shortest = found
        lengths = [
            Word("text", f"{longest.length} characters, {shown(longest.key)}"),
            Word(
                "text",
                f"· shortest {shortest.length}, {shown(shortest.key)}: “{shortest.said[:40]}”",
            ),
        ]
        return calmly(first, matters, Sentence("Longest", lengths))
    if not used:
        first.append(Word("text", "· used by nothing yet"))
    return calmly(first, matters)


def _filled_word(head: Head) -> Word:
    none = head.records - head.filled
    share = f"{head.share_filled:.0%} filled"
    if not none:
        return Word("text", f"{head.type}, filled in every record")
    return Word(
        "broken" if head.share_filled < 0.6 else "text",
        f"{head.type}, {share}: {none} of {head.records} records have none",
    )


def _key_of_field(document: Document, source: Source, name: str, head: Head | None) -> list[Word]:
    if name == source.key:
        return [Word("text", "· the key")]

    if head is not None and not head.could_be_key:
        lacks = head.records - head.filled
        why = f"{lacks} have none" if lacks else f"{head.filled - head.distinct} are shared"
        return [Word("text", f"· no key: {why}")]
    return [Word("do", "Make it the key", partial(choose_key, document, source, name))]


def _use_words(document: Document, source: Source, name: str) -> list[Word]:
    found = uses(document.app, source.id, name)
    if not found:
        return [Word("text", "nothing yet")]
    words = []
    for use in found[:MOST_USES]:
        to = SelectedScreen(use.screen)
        text = f"{use.screen} · {use.what}"
        words.append(Word("do", text, partial(_show, document, to), name=f"show {text}"))
    if len(found) > MOST_USES:
        words.append(Word("text", f"and {len(found) - MOST_USES} more"))
    return words


def _show(document: Document, to: Selection) -> None:
    document.select(to)
    document.show_stage("Shape")


def _type_words(document: Document, source: Source, records: Records, name: str) -> list[Word]:
    now = records.types[name]

    def change(kind: FieldType) -> None:
        app = with_field(document.app, document.types, source.id, name, type=kind)
        document.edit(f"read {source.id}.{name} as {kind}", app)

    words = []
    options: tuple[Any, ...] = TYPES if now in TYPES else (now, *TYPES)
    for kind in options:
        lost = 0
        if kind != now and len(records) <= AT_ONCE:
            lost = loss_of(records, name, kind).values
        text = f"{kind}, {lost} lost" if lost else str(kind)
        words.append(Word("choice", text, partial(change, kind), kind == now, f"read as {kind}"))
    return [*words, *_written_words(document, source, records, name)]


def _written_words(document: Document, source: Source, records: Records, name: str) -> list[Word]:
    """In which form the texts of a field are written, where they are read as something else."""
    kind, reading = records.types[name], records.reading
    column = None if reading is None else reading.frame.get_column(name, default=None)
    forms = forms_of(kind)
    if column is None or column.dtype != pl.String or not forms:
        return []
    now = field_of(source, document.types, name).written

    def take(written: str) -> None:
        app = with_field(document.app, document.types, source.id, name, written=written)
        document.edit(f"{source.id}.{name} is written {written or PLAINLY}", app)

    options = [(each or PLAINLY, partial(take, each)) for each in ("", *forms)]
    return [Word("text", "written"), Word("menu", now or PLAINLY, name="written", options=options)]
