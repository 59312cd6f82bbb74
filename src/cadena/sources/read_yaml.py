"""Reading YAML as the values that it stands for, and nothing else."""

from __future__ import annotations

import datetime
from typing import Any, Final

import yaml

from cadena.model.problem import Problem

MOST_ALIASES: Final = 1000
MOST_VALUES: Final = 5_000_000
"""Values of a document, those of aliases each time that they stand in it."""


def values_in(raw: bytes, name: str, wanted: str) -> Any:
    """A YAML document as values; what could make much of little is refused (see YAML bombs).

    Args:
        wanted: what it should be, for messages.

    Raises:
        Problem: where it is none, or is written with merge keys or very many aliases.
    """
    loader = getattr(yaml, "CSafeLoader", yaml.SafeLoader)
    try:
        aliases = 0
        for event in yaml.parse(raw, Loader=loader):
            aliases += isinstance(event, yaml.AliasEvent)
            is_merge = False
            if isinstance(event, yaml.ScalarEvent) and event.value == "<<":
                is_merge = bool(event.implicit[0])
            if aliases > MOST_ALIASES or is_merge:
                said = "merge keys" if is_merge else f"over {MOST_ALIASES:,} aliases"
                line = 0 if event.start_mark is None else event.start_mark.line + 1
                reason = f"it has {said}"
                raise Problem(name, f"line {line}", reason, "YAML that says the same as JSON")
        made = _within_bounds(yaml.load(raw, Loader=loader), name)
        return made
    except (yaml.YAMLError, RecursionError, ValueError, TypeError, OverflowError) as error:
        said = (str(error).splitlines() or [type(error).__name__])[0]
        raise Problem(name, "", f"it is neither JSON nor YAML ({said})", wanted) from None


def _within_bounds(tree: Any, name: str) -> Any:
    """A tree of so many values at most, each counted as often as an alias says it again.

    Raises:
        Problem: for more, or where it holds itself.
    """
    counts: dict[int, int] = {}
    open_: set[int] = set()

    def count(node: Any) -> int:
        if not isinstance(node, dict | list | tuple | set):
            return 1
        if id(node) in open_:
            raise Problem(name, "", "a part of it holds itself", "YAML that says the same as JSON")
        if id(node) not in counts:
            open_.add(id(node))
            held = node.values() if isinstance(node, dict) else node
            counts[id(node)] = 1 + sum(map(count, held))
            open_.remove(id(node))
        return counts[id(node)]

    if count(tree) > MOST_VALUES:
        reason = f"its aliases make over {MOST_VALUES:,} values of it"
        raise Problem(name, "", reason, "YAML that says what it holds once")
    return tree


def as_json(tree: Any) -> Any:
    """Values of YAML as those of JSON: names are texts, and so are dates and times."""
    if isinstance(tree, dict):
        return {str(name): as_json(each) for name, each in tree.items()}
    if isinstance(tree, list | tuple | set):
        return [as_json(each) for each in tree]
    if isinstance(tree, datetime.date):
        return tree.isoformat()
    if isinstance(tree, bytes):
        return None
    return tree
