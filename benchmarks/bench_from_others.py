"""What is told of a million records that refer to 100,000, beside bare columns."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
import polars as pl
import pytest
from pytest_benchmark.fixture import BenchmarkFixture

from cadena.model.source import Field, Refers, Source
from cadena.model.values import FieldType
from cadena.records.held import held
from cadena.records.joined import joined, leads_of
from cadena.records.records import Records

HUTS, ROOMS = 100_000, 1_000_000
PATHS = {"count": "rooms.count", "sum of numbers": "rooms.sum.price"}


@pytest.fixture(scope="module")
def columns() -> dict[str, pl.DataFrame]:
    chance = np.random.default_rng(18)
    huts = pl.DataFrame({"id": np.arange(HUTS), "name": [f"Hut {n}" for n in range(HUTS)]})
    rooms = pl.DataFrame(
        {
            "id": np.arange(ROOMS),
            "hut": chance.integers(0, HUTS, ROOMS),
            "price": chance.integers(1, 9_999, ROOMS) / 100,
        }
    )
    return {"huts": huts, "rooms": rooms}


def alone(columns: Mapping[str, pl.DataFrame], path: str) -> Callable[[], Any]:
    """One grouping and one join."""
    told = pl.len() if path.endswith("count") else pl.col("price").sum()

    def does() -> Any:
        there = columns["rooms"].group_by("hut").agg(told.alias("told"))
        return columns["huts"].join(
            there, left_on="id", right_on="hut", how="left", maintain_order="left"
        )

    return does


def cadena(columns: Mapping[str, pl.DataFrame], path: str) -> Callable[[], Any]:
    refers = {"hut": Refers(to="huts")}
    sources = {
        name: Source(
            id=name,
            key="id",
            fields=tuple(Field(name=each, refers=refers.get(each)) for each in frame.columns),
        )
        for name, frame in columns.items()
    }
    kinds: dict[str, FieldType] = {"id": "whole number", "hut": "whole number", "price": "number"}
    types = {
        name: {each: kinds.get(each, "text") for each in frame.columns}
        for name, frame in columns.items()
    }
    leads = leads_of(sources, "huts", (path,), {})
    huts = held(sources["huts"], columns["huts"], types["huts"])

    def does() -> Any:
        # New records each time: what is told of the very same is remembered.
        rooms: Records = held(sources["rooms"], columns["rooms"], types["rooms"])
        found = {"rooms": rooms, "huts": huts}
        return joined(huts, leads, sources, found.get).frame

    return does


@pytest.mark.parametrize("what", PATHS)
@pytest.mark.parametrize("peer", ["bare", "cadena"])
def test_what_a_million_tell_of_a_hundred_thousand(
    benchmark: BenchmarkFixture, columns: dict[str, pl.DataFrame], peer: str, what: str
) -> None:
    benchmark.group = f"a million told of 100,000, {what}"
    benchmark((alone if peer == "bare" else cadena)(columns, PATHS[what]))
