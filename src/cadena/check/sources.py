"""Checks of records: the key is there and tells every record from every other."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from itertools import islice

from cadena.check.finding import Finding, Subject, first_few
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
    for each in islice(look(source, records), MOST_PICTURES):
        named.setdefault(each.field, []).append(each)
    is_cut = sum(map(len, named.values())) == MOST_PICTURES
    for field, pictures in named.items():
        missing = [each.name for each in pictures if each.file is None]
        looked = f"the first {len(pictures)}" if is_cut else f"{len(pictures)}"
        if missing:
            yield Finding(
                "picture-missing",
                "weakens",
                f"sources[{source.id}].fields[{field}]",
                f"{source.id}: {len(missing)} of {looked} pictures of {field} cannot be "
                f"shown: {first_few(missing)}",
                "nothing is shown in their place",
                "put them into the project's folder under these names, or take the field for text",
                subject=Subject("source", source.id, field),
            )


def others_findings(
    sources: Mapping[str, Source], paths: Mapping[str, tuple[str, ...]]
) -> Iterator[Finding]:
    """What is counted, and does not come at once."""
    for name, steps in others_of(sources, paths).items():
        for each in steps:
            if sources[each.to].served != "file":
                yield Finding(
                    "counted-late",
                    "weakens",
                    f"sources[{each.to}].served",
                    f"{name} tell of all {each.to} that refer to them, and {each.to} answer late",
                    "only those that have come are counted, so the number can be too small",
                    f"let {name} bring the number as a field of their own, or {each.to} be there "
                    "at once",
                    subject=Subject("source", each.to),
                )


def source_findings(source: Source, records: Records) -> Iterator[Finding]:
    """What is wrong with the key of a source."""
    where = f"sources[{source.id}].key"
    if source.served == "service" and source.fields and not has_key(source):
        have = ", ".join(each.name for each in source.fields)
        yield Finding(
            "key-unsaid",
            "breaks",
            where,
            f"nothing says what tells the records of {source.id} apart: {source.key} is no field",
            "no record of it can be opened",
            f"choose the field that is different in each: one of {have}",
            subject=Subject("source", source.id),
        )
        return
    yield from _writing_findings(source)
    rows = records.gaps(source.key)
    if len(rows):
        counts = f"{len(rows)} of {len(records)} records"
        yield Finding(
            "key-gap",
            "breaks",
            where,
            f"{source.id}: {counts} have no {source.key}; the first is record {rows[0] + 1}",
            "a record without a key cannot be opened, found again or restored",
            f"fill {source.key} in every record, or choose a field that is always filled",
            subject=Subject("source", source.id),
        )
    if records.faults:
        said = "; ".join(str(each) for each in records.faults)
        yield Finding(
            "records-left-out",
            "weakens",
            f"sources[{source.id}].file",
            f"{source.id}: {said}",
            "what is not taken is on no list",
            f"mend {source.file or 'the data'} in these places",
            subject=Subject("source", source.id),
        )
    if source.numbered:
        yield Finding(
            "key-is-position",
            "weakens",
            where,
            f"{source.id}: nothing tells its records apart, and the number of the row is the key",
            "it holds only as long as the file is not sorted anew, and no record is left out",
            "choose fields that together are different in every record, or add a key to the data",
            subject=Subject("source", source.id),
        )
    if twice := records.twice():
        yield Finding(
            "key-duplicate",
            "breaks",
            where,
            f"{source.id}: {len(twice)} records share a key; one is {shown(twice[0])}",
            "the wrong record opens, and no list can say which row is chosen",
            "make the key unique, or choose a field that is",
            subject=Subject("source", source.id),
        )


def _writing_findings(source: Source) -> Iterator[Finding]:
    """What a service that is written to does not tell."""
    service = source.service if source.served == "service" else None
    if service is None:
        return
    if service.change is not None and not service.versions:
        yield _untold(
            source,
            "versions",
            "tells no versions of a record apart",
            "where two change one record, the later is not told that it writes over the earlier",
            "let it answer with an ETag and heed If-Match (RFC 9110), and say so in Gather",
        )
    if service.create is not None and not service.repeats:
        yield _untold(
            source,
            "repeats",
            "does not know what is sent a second time",
            "where an answer is lost and somebody saves again, a record can be made twice",
            "let it heed an Idempotency-Key, and say so in Gather",
        )


def _untold(source: Source, what: str, said: str, why: str, mend: str) -> Finding:
    """That a service does not tell something of what is written to it."""
    return Finding(
        f"{what}-untold",
        "weakens",
        f"sources[{source.id}].service.{what}",
        f"the service of {source.id} {said}",
        why,
        mend,
        subject=Subject("source", source.id),
    )
