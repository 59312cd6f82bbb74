"""Benchmarks compare with a bare peer in the same run; they assert nothing about time."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from pytest_benchmark.fixture import BenchmarkFixture

os.environ["QT_QPA_PLATFORM"] = "offscreen"
sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

MILLION = 1_000_000


@pytest.fixture(scope="session")
def million() -> pl.DataFrame:
    """A million made-up huts."""
    chance = np.random.default_rng(1875)
    numbers = chance.permutation(MILLION)
    return pl.DataFrame(
        {
            "id": [f"k{number:07}" for number in range(MILLION)],
            "name": [f"Hut {number}" for number in numbers],
            "region": [("Val Corva", "Lastra", "Sorda")[number % 3] for number in numbers],
            "altitude": numbers % 3000,
            "note": [None if number % 4 else "by the lake" for number in numbers],
        }
    )


@pytest.fixture
def told(benchmark: BenchmarkFixture) -> BenchmarkFixture:
    """A benchmark that is told what it is compared with."""
    benchmark.group = None
    return benchmark
