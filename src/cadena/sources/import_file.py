"""Taking data files into a project: copied in, its types read, its key found."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Final, NamedTuple

import polars as pl
from msgspec.structs import replace

from cadena.model.file.disk import copy_in, demand_plain, fault_of_name, read_bytes, said_path
from cadena.model.find import slug, unused
from cadena.model.problem import Problem
from cadena.model.source import Csv, Field, Refers, Source
from cadena.records.reading import Progress, Reading, silent
from cadena.records.records import Records
from cadena.sources.infer_types import gaps_in
from cadena.sources.likely_keys import LikelyKey, likely_key
from cadena.sources.likely_labels import likely_labels
from cadena.sources.profile import looks_like_pictures
from cadena.sources.read_csv import found_form
from cadena.sources.read_file import CSV, JSON, LARGEST, SQLITE, read_file, typed
from cadena.sources.read_json import arrays_in, decoded, holds_records

if TYPE_CHECKING:
    from cadena.sources.openapi import Proposal

YAML: Final = (".yaml", ".yml")
LOOKED_AT: Final = 1024 * 1024
"""Bytes of a document that are looked through for what it says it is."""
GENERIC: Final = ("items", "data", "results", "records", "rows", "list", "value", "values")


class Adopted(NamedTuple):
    """A source made of a file, its records, and why its key and its label are what they are."""

    source: Source
    records: Records
    why_key: str = ""
    why_label: str = ""

    def said_by(self, source: Source) -> Adopted:
        """The same records, of a source that is said otherwise."""
        return self._replace(source=source, records=self.records.said_by(source))

    def referring(self, to: Mapping[str, Refers]) -> Adopted:
        """The same records, of a source whose fields say what they refer to, by their names."""
        fields = tuple(
            replace(each, refers=to[each.name]) if each.name in to else each
            for each in self.source.fields
        )
        return self.said_by(replace(self.source, fields=fields))


def adopt(
    folder: Path, file: Path, taken: Iterable[str], progress: Progress = silent
) -> tuple[Adopted, ...]:
    """Copy a data file into a project folder and make a source of each set of records in it.

    Args:
        taken: the names of the sources there are.

    Raises:
        Problem: when it cannot be read; then nothing is left in the folder.
    """
    names = list(taken)
    if offered := described(file):
        return tuple(
            Adopted(source, typed(source, pl.DataFrame()))
            for each in offered
            for source in (renamed(each.source, names),)
        )
    made: list[Adopted] = []
    tables: dict[str, str] = {}
    for at, form, reading in _readings(file, progress):
        if not reading.frame.width:
            raise Problem(
                file.name, at, "it has no fields", "records with a field that tells them apart"
            )
        title = at.rpartition("/")[2] if at else file.stem
        if title.lower() in GENERIC:
            title = file.stem
        name = unused(slug(title), names)
        names.append(name)
        tables[at] = name
        made.append(_as_source(name, file.name, at, form, reading))
    made = [_referring(each, tables) for each in made]
    if file.resolve().parent == folder.resolve():
        return tuple(made)
    stem = file.stem if fault_of_name(file.name) is None else slug(said_path(file.stem))
    stem = unused(stem, (each.stem for each in folder.iterdir()))
    copied = copy_in(folder, stem + file.suffix, file)
    moved = [replace(each.source, file=copied.name) for each in made]
    return tuple(each.said_by(source) for source, each in zip(moved, made, strict=True))


def _referring(made: Adopted, tables: Mapping[str, str]) -> Adopted:
    """A source whose fields say what they refer to, as its own database declares it."""
    reading = made.records.reading
    declared = {} if reading is None else reading.refers
    if not declared:
        return made
    return made.referring(
        {
            name: Refers(to=tables[table], by=by)
            for name, (table, by) in declared.items()
            if table in tables
        }
    )


def renamed(source: Source, taken: list[str]) -> Source:
    """A source of a name that is not taken; the name is taken then."""
    name = unused(source.id, taken)
    taken.append(name)
    return source if name == source.id else replace(source, id=name)


def described(file: Path) -> tuple[Proposal, ...]:
    """The sources that an OpenAPI document describes; none where the file is no such document."""
    is_yaml = file.suffix.lower() in YAML
    if not is_yaml and file.suffix.lower() not in JSON:
        return ()
    if not file.is_file() or not (is_yaml or _mentions_openapi(file)):
        return ()
    from cadena.sources.openapi import LARGEST, proposals

    name = said_path(file.name)
    return proposals(read_bytes(file, name, LARGEST, "an OpenAPI document"), name)


def _mentions_openapi(file: Path) -> bool:
    try:
        with file.open("rb") as opened:
            start = opened.read(LOOKED_AT).removeprefix(b"\xef\xbb\xbf").lstrip()
    except OSError:
        return False
    return start[:1] == b"{" and re.search(rb'"(openapi|swagger)"\s*:\s*"[0-9]', start) is not None


def _readings(file: Path, progress: Progress) -> list[tuple[str, Csv, Reading]]:
    """Every set of records in a file: where it is, how it is written, and its columns."""
    ending, name = file.suffix.lower(), said_path(file.name)
    plain = Csv()
    if ending in SQLITE:
        from cadena.sources.read_sqlite import tables_in

        demand_plain(file, name, LARGEST, "a database")
        tables = tables_in(file)
        if not tables:
            raise Problem(name, "", "the database holds no table", "one with records")
        read = [(at, plain, read_file(file, name, at, progress=progress)) for at in tables]
        return [each for each in read if each[2].frame.width]
    at, form = "", plain
    raw: bytes | None = None
    if ending in (*CSV, *JSON):
        raw = read_bytes(file, name, LARGEST, "a data file")
        form = found_form(raw) if ending in CSV else plain
        at = "" if ending in CSV else _longest_array(raw, name)
    reading = read_file(file, name, at, form, progress, raw)
    if ending in CSV and (gaps := gaps_in(reading.frame)):
        form = replace(form, gaps=gaps)
        reading = read_file(file, name, at, form, silent, raw)
    return [(at, form, reading)]


def _longest_array(raw: bytes, name: str) -> str:
    """The pointer to the longest array of records in a document that is no array itself."""
    raw = raw.removeprefix(b"\xef\xbb\xbf")
    if raw.lstrip()[:1] != b"{":
        return ""
    tree = decoded(raw, name)
    if holds_records(tree):
        return ""
    found = arrays_in(tree)
    return found[0][0] if found else ""


def _as_source(name: str, file: str, at: str, form: Csv, reading: Reading) -> Adopted:
    source = Source(
        id=name,
        title=name.replace("-", " ").capitalize(),
        file=file,
        at=at,
        csv=form,
        key=reading.frame.columns[0],
    )
    return chosen(source, reading)


def chosen(source: Source, reading: Reading, key: tuple[str, ...] = (), label: str = "") -> Adopted:
    """A source with its likely key and label, or those that a person has chosen.

    Args:
        key: the fields of the key, where somebody has said so.
        label: the field that names a record, where somebody has said so.

    Raises:
        Problem: for a field that is not there.
    """
    records = typed(replace(source, key=reading.frame.columns[0], key_from=()), reading)
    for each in (*key, *([label] if label else [])):
        if each not in records.types:
            have = ", ".join(records.types)
            raise Problem(source.file, source.id, f"there is no field {each}", f"one of: {have}")
    found = LikelyKey(key, "you said so") if key else likely_key(records, reading.key)
    labels = likely_labels(records, key=found.fields)
    source = with_key(source, found, records)
    fields = tuple(
        Field(name=each, type="picture" if looks_like_pictures(records, each) else kind)
        for each, kind in records.types.items()
    )
    named = label or (labels[0].field if labels else source.key)
    source = replace(source, fields=fields, label=named)
    # A key that is made is a column more; any other is there already.
    is_made = source.key_from or source.numbered
    made = typed(source, reading) if is_made else records
    types = {**made.types, **{each.name: each.type for each in fields}}
    read = Records(source, made.frame, types, made.faults, reading)
    said = "you said so" if label else labels[0].why if labels else "nothing else names them"
    return Adopted(source, read, found.why, said)


def with_key(source: Source, found: LikelyKey, records: Records) -> Source:
    """A source whose records are told by that key."""
    if len(found.fields) == 1:
        return replace(source, key=found.fields[0], key_from=(), numbered=False)
    made = unused("key" if found.fields else "row", list(records.types))
    return replace(source, key=made, key_from=found.fields, numbered=not found.fields)
