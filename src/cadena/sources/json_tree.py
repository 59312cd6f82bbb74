"""Where in a JSON document its records stand: an array wherever it is, or objects by name."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from typing import Any, Final

import jsonpointer
import msgspec

from cadena.model.find import unused
from cadena.model.problem import Problem
from cadena.model.source import Inside
from cadena.records.reading import NAMED, Fault, Progress, silent
from cadena.sources.number_texts import unlike_number

DEEPEST: Final = 8
SAMPLE: Final = 64
QUOTE: Final = ord('"')
BACKSLASH: Final = ord("\\")
JOINT: Final = "-"
"""What stands between the parts of a key that several fields make."""
ALIKE: Final = 2
"""Objects that must be alike, for what holds them to be an object of records."""
OFTEN: Final = 0.4
"""The share of records that have a field which most of them share."""
MANY_LISTS: Final = 8
MOST_EMPTY: Final = 0.1
"""The share of records that may be empty."""
MANY_VALUES: Final = 5
"""Lists, or plain values, for what holds them to be an object of records by name."""


def decoded(raw: bytes, name: str, kind: Any = Any) -> Any:
    """A JSON document as values.

    Args:
        kind: the type that is wanted: such as an array of parts that are not decoded yet.

    Raises:
        Problem: where it is none.
    """
    if not raw.strip():
        raise Problem(name, "", "the file is empty", "records; [] for none")
    try:
        return msgspec.json.decode(raw, type=kind)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise Problem(name, "", f"it is not JSON ({error})", "an array of records") from None


def found_at(tree: Any, name: str, at: str = "", is_known: bool = False) -> list[Any]:
    """The array of records at a JSON Pointer of a document.

    Args:
        is_known: it is known that there are records, so that any object is one of records: also
            where few are left of them, or they are no longer alike.

    Raises:
        Problem: where there is none.
    """
    found = pointed(tree, at, name)
    if is_mapped(found) or is_by_name(found) if is_known else holds_records(found):
        found = by_name(found) if isinstance(found, dict) else from_plain(found)
    if not isinstance(found, list):
        inside = [pointer for pointer, _ in arrays_in(tree)][:3]
        wanted = (
            f"an array, such as that at {', '.join(inside)}" if inside else "an array of records"
        )
        raise Problem(name, at or "$", holds_no_array(found), wanted)
    return found


def holds_no_array(found: Any) -> str:
    """What stands where an array of records should, in words."""
    return f"it holds {'an object' if isinstance(found, dict) else 'a single value'}"


def holds_records(tree: Any) -> bool:
    """Whether an object is one of records, each under its name: objects that are like each other,
    many lists of such, or many plain values."""
    if isinstance(tree, list):
        return is_plain(tree)
    if not isinstance(tree, dict) or len(tree) < ALIKE:
        return False
    values = list(tree.values())
    if is_by_name(tree):
        return alike(values)
    if is_by_group(tree):
        are_letters = len(tree) > ALIKE and all(len(name) <= ALIKE for name in tree)
        is_many = len(tree) >= MANY_LISTS or are_letters
        return is_many and alike([record for each in values for record in each][:SAMPLE])
    kinds = {_plain_kind(each) for each in values}
    is_one = len(kinds) == 1 or kinds == {str, list}
    return is_by_column(tree) or (len(tree) >= MANY_VALUES and is_one and None not in kinds)


def alike(records: Sequence[dict[str, Any]]) -> bool:
    """Whether records share most of their fields with most others; few of them are empty."""
    if sum(not record for record in records) > MOST_EMPTY * len(records):
        return False
    counts = Counter(name for record in records for name in record)
    least = max(ALIKE, OFTEN * len(records))
    common = {name for name, count in counts.items() if count >= least}
    shares = [len(common & record.keys()) / len(record) for record in records if record]
    return bool(shares) and sum(shares) * 2 >= len(shares)


def is_by_name(tree: Any) -> bool:
    """Whether all that an object holds are objects."""
    return isinstance(tree, dict) and all(isinstance(each, dict) for each in tree.values())


def is_by_group(tree: Any) -> bool:
    """Whether all that an object holds are lists of objects."""
    return isinstance(tree, dict) and all(
        isinstance(branch, list) and all(isinstance(record, dict) for record in branch)
        for branch in tree.values()
    )


def is_by_column(tree: Any) -> bool:
    """Whether an object holds the values of each field in a list, all as long."""
    if not isinstance(tree, dict) or len(tree) < ALIKE:
        return False
    lengths = {len(each) if _plain_kind(each) is list else -1 for each in tree.values()}
    return len(lengths) == 1 and min(lengths) > max(len(tree), MANY_VALUES)


def is_plain(tree: Any) -> bool:
    """Whether a list holds plain values alone, or rows of them that are all as long."""
    if not isinstance(tree, list) or len(tree) < MANY_VALUES:
        return False
    kinds = {_plain_kind(each) for each in tree}
    if kinds == {list}:
        return len({len(row) for row in tree}) == 1 and len(tree[0]) > 1
    return len(kinds) == 1 and kinds <= {str, float}


def from_plain(rows: list[Any]) -> list[dict[str, Any]]:
    """The records of a list of plain values, or of rows: these under the first of them, where it
    names fields."""
    if not isinstance(rows[0], list):
        return [{"value": each} for each in rows]
    first = rows[0]
    has_head = (
        all(isinstance(each, str) and each and unlike_number(each) for each in first)
        and len(set(first)) == len(first)
        and not any(each in first for row in rows[1:SAMPLE] for each in row)
        and any(not isinstance(each, str) for row in rows[1:SAMPLE] for each in row)
    )
    names = first if has_head else [f"column_{number + 1}" for number in range(len(first))]
    return [dict(zip(names, row, strict=True)) for row in rows[has_head:]]


def is_mapped(tree: Any) -> bool:
    """Whether it is an object of lists of records, or plain values: such is only read."""
    if not isinstance(tree, dict):
        return is_plain(tree)
    if is_by_name(tree):
        return False
    if is_by_group(tree):
        return len(tree) > 1
    return None not in {_plain_kind(each) for each in tree.values()}


def _plain_kind(value: Any) -> type | None:
    """What plain values are alike by: texts, numbers, or lists of either; none for others."""
    if isinstance(value, list):
        return list if all(_plain_kind(each) in (str, float) for each in value) else None
    return str if isinstance(value, str) else float if isinstance(value, int | float) else None


def by_name(tree: dict[str, Any]) -> list[dict[str, Any]]:
    """The records of an object of them; their names become the key, that of a list its group."""
    if is_by_name(tree):
        key = unused("key", {name for each in tree.values() for name in each})
        return [{key: name, **each} for name, each in tree.items()]
    if is_by_group(tree):
        group = unused("group", {name for each in tree.values() for one in each for name in one})
        return [{group: name, **record} for name, each in tree.items() for record in each]
    if is_by_column(tree):
        return [dict(zip(tree, row, strict=True)) for row in zip(*tree.values(), strict=True)]
    has_lists = any(isinstance(each, list) for each in tree.values())
    values = ([e] if has_lists and not isinstance(e, list) else e for e in tree.values())
    return [{"key": name, "value": each} for name, each in zip(tree, values, strict=True)]


def pointed(tree: Any, at: str, name: str) -> Any:
    """What a JSON Pointer (RFC 6901) points to.

    Raises:
        Problem: where there is nothing.
    """
    try:
        return jsonpointer.resolve_pointer(tree, at)
    except (jsonpointer.JsonPointerException, ValueError, TypeError) as error:
        raise Problem(
            name, at, f"it points to nothing ({error})", "a JSON Pointer into the data"
        ) from None


def arrays_in(tree: Any) -> list[tuple[str, int]]:
    """The arrays of records in a document: the pointer to each and its length.

    Those that hold like records come first, and of these the longest.
    """
    every = list(_arrays(tree, "", 0))
    # Plain values by name are records where nothing else is.
    own = [each for each in every if not is_mapped(pointed(tree, each[0], ""))] or every
    found = [(are_alike(each), pointer, len(each)) for pointer, each in own]
    found.sort(key=lambda each: (not each[0], -each[2]))
    return [(pointer, length) for _, pointer, length in found]


def are_alike(records: list[Any]) -> bool:
    """Whether there are several records, and the first of them share most of their fields."""
    first = [each for each in records[:SAMPLE] if isinstance(each, dict)]
    return ALIKE <= len(first) == len(records[:SAMPLE]) and alike(first)


def records_inside(found: Iterable[Any], inside: Inside) -> Iterator[dict[str, Any]]:
    """The records that others hold in a list, or as the one object that they are about, each with
    the key of the one that holds it."""
    records = (each for each in found if isinstance(each, dict) and each)
    for number, record in enumerate(records, 1):
        parts = [_reached(record, each) for each in inside.key]
        key = parts[0] if len(parts) == 1 else JOINT.join(map(text_of, parts)) if parts else number
        if any(text_of(_reached(record, name)) != said for name, said in inside.of.items()):
            continue
        held = _reached(record, inside.field)
        for item in held if isinstance(held, list) else [held]:
            if isinstance(item, dict):
                yield {**item, inside.called: key}


def _reached(record: dict[str, Any], path: str) -> Any:
    """What a record holds under a path, as ``owner.name``."""
    if path in record:
        return record[path]
    first, _, rest = path.partition(".")
    held = record.get(first)
    return _reached(held, rest) if rest and isinstance(held, dict) else None


def _arrays(node: Any, pointer: str, depth: int) -> Iterator[tuple[str, list[Any]]]:
    if isinstance(node, list) and node and isinstance(node[0], dict):
        yield pointer, node
    elif isinstance(node, dict) and depth < DEEPEST:
        if depth and len(node) > ALIKE and holds_records(node):
            yield pointer, by_name(node)
            return
        for key, each in node.items():
            escaped = key.replace("~", "~0").replace("/", "~1")
            yield from _arrays(each, f"{pointer}/{escaped}", depth + 1)


def first_item(raw: bytes) -> bytes:
    """The first item of an array, as it is written; nothing of one that is empty or broken."""
    depth, is_text, is_escaped = 0, False, False
    for at in range(1, len(raw)):
        letter = raw[at]
        if is_text:
            is_text = is_escaped or letter != QUOTE
            is_escaped = letter == BACKSLASH and not is_escaped
        elif letter == QUOTE:
            is_text = True
        elif letter in b"{[":
            depth += 1
        elif letter in b"}]" or (letter in b"," and not depth):
            depth -= letter in b"}]"
            if depth <= 0:
                return raw[1 : at + (letter in b"}")].strip().rstrip(b",]")
    return b""


def part_at(raw: bytes, at: str) -> bytes | None:
    """What stands at a JSON Pointer, as it is written: nothing else is decoded; none where there
    is nothing."""
    for step in at.split("/")[1:]:
        name = step.replace("~1", "/").replace("~0", "~")
        if raw.lstrip()[:1] != b"{":
            return None
        try:
            part = msgspec.json.decode(raw, type=dict[str, msgspec.Raw]).get(name)
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            return None
        if part is None:
            return None
        raw = bytes(part)
    return raw


def arrays_apart(raw: bytes, at: str = "", depth: int = 0) -> Iterator[tuple[str, int, bool]]:
    """The arrays of records in an object: the pointer to each, its length, and whether its first
    records are alike; only those are decoded.

    Raises:
        ValueError: where it may be an object of records: only all of it tells.
    """
    try:
        parts = msgspec.json.decode(raw, type=dict[str, msgspec.Raw])
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        raise ValueError(at) from None
    begun = [bytes(part).lstrip()[:1] for part in parts.values()]
    if len(parts) >= ALIKE and (set(begun) == {b"{"} or set(begun) == {b"["}):
        raise ValueError(at)
    for (name, part), first in zip(parts.items(), begun, strict=True):
        pointer = f"{at}/{name.replace('~', '~0').replace('/', '~1')}"
        if first == b"{" and depth < DEEPEST:
            yield from arrays_apart(bytes(part), pointer, depth + 1)
        elif first == b"[":
            items = msgspec.json.decode(part, type=list[msgspec.Raw])
            records = [msgspec.json.decode(item) for item in items[:SAMPLE]]
            if records and isinstance(records[0], dict):
                yield pointer, len(items), are_alike(records)


def lines_in(
    raw: bytes, name: str, progress: Progress = silent, is_known: bool = False
) -> tuple[list[Any], tuple[Fault, ...]]:
    """The records that stand on lines, and what is left out.

    Args:
        is_known: as ``columns_of``.

    Raises:
        Problem: where no line is a record.
    """
    if not raw.strip():
        raise Problem(name, "", "the file is empty", "a record a line")
    records: list[Any] = []
    places: list[str] = []
    count = 0
    lines = raw.splitlines()
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        try:
            record = msgspec.json.decode(line)
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            record = None
        if isinstance(record, dict):
            records.append(record)
        else:
            count += 1
            places.append(f"line {number}")
        if number % 4096 == 0:
            progress(0.5 * number / len(lines))
    if not records and count and not is_known:
        raise Problem(name, places[0], "it is not a record", "an object a line")
    left = (Fault(count, "lines left out, not a record", tuple(places[:NAMED])),) if count else ()
    return records, left


def flat(record: dict[str, Any], prefix: str, depth: int) -> Iterator[tuple[str, Any]]:
    for key, value in record.items():
        if isinstance(value, dict) and value and depth < DEEPEST:
            yield from flat(value, f"{prefix}{key}.", depth + 1)
        else:
            yield prefix + key, None if value == {} else value


def text_of(value: Any) -> str:
    return value if isinstance(value, str) else msgspec.json.encode(value).decode()
