"""What the board shows as reached: the rest of it is dimmed."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass
class Lit:
    """The screens and links that are lit, and the arrangement that they are reached in."""

    is_on: bool = False
    column: str = ""
    screens: frozenset[str] = frozenset()
    links: frozenset[str] = frozenset()

    def dims_link(self, name: str) -> bool:
        """Whether what is reached is lit, and this link is not of it."""
        return self.is_on and name not in self.links

    def dims_screen(self, name: str) -> bool:
        """Whether what is reached is lit, and this screen is not of it."""
        return self.is_on and name not in self.screens
