"""Walks in words: what is done, step by step."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from cadena.engine import events as do
from cadena.engine.events import Event, in_short
from cadena.model.values import in_brief

PLAIN: Final[dict[type, str]] = {
    do.Back: "back",
    do.Save: "save",
    do.Cancel: "cancel",
    do.Kill: "the process is ended",
    do.Restore: "and comes back",
    do.Relaunch: "started cold",
    do.Fold: "fold",
    do.Unfold: "open the fold",
    do.Turn: "turn",
    do.PressOutside: "press outside",
    do.SlideList: "slide the list in",
}


def event_in_words(event: Event) -> str:
    """What an event is, as short as a person would say it."""
    if type(event) in PLAIN:
        return PLAIN[type(event)]
    match event:
        case do.Choose():
            return f"choose {in_brief(event.key)}"
        case do.Press():
            return f"press {event.button}"
        case do.Act():
            return f"{event.action} {in_brief(event.key)}"
        case do.OpenFact():
            return f"open {event.fact}"
        case do.Type():
            return f"type {event.field}"
        case do.GoTo():
            return f"go to {event.section}"
        case do.Visit():
            return f"visit {event.address}"
        case do.Resize():
            return f"resize to {event.width:g} × {event.height:g}"
        case do.Wait():
            return "answers come"
        case do.Decide():
            return "yes" if event.yes else "no"
        case do.Refresh():
            return f"a refresh of {event.source}"
        case do.Search():
            return f"search {event.text}" if event.text else "search nothing"
    return in_short(event, "value", "to", "source")


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
