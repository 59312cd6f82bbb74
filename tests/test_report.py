"""The report: one page for people who will never install Cadena."""

from __future__ import annotations

import re
from html.parser import HTMLParser
from pathlib import Path

import pytest
from msgspec.structs import replace

from builders import DEMO, small_app, small_records, with_link, with_screen
from cadena.desktop.painting.theme import Look, Theme
from cadena.model.file.project_file import encode
from test_cli import call

VOID = {"meta", "br", "use", "image", "rect", "path", "circle", "polygon", "polyline", "line"}


class Read(HTMLParser):
    """Reads a page: its texts, its ids and links within, and whether every element is closed."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.open: list[str] = []
        self.texts: list[str] = []
        self.ids: set[str] = set()
        self.within: set[str] = set()
        self.outside: list[str] = []
        self.tags: set[str] = set()
        self.feed(text)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.add(tag)
        for name, value in attrs:
            if name == "id":
                self.ids.add(str(value))
            elif name in ("href", "src", "xlink:href") and value:
                is_own = value.startswith(("#", "data:"))
                self.within.add(value[1:]) if value.startswith("#") else None
                self.outside += [] if is_own else [value]
        if tag not in VOID:
            self.open.append(tag)

    def handle_startendtag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.handle_starttag(tag, attrs)
        if tag not in VOID:
            self.open.pop()

    def handle_endtag(self, tag: str) -> None:
        if tag not in VOID:
            assert self.open.pop() == tag

    def handle_data(self, data: str) -> None:
        self.texts.append(data)


@pytest.mark.long
def test_the_report_of_the_demo_is_whole_and_small(tmp_path: Path) -> None:
    out = tmp_path / "report.html"
    code, said = call("report", str(DEMO / "cresta"), "--out", str(out))
    assert code == 0, said
    text = out.read_text()
    assert len(text) < 3_000_000
    page = Read(text)
    assert page.open == []
    assert page.outside == []
    assert "script" not in page.tags
    assert page.within <= page.ids
    assert {"opens", "windows", "screens", "keeps", "proven", "findings"} <= page.ids
    for words in (
        "Alpe Ghiara",
        "list beside detail",
        "huts · scroll",
        "A second tap adds nothing",
    ):
        assert words in page.texts
    roles = set(re.findall(r"var\(--(\w+)\)", text))
    assert roles <= set(Theme._fields)
    assert not re.search(r'"#[0-9a-f]{2}fe[0-9a-f]{2}"', text)
    assert text.count("<figure") == 55
    assert Look.theme.ground != "#01feff"


@pytest.fixture
def hostile(tmp_path: Path) -> Path:
    """A project whose every text would be markup."""
    folder = tmp_path / "p"
    folder.mkdir()
    bad = '<script>alert("1")</script>'
    app = with_screen(small_app(), "huts", title=bad)
    app = replace(with_link(app, "open", arguments=()), name=bad)
    (folder / "p.cadena").write_text(encode(app))
    for name, records in small_records(4).items():
        rows = records.frame.to_dicts()
        frame = records.frame.with_columns(name=type(records.frame["name"])([bad] * len(rows)))
        frame.write_json(folder / f"{name}.json")
    return folder


def test_hostile_texts_stay_text_and_what_is_broken_is_told(hostile: Path, tmp_path: Path) -> None:
    out = tmp_path / "report.html"
    assert call("report", str(hostile), "--out", str(out))[0] == 0
    page = Read(out.read_text())
    assert "script" not in page.tags
    assert "Nothing leads to it." in page.texts
    said = " ".join(page.texts)
    assert "argument-missing" in said
    assert "Whatever can be pressed opens: broken by 1 cause" in said


def test_a_project_that_cannot_be_used_is_said(tmp_path: Path) -> None:
    code, text = call("report", str(tmp_path / "no"), "--out", str(tmp_path / "a.html"))
    assert code == 2
    assert "no" in text
