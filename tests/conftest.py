"""Every test runs without a monitor and keeps its state to itself."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from cadena.deliver.drive.webdriver import Browser, browser
from long_form import examples

os.environ["QT_QPA_PLATFORM"] = "offscreen"

settings.register_profile(
    "steady",
    deadline=None,
    derandomize=True,
    max_examples=examples(100),
    suppress_health_check=[HealthCheck.too_slow],
)
settings.load_profile("steady")


@pytest.fixture(autouse=True)
def own_state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Settings, rescues, the demo's copy and what was read go to a folder of the test."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


@pytest.fixture(scope="session")
def kept_browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Browser]:
    """One browser for the pages of all tests: to start one takes longer than most of them."""
    with browser(tmp_path_factory.mktemp("kept") / "profile") as made:
        yield made


@pytest.fixture
def tab(kept_browser: Browser) -> Browser:
    """A tab of the kept browser with nothing behind it.

    What an app keeps is kept for its address, and each that is served has another.
    """
    kept_browser.new_tab()
    return kept_browser


@pytest.fixture(autouse=True)
def closed_windows() -> Iterator[None]:
    """What a test showed or closed is gone before the next.

    Else each later window is styled with it, and what runs in it goes on until it is collected,
    which can be in the middle of its own running.
    """
    yield
    if "PySide6.QtWidgets" in sys.modules:
        from PySide6.QtCore import QCoreApplication, QEvent
        from PySide6.QtWidgets import QApplication

        if QCoreApplication.instance() is not None:
            for left in QApplication.topLevelWidgets():
                left.hide()
            QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
