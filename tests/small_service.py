"""A small service on this machine that answers what it is told to."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from threading import Thread
from typing import Any

from werkzeug.serving import make_server

from cadena.serve.serve import Quiet


@contextmanager
def answering(answers: Mapping[str, Any]) -> Iterator[str]:
    """The address of a service that answers each path with its JSON."""

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            raw = json.dumps(answers[self.path]).encode()
            self.send_response(200)
            self.send_header("content-type", "application/json")
            self.send_header("content-length", str(len(raw)))
            self.end_headers()
            self.wfile.write(raw)

        def log_message(self, *_: object) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_port}"
    finally:
        server.shutdown()


@contextmanager
def serving(service: Any) -> Iterator[str]:
    """The address at which a WSGI application is served."""
    running = make_server("127.0.0.1", 0, service, threaded=True, request_handler=Quiet)
    Thread(target=running.serve_forever, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{running.server_port}"
    finally:
        running.shutdown()
        running.server_close()
