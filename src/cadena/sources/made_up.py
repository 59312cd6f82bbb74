"""Records that are made up: by the kind of thing each field is, so many, from a seed."""

from __future__ import annotations

import random
import struct
import zlib
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any, Final

import numpy as np
import polars as pl

from cadena.model.file.disk import write_in, write_new
from cadena.model.find import slug, unused
from cadena.model.naming import singular
from cadena.model.problem import Problem
from cadena.model.source import Field, MadeUp, Source
from cadena.model.values import FieldType
from cadena.records.columns import dtype_of
from cadena.records.reading import Reading
from cadena.records.records import Records
from cadena.sources.import_file import Adopted
from cadena.sources.read_file import typed
from cadena.sources.table import (
    Table,
    grown,
    is_plain,
    table_of,
    with_column,
    without_records,
)
from cadena.sources.table_changes import record
from cadena.sources.write_json import array_of

TO_BEGIN_WITH: Final = 3
LONGEST: Final = 60
POOL: Final = 2000
"""Different texts that are made up for one field; of more records some are said again."""
PICTURES: Final = 8
KEY_OF: Final = "a key of "
NUMBERED: Final = "a numbered name"
TYPES: Final[dict[str, FieldType]] = {
    "a number in order": "whole number",
    NUMBERED: "text",
    "a person": "text",
    "a place": "text",
    "a street": "text",
    "a firm": "text",
    "a word": "text",
    "a title": "text",
    "a sentence": "text",
    "a long text": "text",
    "an e-mail address": "text",
    "a web address": "text",
    "a price": "number",
    "a count": "whole number",
    "a share": "number",
    "a date": "date",
    "a date and time": "date and time",
    "yes or no": "yes/no",
    "one of a few": "text",
    "a picture": "picture",
}
"""The kinds of things that can be made up, and the type that a field of each has."""

DAY: Final = 86_400
FIRST_DAY: Final = 19_723
"""Days from 1970 to 2024, where made-up dates begin."""
DAYS: Final = 3 * 365


def made_column(
    name: str, kind: str, of: Source, keys: Mapping[str, pl.Series], seed: int, count: int
) -> pl.Series:
    """One made-up column: the same for the same seed and name, and longer only at its end.

    Args:
        of: the source that it is made up for.
        keys: the keys of each other source.

    Raises:
        Problem: for a kind that there is not.
    """
    own = zlib.crc32(f"{seed}/{name}/{kind}".encode())
    chance = np.random.default_rng(own)
    if kind.startswith(KEY_OF):
        there = keys.get(kind.removeprefix(KEY_OF), pl.Series(dtype=pl.Int64()))
        if not len(there):
            return pl.Series(name, [None] * count, dtype=there.dtype)
        return there.gather(chance.integers(len(there), size=count)).alias(name)
    if kind not in TYPES:
        wanted = "one of: " + ", ".join(TYPES)
        raise Problem(of.id, name, f"{kind} cannot be made up", wanted)
    dtype = dtype_of(TYPES[kind])
    made: Any
    match kind:
        case "a number in order":
            made = np.arange(1, count + 1)
        case "a numbered name":
            one = singular((of.title or of.id).lower()).removesuffix("-detail").capitalize()
            made = [f"{one} {number}" for number in range(1, count + 1)]
        case "a price":
            made = np.round(np.exp(chance.normal(3.5, 1.0, size=count)), 2)
        case "a count":
            made = chance.integers(0, 500, size=count)
        case "a share":
            made = np.round(chance.random(count), 3)
        case "a date":
            days = chance.integers(FIRST_DAY, FIRST_DAY + DAYS, size=count).astype(np.int32)
            return pl.Series(name, days, dtype=pl.Int32()).cast(pl.Date())
        case "a date and time":
            seconds = chance.integers(FIRST_DAY * DAY, (FIRST_DAY + DAYS) * DAY, size=count)
            return pl.Series(name, seconds * 1_000_000).cast(pl.Datetime("us"))
        case "yes or no":
            made = chance.random(count) < 0.5
        case "a picture":
            return _of_pool(name, [picture_name(each) for each in range(PICTURES)], chance, count)
        case _:
            pool = _texts(kind, own, min(count, POOL), of)
            return _of_pool(name, pool, chance, count)
    return pl.Series(name, made, dtype=dtype)


def _of_pool(name: str, pool: list[str], chance: np.random.Generator, count: int) -> pl.Series:
    """Texts of a pool: each once, as far as they go, then any."""
    texts = pl.Series(name, pool, dtype=pl.String())
    if count <= len(pool):
        return texts.head(count)
    return pl.concat([texts, texts.gather(chance.integers(len(pool), size=count - len(pool)))])


def _texts(kind: str, seed: int, count: int, of: Source) -> list[str]:
    """So many made-up texts of a kind; those of fewer records are the first of those of more."""
    from faker import Faker

    fake = Faker("en_US")
    fake.seed_instance(seed)
    plain = random.Random(seed)
    makes: dict[str, Callable[[], str]] = {
        "a person": fake.name,
        "a place": fake.city,
        "a street": lambda: fake.street_address().replace("\n", ", "),
        "a firm": fake.company,
        "a word": fake.word,
        "a title": lambda: fake.sentence(plain.randint(2, 5)).rstrip("."),
        "a sentence": lambda: fake.sentence(plain.randint(6, 14)),
        "a long text": lambda: fake.paragraph(plain.randint(3, 9)),
        "an e-mail address": fake.ascii_safe_email,
        "a web address": lambda: f"https://example.org/{fake.slug()}",
    }
    if kind == "one of a few":
        few = [fake.word() for _ in range(5)]
        return [plain.choice(few) for _ in range(count)]
    return [makes[kind]() for _ in range(count)]


def made_up_records(source: Source, keys: Mapping[str, pl.Series]) -> Reading:
    """The records of a source that is made up.

    Raises:
        Problem: for a kind that there is not.
    """
    made = source.made_up or MadeUp()
    columns = [
        made_column(field.name, made.kinds[field.name], source, keys, made.seed, made.count)
        if field.name in made.kinds
        else pl.Series(field.name, [None] * made.count, dtype=dtype_of(field.type))
        for field in source.fields
        if not field.made_of and not (source.key_from and field.name == source.key)
    ]
    return Reading(pl.DataFrame(columns))


def with_made_up(
    table: Table, records: Records, source: Source, keys: Mapping[str, pl.Series]
) -> Table:
    """A table of as many records as a source is to have, with what is made up of them; what was
    typed in other fields stays.

    Raises:
        Problem: for a kind that there is not.
    """
    made = source.made_up or MadeUp()
    missing = made.count - table.frame.height
    table = grown(table, records, max(0, missing))
    table = without_records(table, range(made.count, table.frame.height))
    for name, kind in made.kinds.items():
        column = made_column(name, kind, source, keys, made.seed, made.count)
        table = with_made_column(table, records, column)
    return table


def with_made_column(table: Table, records: Records, column: pl.Series) -> Table:
    """A table with the values of one field made up.

    Raises:
        Problem: where that field is made of others.
    """
    name = column.name
    if name not in table.columns:
        if name not in records.types or not is_plain(records.source, name):
            raise Problem(records.source.id, name, f"{name} is made of others", "a change of those")
        table = with_column(table, name, records.types[name])
    return table.with_frame(table.frame.with_columns(column))


def begun(folder: Path, what: str, taken: Iterable[str]) -> Adopted:
    """A source of three made-up records, written into a project's folder.

    Args:
        what: what its list shows, in a person's words: huts.
        taken: the names of the sources there are.

    Raises:
        Problem: where that is no name, or the disk does not take the file.
    """
    said = " ".join(what.split())
    if not any(map(str.isalnum, said)) or len(said) > LONGEST:
        raise Problem("the list", "", f'"{said[:LONGEST]}" came', "what it shows, such as huts")
    name = unused(slug(said), taken)
    stem = unused(name, (each.stem for each in folder.iterdir()))
    source = Source(
        id=name,
        title=said.capitalize(),
        file=f"{stem}.json",
        key="id",
        label="name",
        fields=(Field(name="id", type="whole number"), Field(name="name")),
        made_up=MadeUp(kinds={"id": "a number in order", "name": NUMBERED}),
    )
    reading = made_up_records(source, {})
    table = table_of(reading)
    rows = (record(table, at) for at in range(table.frame.height))
    write_new(folder, source.file, array_of(rows))
    return Adopted(source, typed(source, reading), "counted up", 'called "name"')


def picture_name(number: int) -> str:
    """The file of one of the made-up pictures."""
    return f"made-up-{number + 1}.png"


def write_pictures(folder: Path) -> None:
    """Write the made-up pictures into a project's folder, where they are not yet.

    Raises:
        Problem: when the disk does not take them.
    """
    for number in range(PICTURES):
        if not (folder / picture_name(number)).exists():
            write_in(folder, picture_name(number), _picture(number))


def _picture(number: int) -> bytes:
    """Hills under a sky, as a PNG (ISO 15948) of 320 × 240."""
    chance = np.random.default_rng(number)
    x, y = np.arange(320), np.arange(240)[:, None]
    hue = number / PICTURES
    sky = np.stack([200 + 40 * hue + 0 * x, 215 - 30 * hue + 0 * x, 235 - 60 * hue + 0 * x], axis=1)
    image = np.repeat(sky[None, :, :], 240, axis=0)
    for depth in range(4):
        waves = sum(
            chance.uniform(6, 26) * np.sin(x / chance.uniform(18, 70) + chance.uniform(0, 6))
            for _ in range(3)
        )
        shade = np.array([60 + 90 * hue, 110 - 40 * hue, 90 + 50 * hue]) * (1.25 - 0.22 * depth)
        image = np.where((y > 95 + 32 * depth + waves)[:, :, None], shade, image)
    rows = np.clip(image, 0, 255).astype(np.uint8).reshape(240, -1)
    raw = b"".join(b"\0" + row.tobytes() for row in rows)
    head = struct.pack(">IIBBBBB", 320, 240, 8, 2, 0, 0, 0)
    chunks = ((b"IHDR", head), (b"IDAT", zlib.compress(raw, 9)), (b"IEND", b""))
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        for kind, data in chunks
    )
