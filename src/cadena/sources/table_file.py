"""Tables that are not saved, as bytes: so that what was typed outlives a crash."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping

import msgspec
import polars as pl

from cadena.records.reading import Reading
from cadena.sources.open_project import Place
from cadena.sources.table import Table

INDEX = "tables.json"


class Kept(msgspec.Struct):
    """What of a table is no column."""

    place: Place
    rows: list[int]
    columns: dict[str, str]
    is_new: bool


def to_bytes(tables: Mapping[Place, Table]) -> bytes:
    """Tables as one archive: an index, and a Parquet file for each."""
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as archive:
        index = [
            Kept(place, list(table.rows), dict(table.columns), table.is_new)
            for place, table in tables.items()
        ]
        archive.writestr(INDEX, msgspec.json.encode(index))
        for number, table in enumerate(tables.values()):
            columns = io.BytesIO()
            table.frame.write_parquet(columns)
            archive.writestr(f"{number}.parquet", columns.getvalue())
    return made.getvalue()


def from_bytes(raw: bytes) -> dict[Place, Table]:
    """The tables of such an archive.

    Raises:
        ValueError: where it is none.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as archive:
            index = msgspec.json.decode(archive.read(INDEX), type=list[Kept])
            return {
                each.place: Table(
                    Reading(pl.read_parquet(io.BytesIO(archive.read(f"{number}.parquet")))),
                    tuple(each.rows),
                    each.columns,
                    each.is_new,
                )
                for number, each in enumerate(index)
            }
    except (zipfile.BadZipFile, KeyError, msgspec.MsgspecError, pl.exceptions.PolarsError) as error:
        raise ValueError(f"it holds no tables ({error})") from None
