"""Rows one under another: their heights follow from the row's template, all at once."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from cadena.data.query import Rows
from cadena.model.app import Row

WITH_PICTURE: Final = 72.0
TWO_LINES: Final = 64.0
ONE_LINE: Final = 48.0


class RowStack:
    """Where each row lies, in dp from the top of the first.

    Args:
        count: how many rows.
        height: the height of every row, or shape (count,), the height of each.
    """

    def __init__(self, count: int, height: float | NDArray[np.float64]) -> None:
        self.count = count
        self._height = height if isinstance(height, float) else 0.0
        self._tops: NDArray[np.float64] | None = None
        if not isinstance(height, float):
            self._tops = np.zeros(count + 1)
            np.cumsum(height, out=self._tops[1:])
        self.total = self.top(count)

    def top(self, index: int) -> float:
        """Where a row begins; of the row after the last, where the rows end."""
        return self._height * index if self._tops is None else float(self._tops[index])

    def height(self, index: int) -> float:
        return self.top(index + 1) - self.top(index)

    def at(self, y: float) -> int:
        """The row that covers a height, the nearest one outside; -1 when there are none."""
        if self._tops is None:
            found = int(y // self._height) if self._height else 0
        else:
            found = int(np.searchsorted(self._tops, y, side="right")) - 1
        return min(max(found, 0), self.count - 1)


def stack_rows(row: Row, rows: Rows) -> RowStack:
    """Stack the rows of a list: a picture makes each tall, an empty subtitle makes one short."""
    if row.picture:
        return RowStack(len(rows), WITH_PICTURE)
    if not row.subtitle:
        return RowStack(len(rows), ONE_LINE)
    short = rows.records.empty(row.subtitle)
    if not short.any():
        return RowStack(len(rows), TWO_LINES)
    return RowStack(len(rows), np.where(short[rows.positions], ONE_LINE, TWO_LINES))
