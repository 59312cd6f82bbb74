"""Bringing the records of a service into the project, where they are kept as a file."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Final

import msgspec
import polars as pl
from msgspec.structs import replace

from cadena.model.file.disk import write_new
from cadena.model.find import slug, unused
from cadena.model.problem import Problem
from cadena.model.source import Csv, Field, Source
from cadena.model.values import FieldType
from cadena.records.reading import Fault, Progress, Reading, silent
from cadena.sources.fetch import MOST_PAGES, OURS, Caller, Wrapped
from cadena.sources.import_file import Adopted, with_key
from cadena.sources.likely_keys import likely_key
from cadena.sources.openapi import Proposal, proposals
from cadena.sources.read_file import typed
from cadena.sources.read_json import columns_of
from cadena.sources.write_json import array_of

WHOLE: Final = r"^(?:0|[1-9]\d{0,14})$"
"""A number as a person, and a computer, writes it: nothing is lost by reading it."""
DESCRIPTIONS: Final = (".json", ".yaml", ".yml")


def brought(folder: Path, source: Source, progress: Progress) -> Adopted | tuple[Proposal, ...]:
    """Call for all records of a source, and write them beside the project.

    Records that are wrapped in something are found where there is but one array of them.
    Where the address holds an OpenAPI document, the sources that it describes are given back.

    Raises:
        Problem: when the service gives none, or they cannot be written.
    """
    assert source.service is not None
    caller = Caller(source.service)
    try:
        if not source.file and source.service.list.endswith(DESCRIPTIONS):
            raw = caller.raw(source.service.list)
            return proposals(raw, source.service.list, source.service.list)
        try:
            reading, records = bring(source, caller, progress)
        except Wrapped as wrapped:
            if source.service.records or len(wrapped.pointers) != 1:
                raise
            # Where there is but one array, it is what was asked for.
            caller.service = replace(source.service, records=wrapped.pointers[0])
            source = replace(source, service=caller.service)
            reading, records = bring(source, caller, progress)
    finally:
        caller.close()
    assert source.service is not None
    if not reading.frame.width:
        raise Problem(source.service.list, "", "it brings no records", "records with fields")
    source = _keyed(source, reading)
    # The file that was there stays, whoever made it: undo goes back to it.
    stem = f"{slug(source.id)}-brought" if source.file else slug(source.id)
    stem = unused(stem, (each.stem for each in folder.iterdir()))
    file = write_new(folder, f"{stem}.json", array_of(records))
    source = replace(source, file=file.name, at="", csv=Csv())
    return Adopted(source, typed(source, reading))


def _of_addresses(source: Source, frame: pl.DataFrame) -> dict[str, FieldType]:
    """The type of keys that are the last parts of addresses: they are numbers where all are."""
    service = source.service
    if service is None or not service.key_from_address or OURS not in frame.columns:
        return {}
    column = frame[OURS]
    if column.dtype != pl.String or not column.str.contains(WHOLE).all():
        return {}
    return {OURS: "whole number"}


def _keyed(source: Source, reading: Reading) -> Source:
    """The source with the key and the types that its records have, where it has none yet."""
    frame = reading.frame
    if source.key not in frame.columns and not source.key_from:
        found = typed(replace(source, key=frame.columns[0], fields=()), Reading(frame))
        source = with_key(source, likely_key(found), found)
    if not source.fields:
        found = typed(replace(source, fields=()), Reading(frame))
        types = {**found.types, **_of_addresses(source, frame)}
        fields = tuple(Field(name=name, type=kind) for name, kind in types.items())
        source = replace(source, fields=fields)
    return source


def bring(source: Source, caller: Caller, progress: Progress = silent) -> tuple[Reading, list[Any]]:
    """Bring all records of a source, page by page.

    A page that repeats ends it, and is counted; so does a failure after the first page.

    Returns:
        The columns, and the records as they came.

    Raises:
        Problem: when the first page does not come.
    """
    records: list[Any] = []
    seen: set[bytes] = set()
    faults: tuple[Fault, ...] = ()
    following: str | int | None = None
    for number in range(MOST_PAGES):
        try:
            page = caller.page(following)
        except Problem as problem:
            if not number:
                raise
            faults += (Fault(1, f"page did not come: {problem.found}", (f"page {number + 1}",)),)
            break
        print_of = msgspec.json.encode(page.records, order="sorted")
        if page.records and print_of in seen:
            said = "page repeats one before it; the rest was not asked for"
            faults += (Fault(1, said, (f"page {number + 1}",)),)
            break
        seen.add(print_of)
        records += page.records
        progress(1 - 1 / (number + 2))
        following = page.following
        if following is None:
            break
    else:
        faults += (Fault(1, f"service has over {MOST_PAGES} pages; the rest was not asked for"),)
    reading = columns_of(records, source.id, "record")
    return Reading(reading.frame, faults + reading.faults), records
