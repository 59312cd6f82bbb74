"""A million rows picked and acted on at once, beside bare columns."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import polars as pl
import pytest
from bench_core import million_app
from msgspec.structs import replace
from pytest_benchmark.fixture import BenchmarkFixture

from builders import with_screen
from cadena.engine import events as do
from cadena.engine.session import sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import ListScreen
from cadena.model.listing import Button, ForSeveral, RemoveRecord, SetField
from cadena.scene.lay_out import lay_out

ACTIONS = (
    Button(
        id="move", label="Move", does=SetField(field="region", to="Sorda"), several=ForSeveral()
    ),
    Button(id="drop", label="Drop", does=RemoveRecord(), several=ForSeveral()),
)


def picking(million: pl.DataFrame) -> WiredApp:
    """A million huts, of which several can be picked."""
    made = million_app(million)
    huts = next(each for each in made.app.screens if isinstance(each, ListScreen))
    rows = replace(huts.rows, several="yes", actions=ACTIONS, where=())
    return WiredApp(with_screen(made.app, huts.id, rows=rows), made.as_read)


def columns_alone(frame: pl.DataFrame, action: str) -> Callable[[], Any]:
    """The keys in the order shown, then what is done to the records that have one of them."""
    order = frame.with_row_index("row").sort("name", maintain_order=True)["row"]

    def does() -> Any:
        keys = frame["id"].gather(order).to_list()
        picked = pl.col("id").is_in(pl.Series(keys).implode())
        if action == "drop":
            return frame.filter(~picked)
        to = pl.when(picked).then(pl.lit("Sorda")).otherwise(pl.col("region"))
        return frame.with_columns(to.alias("region"))

    return does


@pytest.mark.parametrize("action", ["move", "drop"])
@pytest.mark.parametrize("peer", ["bare", "cadena"])
def test_all_of_a_million_picked_and_acted_on(
    benchmark: BenchmarkFixture, million: pl.DataFrame, peer: str, action: str
) -> None:
    """From a list that is shown, to the list as it then is."""
    benchmark.group = f"a million picked, {action}"
    if peer == "bare":
        benchmark.pedantic(columns_alone(million, action), rounds=5, warmup_rounds=1)
        return
    app = picking(million)
    session, _ = start(app, sized(360, 780))
    lay_out(app, session, session.window)

    def anew() -> tuple[tuple[()], dict[str, Any]]:
        app.forget()
        lay_out(app, session, session.window)
        return (), {}

    def does() -> None:
        picked = step(app, session, do.PickAll()).session
        after = step(app, picked, do.ActOnPicked(action=action)).session
        lay_out(app, after, after.window)

    benchmark.pedantic(does, setup=anew, rounds=5, warmup_rounds=1)
