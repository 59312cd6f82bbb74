"""What two people do to the records of one file is what it then holds, or it is asked."""

from __future__ import annotations

import os
import random
import re
import sqlite3
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from pytestqt.qtbot import QtBot

from cadena.desktop.document.document import Document
from cadena.desktop.document.typing import add_record, remove_records, type_cell
from cadena.model.app import App
from cadena.model.file.project_file import write_app
from cadena.model.problem import Problem
from cadena.records.records import Records as TypedRecords
from cadena.sources.joined_tables import Clashes
from cadena.sources.open_project import open_project
from two_people import KINDS, Kind, Records, a_record, changed_by_them, of_both, some_records

Shown = list[tuple[Any, ...]]
RUNS = int(os.environ.get("CADENA_SAVES", "130"))
EVERY = 7 if RUNS < 1000 else 1
"""Of the calls of a save, those that are let fail."""


class Person:
    """Somebody who types into records of a project, and what should come of it."""

    def __init__(self, chance: random.Random, folder: Path, kinds: list[Kind]) -> None:
        self.chance, self.folder = chance, folder
        folder.mkdir(parents=True)
        self.kinds = {f"s{number}": kind for number, kind in enumerate(kinds)}
        self.sources = {name: kind.source(name) for name, kind in self.kinds.items()}
        self.base: dict[str, Records] = {}
        for name, kind in self.kinds.items():
            records = some_records(chance, chance.randrange(2, 9))
            if not kind.has_more:
                records = {key: {**each, "more": None} for key, each in records.items()}
            self.base[name] = records
            kind.write(folder / self.sources[name].file, records)
        write_app(App(name="p", sources=tuple(self.sources.values())), folder / "p.cadena")
        self.mine = {
            name: {k: dict(v) for k, v in each.items()} for name, each in self.base.items()
        }
        self.theirs = dict(self.base)
        self.document = Document()
        self.document.open(folder)
        self.fresh = 100

    def path(self, name: str) -> Path:
        return self.folder / self.sources[name].file

    def do_something(self) -> None:
        name = self.chance.choice(list(self.kinds))
        records, mine = self.document.records[name], self.mine[name]
        act = self.chance.choice(["cell", "cell", "cell", "remove", "add"])
        if act == "add":
            new = a_record(self.chance)
            key = self.chance.randrange(100, 104)
            if key in mine or key in self.base[name]:
                return
            said = {"id": str(key), "name": new["name"] or ""}
            said["beds"] = "" if new["beds"] is None else str(new["beds"])
            add_record(self.document, name, said)
            mine[key] = new
        elif not len(records):
            return
        else:
            row = self.chance.randrange(len(records))
            key = records.key_at(row)
            if act == "remove":
                remove_records(self.document, name, [row])
                del mine[key]
            else:
                field = self.chance.choice(["name", "beds"])
                value = a_record(self.chance)[field]
                type_cell(self.document, name, row, field, "" if value is None else str(value))
                mine[key][field] = value

    def another_program(self) -> None:
        name = self.chance.choice(list(self.kinds))
        self.theirs[name] = changed_by_them(self.chance, self.kinds[name], self.theirs[name])
        self.kinds[name].write(self.path(name), self.theirs[name])

    def on_disk(self) -> dict[str, Records]:
        return {name: kind.read(self.path(name)) for name, kind in self.kinds.items()}

    def save(self) -> dict[str, Records]:
        """Save, deciding one way where it is asked; what should be on disk then."""
        is_mine = self.chance.random() < 0.5
        self.typed = {place.file for place in self.document.history.changed_tables}
        both = {
            name: of_both(self.base[name], self.mine[name], self.theirs[name], is_mine)
            for name in self.kinds
        }
        odd = sum(count for _, count in both.values())
        try:
            self.document.save()
        except Clashes as clashes:
            assert len(clashes.clashes) == odd
            assert self.on_disk() == self.theirs
            self.document.save(decided={each.place: is_mine for each in clashes.clashes})
        else:
            assert odd == 0
        assert self.document.is_saved
        return {name: records for name, (records, _) in both.items()}

    def demand(self, wanted: dict[str, Records]) -> None:
        """Just this is on disk, is shown, and is read again; and nothing else lies about.

        What nothing was typed into is shown as it was read.
        """
        assert self.on_disk() == wanted
        again = open_project(self.folder).records
        for name, records in wanted.items():
            assert shown_in(again[name]) == shown_of(records)
            if self.sources[name].file in self.typed:
                assert shown_in(self.document.records[name]) == shown_of(records)
                self.base[name] = records
                self.mine[name] = copied(records)
            else:
                assert shown_in(self.document.records[name]) == shown_of(self.base[name])
            self.theirs[name] = records
        files = {source.file for source in self.sources.values()} | {"p.cadena", "p.cadena.before"}
        assert {each.name for each in self.folder.iterdir()} <= files


def copied(records: Records) -> Records:
    return {key: dict(each) for key, each in records.items()}


def shown_of(records: Records) -> Shown:
    return sorted((key, each["name"] or "", each["beds"]) for key, each in records.items())


def shown_in(records: TypedRecords) -> Shown:
    rows = (records.record(at) for at in range(len(records)))
    return sorted((row["id"], row.get("name") or "", row.get("beds")) for row in rows)


def close(document: Document) -> None:
    document.close()
    document.deleteLater()


@pytest.mark.long
@pytest.mark.parametrize("seed", range(RUNS))
def test_what_two_people_did_is_on_disk_or_is_asked(
    qtbot: QtBot, tmp_path: Path, seed: int
) -> None:
    chance = random.Random(seed)
    person = Person(chance, tmp_path / "p", [KINDS[seed % len(KINDS)], *chance.sample(KINDS, 1)])
    for _ in range(2):
        for _ in range(chance.randrange(1, 6)):
            if chance.random() < 0.3:
                person.another_program()
            person.do_something()
        if chance.random() < 0.4:
            person.another_program()
        person.demand(person.save())
    close(person.document)


class Ended(BaseException):
    """The process has been ended by the system."""


class Disk:
    """The calls for the disk of a save, one of which fails; or the process ends at it.

    Args:
        at: which of the calls, counted from one.
        ends: whether the process ends there, so that nothing is done any more after it.
    """

    CALLS = ((os, "replace"), (os, "link"), (os, "fsync"), (os, "close"), (tempfile, "mkstemp"))

    def __init__(self, patched: pytest.MonkeyPatch, at: int, ends: bool) -> None:
        self.at, self.ends, self.count, self.is_over = at, ends, 0, False
        for module, name in self.CALLS:
            patched.setattr(module, name, self.counted(getattr(module, name)))
        patched.setattr(Path, "unlink", self.unless_over(Path.unlink))
        connect, counted = sqlite3.connect, self.counted

        class Connection(sqlite3.Connection):
            execute = counted(sqlite3.Connection.execute)

        patched.setattr(sqlite3, "connect", lambda *a, **k: connect(*a, factory=Connection, **k))

    def counted(self, real: Callable[..., Any]) -> Callable[..., Any]:
        def call(*given: Any, **named: Any) -> Any:
            self.count += 1
            if self.is_over:
                raise Ended
            if self.count == self.at:
                self.is_over = self.ends
                if self.ends:
                    raise Ended
                if real is sqlite3.Connection.execute:
                    raise sqlite3.OperationalError("database or disk is full")
                raise OSError(28, "No space left on device")
            return real(*given, **named)

        return call

    def unless_over(self, real: Callable[..., Any]) -> Callable[..., Any]:
        return lambda *given, **named: None if self.is_over else real(*given, **named)


def typed_everywhere(chance: random.Random, folder: Path) -> Person:
    """A person who has typed into four files, each of another kind."""
    person = Person(chance, folder, [KINDS[0], KINDS[3], KINDS[5], KINDS[8], KINDS[9]])
    for _ in range(24):
        person.do_something()
    return person


def calls_of_a_save(folder: Path) -> int:
    person = typed_everywhere(random.Random(1), folder)
    with pytest.MonkeyPatch.context() as patched:
        disk = Disk(patched, 0, False)
        person.save()
    close(person.document)
    return disk.count


@pytest.mark.long
def test_a_save_that_fails_anywhere_says_so_and_is_finished_by_the_next(
    qtbot: QtBot, tmp_path: Path
) -> None:
    count = calls_of_a_save(tmp_path / "first")
    assert count > 40
    refused = 0
    for at in range(1, count + 1, EVERY):
        person = typed_everywhere(random.Random(at), tmp_path / f"p{at}")
        with pytest.MonkeyPatch.context() as patched:
            Disk(patched, at, False)
            try:
                person.document.save()
            except Problem as problem:
                refused += 1
                assert re.match(r"(s\d|p)\.", problem.file)
                assert person.document.is_saved == ("typed is saved" in str(problem))
        found = person.on_disk()
        for name in person.kinds:
            assert found[name] in (person.base[name], person.mine[name])
        # What is said to be saved is: then only the project itself was not written once more.
        assert not person.document.is_saved or found == person.mine
        person.document.save()
        person.typed = {source.file for source in person.sources.values()}
        person.demand({name: copied(each) for name, each in person.mine.items()})
        close(person.document)
    assert refused > count // EVERY // 2


@pytest.mark.long
def test_a_process_that_is_ended_in_a_save_loses_nothing(qtbot: QtBot, tmp_path: Path) -> None:
    count = calls_of_a_save(tmp_path / "first")
    for at in range(1, count + 1, EVERY):
        person = typed_everywhere(random.Random(at), tmp_path / f"p{at}")
        person.document.unsaved.keep()
        with pytest.MonkeyPatch.context() as patched:
            Disk(patched, at, True)
            with pytest.raises(Ended):
                person.document.save()
        rescue = person.document.disk.rescue
        assert rescue is not None
        if rescue._lock is not None:
            rescue._lock.close()
        if at % 3 == 0:
            # Before it is opened again, another program adds to what was saved.
            name = next(iter(person.kinds))
            found = person.kinds[name].read(person.path(name))
            found[200] = {"name": "theirs", "beds": 1, "more": None}
            person.kinds[name].write(person.path(name), found)
            person.mine[name][200] = found[200]
        again = Document()
        again.open(person.folder)
        again.save()
        person.document = again
        for each in (*person.folder.glob(".*.tmp"), *person.folder.glob("*-journal")):
            each.unlink()
        person.typed = {person.path(name).name for name in person.kinds}
        assert person.on_disk() == person.mine
        assert again.is_saved
        close(again)
