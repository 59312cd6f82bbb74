"""What no person can do to an app, for who drives it: a door on the session's bus.

It is there only where the app was started with ``--driven`` (docs/driving.md).
"""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any, Final

import msgspec
from PySide6.QtCore import ClassInfo, QBuffer, QByteArray, QObject, Slot
from PySide6.QtDBus import QDBusConnection
from PySide6.QtWidgets import QWidget

from cadena.engine.events import Event
from cadena.engine.rules.addresses import address_now
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp

NAME: Final = "cadena.Driven"
PATH: Final = "/driven"
_on_bus: Any = ClassInfo({"D-Bus Interface": NAME})  # type: ignore[call-arg]
Told = Callable[[Event], None]
Asked = Callable[[], tuple[WiredApp, Session]]


@_on_bus
class Door(QObject):
    """Takes events of docs/walk.schema.json, and says what no element shows."""

    def __init__(self, told: Told, asked: Asked, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._told = told
        self._asked = asked
        self._bus = QDBusConnection.sessionBus()
        self._bus.registerObject(PATH, self, QDBusConnection.RegisterOption.ExportAllSlots)
        self._bus.registerService(NAME)

    @Slot(str, result=str)
    def Tell(self, text: str) -> str:
        """Let an event happen; why it could not, or nothing."""
        try:
            event: Any = msgspec.json.decode(text, type=Event)
        except msgspec.MsgspecError as error:
            return str(error)
        self._told(event)
        return ""

    @Slot(result=str)
    def Picture(self) -> str:
        """What the window looks like, as PNG in Base64."""
        made = QByteArray()
        buffer = QBuffer(made)
        buffer.open(QBuffer.OpenModeFlag.WriteOnly)
        self._window.grab().save(buffer, "PNG")
        return str(made.toBase64().data(), "ascii")

    @Slot(result=str)
    def State(self) -> str:
        """Phase, section and address, as JSON."""
        app, session = self._asked()
        is_shown = session.phase in ("running", "asleep")
        said = {
            "phase": session.phase,
            "section": session.section,
            "rtl": session.window.rtl,
            "address": address_now(app, session) if is_shown else None,
        }
        return json.dumps(said, ensure_ascii=False)
