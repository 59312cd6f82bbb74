"""What the strip says of the app itself: its name, what all screens share, what it runs on."""

from __future__ import annotations

import re
from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.in_brief import brief
from cadena.desktop.widgets.locale_words import locale_sentences
from cadena.desktop.widgets.words import Matter, Sentence, Word, calmly
from cadena.model.app import HOST, AppValue
from cadena.model.find import by_id, slug, unused


def about_app(document: Document) -> list[Sentence]:
    """The app in a sentence."""
    app = document.app

    def change(what: str, **changed: Any) -> None:
        document.edit(what, replace(document.app, **changed), document.selection)

    bound = Bound(app, change, document.refuse)
    sections = [(each.id, each.title) for each in app.sections]
    start = next((title for name, title in sections if name == app.start), "")
    lost = next((title for name, title in sections if name == app.fallback), "")
    matters = [
        bound.matter("name", app.name, lambda: [Sentence("", [_name(bound)])]),
        bound.matter(
            "start",
            start,
            lambda: [Sentence("", [bound.menu("start", sections, "section to start with")])],
        ),
        bound.matter(
            "fallback",
            lost,
            lambda: [Sentence("", [bound.menu("fallback", sections, "section for the lost")])],
        ),
        bound.matter("locale", app.locale, partial(locale_sentences, document)),
        bound.matter("platform", brief(app.platform.rebuilds), partial(_platform, document)),
        bound.inner("platform").matter(
            "frames_from", brief(app.platform.frames_from), partial(_hosts, document)
        ),
        *(
            Matter(
                "sharing" if not at else "and",
                f"{value.id} : {value.type}",
                f"app-wide {value.id}",
                partial(_value, document, value.id),
            )
            for at, value in enumerate(app.values)
        ),
        Matter("", "", "another app-wide value", partial(_adding, document), "app-wide value"),
    ]
    return calmly([Word("subject", "The app")], matters)


def _name(bound: Bound) -> Word:
    return bound.text("name", "what the app is called", "name of the app")


def _hosts(document: Document) -> list[Sentence]:
    """The hosts that frames may show, one after another."""
    platform = document.app.platform

    def take(text: str) -> None:
        hosts = tuple(each.strip() for each in text.split(",") if each.strip())
        odd = next((each for each in hosts if not re.fullmatch(HOST, each)), None)
        if odd is not None:
            document.refuse(f'"{odd}" is no host, such as huts.example or 127.0.0.1:8000')
            return
        app = replace(document.app, platform=replace(platform, frames_from=hosts))
        document.edit("hosts of frames", app, document.selection)

    now = ", ".join(platform.frames_from)
    return [Sentence("Hosts", [Word("line", now, take, name="hosts of frames, one by one")])]


def _platform(document: Document) -> list[Sentence]:
    """What the system under the app does."""
    from cadena.desktop.widgets.struct_editor import struct_sentences

    def take(what: str, made: Any) -> None:
        app = replace(document.app, platform=made)
        document.edit(f"{what} of the platform", app, document.selection)

    return struct_sentences(document.app.platform, take, document.refuse, of="platform: ")


def _value(document: Document, name: str) -> list[Sentence]:
    """An app-wide value: its type, what it is at first, and how long it lives."""
    from cadena.desktop.widgets.struct_editor import struct_sentences

    value = by_id(document.app.values, name)
    if value is None:
        return []

    def take(what: str, made: Any) -> None:
        if made.id != name:
            document.refuse("An app-wide value keeps its name: links and lists go by it.")
            return
        values = tuple(made if each.id == name else each for each in document.app.values)
        app = replace(document.app, values=values)
        document.edit(f"{what} of {name}", app, document.selection)

    def drop() -> None:
        left = tuple(each for each in document.app.values if each.id != name)
        document.edit(f"no app-wide {name}", replace(document.app, values=left), document.selection)

    said = struct_sentences(value, take, document.refuse, of=f"{name}: ")
    return [*said, Sentence("", [Word("do", "Remove it", drop, name=f"remove app-wide {name}")])]


def _adding(document: Document) -> list[Sentence]:
    def add(text: str) -> None:
        if not any(map(str.isalnum, text)):
            return
        name = unused(slug(text), [each.id for each in document.app.values])
        values = (*document.app.values, AppValue(id=name))
        app = replace(document.app, values=values)
        document.edit(f"app-wide {name}", app, document.selection)
        document.wants_editor.emit(f"app-wide {name}")

    return [Sentence("Called", [Word("line", "", add, name="name of the app-wide value")])]
