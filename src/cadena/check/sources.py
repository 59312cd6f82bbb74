"""Checks of records: the key is there and tells every record from every other."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from itertools import islice

from cadena.check.finding import Finding, first_few, found, of_source, of_thing
from cadena.model.references import others_of
from cadena.model.source import Source, has_key
from cadena.model.values import shown
from cadena.records.records import Records
from cadena.sources.pictures_beside import MOST_PICTURES, Named

Looks = Callable[[Source, Records], Iterable[Named]]
"""Looks for the pictures that records name."""


def picture_findings(source: Source, records: Records, look: Looks) -> Iterator[Finding]:
    """Which pictures that records name are not there: of the first ones, up to a bound."""
    named: dict[str, list[Named]] = {}
    for picture in islice(look(source, records), MOST_PICTURES):
        named.setdefault(picture.field, []).append(picture)
    is_cut = sum(map(len, named.values())) == MOST_PICTURES
    for field, pictures in named.items():
        missing = [each.name for each in pictures if each.file is None]
        looked = f"the first {len(pictures)}" if is_cut else f"{len(pictures)}"
        if missing:
            yield found(
                "picture-missing",
                of_source(source, field),
                f"{source.id}: {len(missing)} of {looked} pictures of {field} cannot be "
                f"shown: {first_few(missing)}",
                f"sources[{source.id}].fields[{field}]",
            )


def others_findings(
    sources: Mapping[str, Source], paths: Mapping[str, tuple[str, ...]]
) -> Iterator[Finding]:
    """What is counted, and does not come at once."""
    for name, steps in others_of(sources, paths).items():
        for step in steps:
            if sources[step.to].served != "file":
                yield found(
                    "counted-late",
                    of_thing("source", step.to),
                    f"{name} tell of all {step.to} that refer to them, and {step.to} answer late",
                    f"sources[{step.to}].served",
                    name=name,
                    to=step.to,
                )


def source_findings(source: Source, records: Records) -> Iterator[Finding]:
    """What is wrong with the key of a source."""
    where = f"sources[{source.id}].key"
    if source.served == "service" and source.fields and not has_key(source):
        have = ", ".join(each.name for each in source.fields)
        yield found(
            "key-unsaid",
            of_source(source),
            f"nothing says what tells the records of {source.id} apart: {source.key} is no field",
            where,
            have=have,
        )
        return
    yield from _writing_findings(source)
    rows = records.gaps(source.key)
    if len(rows):
        counts = f"{len(rows)} of {len(records)} records"
        yield found(
            "key-gap",
            of_source(source),
            f"{source.id}: {counts} have no {source.key}; the first is record {rows[0] + 1}",
            where,
            key=source.key,
        )
    if records.faults:
        said = "; ".join(str(each) for each in records.faults)
        yield found(
            "records-left-out",
            of_source(source),
            f"{source.id}: {said}",
            f"sources[{source.id}].file",
            data=source.file or "the data",
        )
    if source.numbered:
        yield found(
            "key-is-position",
            of_source(source),
            f"{source.id}: nothing tells its records apart, and the number of the row is the key",
            where,
        )
    if twice := records.twice():
        yield found(
            "key-duplicate",
            of_source(source),
            f"{source.id}: {len(twice)} records share a key; one is {shown(twice[0])}",
            where,
        )


def _writing_findings(source: Source) -> Iterator[Finding]:
    """What a service that is written to does not tell."""
    service = source.service if source.served == "service" else None
    if service is None:
        return
    if service.change is not None and not service.versions:
        yield _untold(source, "versions", "tells no versions of a record apart")
    if service.create is not None and not service.repeats:
        yield _untold(source, "repeats", "does not know what is sent a second time")


def _untold(source: Source, what: str, said: str) -> Finding:
    """That a service does not tell something of what is written to it."""
    where = f"sources[{source.id}].service.{what}"
    return found(f"{what}-untold", of_source(source), f"the service of {source.id} {said}", where)
