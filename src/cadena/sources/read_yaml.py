"""Reading YAML as the values that it stands for, and nothing else."""

from __future__ import annotations

import datetime
from typing import Any, Final

import yaml

from cadena.model.problem import Problem

MOST_ALIASES: Final = 1000


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
        return yaml.load(raw, Loader=loader)
    except (yaml.YAMLError, RecursionError, ValueError, TypeError, OverflowError) as error:
        said = (str(error).splitlines() or [type(error).__name__])[0]
        raise Problem(name, "", f"it is neither JSON nor YAML ({said})", wanted) from None


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
