"""What saved state is made of, and how many bytes of it each piece takes."""

from __future__ import annotations

from typing import Any

import msgspec

from cadena.runs.keep.pieces import size_of


def sizes_of(text: str) -> dict[str, int]:
    """How many bytes each piece of a saved state takes as JSON, by where it is; largest first.

    Args:
        text: what ``saved_state`` has written.
    """
    saved: dict[str, Any] = msgspec.json.decode(text)
    found: dict[str, int] = {}
    for chain in saved.get("chains", ()):
        for entry in chain["entries"]:
            place = f"{chain['section']} › {entry['screen']}"
            if carried := entry.get("arguments"):
                found[f"{place} · carried"] = size_of(carried)
            for name, held in _parts(entry.get("view", {})):
                found[f"{place} · {name}"] = size_of(held)
    for name, value in saved.get("values", {}).items():
        found[f"value {name}"] = size_of(value)
    for name, sizes in saved.get("divided", {}).items():
        found[f"dividers of {name}"] = size_of(sizes)
    for each in saved.get("stored", ()):
        place = f"stored for {each['screen']}"
        found[place] = found.get(place, 0) + size_of(each)
    return dict(sorted(found.items(), key=lambda each: (-each[1], each[0])))


def _parts(view: dict[str, Any]) -> list[tuple[str, Any]]:
    """The pieces of view state, by name; those of a list with the list."""
    found: list[tuple[str, Any]] = []
    for name, held in view.items():
        if isinstance(held, dict) and name not in ("scroll", "draft"):
            found += [(f"{part} · {name}" if part else name, each) for part, each in held.items()]
        else:
            found.append((name, held))
    return found
