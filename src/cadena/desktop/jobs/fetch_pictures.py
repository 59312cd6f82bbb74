"""Brings the pictures that lie at web addresses, once the person has said that it may."""

from __future__ import annotations

import threading
from typing import Final

from PySide6.QtCore import QObject, QTimer, Signal

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.process.threads import tell
from cadena.model.problem import Problem

AT_ONCE: Final = 4
MOST: Final = 500
"""Pictures that are brought as long as a project is open."""
SOON: Final = 120
"""Ms in which what has come is shown together."""


class FetchPictures(QObject):
    """Watches what pictures are wanted, and brings them."""

    _came = Signal(str, object, str)

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.document = document
        self._under_way: set[str] = set()
        self._soon = QTimer(self, singleShot=True, interval=SOON)
        self._soon.timeout.connect(lambda: document.tell(Change.PICTURES))
        self._came.connect(self._keep)
        document.watch(Change.CALLS | Change.SESSION | Change.PICTURES, self.refresh)

    def refresh(self) -> None:
        """Ask for what is wanted, a few at once."""
        pictures = self.document.pictures
        if not self.document.may_call:
            return
        for address in list(pictures.wanted):
            if len(self._under_way) >= AT_ONCE or pictures.brought >= MOST:
                return
            pictures.wanted.discard(address)
            self._under_way.add(address)
            name = "bring a picture"
            threading.Thread(target=self._run, args=(address,), daemon=True, name=name).start()

    def _run(self, address: str) -> None:
        # What calls is loaded once something is called.
        from cadena.sources.remote_pictures import picture_at

        raw, why = b"", ""
        try:
            raw = picture_at(address)
        except Problem as problem:
            why = problem.found
        except Exception as error:
            why = type(error).__name__
        tell(self, "_came", address, raw, why)

    def _keep(self, address: str, raw: bytes, why: str) -> None:
        self._under_way.discard(address)
        pictures = self.document.pictures
        pictures.keep(address, raw, why)
        if address in pictures.failed:
            self.document.pictures_failed()
        self._soon.start()
