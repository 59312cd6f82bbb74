"""Sources that come into the open project: from files, from services, from a description."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import polars as pl
from msgspec.structs import replace

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.making_up import exchange
from cadena.desktop.document.selection import NewSource, SelectedScreen, SelectedSource
from cadena.model.app import ListScreen
from cadena.model.find import by_id
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.sources.import_file import Adopted, adopt, renamed
from cadena.sources.made_up import begun
from cadena.sources.read_file import typed
from cadena.sources.scaffold import MOST_OFFERED, first_offered, with_sources

if TYPE_CHECKING:
    from cadena.sources.openapi import Proposal


@dataclass
class Proposed:
    """The sources that a service offers, and those that the person has picked."""

    proposals: tuple[Proposal, ...] = ()
    picked: frozenset[str] = frozenset()


def propose(document: Document, proposals: tuple[Proposal, ...]) -> None:
    """Offer the sources of a service to pick from."""
    proposed = document.own(Proposed)
    proposed.proposals = proposals
    first = first_offered([each.source for each in proposals])[:MOST_OFFERED]
    proposed.picked = frozenset(each.id for each in first)
    document.selection = NewSource()
    document.tell(Change.SELECTION)


def pick(document: Document, name: str) -> None:
    """Pick a source that is offered, or leave it."""
    document.own(Proposed).picked ^= {name}
    document.tell(Change.SELECTION)


def take_picked(document: Document) -> None:
    """Add the sources that are picked."""
    taken = [each.id for each in document.app.sources]
    proposed = document.own(Proposed)
    picked = [
        Adopted(source, typed(source, pl.DataFrame()), form=proposal.form)
        for proposal in proposed.proposals
        if proposal.source.id in proposed.picked
        for source in (renamed(proposal.source, taken),)
    ]
    proposed.proposals, proposed.picked = (), frozenset()
    take_in(document, picked)


def add_records(document: Document, file: Path) -> None:
    """Take a data file in: a source, a list of it, and a section.

    Raises:
        Problem: when it cannot be used; nothing changes then.
    """
    if document.file is not None:
        taken = [each.id for each in document.app.sources]
        take_in(document, adopt(document.file.parent, file, taken))


def begin_with(document: Document, what: str) -> None:
    """A list of three made-up records, with its detail and a section, before there are any."""
    if document.file is None or not what.strip():
        return
    taken = [each.id for each in document.app.sources]
    try:
        take_in(document, [begun(document.file.parent, what, taken)])
    except Problem as problem:
        document.refuse(str(problem))


def begin_source(document: Document, what: str) -> Source | None:
    """A source of three made-up records, and no screen of it yet."""
    if document.file is None:
        return None
    taken = [each.id for each in document.app.sources]
    try:
        made = begun(document.file.parent, what, taken)
    except Problem as problem:
        document.refuse(str(problem))
        return None
    document.records = {**document.records, made.source.id: made.records}
    app = replace(document.app, sources=(*document.app.sources, made.source))
    document.edit(f"make up {made.source.id}", app)
    return made.source


def take_brought(document: Document, made: Adopted) -> None:
    """Take in the records that a service brought: of a source there is, or a new one."""
    source, app = made.source, document.app
    there = by_id(app.sources, source.id)
    if there is None:
        take_in(document, [made])
        return
    if there.service is None:
        exchange(document, source.id, made)
        return
    document.records = {**document.records, source.id: made.records}
    sources = tuple(source if each.id == source.id else each for each in app.sources)
    said = f"bring {source.id}"
    document.edit(said, replace(app, sources=sources), SelectedSource(source.id))


def take_in(document: Document, made: Sequence[Adopted]) -> None:
    """Add sources with a list, a detail and a section for each."""
    if not made:
        return
    # Read off the main thread, a name may have been taken in the meantime.
    taken = [each.id for each in document.app.sources]
    named = [renamed(each.source, taken) for each in made]
    made = [each.said_by(source) for source, each in zip(named, made, strict=True)]
    app = with_sources(document.app, made, document.records)
    new = {each.source.id: each.records for each in made}
    document.records = {**document.records, **new}
    first = made[0].source.id
    screens = (each for each in app.screens if isinstance(each, ListScreen))
    screen = next(each for each in screens if each.rows.source == first)
    section = next(each.id for each in app.sections if each.root == screen.id)
    document.section = section
    names = ", ".join(each.source.id for each in made)
    document.edit(f"add records {names}", app, SelectedScreen(screen.id))
    document.show_section(section)
