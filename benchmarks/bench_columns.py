"""A table of twelve columns over a million rows: opened, and jumped in."""

from __future__ import annotations

import polars as pl
from bench_core import million_app
from msgspec.structs import replace
from pytest_benchmark.fixture import BenchmarkFixture

from builders import with_screen
from cadena.engine import events as do
from cadena.engine.session import sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import ListScreen
from cadena.model.listing import TableColumn
from cadena.scene.lay_out import lay_out

WINDOW = sized(1600, 900)


def table(million: pl.DataFrame) -> WiredApp:
    made = million_app(million)
    huts = next(each for each in made.app.screens if isinstance(each, ListScreen))
    names = [*million.columns] * 12
    columns = tuple(TableColumn(shows=each, least=60) for each in names[:12])
    rows = replace(huts.rows, layout="columns", columns=columns, where=())
    app = replace(with_screen(made.app, huts.id, rows=rows), arrangements=())
    return WiredApp(app, made.as_read)


def test_a_table_of_a_million_rows_opens(
    benchmark: BenchmarkFixture, million: pl.DataFrame
) -> None:
    """Its order is there: as for rows, it is found once."""
    app = table(million)
    session, _ = start(app, WINDOW)
    lay_out(app, session, WINDOW)

    def opens() -> None:
        session, _ = start(app, WINDOW)
        assert sum(each.kind == "head" for each in lay_out(app, session, WINDOW).boxes) == 12

    benchmark(opens)


def test_a_table_of_a_million_rows_is_jumped_in(
    benchmark: BenchmarkFixture, million: pl.DataFrame
) -> None:
    app = table(million)
    session, _ = start(app, WINDOW)
    at = 0.0

    def jumps() -> None:
        nonlocal at
        at = (at + 7_654_321) % 40_000_000
        after = step(app, session, do.Scroll(to=at)).session
        assert len(lay_out(app, after, WINDOW).boxes) > 200

    benchmark(jumps)
