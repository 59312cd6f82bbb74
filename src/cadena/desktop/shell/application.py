"""Starting the application."""

from __future__ import annotations

import sys
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtGui import QGuiApplication, QIcon
from PySide6.QtWidgets import QApplication

from cadena.desktop.document.document import Document
from cadena.desktop.painting import theme
from cadena.desktop.painting.faces import forget_fonts
from cadena.desktop.process.collection import settle
from cadena.desktop.process.crash import reports
from cadena.desktop.process.settings import Settings, read_settings
from cadena.desktop.shell.install_desktop import NAME, SHARE
from cadena.desktop.shell.window import MainWindow
from cadena.engine.session import Session, sized
from cadena.model.file.project_file import SUFFIX


def application() -> QApplication:
    """The one application object."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    QApplication.setApplicationName("cadena")
    QApplication.setApplicationDisplayName("Cadena")
    QGuiApplication.setDesktopFileName(NAME)
    QGuiApplication.setWindowIcon(QIcon(str(SHARE / f"{NAME}.svg")))
    return QApplication([*sys.argv[:1], "-style", "Fusion"])


def dressed(app: QApplication, settings: Settings) -> None:
    """Dress the application as it was left, or as the desktop asks."""
    scheme = QGuiApplication.styleHints().colorScheme().name.lower()
    name = settings.theme or scheme
    theme.install(app, "dark" if name == "dark" else "light")
    forget_fonts()


def window_on(project: Path | None, settings: Settings, remembers: bool = True) -> MainWindow:
    """The window on a project, or on the first page.

    Raises:
        Problem: when the project cannot be used.
    """
    document = Document()
    document.session = Session(sized(*settings.window))
    if project is not None:
        document.open(project)
    window = MainWindow(document, settings, remembers)
    window.stage_of("Link").picture.set_zoom(settings.zoom * theme.Look.scale)
    settle()
    return window


def is_data(path: Path) -> bool:
    """Whether a path is a data file, to make a project of, and no project itself."""
    return path.is_file() and path.suffix != SUFFIX


def run(project: Path | None) -> int:
    """Show the window, on a project or on the first page, until it is closed.

    Raises:
        Problem: when the project cannot be used.
    """
    app = application()
    settings = read_settings()
    dressed(app, settings)
    data = project if project is not None and is_data(project) else None
    window = window_on(None if data is not None else project, settings)
    reports().install()
    reports().happened.connect(window.tell_error)
    window.show()
    QTimer.singleShot(0, window.activateWindow)
    if data is not None:
        QTimer.singleShot(0, lambda: window.taking.make_of(data))
    return app.exec()
