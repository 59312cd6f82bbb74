"""A folder of files, served on loopback while it is driven."""

from __future__ import annotations

import contextlib
import re
import threading
from collections.abc import Iterator
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any, Final

from cadena.model.file.disk import said_path
from cadena.model.problem import Problem

UNDER: Final = re.compile(rb'data-under="(/[^"]*)"')
"""Where the app says that it lies, where its addresses are paths of the server."""


class _Quiet(SimpleHTTPRequestHandler):
    protocol_version = "HTTP/1.1"
    # A head and a body are written one after the other: neither waits for the other's receipt.
    disable_nagle_algorithm = True

    def __init__(self, *arguments: Any, under: str | None = None, **named: Any) -> None:
        self.under = under
        super().__init__(*arguments, **named)

    def translate_path(self, path: str) -> str:
        """A path that is no file is an address of the app, where those are paths."""
        if self.under is None:
            return super().translate_path(path)
        inside = path.removeprefix(self.under) if path.startswith(self.under) else path
        file = super().translate_path(f"/{inside}")
        is_there = Path(file).is_file()
        return file if is_there else super().translate_path("/index.html")

    def log_message(self, format: str, *arguments: Any) -> None:
        """Nobody reads it."""

    def end_headers(self) -> None:
        # What is driven is what lies there now.
        self.send_header("Cache-Control", "no-store")
        super().end_headers()


class _Server(ThreadingHTTPServer):
    daemon_threads = True

    def handle_error(self, request: Any, client_address: Any) -> None:
        """A page that is left takes no more of its files."""


@contextlib.contextmanager
def served(folder: Path) -> Iterator[str]:
    """The address at which a folder is served, as long as it is.

    Raises:
        Problem: where it is no folder with a page in it.
    """
    if not (folder / "index.html").is_file():
        raise Problem(said_path(folder), "", "there is no index.html in it", "a folder of an app")
    with (folder / "index.html").open("rb") as page:
        found = UNDER.search(page.read(2_000))
    under = None if found is None else found[1].decode()
    server = _Server(("127.0.0.1", 0), partial(_Quiet, directory=str(folder), under=under))
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}{under or '/'}"
    finally:
        server.shutdown()
        server.server_close()
        thread.join()
