"""The records of the project's files as they were read, before anything of them was typed."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from cadena.desktop.document.history import History
from cadena.model.app import App
from cadena.model.source import Source
from cadena.records.records import Records
from cadena.sources.open_project import Place, Project, place_of

if TYPE_CHECKING:
    from cadena.sources.table import Table
    from cadena.sources.table_changes import Attic
    from cadena.sources.write_back import Edited, Saved


class Rescued(NamedTuple):
    """Records that were typed and not saved, with what they were made from.

    Args:
        before: what the file held; none for a file that was still to be made.
        stamp: what tells what the file held then.
    """

    now: Table
    before: Table | None
    stamp: str


class AsRead:
    """Knows what each file held when it was last read or written here.

    Attributes:
        tables: the tables as they were first read, by where they are.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.tables: dict[Place, Table] = {}
        self._stamps: dict[Place, str] = {}
        self._attics: dict[Place, Attic] = {}

    def table(self, source: Source, records: Records) -> Table:
        """The table of a source that nothing was typed into yet, kept from now on.

        Raises:
            Problem: where the file holds something else by now.
        """
        from cadena.sources.table import table_of

        place = place_of(source)
        if place not in self.tables and records.reading is not None:
            self.tables[place] = table_of(records.reading)
            self._stamps[place] = records.reading.stamp
        return self.tables[place]

    def take(self, rescued: Mapping[Place, Rescued]) -> None:
        """Go by what records were made from that were typed before the application ended."""
        for place, found in rescued.items():
            if found.before is not None:
                self.tables[place] = found.before
                self._stamps[place] = found.stamp

    def rescued(self, history: History) -> dict[Place, Rescued]:
        """What was typed and is not saved, with what it was made from."""
        made: dict[Place, Rescued] = {}
        for place in history.changed_tables:
            now = history.tables.get(place, self.tables.get(place))
            if now is not None:
                made[place] = Rescued(now, self._saved(place, history), self._stamps.get(place, ""))
        return made

    def read_again(self, project: Project, history: History) -> dict[Place, Table]:
        """The tables as they are on disk now, of all places that are known."""
        from cadena.sources.joined_tables import recognised

        found: dict[Place, Table] = {}
        for source in project.app.sources:
            place = place_of(source)
            saved = self._saved(place, history)
            if saved is None or (reading := project.records[source.id].reading) is None:
                continue
            if reading.stamp != self._stamps.get(place):
                if not reading.frame.equals(saved.frame):
                    saved = recognised(saved, reading, source)
                self._stamps[place] = reading.stamp
            found[place] = saved
        return found

    def edited(self, app: App, history: History) -> list[Edited]:
        """The records that were typed since they were last saved, and what their files held.

        Sources of one place have one table, which is written once.
        """
        from cadena.sources.write_back import Edited

        made: list[Edited] = []
        for place, source in {place_of(source): source for source in app.sources}.items():
            now = history.tables.get(place, self.tables.get(place))
            if place in history.changed_tables and now is not None:
                stamp = self._stamps.get(place, "")
                attic = self._attics.setdefault(place, {})
                made.append(Edited(source, self._saved(place, history), stamp, now, attic))
        return made

    def written(self, saved: Saved) -> None:
        """A file was written: what else is known of it is still what it holds."""
        for place, stamp in self._stamps.items():
            if place.file == saved.place.file and stamp == saved.was:
                self._stamps[place] = saved.stamp
        self._stamps[saved.place] = saved.stamp

    def _saved(self, place: Place, history: History) -> Table | None:
        """What the file of a place held when it was last read or written."""
        return history.saved_tables.get(place, self.tables.get(place))
