"""Pictures that lie at web addresses: brought once that is allowed, bounded, and delivered."""

from __future__ import annotations

import json
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any, ClassVar

import pytest
from PySide6.QtCore import QBuffer
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from cadena.deliver.web_app import web_app
from cadena.engine.wired import WiredApp
from cadena.model.problem import Problem
from cadena.sources.open_project import open_project
from cadena.sources.remote_pictures import picture_at
from cadena.sources.scaffold import new_project
from test_desktop import Person


def png() -> bytes:
    image = QImage(8, 6, QImage.Format.Format_RGB32)
    image.fill(QColor("teal"))
    to = QBuffer()
    to.open(QBuffer.OpenModeFlag.WriteOnly)
    image.save(to, "PNG")
    return bytes(to.data().data())


class Pictures(BaseHTTPRequestHandler):
    """Serves a picture, what is none, and nothing."""

    asked: ClassVar[list[str]] = []

    def do_GET(self) -> None:
        self.asked.append(self.path)
        body = {"/a.png": png(), "/b.png": b"<html>no picture</html>"}.get(self.path)
        self.send_response(404 if body is None else 200)
        self.end_headers()
        self.wfile.write(body or b"")

    def log_message(self, *_: Any) -> None:
        """Nothing is logged."""


@pytest.fixture
def at() -> Iterator[str]:
    Pictures.asked.clear()
    server = ThreadingHTTPServer(("127.0.0.1", 0), Pictures)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


def project(tmp_path: Path, at: str) -> Path:
    huts = [{"id": n, "name": f"Hut {n}", "photo": f"{at}/{e}.png"} for n, e in enumerate("abc")]
    (tmp_path / "huts.json").write_text(json.dumps(huts))
    new_project(tmp_path / "p", [tmp_path / "huts.json"])
    return tmp_path / "p"


def buttons(person: Person) -> list[str]:
    every = person.window.findChildren(QPushButton)
    return [each.accessibleName() for each in every if each.isVisible()]


def test_nothing_is_asked_for_before_it_is_allowed_and_what_does_not_come_is_a_finding(
    qtbot: QtBot, tmp_path: Path, at: str
) -> None:
    person = Person(qtbot, project(tmp_path, at))
    document = person.document
    canvas = person.window.bench.windows.live
    canvas.grab()
    qtbot.waitUntil(lambda: len(document.pictures.wanted) == 3, timeout=5_000)
    assert not Pictures.asked
    qtbot.waitUntil(lambda: "bring the pictures" in buttons(person), timeout=5_000)
    person.press("bring the pictures")
    qtbot.waitUntil(lambda: document.pictures.brought == 3, timeout=20_000)
    assert sorted(Pictures.asked) == ["/a.png", "/b.png", "/c.png"]
    shown = document.pictures(f"{at}/a.png")
    assert shown is not None
    assert (shown.width(), shown.height()) == (8, 6)
    assert set(document.pictures.failed) == {f"{at}/b.png", f"{at}/c.png"}
    # Each that does not come is a finding at once, before the others have come.
    qtbot.waitUntil(
        lambda: any("2 of 2 pictures" in each.what for each in document.findings), timeout=5_000
    )
    (finding,) = (each for each in document.findings if each.code == "picture-missing")
    assert "2 of 2 pictures of photo cannot be shown" in finding.what


def test_pictures_of_a_delivered_app_come_from_where_records_say_and_nowhere_else(
    tmp_path: Path, at: str
) -> None:
    opened = open_project(project(tmp_path, at))
    page = web_app(WiredApp(opened.app, opened.records), opened.folder)["index.html"].decode()
    assert f"img-src 'self' {at};" in page
    assert not Pictures.asked


def test_an_address_that_answers_with_nothing_is_said(at: str) -> None:
    with pytest.raises(Problem, match="404"):
        picture_at(f"{at}/gone.png")
    with pytest.raises(Problem):
        picture_at("http://127.0.0.1:9/none.png")
