"""The contract as data: screens, what they are opened with, and what the windows make of them."""

from __future__ import annotations

from typing import Any, Final

import msgspec

from cadena.deliver.described import plain
from cadena.engine.layout.panes import areas_in
from cadena.engine.rules.display import arrangement_for
from cadena.engine.rules.saved_state import SavedEntry
from cadena.engine.rules.window_change import window_of
from cadena.engine.session import Stored
from cadena.engine.wired import WiredApp
from cadena.model.address import fault_of_template
from cadena.model.app import Argument, FromField, How, Link, NamedWindow, Parameter
from cadena.model.find import slug
from cadena.model.listing import Listing
from cadena.model.windows import windows_of

FORMAT: Final = 1
TEXT: Final = {"type": "string"}


def routes_json(app: WiredApp) -> dict[str, Any]:
    """The routes of an app as plain values; see ``routes_schema``."""
    model = app.app
    return {
        "format": FORMAT,
        "app": model.name,
        "start": model.start or next(iter(app.sections), ""),
        "sections": [
            {
                "id": section.id,
                "title": section.title,
                "root": section.root,
                "in_bar": section.in_bar,
                **_address(section.address),
            }
            for section in app.sections.values()
        ],
        "screens": [
            {
                "id": each.id,
                "title": each.title,
                "kind": each.__struct_config__.tag,
                "parameters": [_parameter(parameter) for parameter in each.parameters],
                **_address(each.address),
            }
            for each in model.screens
        ],
        "lists": [
            _list_json(screen, part, listing)
            for screen, listings in app.listings.items()
            for part, listing in listings.items()
        ],
        "links": [_link(app, each) for each in model.links],
        "values": [{"id": each.id, "type": each.type, "keep": each.keep} for each in model.values],
        "arrangements": [plain(each) for each in app.arrangements],
        "windows": [_window(app, each) for each in windows_of(model)],
    }


def _address(template: str) -> dict[str, str]:
    is_sound = bool(template) and fault_of_template(template) is None
    return {"address": template} if is_sound else {}


def _parameter(parameter: Parameter) -> dict[str, Any]:
    made: dict[str, Any] = {
        "name": parameter.name,
        "type": parameter.type,
        "need": parameter.need,
    }
    if parameter.default is not None:
        made["default"] = parameter.default
    if parameter.key_of:
        made["key_of"] = parameter.key_of
    return made


def _list_json(screen: str, part: str, listing: Listing) -> dict[str, Any]:
    """Which records a list shows, in which fields it is searched, and how it is sorted."""
    return {
        "screen": screen,
        "part": part,
        "source": listing.source,
        "records": f"records/{slug(listing.source)}.json",
        "search": list(listing.search),
        "sort": [plain(each) for each in listing.sort],
        "where": [plain(each) for each in listing.where],
        **({} if listing.limit is None else {"limit": listing.limit}),
    }


def _link(app: WiredApp, link: Link) -> dict[str, Any]:
    return {
        "id": link.id,
        "from": {"screen": link.trigger.screen, "on": link.trigger.on, "part": link.trigger.part},
        "to": link.to,
        "how": link.how,
        "if_open": link.if_open,
        **({} if link.when is None else {"when": plain(link.when)}),
        "arguments": [_argument(app, link, each) for each in link.arguments],
    }


def _argument(app: WiredApp, link: Link, argument: Argument) -> dict[str, Any]:
    """An argument; one that is the key of the row, or of the screen's record, says so."""
    made: dict[str, Any] = plain(argument)
    if isinstance(argument, FromField):
        part = app.part_of(link.trigger)
        listing = None if part is None else app.listings.get(link.trigger.screen, {}).get(part)
        screen = app.screens.get(link.trigger.screen)
        source = listing.source if listing is not None else getattr(screen, "source", "")
        known = app.sources.get(source)
        made["is_key"] = known is not None and known.key == argument.field
    return made


def _window(app: WiredApp, named: NamedWindow) -> dict[str, Any]:
    """A named window: which arrangement it has, and where its panes lie when all are shown."""
    window = window_of(named)
    arrangement = arrangement_for(app, window)
    areas = areas_in(arrangement, window, arrangement.panes)
    said = ("x", "width", "y", "height") if arrangement.lie == "down" else ("x", "width")
    return {
        "name": named.name,
        "width": named.width,
        "height": named.height,
        **({} if named.fold is None else {"fold": named.fold}),
        "arrangement": arrangement.id,
        "vectors": slug(named.name),
        "panes": [{name: round(getattr(each, name), 2) for name in said} for each in areas],
    }


def routes_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of ``routes.json``."""
    parameter = _object(
        {
            "name": TEXT,
            "type": TEXT,
            "need": {"enum": ["required", "default", "none"]},
            "default": {},
            "key_of": TEXT,
        },
        ("name", "type", "need"),
    )
    argument = {"type": "object", "required": ["from", "parameter"]}
    trigger = _object({"screen": TEXT, "on": TEXT, "part": TEXT}, ("screen", "on", "part"))
    sizes = {each: {"type": "number"} for each in ("x", "width", "y", "height")}
    pane = _object(sizes, ("x", "width"))
    number = {"type": "number", "exclusiveMinimum": 0}
    properties = {
        "format": {"const": FORMAT},
        "app": TEXT,
        "start": TEXT,
        "sections": _list(
            {"id": TEXT, "title": TEXT, "root": TEXT, "in_bar": {"type": "boolean"}},
            {"address": TEXT},
        ),
        "screens": _list(
            {
                "id": TEXT,
                "title": TEXT,
                "kind": {"enum": ["list", "detail", "form"]},
                "parameters": {"type": "array", "items": parameter},
            },
            {"address": TEXT},
        ),
        "lists": _list(
            {
                "screen": TEXT,
                "part": TEXT,
                "source": TEXT,
                "records": TEXT,
                "search": {"type": "array", "items": TEXT},
                "sort": {"type": "array", "items": {"type": "object", "required": ["field"]}},
                "where": {"type": "array", "items": {"type": "object", "required": ["field"]}},
            },
            {"limit": {"type": "integer", "minimum": 1}},
        ),
        "links": _list(
            {
                "id": TEXT,
                "from": trigger,
                "to": TEXT,
                "how": msgspec.json.schema(How),
                "if_open": TEXT,
                "arguments": {"type": "array", "items": argument},
            }
        ),
        "values": _list({"id": TEXT, "type": TEXT, "keep": TEXT}),
        "arrangements": {"type": "array", "items": {"type": "object", "required": ["id"]}},
        "windows": _list(
            {
                "name": TEXT,
                "width": number,
                "height": number,
                "arrangement": TEXT,
                "vectors": TEXT,
                "panes": {"type": "array", "items": pane},
            },
            {"fold": number},
        ),
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Cadena routes",
        **_object(properties, tuple(properties)),
    }


def _object(properties: dict[str, Any], required: tuple[str, ...]) -> dict[str, Any]:
    return {
        "type": "object",
        "properties": properties,
        "required": list(required),
        "additionalProperties": False,
    }


def _list(required: dict[str, Any], more: dict[str, Any] | None = None) -> dict[str, Any]:
    items = _object({**required, **(more or {})}, tuple(required))
    return {"type": "array", "items": items}


def saved_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of what is saved of a running app (rules.md, 6)."""
    (entry, stored), parts = msgspec.json.schema_components((SavedEntry, Stored))
    chain = _object(
        {
            "section": TEXT,
            "entries": {"type": "array", "items": entry},
            "asked": {"type": "boolean"},
        },
        ("section", "entries"),
    )
    properties = {
        "section": TEXT,
        "chains": {"type": "array", "items": chain},
        "values": {"type": "object"},
        "stored": {"type": "array", "items": stored},
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "What is saved of a running app",
        **_object(properties, ()),
        "$defs": parts,
    }
