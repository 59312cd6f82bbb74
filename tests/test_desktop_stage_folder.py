"""A stage is one folder and one line: an empty one is added, shown, counted, shot and left."""

from __future__ import annotations

import shutil
import sys
import textwrap
from collections.abc import Iterator
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from builders import DEMO
from cadena.desktop import stages as folder
from cadena.desktop.document import stages
from cadena.desktop.document.selection import Selection
from cadena.desktop.shell.shot import take_shot
from cadena.engine.session import sized
from test_desktop import Person

EMPTY = """
    from cadena.desktop.document.selection import Selection
    from cadena.desktop.document.stages import Kind, Stage

    class SelectedNothing(Selection, frozen=True):
        name: str

    def made(document):
        from PySide6.QtWidgets import QLabel, QWidget
        from cadena.desktop.widgets.strip import Strip

        class EmptyStage(QWidget):
            def __init__(self):
                super().__init__()
                self.picture = QLabel("nothing yet", self)
                self.strip = Strip(document, "Empty", lambda _: [])

        return EmptyStage()

    STAGE = Stage(
        name="Empty",
        about="Do nothing.",
        number=6,
        make=made,
        kinds={
            SelectedNothing: Kind(
                "nothing",
                SelectedNothing,
                is_there=lambda app, selection: app.name == selection.name,
            )
        },
        opened=lambda document: (len(document.findings), True),
    )
"""


@pytest.fixture
def with_an_empty_stage(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """The folder of a stage, and its name in the list."""
    (tmp_path / "stages" / "empty").mkdir(parents=True)
    (tmp_path / "stages" / "empty" / "__init__.py").write_text(textwrap.dedent(EMPTY))
    monkeypatch.setattr(folder, "__path__", [*folder.__path__, str(tmp_path / "stages")])
    monkeypatch.setattr(stages, "FOLDERS", (*stages.FOLDERS, "empty"))
    stages.stages.cache_clear()
    yield
    stages.stages.cache_clear()
    sys.modules.pop("cadena.desktop.stages.empty", None)


@pytest.mark.long
def test_a_stage_is_added_by_its_folder_and_one_line(
    with_an_empty_stage: None, qtbot: QtBot, tmp_path: Path
) -> None:
    shutil.copytree(DEMO / "cresta-broken", tmp_path / "b")
    person = Person(qtbot, tmp_path / "b")
    person.document.check()
    link = person.window.chain.links[-1]
    assert (link.number, link.name, link.open) == (6, "Empty", len(person.document.findings))
    assert "Stage Empty" in [each.name for each in person.window.commands]
    person.document.show_stage("Empty")
    assert person.window.stage.picture.text() == "nothing yet"
    chosen = stages.selection_named("nothing", [person.document.app.name])
    person.document.select(chosen)
    from msgspec.structs import replace

    person.document.edit("rename", replace(person.document.app, start="huts"))
    assert person.document.selection == chosen
    person.document.edit("rename", replace(person.document.app, name="Other"))
    assert person.document.selection == Selection()
    out = tmp_path / "a.png"
    take_shot(tmp_path / "b", "empty", sized(640, 400), "light", sized(360, 780), (), out)
    assert out.stat().st_size > 1000
