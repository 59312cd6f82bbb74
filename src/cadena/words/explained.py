"""What can be chosen, each in half a sentence: said where it is chosen, and where it is asked."""

from __future__ import annotations

from typing import Final

from cadena.model.app import How
from cadena.model.part import Lifetime

HOWS: Final[dict[How, tuple[str, str]]] = {
    "beside": (
        "beside if room, else push",
        "stands beside its list; covers it in a small window",
    ),
    "push": ("push", "covers what is there, and back uncovers it"),
    "replace": ("replace", "takes the place of what is there, so that back goes past it"),
    "modal": ("modal", "lies over everything until it is done or left"),
    "popover": ("popover", "a small sheet over what it is about; in a small window a modal"),
}
"""How a screen opens: its name, and what that does (rules.md, 5)."""

LIFETIMES: Final[dict[Lifetime, str]] = {
    "view": "it goes when nobody sees it any more",
    "entry": "it stays while its screen is open, and goes with the process",
    "saved": "it comes back when the system had ended the app and restores it",
    "stored": "it is there on every later start",
}
"""How long a piece of state lives (rules.md, 6)."""

LIVES: Final[tuple[tuple[Lifetime, str], ...]] = (
    ("view", "while it is seen"),
    ("entry", "while it is open"),
    ("saved", "through a kill"),
    ("stored", "for good"),
)
"""The same, as short as a sentence says it."""
