"""Walks in words: what is done, step by step."""

from __future__ import annotations

from collections.abc import Iterable

from cadena.engine import events as do
from cadena.engine.events import Event
from cadena.runs.walks.in_words import event_in_words


def moves_in_words(events: Iterable[Event]) -> list[str]:
    """Events in words; what happens by itself meanwhile is left out, and repeats are counted."""
    lines: list[tuple[str, int]] = []
    for event in events:
        if isinstance(event, do.Wait):
            continue
        said = event_in_words(event)
        if lines and lines[-1][0] == said:
            lines[-1] = said, lines[-1][1] + 1
        else:
            lines.append((said, 1))
    return [said if times == 1 else f"{said}, {times} times" for said, times in lines]
