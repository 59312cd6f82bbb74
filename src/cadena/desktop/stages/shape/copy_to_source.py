"""The same pair on another source: the fields mapped, and the person corrects."""

from __future__ import annotations

from functools import partial

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedScreen
from cadena.desktop.widgets.words import Matter, Sentence, Word
from cadena.model.app import DetailScreen, ListScreen
from cadena.model.edits.copy_to_source import bound_fields, mapping, pair_again
from cadena.model.edits.wiring import add_section
from cadena.model.find import by_id
from cadena.model.source import Source


class Mapped(dict[str, tuple[str, dict[str, str]]]):
    """For each list that is to be had again: the other source, and its field for each field."""


def again_matter(document: Document, screen: ListScreen) -> Matter:
    """The same pair on another source: said while it is being made."""
    chosen = document.own(Mapped).get(screen.id)
    inside = partial(_about_again, document, screen)
    now = "" if chosen is None else chosen[0]
    return Matter("to be had on", now, "same pair on another source", inside)


def _about_again(document: Document, screen: ListScreen) -> list[Sentence]:
    """A choice of sources; once one is chosen, the mapping, and a way to make the pair."""
    options = [
        (each.title or each.id, partial(_choose, document, screen, each))
        for each in document.app.sources
        if each.id != screen.rows.source
    ]
    chosen = document.own(Mapped).get(screen.id)
    source = None if chosen is None else by_id(document.app.sources, chosen[0])
    text = "another source" if source is None else source.title or source.id
    said = [
        Sentence(
            "On",
            [Word("menu", text, name="source of the same pair", options=options)],
        )
    ]
    if chosen is None or source is None:
        return said
    to, fields = chosen
    words: list[Word] = []
    for field, now in fields.items():
        ways = [("nothing", partial(_map, document, screen, field, ""))]
        ways += [
            (each, partial(_map, document, screen, field, each))
            for each in document.types.get(to, {})
        ]
        words += [
            Word("text", f"{field} →"),
            Word("menu", now or "no match", name=f"{field} in {to}", options=ways),
        ]
    missing = [field for field, now in fields.items() if not now]
    said.append(Sentence("Fields", words))
    if missing:
        text = f"! No match for {', '.join(missing)}: left out, until you choose one."
        said.append(Sentence("", [Word("broken", text)]))
    said.append(
        Sentence("", [Word("mend", "Make the pair", partial(_make, document, screen, source))])
    )
    return said


def _detail(document: Document, screen: ListScreen) -> DetailScreen | None:
    link = next((each for each in document.app.links if each.trigger.screen == screen.id), None)
    found = by_id(document.app.screens, link.to) if link is not None else None
    return found if isinstance(found, DetailScreen) else None


def _choose(document: Document, screen: ListScreen, to: Source) -> None:
    bound = bound_fields(screen.rows, _detail(document, screen))
    found = mapping(document.types, screen.rows.source, to.id, bound)
    document.own(Mapped)[screen.id] = (to.id, {each.field: each.to for each in found})
    document.tell(Change.SELECTION)


def _map(document: Document, screen: ListScreen, field: str, to: str) -> None:
    source, fields = document.own(Mapped)[screen.id]
    document.own(Mapped)[screen.id] = (source, {**fields, field: to})
    document.tell(Change.SELECTION)


def _make(document: Document, screen: ListScreen, to: Source) -> None:
    _, fields = document.own(Mapped).pop(screen.id)
    app, made = pair_again(document.app, document.types, screen, to, fields)
    app, _ = add_section(app, made)
    document.edit(f"the pair of {screen.id} for {to.id}", app, SelectedScreen(made.id))
