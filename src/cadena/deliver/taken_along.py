"""How many records are taken along where an app is handed over."""

from __future__ import annotations

from typing import Final, NamedTuple

from cadena.engine.wired import WiredApp
from cadena.records.held import held
from cadena.records.records import Records

MOST_RECORDS: Final = 5_000
"""Records of a source that are taken along, where nobody says how many."""


class TakenAlong(NamedTuple):
    """An app with no more records than are taken along, and what stays behind, in words."""

    app: WiredApp
    left: tuple[str, ...]


def taken_along(app: WiredApp, most: int = MOST_RECORDS) -> TakenAlong:
    """The app with the first records of each source.

    Args:
        most: records of one source.
    """
    left = tuple(
        f"{name}: the first {most:,} of {len(records):,} records are taken along"
        for name, records in app.as_read.items()
        if len(records) > most
    )
    if not left:
        return TakenAlong(app, ())
    kept = {name: _first(records, most) for name, records in app.as_read.items()}
    return TakenAlong(WiredApp(app.app, kept, app.measure), left)


def _first(records: Records, most: int) -> Records:
    if len(records) <= most:
        return records
    return held(records.source, records.frame.head(most), records.types, records.faults)
