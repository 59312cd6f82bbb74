"""Starting an app that was handed over for the desktop."""

from __future__ import annotations

import argparse
import json
import signal
import sys
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, Final

from msgspec.structs import replace
from PySide6.QtCore import QLockFile, QStandardPaths, QTimer
from PySide6.QtGui import QGuiApplication, QIcon
from PySide6.QtWidgets import QApplication

from cadena.engine import events as do
from cadena.engine.layout.measure import plain_measure
from cadena.engine.wired import WiredApp
from cadena.model.app import App
from cadena.native.look import GROUNDS, ICONS, Grounds, system_measure
from cadena.native.running import Running
from cadena.native.store import Store
from cadena.records.few_records import FewRecords

COMES_WITHIN: Final = 500
ICON_FILE: Final = "icons.json"


def records_of(app: App, files: Mapping[str, Sequence[str]], folder: Path) -> dict[str, FewRecords]:
    """The records that lie beside an app, as they were handed over: typed, by their key."""
    made: dict[str, FewRecords] = {}
    for source in app.sources:
        rows: list[dict[str, Any]] = []
        for name in files.get(source.id, ()):
            rows += json.loads((folder / name).read_text("utf-8"))
        types = {each.name: each.type for each in source.fields}
        columns = {name: [row.get(name) for row in rows] for name in types}
        for name, kind in types.items():
            if kind == "number":
                columns[name] = [e if e is None else float(e) for e in columns[name]]
            elif kind.startswith("list"):
                columns[name] = [e if e is None else tuple(e) for e in columns[name]]
        made[source.id] = FewRecords(source, types, columns)
    return made


def run(
    app: App,
    files: Mapping[str, Sequence[str]],
    folder: Path,
    name: str,
    grounds: Grounds | None = None,
    style: str = "",
) -> int:
    """Run an app until its window is closed; the status of the process.

    Args:
        files: the files of the records of each source, under ``folder``.
        name: what tells the app from others of this person.
        grounds: by colour, ground and ink in light and in dark, in place of the usual ones.
        style: a style sheet of the toolkit.
    """
    parser = argparse.ArgumentParser(prog=name, description=app.name)
    parser.add_argument("address", nargs="?", help="a screen to begin at, such as /huts/mor")
    parser.add_argument("--driven", action="store_true", help="it is driven: docs/driving.md")
    parser.add_argument("--size", type=_size, help="of the window, such as 360x780")
    parser.add_argument("--cold", action="store_true", help="begin as after it was left")
    wanted = parser.parse_args()
    QGuiApplication.setDesktopFileName(name)
    toolkit = QApplication(sys.argv[:1])
    toolkit.setApplicationName(name)
    toolkit.setApplicationDisplayName(app.name)
    toolkit.setStyleSheet(style)
    GROUNDS.update(grounds or {})
    if (folder / ICON_FILE).exists():
        ICONS.update(json.loads((folder / ICON_FILE).read_text("utf-8")))
    icon = folder / "icon.svg"
    if icon.exists():
        toolkit.setWindowIcon(QIcon(str(icon)))
    place = Path(QStandardPaths.writableLocation(QStandardPaths.StandardLocation.AppDataLocation))
    place.mkdir(parents=True, exist_ok=True)
    lock = QLockFile(str(place / "running.lock"))
    if not lock.tryLock(0) and _shown_before(name, wanted.address or ""):
        return 0
    # Who drives it breaks text by arithmetic, which is the same with every face.
    measure = plain_measure if wanted.driven else system_measure
    wired = WiredApp(app, records_of(app, files, folder), measure)
    store = Store(place)
    if wanted.cold and (kept := store.read()) is not None:
        store.keep(replace(kept, left=True))
    window = Running(wired, folder, store, wanted.driven, wanted.size)
    if wanted.address:
        window.take(do.Visit(address=wanted.address))
    if wanted.driven:
        from cadena.native.door import Door

        Door(window.told, lambda: (window.app, window.session), window)
    # Who ends it by the system's own means has left it.
    beat = QTimer()
    beat.timeout.connect(lambda: None)
    beat.start(100)
    signal.signal(signal.SIGTERM, lambda *_: window.close())
    signal.signal(signal.SIGINT, lambda *_: window.close())
    window.show()
    window.raise_()
    window.activateWindow()
    # Who begins again a moment later finds the first; what listens is not needed to be seen.
    QTimer.singleShot(0, lambda: _to_the_front(name, window))
    status = toolkit.exec()
    lock.unlock()
    return status


def _size(text: str) -> tuple[int, int]:
    width, _, height = text.partition("x")
    return int(width), int(height)


def _shown_before(name: str, address: str) -> bool:
    """Whether the same app runs already, and comes to the front at an address."""
    from PySide6.QtNetwork import QLocalSocket

    socket = QLocalSocket()
    socket.connectToServer(name)
    if not socket.waitForConnected(COMES_WITHIN):
        return False
    socket.write(f"{address}\n".encode())
    return socket.waitForBytesWritten(COMES_WITHIN)


def _to_the_front(name: str, window: Running) -> None:
    """A second start brings the first to the front."""
    from PySide6.QtNetwork import QLocalServer

    server = QLocalServer(window)
    QLocalServer.removeServer(name)
    server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
    server.listen(name)

    def called() -> None:
        socket = server.nextPendingConnection()
        socket.waitForReadyRead(COMES_WITHIN)
        address = bytes(socket.readAll().data()).decode("utf-8", "replace").strip()
        window.show()
        window.raise_()
        window.activateWindow()
        if address:
            window.take(do.Visit(address=address))

    server.newConnection.connect(called)
