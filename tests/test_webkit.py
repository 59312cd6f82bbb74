"""The delivered app in another engine: WebKitGTK, on a display of its own."""

from __future__ import annotations

import os
import shutil
import subprocess
from collections.abc import Iterator
from glob import glob
from pathlib import Path

import pytest
from msgspec.structs import replace

from builders import demo
from cadena.deliver.delivery import deliver
from cadena.deliver.drive.walks_driven import Plan
from cadena.deliver.web_app import web_files
from cadena.deliver.wishes import WebWishes
from cadena.engine import events as do
from cadena.engine.wired import WiredApp
from test_drive import CRESTA, SIZES, assert_as_wired, driven, plan

DRIVER = shutil.which("WebKitWebDriver")
BROWSER = next(iter(sorted(glob("/usr/lib/*/webkit2gtk-4.*/MiniBrowser"))), None)
pytestmark = pytest.mark.skipif(
    None in (DRIVER, BROWSER, shutil.which("Xvfb")), reason="WebKitGTK's driver is not there"
)


@pytest.fixture
def webkit(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """WebKit in place of Chromium, and a display that nobody sees."""
    told, given = os.pipe()
    arguments = [
        "Xvfb",
        "-displayfd",
        str(given),
        "-screen",
        "0",
        "1600x1300x24",
        "-nolisten",
        "tcp",
    ]
    display = subprocess.Popen(arguments, pass_fds=(given,), stderr=subprocess.DEVNULL)
    try:
        os.close(given)
        monkeypatch.setenv("DISPLAY", f":{os.read(told, 16).decode().strip()}")
        monkeypatch.setenv("CADENA_BROWSER", str(BROWSER))
        monkeypatch.setenv("CADENA_DRIVER", str(DRIVER))
        # As root it has no sandbox to run in.
        monkeypatch.setenv("WEBKIT_DISABLE_SANDBOX_THIS_IS_DANGEROUS", "1")
        yield
    finally:
        display.terminate()
        display.wait()
        os.close(told)


@pytest.mark.long
def test_a_walk_and_history_do_what_was_wired_in_another_engine(
    webkit: None, tmp_path: Path
) -> None:
    plain = demo().app
    app = WiredApp(replace(plain, platform=replace(plain.platform, forward=True)), demo().as_read)
    wishes = WebWishes(bundled=True)
    deliver(web_files(app, CRESTA, tmp_path, wishes), tmp_path, wishes)
    history = (
        *(do.Choose(screen="huts", key="alp"), do.Press(screen="hut", button="book")),
        *(do.Back(), do.Forward(), do.Scroll(by=300.0, screen="huts"), do.Back(), do.Forward()),
    )
    plans = (plan("groups", "Slate"), Plan("history", history, "Slate", SIZES["Slate"]))
    assert_as_wired(driven(app, tmp_path, *plans))
