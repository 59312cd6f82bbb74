"""Finding references: fields whose values tell the records of another source, or of their own."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Final, NamedTuple

import polars as pl

from cadena.model.naming import singular, words_of
from cadena.records.columns import all_different
from cadena.records.records import Records

MOST_MISSING: Final = 0.1
"""The share of values that may lead nowhere, where the name says what they refer to."""
FEW_MISSING: Final = 0.05
"""The share where only the values say it, and there are many of them."""
MANY: Final = 20
NAMED: Final = 3
"""What a name says that names the source itself."""
GENERIC: Final = frozenset(
    {"id", "key", "code", "no", "nr", "number", "name", "title", "type"}
    | {"ordinal", "index", "rank", "position", "order", "row", "sequence", "level", "status"}
)
"""Names of keys that say nothing of what they are keys of."""
FEW: Final = 50
LOOKED_THROUGH: Final = 50_000
OF_ITS_OWN: Final = frozenset(
    {"parent", "manager", "boss", "leader", "supervisor", "reports", "previous", "next", "root"}
)
"""Words that say that a field refers to a record of its own source."""


class _Target(NamedTuple):
    """What a field could lead to: values that tell records apart.

    Args:
        few: all of them, where they are few enough to be looked through as they are.
    """

    values: pl.Series
    is_text: bool
    few: frozenset[object] | None


Targets = dict[tuple[str, str], _Target | None]


class Reference(NamedTuple):
    """``field`` of ``source`` holds what ``by`` of ``to`` does; so many lead nowhere.

    ``by`` is empty for the key.
    """

    source: str
    field: str
    to: str
    dangling: int
    by: str = ""


def references(all_records: Mapping[str, Records]) -> tuple[Reference, ...]:
    """The references between sources: those that are declared, else found in their values.

    Numbers are keys of many things: of a field of numbers its name must say what it refers
    to. Texts say it by being keys, all of them; where the name says it too, a few may dangle.
    """
    found = []
    targets: Targets = {}
    for name, records in all_records.items():
        declared = {each.name: each.refers for each in records.source.fields if each.refers}
        for field in records.frame.columns:
            refers = declared.get(field)
            if refers is not None:
                if refers.to in all_records:
                    is_key = refers.by == all_records[refers.to].source.key
                    found.append(Reference(name, field, refers.to, 0, "" if is_key else refers.by))
            else:
                # A key that is another's as well is one by the other's very name alone.
                is_key = field == records.source.key and not records.source.key_from
                if len(records):
                    reference = _refers(all_records, targets, name, field, NAMED if is_key else 0)
                else:
                    reference = None if is_key else _by_name(all_records, name, field)
                found += [reference] if reference is not None else []
    return tuple(found)


class Joint(NamedTuple):
    """Fields of ``source`` that together hold the key of ``to``, in the order of its parts."""

    source: str
    fields: tuple[str, ...]
    to: str


def joint_references(all_records: Mapping[str, Records]) -> tuple[Joint, ...]:
    """The references to keys that several fields make: those declared, and those of fields of the
    same names whose values, taken together, are all keys there."""
    return tuple(
        Joint(name, fields, to)
        for to, target in all_records.items()
        if len(target.source.key_from) > 1 and len(target)
        for name, records in all_records.items()
        if name != to and len(records)
        if (fields := _joint(records, target))
    )


def _joint(records: Records, target: Records) -> tuple[str, ...]:
    """The fields that hold the parts of a key of another source; none where they do not."""
    parts = target.source.key_from
    declared = () if records.reading is None else records.reading.joins
    for table, held in declared:
        is_it = table == target.source.at and records.source.file == target.source.file
        if is_it and set(held) == set(parts):
            return tuple(held[each] for each in parts)
    is_same = set(records.source.key_from) == set(parts)
    has_all = all(records.types.get(each) == target.types[each] for each in parts)
    # Of two that are told apart alike, the one of fewer records says more of the other.
    if not has_all or (is_same and len(records) >= len(target)):
        return ()
    here = records.frame.select(parts).drop_nulls().unique()
    there = target.frame.select(parts).unique()
    return parts if len(here) and here.join(there, on=parts, how="anti").is_empty() else ()


def _refers(
    all_records: Mapping[str, Records], targets: Targets, name: str, field: str, least: int
) -> Reference | None:
    """What a field refers to: what its name says best, of all that its values allow.

    Args:
        targets: what was found to tell records apart, by source and field.
        least: how much its name must say at least (see ``_score_by_name``).
    """
    column = all_records[name].frame[field]
    filled = column.drop_nulls()
    if column.dtype == pl.String:
        filled = filled.filter(filled != "")
    if column.dtype not in (pl.String, pl.Int64) or not len(filled):
        return None
    is_text = column.dtype == pl.String
    best: tuple[int, Reference] | None = None
    for to, records in all_records.items():
        if least and to == name:
            continue
        for by in _told_by(records, field) if to != name else _key_of(records):
            if (to, by) not in targets:
                targets[to, by] = _target(records, by)
            target = targets[to, by]
            if target is None or target.is_text != is_text:
                continue
            said = _score_by_name(field, name, to, records, by)
            if said is None or said < least or not (said or is_text):
                continue
            dangling = _dangling(filled, target, bool(said))
            if dangling is not None and (best is None or said > best[0]):
                key = "" if by == records.source.key else by
                best = (said, Reference(name, field, to, dangling, key))
    return None if best is None else best[1]


def _by_name(all_records: Mapping[str, Records], name: str, field: str) -> Reference | None:
    """What a field of a service that brought nothing yet refers to: by its name alone."""
    if all_records[name].source.served != "service":
        return None
    kind = all_records[name].types[field]
    for to, records in all_records.items():
        key = records.source.key
        if to != name and records.types.get(key) == kind and _is_of(field, to):
            return Reference(name, field, to, 0)
    return None


def _is_of(field: str, source: str) -> bool:
    """Whether a field is called as one of a source, or its key: hut, hut_id, hutId."""
    one = "_".join(words_of(singular(source).removesuffix("-detail")))
    return "_".join(words_of(field)) in {one, f"{one}_id", f"{one}_key"}


def _told_by(records: Records, field: str) -> Iterator[str]:
    """The fields that records are told by: the key, and one of this very name or named a code.

    Those that do not tell records apart are left out where their values are looked at.
    """
    key = records.source.key
    if not len(records):
        return
    yield from _key_of(records)
    called = _by_last_word(tuple(records.frame.columns))
    alike = called.get("".join(words_of(field)[-1:]), ())
    named = (field,) if field in records.types and field not in alike else ()
    yield from (each for each in (*named, *alike) if each != key)


def _key_of(records: Records) -> tuple[str, ...]:
    """The key of records, where it is a field of theirs."""
    is_made = records.source.key_from or records.source.numbered or not len(records)
    return () if is_made else (records.source.key,)


@lru_cache(maxsize=256)
def _by_last_word(fields: tuple[str, ...]) -> dict[str, tuple[str, ...]]:
    """Fields by the last word of their names."""
    found: dict[str, list[str]] = {}
    for field in fields:
        found.setdefault("".join(words_of(field)[-1:]), []).append(field)
    return {word: tuple(named) for word, named in found.items()}


def _score_by_name(field: str, name: str, to: str, records: Records, by: str) -> int | None:
    """How much a name says that a field refers to a source: 0 is nothing, none forbids it.

    A name says it by that of the source (hut, hut_id, from_hut), or by being that of the key
    that it holds (film_id), or by the words of a record of its own source (manager).
    """
    words, own = words_of(field), OF_ITS_OWN & set(words_of(field))
    if to == name:
        return NAMED if own or _names(words, to) else None
    if _names(words, to):
        return NAMED
    if field == by and field.lower() not in GENERIC:
        return 2
    if words == [*words_of(singular(to)), *words_of(by)]:
        return NAMED
    return 0 if by == records.source.key else None


def _names(words: list[str], source: str) -> bool:
    """Whether words name a source: hut, hut_id, from_hut, hutid."""
    wanted, said = _names_of(source), "_".join(words)
    if wanted & {said, said.removesuffix("_id"), said.removesuffix("id")}:
        return True
    return any(f"_{each}_" in f"_{said}_" for each in wanted)


@lru_cache(maxsize=1024)
def _names_of(source: str) -> frozenset[str]:
    """What a record of a source, and all of them, are called."""
    return frozenset("_".join(words_of(each)) for each in (source, singular(source)))


def _target(records: Records, by: str) -> _Target | None:
    """The values of a field that tells records apart; none of one that does not."""
    values = records.frame[by].drop_nulls()
    if values.dtype not in (pl.String, pl.Int64) or not all_different(values):
        return None
    few = frozenset(values) if len(values) <= LOOKED_THROUGH else None
    return _Target(values, values.dtype == pl.String, few)


def _dangling(filled: pl.Series, target: _Target, is_named: bool) -> int | None:
    """How many values lead nowhere; none where that is too many for a reference."""
    if not is_named:
        first = filled.head(FEW)
        is_met = (
            not target.few.isdisjoint(first)
            if target.few is not None
            else bool(first.is_in(target.values.implode()).any())
        )
        if not is_met or _are_digits(filled):
            return None
    dangling = int((~filled.is_in(target.values.implode())).sum())
    share = MOST_MISSING
    if not is_named:
        share = FEW_MISSING if dangling and filled.n_unique() >= MANY else 0.0
    return dangling if dangling <= len(filled) * share else None


def _are_digits(texts: pl.Series) -> bool:
    """Whether texts are numbers: those are the keys of many things."""
    return texts.dtype == pl.String and bool(texts.head(FEW).str.contains(r"^\d+$").all())
