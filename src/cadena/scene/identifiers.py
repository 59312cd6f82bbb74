"""What tells a box from all others in a tree of accessible elements (docs/driving.md).

A name, and after ``:`` which of its kind; what stands on a row says after ``@`` of which list and
which row that is. Any toolkit can set such a text (``AccessibleId`` of AT-SPI 2).
"""

from __future__ import annotations

import json
from typing import Any, Final

from cadena.engine import events as do
from cadena.scene.scene import Box

PASSING: Final = "passing"
QUESTION: Final = "question"
TITLE: Final = "title"


def as_json(value: Any) -> str:
    """A value as JSON, as a page has it."""
    return json.dumps(value, ensure_ascii=False)


def identifier(name: str, value: Any = "", part: str | None = None, key: Any = None) -> str:
    """An element by its name, which of them it is, and of which list and row.

    >>> identifier("button", "edit"), identifier("action", "keep", "", "mor")
    ('button:edit', 'action:keep@:"mor"')
    """
    made = name if value == "" else f"{name}:{value}"
    if part is not None:
        made += f"@{part}"
    return made if key is None else f"{made}:{as_json(key)}"


def identifier_of(box: Box) -> str:
    """What tells a box; nothing where nobody has to find it."""
    match box.does:
        case do.Choose():
            return identifier("row", as_json(box.key))
        case do.Pick(key=key):
            return identifier("pick", "", box.part, key)
        case do.Act(action=action, key=key) if box.kind == "row action":
            return identifier("action", action, box.part, key)
        case do.Act(action=action):
            return identifier("action", action)
        case do.OpenMenu(key=None, list=part):
            return identifier("orders", part)
        case do.OpenMenu(key=key):
            return identifier("more", "", box.part, key)
        case do.SortBy(by=by, list=part) if box.kind == "head":
            return identifier("head", by[0].field if by else "", part)
        case do.SortBy():
            return identifier("order", box.text)
        case do.ShowGroup(title=title, list=part):
            return identifier("group", title, part)
        case do.Type(field=field) if box.kind == "option":
            return identifier("choice", f"{field}:{as_json(box.key)}")
        case do.Type(field=field) if box.kind == "button":
            return identifier("empty", field)
        case do.Edit(fields=fields):
            return identifier("in-place", next(iter(fields), ""))
        case None:
            return _of_what_is_said(box)
    return _of_press(box.does)


def _of_what_is_said(box: Box) -> str:
    if box.kind == "row":
        return identifier("row", as_json(box.key))
    if box.kind in ("title", "title centred"):
        return TITLE
    return {"removed": PASSING, "question": QUESTION}.get(box.kind, "")


def _of_press(event: do.Event) -> str:
    """What is pressed, by what it does."""
    name = str(event.__struct_config__.tag).replace(" ", "-")
    match event:
        case do.Press(button=which):
            return identifier("button", which)
        case do.OpenFact(fact=which):
            return identifier("fact", which)
        case do.OpenField(field=which) | do.Type(field=which):
            return identifier("field" if isinstance(event, do.Type) else "open-field", which)
        case do.Neighbour(by=by):
            return identifier("neighbour", by)
        case do.TurnPage(to=which):
            return identifier("page", which)
        case do.Search(list=which):
            return identifier("search", which)
        case do.GoTo(section=which):
            return identifier("section", which)
        case do.ActOnPicked(action=which):
            return identifier("act-on-picked", which)
        case do.LetGo(list=which) | do.PickAll(list=which):
            return identifier(name, which)
        case do.Divide(pane=pane):
            return identifier("divider", pane)
        case do.Settle(take=take, field=field):
            return identifier("settle", f"{take} {field}".strip())
        case do.SendAgain() | do.GiveUp() | do.GoBackTo():
            return identifier("unsent", str(event.__struct_config__.tag))
        case do.Decide(yes=yes):
            return identifier("answer", "yes" if yes else "no")
        case do.PressOutside() | do.CloseMenu():
            return "outside"
        case do.Retry():
            return "retry"
        case do.SlideList():
            return "slide"
    return name
