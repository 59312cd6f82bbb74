"""What was read is kept, and counts only for files that have not changed."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from builders import DEMO
from cadena.records.few_records import FewRecords
from cadena.sources import kept_records
from cadena.sources.kept_records import kept_at
from cadena.sources.open_project import Project, open_project


@pytest.fixture
def project(tmp_path: Path) -> Path:
    folder = tmp_path / "cresta"
    shutil.copytree(DEMO / "cresta", folder)
    return folder


def reads(monkeypatch: pytest.MonkeyPatch, project: Path) -> tuple[Project, list[str]]:
    """A project as it opens, and the sources that were read for it."""
    from cadena.sources import read_file

    read: list[str] = []
    whole = read_file.read_source

    def told(folder: Path, source: object, *more: object) -> object:
        read.append(source.id)  # type: ignore[attr-defined]
        return whole(folder, source, *more)  # type: ignore[arg-type]

    with monkeypatch.context() as patch:
        patch.setattr(read_file, "read_source", told)
        return open_project(project), read


def held(project: Project) -> dict[str, list[dict[str, object]]]:
    return {
        name: [each.record(row) for row in range(len(each))]
        for name, each in project.records.items()
    }


def test_what_has_not_changed_is_not_read_again(
    project: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, read = reads(monkeypatch, project)
    assert set(read) == {each.id for each in first.app.sources}
    second, read = reads(monkeypatch, project)
    assert read == []
    assert held(second) == held(first)
    for name, records in second.records.items():
        assert records.types == first.records[name].types
        assert records.faults == first.records[name].faults
        # What they were typed from is there when somebody types into it.
        before = first.records[name].reading
        assert records.reading is not None
        assert before is not None
        assert records.reading.frame.equals(before.frame)


def test_only_what_has_changed_is_read_again(
    project: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    reads(monkeypatch, project)
    file = project / "rooms.csv"
    text = file.read_text()
    file.write_text(text + text.splitlines()[-1].replace("1", "9", 1) + "\n")
    changed, read = reads(monkeypatch, project)
    assert read == ["rooms"]
    assert len(changed.records["rooms"]) == len(text.splitlines())
    # Of the same size and the same time, and yet another.
    stat, text = file.stat(), file.read_text()
    file.write_text(text.replace("9", "8"))
    os.utime(file, ns=(stat.st_atime_ns, stat.st_mtime_ns))
    assert reads(monkeypatch, project)[1] == ["rooms"]


def test_what_is_kept_is_never_trusted(project: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    first, all_sources = reads(monkeypatch, project)
    kept = kept_at(project)
    whole = kept.read_bytes()
    for damaged in (b"", whole[:200], whole[:-3] + b"abc", b"x" * 400):
        kept.write_bytes(damaged)
        again, read = reads(monkeypatch, project)
        assert read == all_sources
        assert held(again) == held(first)
    monkeypatch.setattr(kept_records, "FORMAT", "of another Cadena")
    assert reads(monkeypatch, project)[1] == all_sources


def test_where_nothing_can_be_kept_it_is_read(
    project: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    flat = tmp_path / "flat"
    flat.write_text("no folder")
    monkeypatch.setenv("XDG_CACHE_HOME", str(flat))
    first, read = reads(monkeypatch, project)
    assert len(read) == len(first.app.sources)
    assert reads(monkeypatch, project)[1] == read


def test_only_so_many_projects_are_kept(
    project: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(kept_records, "MOST_PROJECTS", 2)
    folders = [tmp_path / name for name in ("a", "b", "c")]
    for number, folder in enumerate(folders):
        shutil.copytree(project, folder)
        open_project(folder)
        os.utime(kept_at(folder), (number, number))
    open_project(project)
    there = [kept_at(folder).exists() for folder in (*folders, project)]
    assert there == [False, False, True, True]


@pytest.mark.long
def test_a_small_project_starts_without_a_column_engine(project: Path) -> None:
    code = (
        "import sys; from pathlib import Path\n"
        "from cadena.desktop.shell.application import application, dressed, window_on\n"
        "from cadena.desktop.process.settings import Settings\n"
        "app = application(); dressed(app, Settings())\n"
        f"window = window_on(Path({str(project)!r}), Settings(), remembers=False); window.show()\n"
        "from PySide6.QtTest import QTest; QTest.qWait(100)\n"
        "print(*sorted({'polars', 'numpy', 'httpx', 'yaml'} & set(sys.modules)))\n"
        "window.document.measuring.finish(); window.document.keeping.finish()\n"
        "QTest.qWait(1200)\n"
        "print(*sorted({'polars', 'numpy', 'httpx', 'yaml'} & set(sys.modules)))\n"
    )
    open_project(project)
    made = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=True, timeout=120
    )
    assert made.stdout.split("\n")[:2] == ["", ""], made.stdout


def test_few_records_are_kept_and_many_are_not(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from cadena.sources.scaffold import new_project

    data = tmp_path / "many.csv"
    data.write_text("id,name\n" + "".join(f"{at},n{at}\n" for at in range(3000)))
    new_project(tmp_path / "project", [data], "Many")
    for _ in range(2):
        opened, read = reads(monkeypatch, tmp_path / "project")
        assert read == ["many"]
        assert not isinstance(opened.records["many"], FewRecords)
