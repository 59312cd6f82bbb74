"""Replays the vectors against a stand-in app; put your own in its place.

Run with ``python test_vectors.py``. An app that is driven takes an event and tells its chain:
the screens that are open, with their arguments. What the stand-in does not know how to take it
takes over from the vector, and is not compared. Where less than ``LEAST`` of all steps is compared, or
none at all, the test has failed: it has seen too little to say that anything is right.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from routes import SCREENS, address_of, arguments_of, read_saved, route_at, route_of, write_saved

HERE = Path(__file__).resolve().parent.parent
CONTRACT = json.loads((HERE / "routes.json").read_text(encoding="utf-8"))
LEAST = 0.1
"""The least share of all steps that must be compared; raise it with what your app can take."""
ROOTS = {each["id"]: each["root"] for each in CONTRACT["sections"]}


class StandIn:
    """An app of one pane: a chain for each section, and links that carry keys."""

    def __init__(self) -> None:
        self.section = CONTRACT["start"]
        self.chains: dict[str, list[Any]] = {}

    @property
    def chain(self) -> list[Any]:
        return self.chains.setdefault(self.section, [])

    def become(self, line: dict[str, Any]) -> None:
        """Take a state over from a vector."""
        self.section = line["section"]
        routes = [route_of(each["screen"], each["arguments"]) for each in line["chain"]]
        self.chains[self.section] = routes

    def take(self, event: dict[str, Any]) -> bool:
        """Whether the event is one that this app knows how to take."""
        match event["do"]:
            case "choose":
                return self.follow("row", event.get("list", ""), event, event["key"])
            case "press":
                return self.follow("button", event["button"], event, None)
            case "back":
                if len(self.chain) > 1:
                    self.chain.pop()
                return len(self.chain) >= 1
        return False

    def follow(self, on: str, part: str, event: dict[str, Any], key: Any) -> bool:
        """Open what a link opens from the last screen, if it carries nothing but keys."""
        here = self.chain[-1]
        wanted = {"screen": here.SCREEN, "on": on, "part": part}
        link = next((each for each in CONTRACT["links"] if each["from"] == wanted), None)
        is_here = event.get("screen", here.SCREEN) == here.SCREEN
        if link is None or not is_here or link["how"] == "replace":
            return False
        given: dict[str, Any] = {}
        for argument in link["arguments"]:
            if argument["from"] == "argument":
                given[argument["parameter"]] = arguments_of(here).get(argument["argument"])
            elif argument["from"] == "field" and argument["is_key"] and key is not None:
                given[argument["parameter"]] = key
            else:
                return False
        opened = route_of(link["to"], given)
        if opened not in self.chain:
            self.chain.append(opened)
        return True


def is_plain(line: dict[str, Any]) -> bool:
    """Whether nothing but the event itself has happened: nothing asked, refused, or by rule."""
    kinds = {each["kind"] for each in line["notes"]}
    return not line["question"] and kinds <= {"opened", "back", "arranged"}


def replayed(file: Path) -> tuple[int, int]:
    """How many steps of a vector were compared, and how many were taken over."""
    app = StandIn()
    compared = over = 0
    for text in file.read_text(encoding="utf-8").splitlines():
        line = json.loads(text)
        event = line["event"]
        if event is not None and is_plain(line) and app.take(event):
            got = [{"screen": e.SCREEN, "arguments": arguments_of(e)} for e in app.chain]
            keep = ("screen", "arguments")
            wanted = [{name: each[name] for name in keep} for each in line["chain"]]
            assert got == wanted, f"{file.name}, after {event}: {got} in place of {wanted}"
            compared += 1
        elif line["chain"]:
            app.become(line)
            over += 1
        for route in app.chain:
            told = address_of(route)
            assert told is None or address_of(route_at(told)) == told, told
    return compared, over


def round_trip() -> None:
    """What is saved is read again as it was; what does not fit is dropped with what follows."""
    screen = next(iter(SCREENS))
    chain = {"section": "a", "entries": [{"screen": "no such screen"}, {"screen": screen}]}
    text = json.dumps({"section": "a", "chains": [chain], "values": {"x": 1}})
    assert read_saved(text).chains[0].entries == []
    assert read_saved(write_saved(read_saved(text))) == read_saved(text)
    assert read_saved("{").chains == []


if __name__ == "__main__":
    round_trip()
    one_pane = {e["vectors"] for e in CONTRACT["windows"] if len(e["panes"]) == 1}
    counts = [
        replayed(file)
        for file in sorted((HERE / "vectors").glob("*.jsonl"))
        if file.name.split(".")[-2] in one_pane
    ]
    compared = sum(one for one, _ in counts)
    steps = compared + sum(two for _, two in counts)
    print(f"compared {compared} of {steps} steps, taken over {steps - compared}")
    if compared == 0 or compared < LEAST * steps:
        sys.exit(f"too little was compared to say anything: at least {LEAST:.0%} is wanted")
