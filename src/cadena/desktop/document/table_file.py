"""Records that are not saved, as bytes: so that what was typed outlives a crash."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping

import msgspec
import polars as pl

from cadena.desktop.document.as_read import Rescued
from cadena.records.reading import Reading
from cadena.sources.open_project import Place
from cadena.sources.table import Table, fresh_rows

INDEX = "tables.json"


class KeptTable(msgspec.Struct):
    """What of a table is no column."""

    rows: list[int]
    columns: dict[str, str]


class Kept(msgspec.Struct):
    """Records of a place, and what they were made from."""

    place: Place
    stamp: str
    now: KeptTable
    before: KeptTable | None


def to_bytes(typed: Mapping[Place, Rescued]) -> bytes:
    """What was typed as one archive: an index, and two Parquet files for each place."""
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as archive:
        index = [
            Kept(
                place,
                each.stamp,
                _kept_table(archive, f"{number}-now", each.now),
                None
                if each.before is None
                else _kept_table(archive, f"{number}-before", each.before),
            )
            for number, (place, each) in enumerate(typed.items())
        ]
        archive.writestr(INDEX, msgspec.json.encode(index))
    return made.getvalue()


def _kept_table(archive: zipfile.ZipFile, name: str, table: Table) -> KeptTable:
    columns = io.BytesIO()
    table.frame.write_parquet(columns)
    archive.writestr(f"{name}.parquet", columns.getvalue())
    return KeptTable(list(table.rows), dict(table.columns))


def from_bytes(raw: bytes) -> dict[Place, Rescued]:
    """What was typed, of such an archive.

    Raises:
        ValueError: where it is none.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as archive:
            index = msgspec.json.decode(archive.read(INDEX), type=list[Kept])
            return {
                each.place: Rescued(
                    _table(archive, f"{number}-now", each.now),
                    None
                    if each.before is None
                    else _table(archive, f"{number}-before", each.before),
                    each.stamp,
                )
                for number, each in enumerate(index)
            }
    except (zipfile.BadZipFile, KeyError, msgspec.MsgspecError, pl.exceptions.PolarsError) as error:
        raise ValueError(f"it holds no records ({error})") from None


def _table(archive: zipfile.ZipFile, name: str, kept: KeptTable) -> Table:
    frame = pl.read_parquet(io.BytesIO(archive.read(f"{name}.parquet")))
    if frame.height != len(kept.rows) or set(frame.columns) != set(kept.columns):
        raise ValueError("its records are not whole")
    # Rows that are made from now on are others.
    fresh_rows(0, max(kept.rows, default=-1))
    return Table(Reading(frame), tuple(kept.rows), kept.columns)
