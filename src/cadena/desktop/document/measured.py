"""What is known of the app by reading it and by running it. No window needed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from cadena.check.check import Reading
from cadena.check.finding import Finding
from cadena.check.keeping import lost_findings
from cadena.check.sources import Looks
from cadena.engine.wired import WiredApp
from cadena.model.source import Source
from cadena.records.records import Records
from cadena.runs.keep.matrix import Known
from cadena.runs.keep.run import Matrix, Run, worst
from cadena.sources.pictures_beside import Named, not_shown


class Measured:
    """Findings and marks, and the app that they are of.

    ``matrix``, and ``broken``, how many marks of it are, stay what they were of the app before
    until the marks of this one are there.
    """

    def __init__(self, wired: WiredApp) -> None:
        self.wired = wired
        self.records: Mapping[str, Records] = {}
        self.findings: tuple[Finding, ...] = ()
        self.matrix: Matrix = {}
        self.broken = 0
        self.known: Known = {}
        self._reading = Reading()
        self.look: Looks | None = None
        self._look_in_folder: Looks | None = None
        self.is_read = True

    def begin(self, look: Looks) -> None:
        """Another project, of which nothing is known."""
        self.known, self._reading, self.look = {}, Reading(), look
        self._look_in_folder = look

    def look_again(self, failed: Mapping[str, str]) -> None:
        """Pictures have not come from where they lie: a source is looked through anew for them.

        Args:
            failed: why, by address.
        """
        look = self._look_in_folder
        if look is None:
            return

        def both(source: Source, records: Records) -> Iterator[Named]:
            yield from look(source, records)
            yield from not_shown(source, records, failed)

        self.look, self.is_read = both, False

    def go_on_with(self, wired: WiredApp, records: Mapping[str, Records]) -> None:
        """The app has been changed: what was found of it holds no longer."""
        self.wired, self.records = wired, records
        self.findings, self.is_read = (), False

    def read(self) -> bool:
        """Read the app through, where that was not done yet; whether anything new is known."""
        if self.is_read:
            return False
        self.findings = self._reading.read(self.wired, self.records, self.look)
        self.is_read = True
        return True

    def add(self, found: Iterable[Finding]) -> None:
        """What has been found by running the app."""
        self.read()
        self.findings = (*self.findings, *found)

    def add_runs(self, runs: tuple[Run, ...]) -> None:
        """What became of each piece of state."""
        self.matrix = worst(runs)
        self.broken = sum(each.is_broken for each in self.matrix.values())
        self.add(lost_findings(runs))
