"""Files that are the same for every app."""

from __future__ import annotations

from importlib import resources


def fixed(name: str) -> str:
    """The text of a file that is the same for every app."""
    return (resources.files("cadena.deliver.contract") / "static" / name).read_text()
