"""Taking data files into a project: copied in, its types read, its key found."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Final, NamedTuple

import polars as pl
from msgspec.structs import replace

from cadena.model.blocks import FormField
from cadena.model.file.disk import copy_in, fault_of_name, read_bytes, said_path
from cadena.model.find import slug, unused
from cadena.model.naming import fields_of_label, singular, words_of
from cadena.model.problem import Problem
from cadena.model.source import Csv, Field, Inside, Length, Refers, Source, has_key
from cadena.records.held import held
from cadena.records.reading import NAMED, Fault, Progress, Reading, silent
from cadena.records.records import Records
from cadena.sources.data_file import PLAIN, DataFile
from cadena.sources.file_kinds import ENDINGS, PACKED, ending_of
from cadena.sources.infer_types import GAPS, by_content, gaps_in
from cadena.sources.json_tree import found_at
from cadena.sources.likely_keys import MEASURES, LikelyKey, likely_key
from cadena.sources.likely_labels import likely_labels
from cadena.sources.pictures_beside import bring_pictures
from cadena.sources.profile import looks_like_pictures
from cadena.sources.read_csv import found_form
from cadena.sources.read_file import found_type, typed
from cadena.sources.written_forms import TRUTHS, WrittenForm, form_of, truth_in_numbers

if TYPE_CHECKING:
    from cadena.sources.openapi import Offered, Proposal

LOOKED_AT: Final = 16 * 1024 * 1024
"""Bytes of a document that are looked through for what it says it is."""
FEW_LETTERS: Final = 2
UNSAID: Final = "no field of it is said to tell records apart: choose one with --key"
ENVELOPES: Final = (("model", "pk", "fields"), ("type", "id", "attributes"))
"""Fields of records that say of what kind another is, its key, and where it stands."""
GENERIC: Final = ("items", "data", "results", "records", "rows", "list", "value", "values")


class Adopted(NamedTuple):
    """A source made of a file, its records, and why its key and its label are what they are;
    ``form`` is what a form holds of a source that is written to."""

    source: Source
    records: Records
    why_key: str = ""
    why_label: str = ""
    form: tuple[FormField, ...] = ()

    def said_by(self, source: Source) -> Adopted:
        """The same records, of a source that is said otherwise."""
        return self._replace(source=source, records=self.records.said_by(source))

    def with_fault(self, fault: Fault) -> Adopted:
        """The same records, and one thing more that was left out."""
        records = self.records
        faults = (*records.faults, fault)
        read = held(records.source, records.frame, records.types, faults, records.reading)
        return self._replace(records=read)

    def referring(self, to: Mapping[str, Refers]) -> Adopted:
        """The same records, of a source whose fields say what they refer to, by their names."""
        fields = tuple(
            replace(field, refers=to[field.name]) if field.name in to else field
            for field in self.source.fields
        )
        return self.said_by(replace(self.source, fields=fields))


def adopt(
    folder: Path, file: Path, taken: Iterable[str], progress: Progress = silent
) -> tuple[Adopted, ...]:
    """Copy a data file into a project folder and make a source of each set of records in it; the
    pictures that it names below its own folder come along.

    Args:
        taken: the names of the sources there are.

    Raises:
        Problem: when it cannot be read; then nothing is left in the folder.
    """
    names = list(taken)
    if offered := described(file):
        return tuple(
            Adopted(
                source,
                typed(source, pl.DataFrame()),
                "" if has_key(source) else UNSAID,
                form=adopted.form,
            )
            for adopted in offered
            for source in (renamed(adopted.source, names),)
        )
    made = tuple(_taken_in(DataFile(file, said_path(file.name)), names, progress))
    if file.resolve().parent == folder.resolve():
        return made
    stem = file.name.removesuffix("".join(_endings(file)))
    stem = stem if fault_of_name(file.name) is None else slug(said_path(stem))
    stem = unused(stem, (each.name.partition(".")[0] for each in folder.iterdir()))
    copied = copy_in(folder, stem + "".join(_endings(file)), file)
    bring_pictures(folder, file, ((each.source, each.records) for each in made))
    moved = [replace(each.source, file=copied.name) for each in made]
    return tuple(each.said_by(source) for source, each in zip(moved, made, strict=True))


def _endings(file: Path) -> list[str]:
    """The ending of a file, and what says that it is packed."""
    return file.suffixes[-2:] if file.suffix.lower() == PACKED else file.suffixes[-1:]


def _taken_in(data: DataFile, names: list[str], progress: Progress) -> Iterator[Adopted]:
    """A source of each set of records in a data file, and of those that they hold.

    Args:
        names: the names that are taken; those of the sources are added.
    """
    made: list[Adopted] = []
    tables: dict[str, str] = {}
    for at, form, reading in _readings(data, progress):
        if not reading.frame.width:
            wanted = "records with a field that tells them apart"
            raise Problem(data.name, at, "it has no fields", wanted)
        title = _title(data, at)
        if data.is_tree and (envelopes := _envelopes(data, at)):
            made += [_enveloped(data, at, each, names) for each in envelopes]
            continue
        name = unused(slug(title), names)
        names.append(name)
        tables[at] = name
        source = _source(name, title, data.path.name, at, form, reading)
        made.append(chosen(source, reading))
        if data.is_tree or data.kind == "parquet":
            found = [_nested_source(data, made[-1], each, names) for each in reading.inner]
            made += [each for each in found if each is not None]
    if data.left_out and made:
        said = "arrays left out, of records that are not alike"
        fault = Fault(len(data.left_out), said, tuple(data.left_out[:NAMED]))
        made[0] = made[0].with_fault(fault)
    return (_referring(each, tables) for each in made)


def _title(data: DataFile, at: str) -> str:
    """What the records at a place are called: by its name, where that says anything."""
    stem = data.path.name.removesuffix("".join(_endings(data.path)))
    called = at.rpartition("/")[2] if at else stem
    is_only = data.kind == "sheets" and len(data.places) == 1
    if called.lower() in GENERIC or is_only:
        return stem
    if data.is_tree and len(re.findall(r"[^\W\d_]", called)) < FEW_LETTERS:
        return stem if len(data.places) == 1 else f"{stem} {called}"
    return called


def _envelopes(data: DataFile, at: str) -> list[Inside]:
    """How records stand in others that say of what kind each is; none where they do not."""
    first = data.first_at(at)
    if first is not None and not any({*each} <= first.keys() for each in ENVELOPES):
        return []
    found = found_at(data.tree, data.name, at)
    for kind, key, field in ENVELOPES:
        if not all(isinstance(e, dict) and {kind, key, field} <= e.keys() for e in found):
            continue
        kinds = dict.fromkeys(each[kind] for each in found if isinstance(each[kind], str))
        if kinds and all(isinstance(each[field], dict) for each in found):
            return [Inside(field=field, called=key, key=(key,), of={kind: each}) for each in kinds]
    return []


def _enveloped(data: DataFile, at: str, inside: Inside, names: list[str]) -> Adopted:
    """A source of the records of one kind that stand in others."""
    reading = data.read(at, PLAIN, silent, inside)
    (kind,) = inside.of.values()
    title = kind.rpartition(".")[2]
    name = unused(slug(title), names)
    names.append(name)
    source = _source(name, title, data.path.name, at, PLAIN, reading)
    made = chosen(replace(source, inside=inside), reading, (inside.called,))
    return made._replace(why_key="the file says so")


def _nested_source(data: DataFile, of: Adopted, field: str, names: list[str]) -> Adopted | None:
    """A source of the records that those of another hold in a list; none where they are empty."""
    outer = of.source
    key = outer.key_from or (() if outer.numbered else (outer.key,))
    stem = field.rpartition(".")[2]
    called = unused(f"{slug(singular(outer.id).removesuffix('-detail'))}_id", (stem,))
    inside = Inside(field=field, called=called, key=key)
    reading = data.read(outer.at, PLAIN, silent, inside)
    if reading.frame.width < 2:
        return None
    name = unused(slug(stem), names)
    names.append(name)
    source = replace(_source(name, stem, outer.file, outer.at, PLAIN, reading), inside=inside)
    return chosen(source, reading).referring({called: Refers(to=outer.id)})


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
    found = offered_in(file)
    return () if found is None else found.proposals


def offered_in(file: Path) -> Offered | None:
    """What an OpenAPI document offers; none where the file is no such document."""
    try:
        found = file.stat()
    except OSError:
        return None
    return _offered(file, (found.st_mtime_ns, found.st_size))


@lru_cache(maxsize=4)
def _offered(file: Path, _: tuple[int, int]) -> Offered | None:
    """The same, of a file as it was then: it is asked for again when what was skipped is said."""
    ending = ending_of(file)
    if ENDINGS.get(ending) not in ("json", "yaml") or not file.is_file():
        return None
    if not _mentions_openapi(file):
        return None
    from cadena.sources.openapi import offered
    from cadena.sources.schemas import LARGEST

    name = said_path(file.name)
    return offered(read_bytes(file, name, LARGEST, "an OpenAPI document"), name)


def _mentions_openapi(file: Path) -> bool:
    try:
        with file.open("rb") as opened:
            start = opened.read(LOOKED_AT).removeprefix(b"\xef\xbb\xbf").lstrip()
    except OSError:
        return False
    if start[:1] == b"{":
        return re.search(rb'"(openapi|swagger)"\s*:\s*"[0-9]', start) is not None
    return re.search(rb"(?m)^['\"]?(openapi|swagger)['\"]?\s*:", start) is not None


def _readings(data: DataFile, progress: Progress) -> Iterator[tuple[str, Csv, Reading]]:
    """Every set of records in a file: where it is, how it is written, and its columns."""
    places = data.places
    if not places:
        raise Problem(data.name, "", "it holds no table", "one with records")
    form = found_form(data.raw) if data.kind == "csv" else PLAIN
    for at in places:
        reading = data.read(at, form, progress)
        if data.kind == "csv" and (gaps := gaps_in(reading.frame)):
            form = replace(form, gaps=gaps)
            reading = data.read(at, form)
        if reading.frame.width or len(places) == 1:
            yield at, form, reading


def _source(name: str, title: str, file: str, at: str, form: Csv, reading: Reading) -> Source:
    key = reading.frame.columns[0]
    return Source(id=name, title=_title_words(title) or name, file=file, at=at, csv=form, key=key)


def _title_words(title: str) -> str:
    """A name in plain words, the first of them with a capital; what is in capitals stays so."""
    parted = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", title)
    # Between digits a hyphen is a part of what they say.
    words = re.sub(r"(?<!\d)[-_]+|[-_]+(?!\d)", " ", parted).split()
    said = " ".join(word if word.isupper() else word.lower() for word in words)
    return said[:1].upper() + said[1:]


def chosen(source: Source, reading: Reading, key: tuple[str, ...] = (), label: str = "") -> Adopted:
    """A source with its likely key and label, or those that a person has chosen.

    Args:
        key: the fields of the key, where somebody has said so.
        label: the field that names a record, where somebody has said so.

    Raises:
        Problem: for a field that is not there.
    """
    records = typed(replace(source, key=reading.frame.columns[0], key_from=()), reading)
    for name in (*key, *(fields_of_label(label) if label else ())):
        if name not in records.types:
            have = ", ".join(records.types)
            raise Problem(source.file, source.id, f"there is no field {name}", f"one of: {have}")
    if forms := _forms(source, records, reading):
        source = _with_forms(source, forms, reading)
        records = typed(replace(source, key=reading.frame.columns[0], key_from=()), reading)
    found = LikelyKey(key, "you said so") if key else likely_key(records, reading.key)
    labels = likely_labels(records, key=found.fields)
    source = with_key(source, found, records)
    known = {each.name: each for each in source.fields}
    fields = tuple(
        replace(
            known.get(each, Field(name=each)),
            type="picture" if looks_like_pictures(records, each) else kind,
            # What most records lack is not said of them.
            when_empty="" if len(records.gaps(each)) * 2 > len(records) else "–",
        )
        for each, kind in records.types.items()
    )
    named = label or (labels[0].field if labels else source.key)
    source = replace(source, fields=fields, label=named)
    # A key that is made is a column more; any other is there already.
    is_made = source.key_from or source.numbered
    made = typed(source, reading) if is_made else records
    types = {**made.types, **{each.name: each.type for each in fields}}
    read = held(source, made.frame, types, made.faults, reading)
    said = "you said so" if label else labels[0].why if labels else "nothing else names them"
    return Adopted(source, read, found.why, said)


def _forms(source: Source, records: Records, reading: Reading) -> dict[str, WrittenForm]:
    """What columns hold that are not written plainly: numbers in quotes, days, yes and no."""
    gaps = source.csv.gaps or (GAPS if source.file else ())
    frame = records.frame
    texts = [name for name, kind in records.types.items() if kind == "text"]
    # What is read as text from CSV is written as nothing else, whatever quotes there are.
    quoted = by_content(frame.select(texts)).schema if source.csv == PLAIN and texts else {}
    forms: dict[str, WrittenForm] = {}
    for name, kind in records.types.items():
        form = None
        if kind == "text":
            form = form_of(frame[name], gaps)
            dtype = quoted.get(name, pl.String())
            if form is None and dtype != pl.String():
                form = WrittenForm(found_type(dtype))
        elif kind == "whole number" and name not in reading.key:
            form = _declared_truth(frame[name], reading.declared.get(name, ""), name)
        if form is None and kind == "whole number" and reading.declared.get(name) == "number":
            form = WrittenForm("number")
        if form is not None:
            forms[name] = form
    return forms


def _declared_truth(column: pl.Series, declared: str, name: str) -> WrittenForm | None:
    """Yes and no as numbers: where it is declared, or both are there and nothing is measured."""
    if declared == "yes/no" and column.drop_nulls().is_in([0, 1]).all():
        return WrittenForm("yes/no", "1/0")
    words = words_of(name)
    is_measured = bool(words) and MEASURES.search(words[-1]) is not None
    is_few = column.len() <= len(TRUTHS[0]) or declared == "whole number"
    return None if is_measured or is_few or words[-1:] == ["id"] else truth_in_numbers(column)


def _field(name: str, form: WrittenForm) -> Field:
    """A field, said as it is written: with its sign, and days and times by the locale."""
    is_said = form.written or form.type == "date and time"
    length: Length = (
        "medium" if is_said and form.type in ("date", "date and time") else "as written"
    )
    return Field(name=name, type=form.type, written=form.written, unit=form.unit, date=length)


def _with_forms(source: Source, forms: Mapping[str, WrittenForm], reading: Reading) -> Source:
    """A source that says how its values are written, and which words among them are nothing."""
    fields = (
        *(each for each in source.fields if each.name not in forms),
        *(_field(name, form) for name, form in forms.items()),
    )
    gaps = dict.fromkeys(source.csv.gaps)
    for name in forms:
        column = reading.frame[name]
        if column.dtype != pl.String:
            continue
        gaps.update(dict.fromkeys(each for each in GAPS if (column == each).any()))
    return replace(source, fields=fields, csv=replace(source.csv, gaps=tuple(gaps)))


def with_key(source: Source, found: LikelyKey, records: Records) -> Source:
    """A source whose records are told by that key."""
    if len(found.fields) == 1:
        return replace(source, key=found.fields[0], key_from=(), numbered=False)
    made = unused("key" if found.fields else "row", list(records.types))
    return replace(source, key=made, key_from=found.fields, numbered=not found.fields)
