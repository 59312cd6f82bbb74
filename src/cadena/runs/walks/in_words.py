"""The steps of a walk as a person would say them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from msgspec import UNSET
from msgspec.structs import asdict

from cadena.engine import events as do
from cadena.engine.events import Event, in_short
from cadena.engine.wired import WiredApp
from cadena.model.naming import label_text
from cadena.model.values import in_brief
from cadena.records.template import called
from cadena.runs.walks.walk import NOTHING_CHOSEN, Expectation, Expected

LEAVES: Final = "leaves the app"
PLAIN: Final[dict[type, str]] = {
    do.Back: "back",
    do.Forward: "forward",
    do.PutAway: "put away what is said",
    do.PickAll: "pick all",
    do.LetGo: "let all go",
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
        case do.OpenField():
            return f"choose for {event.field}"
        case do.Pick():
            return f"pick {in_brief(event.key)}"
        case do.PickTo():
            return f"pick to {in_brief(event.key)}"
        case do.ActOnPicked():
            return f"{event.action} all that is picked"
        case do.Neighbour():
            return "the next" if event.by > 0 else "the one before"
        case do.Type():
            return f"type {event.field}"
        case do.GoTo():
            return f"go to {event.section}"
        case do.Visit():
            return f"visit {event.address}"
        case do.Resize():
            return f"resize to {event.width:g} × {event.height:g}"
        case do.Divide():
            return f"give pane {event.pane + 1} {event.to:g} dp"
        case do.Wait():
            return "answers come"
        case do.Decide():
            return "yes" if event.yes else "no"
        case do.Refresh():
            return f"a refresh of {event.source}"
        case do.Search():
            return f"search {event.text}" if event.text else "search nothing"
    return in_short(event, "value", "to", "source")


def step_in_words(app: WiredApp, step: Event | Expectation) -> str:
    """A step in words: choose Morenna in Huts; expect Huts and Morenna on display."""
    if isinstance(step, Expectation):
        return f"expect {' · '.join(_expected(app, step.expect)) or 'nothing'}"
    screen = getattr(step, "screen", "")
    part = getattr(step, "list", "")
    said = event_in_words(step)
    key = getattr(step, "key", None)
    if key is not None and isinstance(step, do.Choose | do.Act | do.Pick | do.PickTo):
        said = said.replace(in_brief(key), record_called(app, screen, part, key))
    if isinstance(step, do.Type):
        said = f"type {in_brief(step.to) if step.to not in (None, '') else 'nothing'}"
        said += f" into {step.field}"
    where = [each for each in (part, screen_called(app, screen)) if each]
    return f"{said} in {' of '.join(where)}" if where else said


def screen_called(app: WiredApp, name: str) -> str:
    """A screen as its title says it, else by its name."""
    screen = app.screens.get(name)
    title = "" if screen is None else screen.title
    return title if title and "{" not in title else name


def record_called(app: WiredApp, screen: str, part: str, key: Any) -> str:
    """The record of a row by its label, else by its key."""
    listings = app.listings.get(screen) or {}
    listing = listings.get(part)
    records = None if listing is None else app.as_read.get(listing.source)
    record = None if records is None else records.by_key(key)
    if listing is None or records is None or record is None:
        return in_brief(key)
    named = called(label_text(records.source, records.types), record)
    return in_brief(named) if named else in_brief(key)


def _expected(app: WiredApp, expected: Expected) -> Iterator[str]:
    """What is expected, each in few words."""
    for name, value in asdict(expected).items():
        if value is UNSET:
            continue
        match name:
            case "display" | "chain" | "shows":
                screens = [
                    each if each == NOTHING_CHOSEN else screen_called(app, each) for each in value
                ]
                yield {
                    "display": f"{' and '.join(screens) or 'nothing'} on display",
                    "chain": f"the chain {' › '.join(screens)}",
                    "shows": f"{' and '.join(screens)} among what is on display",
                }[name]
            case "chosen":
                for screen, key in value.items():
                    row = "nothing" if key is None else record_called(app, screen, "", key)
                    yield f"{row} chosen in {screen_called(app, screen)}"
            case "back":
                yield f"back to {value}" if value is not None else f"back {LEAVES}"
            case "never":
                yield f"never ({' · '.join(_expected(app, value))})"
            case _:
                yield f"{name.replace('_', ' ')} {_brief(value)}".strip()


def _brief(value: Any) -> str:
    if value is None:
        return "nothing"
    if isinstance(value, dict):
        return ", ".join(f"{name} is {_brief(each)}" for name, each in value.items())
    if isinstance(value, tuple):
        return ", ".join(map(_brief, value))
    if hasattr(value, "__struct_fields__"):
        told = {n: e for n, e in asdict(value).items() if e not in ("", (), None) and e != {}}
        return _brief(told)
    return in_brief(value)
