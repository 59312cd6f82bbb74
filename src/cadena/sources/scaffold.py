"""A running project made of data in one act: sources, screens, links and references."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Final

from msgspec.structs import replace

from cadena.model.app import App, DetailScreen, FromField, Link, Trigger
from cadena.model.blocks import ListBlock, PictureBlock
from cadena.model.edits.wiring import Types, add_section, detail_of, list_of, new_app, with_screen
from cadena.model.file.project_file import SUFFIX, write_app
from cadena.model.find import by_id, slug, unused
from cadena.model.listing import Condition, Listing, Row, Sort
from cadena.model.naming import label_field
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.records.reading import Progress, silent
from cadena.records.records import Records
from cadena.sources.find_references import Reference, references
from cadena.sources.import_file import Adopted, adopt
from cadena.sources.profile import Head, heads_in_short

LONG_TEXT: Final = 60
SHORT_TEXT: Final = 32
WELL_FILLED: Final = 0.7
MANY: Final = 5000


def new_project(
    folder: Path, files: Sequence[Path], name: str = "", progress: Progress = silent
) -> App:
    """Make a project in a folder of data files, and save it there.

    Raises:
        Problem: when a file cannot be used, or the folder holds a project already; nothing
            is left behind then.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.glob(f"*{SUFFIX}"))):
        raise Problem(str(folder), "", "there is a project in it already", "another folder")
    had = set(folder.iterdir()) if folder.exists() else set()
    is_new = not folder.exists()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        made: list[Adopted] = []
        for number, file in enumerate(files):
            done = number / max(1, len(files))
            share = 1 / max(1, len(files))
            made += adopt(
                folder,
                file,
                [each.source.id for each in made],
                lambda part, done=done, share=share: progress(done + part * share),  # type: ignore[misc]
            )
        app = app_of(name or folder.name.replace("-", " ").title(), made)
        write_app(app, folder / f"{slug(name or folder.name)}{SUFFIX}")
    except BaseException as error:
        for each in set(folder.iterdir()) - had if folder.exists() else ():
            each.unlink(missing_ok=True)
        if is_new and folder.exists():
            folder.rmdir()
        if isinstance(error, OSError):
            raise Problem(
                str(folder), "", f"it cannot be made ({error.strerror})", "another folder"
            ) from None
        raise
    return app


def app_of(name: str, made: Sequence[Adopted]) -> App:
    """An app of sources: a list and a detail of each, links by key, nested lists."""
    return with_sources(new_app(name), made)


def with_sources(
    app: App, made: Sequence[Adopted], have: Mapping[str, Records] | None = None
) -> App:
    """The app with sources, screens and links for each, and for references among all.

    Args:
        have: the records of the sources that the app has already.
    """
    for each in made:
        app = replace(app, sources=(*app.sources, each.source))
    records = {**(have or {}), **{each.source.id: each.records for each in made}}
    types: Types = {each: found.types for each, found in records.items()}
    new = {each.source.id for each in made}
    found = [each for each in references(records) if {each.source, each.to} & new]
    details: dict[str, DetailScreen] = {}
    for each in made:
        refers = frozenset(one.field for one in found if one.source == each.source.id)
        app, details[each.source.id] = _with_pair(app, types, each, refers)
    for screen in app.screens:
        if isinstance(screen, DetailScreen):
            details.setdefault(screen.source, screen)
    for reference in found:
        # A nested list is of those that hold the key, which its detail is opened with.
        if reference.to in details and reference.source in details and not reference.by:
            app = _with_nested(app, types, reference, records, details)
    return app


def _with_pair(
    app: App, types: Types, made: Adopted, refers: frozenset[str]
) -> tuple[App, DetailScreen]:
    """A list of a source, its detail, the link between them, and a section.

    Args:
        refers: fields that hold keys of other sources, and say nothing to a person.
    """
    source = made.source
    every = heads_in_short(made.records)
    fields = tuple(each for each in every if each.name not in refers)
    listing = list_of(app, types, source)
    rows = replace(
        listing.rows,
        row=likely_row(source, fields, types[source.id]),
        sort=(Sort(field=label_field(source, types[source.id])),)
        if len(made.records) < MANY
        else (),
    )
    listing = replace(listing, rows=rows)
    app, _ = add_section(with_screen(app, listing), listing)
    detail = _likely_detail(app, types, source, every)
    app = with_screen(app, detail)
    link = _by_key(app, Trigger(screen=listing.id), detail, source, "beside")
    return replace(app, links=(*app.links, link)), detail


def likely_row(source: Source, fields: Sequence[Head], types: Mapping[str, str]) -> Row:
    """A row that tells records apart: label, two short fields that are well filled, a picture."""
    label = label_field(source, types)  # type: ignore[arg-type]
    pictures = [each.name for each in fields if each.type == "picture" and each.filled]
    short = [
        each
        for each in fields
        if each.name not in (label, source.key, *pictures)
        and each.share_filled >= WELL_FILLED
        and (each.longest or 0) <= SHORT_TEXT
        and not each.type.startswith("list of")
        and each.distinct > 1
    ]
    said = " · ".join("{" + each.name + "}" for each in short[:2])
    return Row(title="{" + label + "}", subtitle=said, picture=pictures[0] if pictures else "")


def _likely_detail(app: App, types: Types, source: Source, fields: Sequence[Head]) -> DetailScreen:
    long = frozenset(each.name for each in fields if (each.longest or 0) > LONG_TEXT)
    detail = detail_of(app, types, source, long=long)
    pictures = [each.name for each in fields if each.type == "picture" and each.filled]
    if not pictures:
        return detail
    picture = PictureBlock(id=pictures[0], field=pictures[0])
    return replace(detail, blocks=(picture, *detail.blocks))


def _by_key(app: App, trigger: Trigger, detail: DetailScreen, source: Source, how: str) -> Link:
    name = unused(f"{trigger.screen}-{trigger.part or 'row'}", [each.id for each in app.links])
    key = FromField(parameter=detail.key, field=source.key)
    return Link(id=name, trigger=trigger, to=detail.id, how=how, arguments=(key,))  # type: ignore[arg-type]


def _with_nested(
    app: App,
    types: Types,
    reference: Reference,
    records: Mapping[str, Records],
    details: Mapping[str, DetailScreen],
) -> App:
    """A list of the records that refer to a detail's own, nested in it."""
    outer = by_id(app.screens, details[reference.to].id)
    inner = details[reference.source]
    source = records[reference.source].source
    if not isinstance(outer, DetailScreen):
        return app
    fields = tuple(
        each for each in heads_in_short(records[source.id]) if each.name != reference.field
    )
    row = replace(likely_row(source, fields, types[source.id]), picture="")
    block = ListBlock(
        id=unused(slug(source.id), [each.id for each in outer.blocks]),
        heading=source.title or source.id.capitalize(),
        rows=Listing(
            source=source.id,
            where=(Condition(field=reference.field, argument=outer.key),),
            row=row,
            empty=f"No {(source.title or source.id).lower()} here.",
        ),
    )
    app = with_screen(app, replace(outer, blocks=(*outer.blocks, block)))
    link = _by_key(app, Trigger(screen=outer.id, part=block.id), inner, source, "push")
    return replace(app, links=(*app.links, link))
