"""A running project made of data in one act: sources, screens, links and references."""

from __future__ import annotations

import shutil
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Final, NamedTuple

import polars as pl
from msgspec.structs import replace

from cadena.model.app import App, DetailScreen, FromField, IfOpen, Link, ListScreen, Trigger
from cadena.model.blocks import Block, FactsBlock, HeadingBlock, ListBlock, PictureBlock
from cadena.model.edits.likely_columns import likely_columns
from cadena.model.edits.wiring import Types, add_section, detail_of, list_of, new_app, with_screen
from cadena.model.edits.writing_screens import with_writing
from cadena.model.file.project_file import SUFFIX, read_app, write_app
from cadena.model.find import by_id, slug, unused
from cadena.model.listing import Condition, Listing, Row, Sort, TableColumn
from cadena.model.naming import (
    fields_of_label,
    in_braces,
    label_field,
    singular,
    words_of,
    words_said,
)
from cadena.model.outside_address import outside_address
from cadena.model.problem import Problem
from cadena.model.screen_parts import facts_that_open
from cadena.model.source import Field, Refers, Source
from cadena.model.values import FieldType
from cadena.records.reading import Progress, Reading, silent
from cadena.records.records import Records
from cadena.sources.find_references import Reference, joint_references, references
from cadena.sources.import_file import Adopted, adopt, chosen, offered_in
from cadena.sources.profile import Head, heads_in_short
from cadena.sources.read_file import typed

BACK: Final[IfOpen] = "go back to it"
LONG_TEXT: Final = 60
SHORT_TEXT: Final = 32
FEWEST_COLUMNS: Final = 4
"""With so many short fields a list stands in columns, where there is room for them."""
WELL_FILLED: Final = 0.7
MANY: Final = 5000
FEW: Final = 40
LOOKED_AT: Final = 200
"""Records by which fields are told apart."""
FEW_FIELDS: Final = 3
"""Records and fields of a table that others look things up in."""
MOST_BETWEEN: Final = 2
"""Fields of a table that joins two others, besides those."""
MOST_SKIPPED: Final = 20
MOST_OFFERED: Final = 8
"""Sources of a service that are taken where nobody has picked any."""
MOST_IN_BAR: Final = 6
MOST_LETTERS: Final = 29
"""Letters that the bar of a phone has room for in large text, all titles as long as the longest."""
APART: Final = " · "
KINDS: Final = {"text": 0, "date": 1, "date and time": 1}
PLACES: Final = tuple([each] for each in ("lat", "lon", "lng", "latitude", "longitude", "url"))


class Wishes(NamedTuple):
    """What a person has said of sources, by their names.

    Args:
        keys: the fields of the key.
        labels: the field that names a record.
        only: the sources that are wanted; none for all.
    """

    keys: Mapping[str, tuple[str, ...]] = {}
    labels: Mapping[str, str] = {}
    only: tuple[str, ...] = ()

    def granted(self, made: Sequence[Adopted]) -> list[Adopted]:
        """The sources as they are wished for.

        Raises:
            Problem: for a source or a field that is not there.
        """
        have = [each.source.id for each in made]
        for wished in (*self.keys, *self.labels, *self.only):
            if wished not in have:
                raise Problem(wished, "", "there is no such source", "one of: " + ", ".join(have))
        wanted = self.only
        if not wanted:
            # Of a description that offers very many, the first, until somebody picks others.
            left = {each.id for each in first_offered([e.source for e in made])[MOST_OFFERED:]}
            return [self._granted(e) for e in made if e.source.id not in left]
        return [self._granted(e) for e in made if e.source.id in wanted]

    def _granted(self, made: Adopted) -> Adopted:
        name, reading = made.source.id, made.records.reading
        if name not in self.keys and name not in self.labels:
            return made
        if reading is None or not reading.frame.width:
            return self._wished_for(made, self.keys.get(name, ()), self.labels.get(name, ""))
        return chosen(made.source, reading, self.keys.get(name, ()), self.labels.get(name, ""))

    @staticmethod
    def _wished_for(made: Adopted, key: Sequence[str], label: str) -> Adopted:
        """A source of a service, which has brought nothing yet, as it is wished for."""
        source, have = made.source, [field.name for field in made.source.fields]
        for name in (*key, *(fields_of_label(label) if label else ())):
            if name not in have:
                reason = f"there is no field {name}"
                raise Problem(source.id, "", reason, "one of: " + ", ".join(have))
        if len(key) > 1:
            reason = f"{len(key)} fields were named"
            raise Problem(
                source.id, "", reason, "the one field by which the service finds a record"
            )
        source = replace(source, key=key[0] if key else source.key, label=label or source.label)
        why = "you said so" if key else made.why_key
        return Adopted(source, typed(source, pl.DataFrame()), why, "you said so" if label else "")


def first_offered(sources: Sequence[Source]) -> list[Source]:
    """The sources of services: those first that others refer to, and of which single records can
    be called for; what most refer to comes first."""
    served = [each for each in sources if each.service is not None]
    named = {each.id: typed(each, pl.DataFrame()) for each in served}
    referred = Counter(each.to for each in references(named) if each.to != each.source)

    def rank(source: Source) -> tuple[bool, int]:
        has_item = source.service is not None and bool(source.service.item)
        return not (has_item and referred[source.id]), (-referred[source.id] if has_item else 1)

    return sorted(served, key=rank)


def new_project(
    folder: Path,
    files: Sequence[Path],
    name: str = "",
    progress: Progress = silent,
    wishes: Wishes | None = None,
) -> tuple[App, tuple[Adopted, ...]]:
    """Make a project in a folder of data files, and save it there; the sources that were made.

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
        made = (wishes or Wishes()).granted(made)
        app = app_of(name or folder.name.replace("-", " ").title(), made)
        file = folder / f"{slug(name or folder.name)}{SUFFIX}"
        write_app(app, file)
        # What could not be opened again is not said to be made.
        read_app(file)
    except BaseException as error:
        for each in set(folder.iterdir()) - had if folder.exists() else ():
            shutil.rmtree(each) if each.is_dir() else each.unlink(missing_ok=True)
        if is_new and folder.exists():
            folder.rmdir()
        if isinstance(error, OSError):
            raise Problem(
                str(folder), "", f"it cannot be made ({error.strerror})", "another folder"
            ) from None
        raise
    return app, tuple(made)


def app_of(name: str, made: Sequence[Adopted]) -> App:
    """An app of sources: a list and a detail of each, links by key, nested lists."""
    app = with_sources(new_app(name), made)
    titles = [len(each.title) for each in app.sections if each.in_bar]
    if len(titles) * max(titles, default=0) <= MOST_LETTERS:
        return app
    # What a bar could not show whole in large letters is behind a button, but where it is wide.
    is_many = len(titles) > MOST_IN_BAR
    some = [
        replace(arrangement, bar="button") if arrangement.panes == 1 or is_many else arrangement
        for arrangement in app.arrangements
    ]
    return replace(app, arrangements=tuple(some))


def with_sources(
    app: App, made: Sequence[Adopted], have: Mapping[str, Records] | None = None
) -> App:
    """The app with sources, screens and links for each, and for references among all.

    Args:
        have: the records of the sources that the app has already.
    """
    records = {**(have or {}), **{each.source.id: each.records for each in made}}
    made = _with_joints(made, records)
    records.update({each.source.id: each.records for each in made})
    types: Types = {each: found.types for each, found in records.items()}
    new = {each.source.id for each in made}
    found = [each for each in references(records) if {each.source, each.to} & new]
    made = [
        _with_references(each, [one for one in found if one.source == each.source.id])
        for each in made
    ]
    app = replace(app, sources=(*app.sources, *(each.source for each in made)))
    details: dict[str, DetailScreen] = {}
    in_bar = sum(each.in_bar for each in app.sections)
    shapes = with_few_of_their_own(shapes_of(made, found), found, MOST_IN_BAR - in_bar)
    shown = new | {each.source for each in found}
    every = {each: heads_in_short(records[each]) for each in shown}
    heads = {each: _apart(records[each], every[each]) for each in shown}
    for read in made:
        name = read.source.id
        told = heads[name], every[name]
        app, details[name] = _with_pair(app, types, read, told, shapes[name])
    for screen in app.screens:
        if isinstance(screen, DetailScreen):
            details.setdefault(screen.source, screen)
    for reference in found:
        if reference.to in details and reference.source in details:
            app = _with_way_up(app, reference, details)
            # A nested list is of those that hold the key, which its detail is opened with.
            if not reference.by:
                app = _with_nested(app, types, reference, heads, shapes, details)
    for read in made:
        app = with_writing(app, types, read.source, read.form)
    return app


def _apart(records: Records, every: Sequence[Head]) -> tuple[Head, ...]:
    """The heads of a source, without fields that say what its label says, or another field."""
    label = label_field(records.source, records.types)
    heads = sorted(every, key=lambda each: each.name not in fields_of_label(label))
    first = records.frame.head(LOOKED_AT)
    said: set[tuple[str | None, ...]] = set()
    kept: list[Head] = []
    for head in heads:
        column = first[head.name]
        if not isinstance(column.dtype, pl.List) and head.filled:
            texts = tuple(column.cast(pl.String))
            if texts in said:
                continue
            said.add(texts)
        kept.append(head)
    return tuple(kept)


def _with_joints(made: Sequence[Adopted], records: Mapping[str, Records]) -> list[Adopted]:
    """The sources with a field for each key of several fields that they refer to."""
    found = joint_references(records)
    joined = []
    for read in made:
        fields = list(read.source.fields)
        for joint in found:
            if joint.source == read.source.id:
                one = singular(joint.to).removesuffix("-detail")
                name = unused(f"{one}_key", [one.name for one in fields])
                refers = Refers(to=joint.to)
                fields.append(Field(name=name, made_of=joint.fields, refers=refers))
        reading = read.records.reading
        if len(fields) > len(read.source.fields) and reading is not None:
            source = replace(read.source, fields=tuple(fields))
            read = read._replace(source=source, records=typed(source, reading))
        joined.append(read)
    return joined


class Shape(NamedTuple):
    """What a source is to the others: the references that it holds, and how it is called.

    Args:
        joins: it is nothing but two or more references, and what is between them.
        is_own: it is a thing of its own, and has a section.
    """

    refers: tuple[Reference, ...]
    joins: bool
    is_own: bool


def shapes_of(made: Sequence[Adopted], found: Sequence[Reference]) -> dict[str, Shape]:
    """What each source is to the others."""
    held = {
        read.source.id: tuple(one for one in found if one.source == read.source.id) for read in made
    }
    held_by = ((each.source.id, each.source.inside) for each in made)
    inside = {name for name, within in held_by if within is not None and not within.of}
    joining = {each.source.id for each in made if _joins(each.source, held[each.source.id])}
    shapes = {}
    for read in made:
        name = read.source.id
        holders = {one.source for one in found if one.to == name} - {name, *joining, *inside}
        is_small = len(read.source.fields) <= FEW_FIELDS and len(read.records) <= FEW
        looked_up = bool(holders) and not held[name] and is_small
        is_own = not looked_up and name not in joining | inside
        shapes[name] = Shape(held[name], name in joining, is_own)
    return shapes


def with_few_of_their_own(
    shapes: Mapping[str, Shape], found: Sequence[Reference], most: int
) -> dict[str, Shape]:
    """The same with no more sections than a bar has room for, where what others lead to needs none.

    What most refer to keeps its own; so does one of each set that nothing leads to from the rest.
    """
    own = [name for name, shape in shapes.items() if shape.is_own]
    if len(own) <= max(most, 1):
        return dict(shapes)
    referred = Counter(each.to for each in found if each.to != each.source)
    own.sort(key=lambda name: -referred[name])
    kept: list[str] = []
    led_to: set[str] = set()
    for name in own:
        if name not in led_to:
            kept.append(name)
            led_to |= _led_to(name, found)
    kept += [name for name in own if name not in kept][: max(0, most - len(kept))]
    return {name: each._replace(is_own=name in kept) for name, each in shapes.items()}


def _led_to(name: str, found: Sequence[Reference]) -> set[str]:
    """The sources whose records can be come to from those of one: both ways along references."""
    seen, waiting = {name}, [name]
    while waiting:
        at = waiting.pop()
        for joint in found:
            beyond = {joint.source: joint.to, joint.to: "" if joint.by else joint.source}.get(
                at, ""
            )
            if beyond and beyond not in seen:
                seen.add(beyond)
                waiting.append(beyond)
    return seen


def _joins(source: Source, refers: Sequence[Reference]) -> bool:
    """Whether a source is nothing but what joins others: it has no name of its own."""
    held = {each.field for each in refers}
    key = set(source.key_from) or {source.key}
    others = len(source.fields) - len(held | key)
    return len(held) > 1 and (key <= held or source.label == source.key) and others <= MOST_BETWEEN


def _with_references(made: Adopted, found: Sequence[Reference]) -> Adopted:
    """A source whose fields say what they refer to."""
    return made.referring({each.field: Refers(to=each.to, by=each.by) for each in found})


def _with_pair(
    app: App,
    types: Types,
    made: Adopted,
    told: tuple[Sequence[Head], Sequence[Head]],
    shape: Shape,
) -> tuple[App, DetailScreen]:
    """A detail of a source; of a thing of its own a list as well, with the link and a section.

    Args:
        told: the fields that say something of their own, and all of them.
    """
    source, (heads, _) = made.source, told
    detail = _likely_detail(app, types, made, told, shape)
    if shape.is_own:
        listing = list_of(app, types, source)
        row = likely_row(source, heads, types[source.id], shape.refers)
        order = (Sort(field=label_field(source, types[source.id])),)
        # What is made up is numbered, and stands as it is.
        is_sorted = len(made.records) < MANY and source.made_up is None
        rows = replace(listing.rows, row=row, sort=order if is_sorted else ())
        rows = _in_columns(rows, source, heads, types[source.id])
        listing = replace(listing, rows=rows)
        app, _ = add_section(with_screen(app, listing), listing)
        app = with_screen(app, detail)
        link = _by_key(app, Trigger(screen=listing.id), detail, source, "beside")
        return replace(app, links=(*app.links, link)), detail
    return with_screen(app, detail), detail


def _in_columns(
    rows: Listing,
    source: Source,
    heads: Sequence[Head],
    types: Mapping[str, FieldType],
    but: str = "",
) -> Listing:
    """The list in columns, where there is enough that is short: where these have no room, its
    rows are shown.

    Args:
        but: a field that is the same on every row, and is not said.
    """
    short = [e.name for e in heads if _is_short(e) and e.name not in (source.key, but)]
    if len(short) < FEWEST_COLUMNS or rows.row.picture:
        return rows
    return replace(rows, layout="columns", columns=likely_columns(rows.row, types, short))


def _is_short(head: Head) -> bool:
    """Whether what a field holds has room in a column."""
    return (
        head.share_filled >= WELL_FILLED
        and (head.longest or 0) <= SHORT_TEXT
        and not head.type.startswith(("list of", "picture"))
        and head.distinct > 1
    )


def _is_outside(records: Records, name: str) -> bool:
    """Whether all that a field holds, of the first records, are addresses to leave for."""
    if records.types.get(name) != "text":
        return False
    filled = [each for each in records.values_of(name, LOOKED_AT) if each]
    return bool(filled) and all(outside_address(each) is not None for each in filled)


def _with_way_up(app: App, reference: Reference, details: Mapping[str, DetailScreen]) -> App:
    """The fact that refers to another record opens it."""
    child = by_id(app.screens, details[reference.source].id)
    parent = details[reference.to]
    if not isinstance(child, DetailScreen) or reference.field not in facts_that_open(child):
        return app
    trigger = Trigger(screen=child.id, on="fact", part=reference.field)
    to = by_id(app.sources, reference.to)
    field = reference.field
    if reference.by and to is not None:
        field = f"{reference.field}.{to.key}"
    key = FromField(parameter=parent.key, field=field)
    name = unused(f"{child.id}-{reference.field}", [each.id for each in app.links])
    # What refers to each other would else be opened on itself without end.
    link = Link(id=name, trigger=trigger, to=parent.id, if_open=BACK, arguments=(key,))
    return replace(app, links=(*app.links, link))


def likely_row(
    source: Source,
    fields: Sequence[Head],
    types: Mapping[str, str],
    refers: Sequence[Reference] = (),
    known: str = "",
) -> Row:
    """A row that tells records apart: label, what it refers to, short fields, a picture.

    Args:
        known: a field that is the same on every row of the list, and is not said.
    """
    label = label_field(source, types)  # type: ignore[arg-type]
    named_by = fields_of_label(label)
    held = [each.field for each in refers if each.field not in (known, *named_by)]
    pictures = [each.name for each in fields if each.type == "picture" and each.filled]
    # What has no name of its own is called by what it refers to.
    title = label if label != source.key or not held else held.pop(0)
    # Of a key that several fields make, the others tell the records of one name apart.
    parts = [each for each in source.key_from if each not in (title, label, known, *held)]
    # What is said in words says more than a measure; where on the earth says nothing on a row.
    told = sorted(fields, key=lambda each: KINDS.get(each.type, 2))
    short = [
        each.name
        for each in told
        if each.name
        not in (
            title,
            *named_by,
            known,
            source.key,
            *source.key_from,
            *pictures,
            *held,
        )
        and _is_short(each)
        and each.type != "yes/no"
        and words_of(each.name)[-1:] not in PLACES
    ]
    if title == source.key and source.key_from:
        named, parts = APART.join("{" + each + "}" for each in source.key_from), []
    else:
        named = in_braces(title)
    said = APART.join("{" + each + "}" for each in (*held[:1], *parts, *short)[:2])
    return Row(title=named, subtitle=said, picture=pictures[0] if pictures else "")


def _likely_detail(
    app: App,
    types: Types,
    made: Adopted,
    told: tuple[Sequence[Head], Sequence[Head]],
    shape: Shape,
) -> DetailScreen:
    source, (heads, fields) = made.source, told
    long = frozenset(each.name for each in fields if (each.longest or 0) > LONG_TEXT)
    # What the first records leave empty later ones may fill.
    unfilled = [each.name for each in fields if each.records and not each.filled]
    empty = frozenset(n for n in unfilled if len(made.records.gaps(n)) == len(made.records))
    detail = detail_of(app, types, source, long=long, empty=empty)
    held = {each.field for each in shape.refers}
    title = likely_row(source, heads, types[source.id], shape.refers).title
    blocks: list[Block] = []
    for block in detail.blocks:
        if isinstance(block, FactsBlock):
            names = dict.fromkeys((*(e for e in types[source.id] if e in held), *block.fields))
            leaves = tuple(each for each in names if _is_outside(made.records, each))
            opens = tuple(each for each in names if each in held)
            block = replace(block, fields=tuple(names), opens=opens, leaves=leaves)
        elif isinstance(block, HeadingBlock):
            block = replace(block, text=title)
        blocks.append(block)
    pictures = [each.name for each in fields if each.type == "picture" and each.filled]
    if pictures:
        name = unused(pictures[0], [block.id for block in blocks])
        blocks.insert(0, PictureBlock(id=name, field=pictures[0]))
    return replace(detail, title=title, blocks=tuple(blocks))


def _by_key(app: App, trigger: Trigger, detail: DetailScreen, source: Source, how: str) -> Link:
    name = unused(f"{trigger.screen}-{trigger.part or 'row'}", [each.id for each in app.links])
    key = FromField(parameter=detail.key, field=source.key)
    return Link(id=name, trigger=trigger, to=detail.id, how=how, arguments=(key,))  # type: ignore[arg-type]


def _with_nested(
    app: App,
    types: Types,
    reference: Reference,
    heads: Mapping[str, Sequence[Head]],
    shapes: Mapping[str, Shape],
    details: Mapping[str, DetailScreen],
) -> App:
    """A list of the records that refer to a detail's own, nested in it."""
    outer = by_id(app.screens, details[reference.to].id)
    source = by_id(app.sources, reference.source)
    if not isinstance(outer, DetailScreen) or source is None:
        return app
    shape = shapes.get(source.id, Shape((), False, True))
    row = likely_row(source, heads[source.id], types[source.id], shape.refers, reference.field)
    title = source.title or source.id.capitalize()
    ways = [each.to for each in shape.refers if not each.by]
    is_one_of_several = ways.count(reference.to) > 1
    block = ListBlock(
        id=unused(slug(source.id), [each.id for each in outer.blocks]),
        heading=f"{title} · {words_said(reference.field)}" if is_one_of_several else title,
        rows=Listing(
            source=source.id,
            where=(Condition(field=reference.field, argument=outer.key),),
            row=replace(row, picture=""),
            empty=f"No {title.lower()} here.",
        ),
    )
    rows = _in_columns(block.rows, source, heads[source.id], types[source.id], reference.field)
    block = replace(block, rows=rows)
    app = with_screen(app, replace(outer, blocks=(*outer.blocks, block)))
    app = _counted(app, reference)
    trigger = Trigger(screen=outer.id, part=block.id)
    other = next((e for e in shape.refers if e.field != reference.field and not e.by), None)
    if shape.joins and other is not None and other.to in details:
        # What joins two things is shown as the other: its row opens that.
        to = details[other.to]
        name = unused(f"{outer.id}-{block.id}", [each.id for each in app.links])
        key = FromField(parameter=to.key, field=other.field)
        link = Link(id=name, trigger=trigger, to=to.id, if_open=BACK, arguments=(key,))
    else:
        link = _by_key(app, trigger, details[source.id], source, "push")
        link = replace(link, if_open=BACK)
    return replace(app, links=(*app.links, link))


def _counted(app: App, reference: Reference) -> App:
    """The rows of what is referred to say how many refer to it, where there is room for it."""
    source = by_id(app.sources, reference.source)
    ways = [each.refers.to for each in source.fields if each.refers] if source is not None else []
    is_one = ways.count(reference.to) == 1
    named = reference.source if is_one else f"{reference.source}({reference.field})"
    for screen in app.screens:
        if isinstance(screen, ListScreen) and screen.rows.source == reference.to:
            row = screen.rows.row
            parts = [each for each in row.subtitle.split(APART) if each]
            if not any(each.endswith(".many}") for each in parts):
                # What is counted says more of a record than the second of its own fields.
                said = APART.join((*parts[:1], f"{{{named}.many}}"))
                counted = TableColumn(shows=f"{{{named}.many}}")
                columns = (*screen.rows.columns, counted) if screen.rows.columns else ()
                rows = replace(screen.rows, row=replace(row, subtitle=said), columns=columns)
                return with_screen(app, replace(screen, rows=rows))
    return app


def left_out(files: Sequence[Path], made: Sequence[Adopted]) -> Iterator[str]:
    """What of the descriptions of services was not taken, and why: a line each."""
    taken = {each.source.id for each in made}
    for file in files:
        offered = offered_in(file)
        if offered is None:
            continue
        yield from offered.security
        others = [e.source.id for e in offered.proposals if e.source.id not in taken]
        if others:
            yield f"{len(others)} more lists are offered, to be had by --pick: {', '.join(others)}"
        for skipped in offered.skipped[:MOST_SKIPPED]:
            yield f"skipped {skipped.path}: {skipped.why}"
        if len(offered.skipped) > MOST_SKIPPED:
            yield f"skipped {len(offered.skipped) - MOST_SKIPPED} more paths for such reasons"


def _read_otherwise(source: Source) -> Iterator[str]:
    """What in a file is not read as it plainly stands: a line each."""
    form = source.csv
    if form.skip:
        yield f"the first {form.skip} lines stand above the header and are not read"
    if not form.header:
        yield "it has no header: its columns are numbered"
    if source.inside is not None:
        inside = source.inside
        for name, said in inside.of.items():
            yield f"they stand in {inside.field} of the records whose {name} is {said}"
    if source.inside is not None and not source.inside.of:
        inside = source.inside
        yield f"they stand in {inside.field} of other records, which {inside.called} tells"
    for field in source.fields:
        if field.written:
            sign = f", {field.unit} beside it" if field.unit else ""
            yield f"{field.name} is read as {field.type}, written {field.written}{sign}"


def emptied_in(source: Source, reading: Reading) -> int:
    """How many values are written as a word for nothing, and read as empty."""
    written = [field.name for field in source.fields if field.written]
    held = (reading.frame[name] for name in written if name in reading.frame.columns)
    texts = (each for each in held if each.dtype == pl.String)
    return reading.emptied + sum(int(each.is_in(list(source.csv.gaps)).sum()) for each in texts)


def decided(app: App, made: Sequence[Adopted]) -> Iterator[str]:
    """What was decided of each source, and why: a line each."""
    for read in made:
        source = by_id(app.sources, read.source.id) or read.source
        parts = " + ".join(source.key_from) or ("row number" if source.numbered else source.key)
        why = f" ({read.why_key})" if read.why_key else ""
        counts = f"{len(read.records)} records, {len(source.fields)} fields"
        yield f"{source.id}: {counts}; key {parts}{why}"
        yield from (f"  left out: {fault}" for fault in read.records.faults)
        reading = read.records.reading
        if reading is not None and (emptied := emptied_in(source, reading)):
            words = ", ".join(source.csv.gaps)
            one = "1 value", "is"
            count, are = one if emptied == 1 else (f"{emptied:,} values", "are")
            yield f"  {count} written {words} {are} read as empty"
        yield from (f"  {line}" for line in _read_otherwise(source))
        if read.why_label:
            yield f"  called by {source.label} ({read.why_label})"
        for field in source.fields:
            if field.refers is not None:
                by = f".{field.refers.by}" if field.refers.by else ""
                yield f"  {field.name} refers to {field.refers.to}{by}"
