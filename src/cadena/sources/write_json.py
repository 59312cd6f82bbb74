"""JSON and JSON Lines with some of their records changed; the rest stands as it stood."""

from __future__ import annotations

import codecs
import re
from collections.abc import Iterable
from typing import Any

import msgspec

from cadena.model.find import unused
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.sources.data_file import DataFile
from cadena.sources.json_tree import is_by_name, pointed
from cadena.sources.table import Table
from cadena.sources.table_changes import Attic, TableChanges, changes_between, placed, with_values


def array_of(records: Iterable[Any]) -> bytes:
    """Records as a JSON array, a record a line."""
    lines = b",\n".join(map(msgspec.json.encode, records))
    return b"[\n" + lines + (b"\n" if lines else b"") + b"]\n"


def as_lines(data: DataFile, before: Table, now: Table, attic: Attic) -> bytes:
    """The text of JSON Lines with what has changed between two tables.

    Raises:
        Problem: where that would lose what is in it.
    """
    raw, mark = _unmarked(data.raw)
    changes = changes_between(before, now)
    ending = b"\r\n" if b"\r\n" in raw else b"\n"
    # What is read is the text as it is shown: each of its lines is one of these.
    shown = data.text.splitlines() if raw.strip() else []
    found = [(line, _line(text)) for line, text in zip(raw.splitlines(True), shown, strict=True)]
    made = mark
    for at, values in placed(
        found, lambda e: e[1] is not None, before, now, changes, attic, data.name
    ):
        if made and not made.endswith((b"\n", b"\r")) and made != mark:
            made += ending
        if values is None:
            made += at[0]
            continue
        record: dict[str, Any] = {}
        if at is not None:
            _demand_exact(at[0], at[1], data.name)
            record = at[1]
        record = with_values(record, values, changes.renamed)
        made += msgspec.json.encode(record) + ending
    return made


def _line(text: bytes) -> dict[str, Any] | None:
    """The record on a line, or none."""
    try:
        found = msgspec.json.decode(text)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return None
    return found if _is_record(found) else None


def _is_record(value: Any) -> bool:
    return isinstance(value, dict) and bool(value)


def _demand_exact(line: bytes, record: dict[str, Any], name: str) -> None:
    try:
        line.decode()
    except UnicodeDecodeError:
        is_exact = False
    else:
        is_exact = b"\0" not in line
    if not is_exact:
        said = f"the line that begins {msgspec.json.encode(record)[:40].decode(errors='replace')}"
        reason = "it holds bytes that are no text, which would be lost"
        raise Problem(name, said, reason, "a line that is UTF-8")


def _unmarked(raw: bytes) -> tuple[bytes, bytes]:
    """A text without its mark, and the mark."""
    if raw.startswith(codecs.BOM_UTF8):
        return raw.removeprefix(codecs.BOM_UTF8), codecs.BOM_UTF8
    return raw, b""


def as_json(data: DataFile, source: Source, before: Table, now: Table, attic: Attic) -> bytes:
    """A JSON document with what has changed between two tables of the records at a place in it.

    Raises:
        Problem: where that would lose what is in it.
    """
    raw, mark = _unmarked(data.raw)
    if data.text != raw:
        reason = "it holds bytes that are no text, which would be lost"
        raise Problem(data.name, "", reason, "a file that is UTF-8")
    steps = [each.replace("~1", "/").replace("~0", "~") for each in source.at.split("/")[1:]]
    inner = raw
    for step in steps:
        inner = bytes(_parts(inner)[step])
    changes = changes_between(before, now)
    if is_by_name(pointed(data.tree, source.at, data.name)):
        made = _object_of(inner, source.key, before, now, changes, attic, data.name)
    else:
        things = [(each, msgspec.json.decode(each)) for each in _items(inner)]
        is_lines = b"\n " not in raw and not steps
        parts = [
            thing[0] if values is None else msgspec.Raw(_encoded(thing, values, changes))
            for thing, values in placed(
                things, lambda e: _is_record(e[1]), before, now, changes, attic, data.name
            )
        ]
        if is_lines:
            return mark + array_of(parts)
        made = msgspec.json.encode(parts)
    whole = _exchanged(raw, steps, made)
    if b"\n" not in raw.strip():
        return mark + whole
    indent = re.search(rb"\n( +)\S", raw)
    return mark + msgspec.json.format(whole, indent=len(indent[1]) if indent else 2) + b"\n"


def _encoded(thing: Any, values: Any, changes: TableChanges) -> bytes:
    record = {} if thing is None else thing[1]
    return msgspec.json.encode(with_values(record, values, changes.renamed))


def _object_of(
    raw: bytes,
    key: str,
    before: Table,
    now: Table,
    changes: TableChanges,
    attic: Attic,
    name: str,
) -> bytes:
    """An object of records, each under a name: a new one under its own, or else its key.

    Raises:
        Problem: where two records have one key, or one has none.
    """
    items = msgspec.json.decode(raw, type=dict[str, msgspec.Raw])
    things = [(key, each, msgspec.json.decode(each)) for key, each in items.items()]
    called = unused("key", {field for _, _, each in things for field in each})
    if called in changes.renamed:
        reason = f"{called} is no field: the records stand under it"
        raise Problem(name, called, reason, "the name that it has")
    made: dict[str, Any] = {}
    for thing, values in placed(things, lambda _: True, before, now, changes, attic, name):
        own, as_it_stands, held = thing or (None, b"", {})
        if values is not None and (called in values or thing is None):
            said = values.get(called, values.get(key) if thing is None else None)
            own = None if said is None else str(said)
        if own is None:
            reason = "a record has no key to stand under"
            raise Problem(name, called, reason, "a key for each record")
        if own in made:
            reason = f'two records have the key "{own}"'
            raise Problem(name, called, reason, "a key of its own for each record")
        if values is None:
            made[own] = as_it_stands
            continue
        others = {field: each for field, each in values.items() if field != called}
        made[own] = with_values(held, others, changes.renamed)
    return msgspec.json.encode(made)


def _parts(raw: bytes) -> dict[str, msgspec.Raw]:
    """What an object or an array holds, by name or number."""
    if raw.lstrip()[:1] == b"[":
        return {str(at): each for at, each in enumerate(_items(raw))}
    return msgspec.json.decode(raw, type=dict[str, msgspec.Raw])


def _items(raw: bytes) -> list[msgspec.Raw]:
    return msgspec.json.decode(raw, type=list[msgspec.Raw])


def _exchanged(raw: bytes, steps: list[str], made: bytes) -> bytes:
    """A document with what stands at a place in it exchanged."""
    if not steps:
        return made
    parts: dict[str, Any] = _parts(raw)
    inner = _exchanged(bytes(parts[steps[0]]), steps[1:], made)
    parts = {name: msgspec.Raw(inner) if name == steps[0] else each for name, each in parts.items()}
    is_array = raw.lstrip()[:1] == b"["
    return msgspec.json.encode(list(parts.values()) if is_array else parts)
