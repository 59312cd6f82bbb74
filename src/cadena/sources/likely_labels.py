"""The likely label of records: the field that names each to a person."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Final, NamedTuple

import polars as pl

from cadena.model.naming import singular, words_of
from cadena.records.records import Records
from cadena.sources.profile import Head, heads_in_short

NAMES: Final[dict[str, float]] = {
    "name": 5.0,
    "title": 5.0,
    "label": 4.5,
    "headline": 4.5,
    "subject": 4.0,
    "caption": 4.0,
    "username": 3.5,
    "login": 3.0,
    "summary": 3.0,
    "email": 2.5,
    "guest": 2.5,
    "description": 1.5,
    "text": 1.0,
    "code": 1.0,
    "slug": 0.5,
}
"""How much a word at the end of a name says that its field is a name."""
PART: Final = frozenset({"first", "last", "middle", "given", "family", "short", "nick", "alt"})
"""Words before it that say that it is only a part of a name."""
OF_OTHERS: Final = frozenset({"file", "host", "user", "owner", "type", "class", "region", "path"})
"""Words before it that say that something else is named."""
NOT_NAMES: Final = re.compile(r"(id|url|uri|href|link|path|hash|md5|sha1?|guid|uuid|image|icon)$")
PARTS: Final = {"given": {"first", "given", "fore"}, "family": {"last", "family", "sur"}}
"""Words that a name is said in two parts by, as they are said one after the other."""
FEW_NAMES: Final = 0.05
FEW_DIFFERENT: Final = 0.2
MANY_NAMES: Final = 200
"""Fewer than so many different texts, for so many records each, name a kind and no record."""
MOST_TIMES: Final = 0.5
"""The share of different times, for them to tell records apart."""
WELL_FILLED: Final = 0.6
"""The share of records that have a name, at least."""
LONG: Final = 80
LOOKED_AT: Final = 200
ADDRESS: Final = r"^[a-z][a-z0-9+.-]*://|^/|^#[0-9a-fA-F]{3,8}$"


class LikelyLabel(NamedTuple):
    """A field that could be the label, how well, and why."""

    field: str
    score: float
    why: str


def likely_labels(
    records: Records, heads: Sequence[Head] = (), key: Sequence[str] = ()
) -> tuple[LikelyLabel, ...]:
    """The fields that could name records to a person, best first; none says the same of all.

    Args:
        heads: what is counted of the fields, where that is known.
        key: the fields of the key.
    """
    own = {records.source.id.lower(), singular(records.source.id.lower())}
    found = []
    for head in heads or heads_in_short(records):
        scored = _scored(records, head, own, tuple(key) == (head.name,))
        if scored is not None:
            found.append(scored)
    found += _of_two(records, heads or heads_in_short(records))
    return tuple(sorted(found, key=lambda each: -each.score))


def _of_two(records: Records, heads: Sequence[Head]) -> Iterator[LikelyLabel]:
    """Given and family name, where the two tell more records apart than either alone."""
    names: dict[str, Head] = {}
    for head in heads:
        words = [each for each in words_of(head.name) if each != "name"]
        word = words[-1].removesuffix("name") if words else ""
        part = next((part for part, known in PARTS.items() if word in known), None)
        if part is not None and head.type == "text" and head.share_filled >= WELL_FILLED:
            names.setdefault(part, head)
    if len(names) < len(PARTS):
        return
    first, last = (names[part] for part in PARTS)
    frame = records.frame.select(first.name, last.name)
    share = frame.n_unique() / max(1, frame.height)
    if share > max(first.share_distinct, last.share_distinct):
        score = NAMES["name"] + 2.0 * share + 1.5 * min(first.share_filled, last.share_filled)
        text = f"{{{first.name}}} {{{last.name}}}"
        why = f"{first.name} and {last.name}, {share:.0%} different"
        yield LikelyLabel(text, score, why)


def _scored(records: Records, head: Head, own: set[str], is_key: bool) -> LikelyLabel | None:
    words = words_of(head.name)
    is_text = head.type == "text"
    # One value on every row names none of them; a list, a picture or a yes/no names nothing.
    is_same = head.distinct <= 1 and head.records > 1
    is_date = head.type in ("date", "date and time") or words[-1:] == ["year"]
    can_be = is_text or is_date or head.type == "whole number"
    is_sparse = head.share_filled < WELL_FILLED
    if not words or is_sparse or is_same or not can_be:
        return None
    named = NAMES.get(words[-1], 0.0)
    before = set(words[:-1])
    if named and before & PART:
        named -= 1.5
    elif named and before & OF_OTHERS and not before & own:
        named -= 2.5
    elif words[-1] in own:
        named = 3.5
    if is_date and not is_text:
        if head.share_distinct < MOST_TIMES:
            return None
        return LikelyLabel(head.name, -1.0 + head.share_distinct, "the time of each")
    if not is_text:
        return LikelyLabel(head.name, -4.0, "the key") if is_key else None
    if head.share_distinct < FEW_NAMES and head.distinct < MANY_NAMES and not is_key:
        return None
    # What many records share names a kind, and hardly one of them.
    is_kind = not named and not is_key and head.share_distinct < FEW_DIFFERENT
    score = (-2.0 if is_kind else named) + 2.0 * head.share_distinct + 1.5 * head.share_filled
    length = _usual_length(records, head.name)
    if length > LONG or NOT_NAMES.search(words[-1]) or _is_address(records, head.name):
        score -= 4.0
    elif length <= 2:
        score -= 2.0
    elif length > LONG / 2:
        score -= 1.0
    if is_key and not named:
        # What stands under a name is called by it.
        score += 1.0 if words == ["key"] else -1.5
    score -= 0.25 * head.name.count(".")
    said = f'called "{words[-1]}", ' if named else ""
    return LikelyLabel(head.name, score, f"{said}{head.share_distinct:.0%} different")


def _usual_length(records: Records, name: str) -> float:
    """The middling length of the first texts."""
    return float(_first_texts(records, name).str.len_chars().median() or 0)  # type: ignore[arg-type]


def _is_address(records: Records, name: str) -> bool:
    """Whether most of the first texts are addresses, paths or colours."""
    first = _first_texts(records, name)
    return float(first.str.contains(ADDRESS).mean() or 0) > 0.5  # type: ignore[arg-type]


def _first_texts(records: Records, name: str) -> pl.Series:
    """The first texts of a field that are filled."""
    first = records.frame[name].head(LOOKED_AT).drop_nulls()
    return first.filter(first != "")
