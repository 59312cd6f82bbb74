"""The one place where unexpected errors go: a log in the state folder, and the window's word."""

from __future__ import annotations

import contextlib
import faulthandler
import sys
import threading
from functools import lru_cache
from types import TracebackType
from typing import IO, Any, Final

from PySide6.QtCore import QMessageLogContext, QObject, QtMsgType, Signal, qInstallMessageHandler

from cadena.desktop.process.log import (
    LONGEST,
    append,
    in_a_line,
    log_file,
    report_of,
    report_of_text,
)

QUIET: Final = ("propagateSizeHints", "This plugin does not support")
"""What the toolkit says of a platform without a screen, and what is nothing to tell."""


class Reports(QObject):
    """Tells of what went wrong: a short word of it, and the report as text."""

    happened = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self._fatal: IO[bytes] | None = None

    def report(self, error: BaseException, where: str = "") -> str:
        """Write an error to the log, and say that it happened.

        Returns:
            The error in a line.
        """
        said = in_a_line(error)
        self._tell(said, report_of(error, where))
        return said

    def _tell(self, said: str, report: str) -> None:
        append(report)
        self.happened.emit(said, report)

    def install(self) -> None:
        """Let every error that nobody takes come here: of Python, of threads, of the toolkit."""
        sys.excepthook = self._unexpected
        threading.excepthook = self._in_thread
        sys.unraisablehook = self._unraisable
        qInstallMessageHandler(self._of_toolkit)
        with contextlib.suppress(OSError):
            file = log_file()
            file.parent.mkdir(parents=True, exist_ok=True)
            self._fatal = file.open("ab")
            faulthandler.enable(self._fatal)

    def _unexpected(
        self, kind: type[BaseException], error: BaseException, trace: TracebackType | None
    ) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        self.report(error.with_traceback(trace))

    def _in_thread(self, given: threading.ExceptHookArgs) -> None:
        if given.exc_value is not None and not isinstance(given.exc_value, SystemExit):
            name = given.thread.name if given.thread is not None else "a thread"
            self.report(given.exc_value, f"in {name}")

    def _unraisable(self, given: Any) -> None:
        if given.exc_value is not None:
            self.report(given.exc_value, str(given.err_msg or "while something was let go"))

    def _of_toolkit(self, kind: QtMsgType, _: QMessageLogContext, text: str | None) -> None:
        said = text or ""
        is_plain = kind in (QtMsgType.QtDebugMsg, QtMsgType.QtInfoMsg)
        if is_plain or any(each in said for each in QUIET):
            return
        report = report_of_text(f"the toolkit says: {said}")
        if kind == QtMsgType.QtWarningMsg:
            append(report)
        else:
            self._tell(said[:LONGEST], report)


@lru_cache
def reports() -> Reports:
    """The one place."""
    return Reports()
