"""What can be selected in Shape."""

from __future__ import annotations

from cadena.desktop.document.selection import OnScreen, SelectedScreen


class SelectedList(OnScreen, frozen=True):
    """A list on a screen; ``part`` is the block of a nested one."""

    part: str = ""


class SelectedSlot(SelectedList, frozen=True):
    """A slot of a list's row."""

    slot: str = ""


class SelectedBlock(OnScreen, frozen=True):
    """A block of a detail."""

    block: str


class SelectedFormField(SelectedScreen, frozen=True):
    """A field of a form."""

    field: str
