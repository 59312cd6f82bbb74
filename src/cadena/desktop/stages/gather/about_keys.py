"""What Gather's strip says of a source's key, its label, and what its fields refer to."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.known_references import AT_ONCE, references_in
from cadena.desktop.widgets.words import Word
from cadena.model.edits.shaping import field_of, with_field, with_source
from cadena.model.naming import label_field
from cadena.model.source import Refers, Source
from cadena.records.records import Records
from cadena.sources.likely_keys import likely_keys
from cadena.sources.likely_labels import likely_labels

ROW_NUMBER: Final = "the number of the row"


def choose_key(document: Document, source: Source, name: str) -> None:
    """Let a field be the key."""
    _key(document, source, name, key=name, key_from=(), numbered=False)


def _key(document: Document, source: Source, said: str, **changed: Any) -> None:
    app = with_source(document.app, replace(source, **changed))
    document.edit(f"key of {source.id}: {said}", app)


def _join(document: Document, source: Source, name: str) -> None:
    parts = (*(source.key_from or (source.key,)), name)
    _key(document, source, ", ".join(parts), key="key", key_from=parts, numbered=False)


def key_said(source: Source) -> str:
    """What the key is, in words."""
    return " + ".join(source.key_from) or (ROW_NUMBER if source.numbered else source.key)


def key_words(document: Document, source: Source) -> list[Word]:
    """The key: what likely is one first, then every other field, and the number of the row."""
    names = list(document.types.get(source.id, {}))
    used = {*source.key_from, source.key}
    numbered = partial(_key, document, source, ROW_NUMBER, key="row", key_from=(), numbered=True)
    options = [
        (name, partial(choose_key, document, source, name))
        for name in dict.fromkeys((*_likely_keys(document, source), *names))
    ]
    joins = [(each, partial(_join, document, source, each)) for each in names if each not in used]
    return [
        Word("menu", key_said(source), name="key", options=[*options, (ROW_NUMBER, numbered)]),
        Word("menu", "join with", name="join the key with another field", options=joins),
    ]


def _likely_keys(document: Document, source: Source) -> Iterator[str]:
    records = _small(document, source)
    if records is not None:
        yield from (each.fields[0] for each in likely_keys(records) if len(each.fields) == 1)


def label_words(document: Document, source: Source) -> list[Word]:
    """What names a record to a person: the likeliest fields first, with why."""
    types = document.types.get(source.id, {})
    records = _small(document, source)
    likely = () if records is None else likely_labels(records, key=(source.key,))
    options = [(f"{e.field} · {e.why}", partial(_label, document, source, e.field)) for e in likely]
    named = {each.field for each in likely}
    rest = (each for each in types if each not in named)
    options += [(each, partial(_label, document, source, each)) for each in rest]
    now = label_field(source, types)
    return [Word("menu", now, name="what names its records", options=options)]


def _label(document: Document, source: Source, name: str) -> None:
    app = with_source(document.app, replace(source, label=name))
    document.edit(f"{source.id} are called by {name}", app)


def refers_words(document: Document, source: Source, name: str) -> list[Word]:
    """What a field refers to: what was found first, then the key of every source."""
    now = field_of(source, document.types, name).refers
    found = [
        Refers(to=reference.to, by=reference.by)
        for reference in references_in(document)
        if (reference.source, reference.field) == (source.id, name)
    ]
    every = (Refers(to=each.id) for each in document.app.sources)
    options = [("nothing", partial(_refer, document, source, name, None))]
    options += [
        (refers_said(reference), partial(_refer, document, source, name, reference))
        for reference in dict.fromkeys((*found, *every))
    ]
    said = "nothing" if now is None else refers_said(now)
    words = [Word("menu", said, name="what it refers to", options=options)]
    if now is not None:
        words.append(
            Word("text", "it is said by the label there; {" + f"{name}.…" + "} follows it")
        )
    return words


def refers_said(refers: Refers) -> str:
    """What a field refers to, in words."""
    return f"{refers.to} by {refers.by}" if refers.by else f"the key of {refers.to}"


def _refer(document: Document, source: Source, name: str, refers: Refers | None) -> None:
    app = with_field(document.app, document.types, source.id, name, refers=refers)
    said = "nothing" if refers is None else refers_said(refers)
    document.edit(f"{source.id}.{name} refers to {said}", app)


def _small(document: Document, source: Source) -> Records | None:
    """The records, where they can be looked through while a person waits."""
    records = document.records.get(source.id)
    return records if records is not None and 0 < len(records) <= AT_ONCE else None
