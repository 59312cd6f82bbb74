"""A desktop of its own for an app that is driven: a virtual display, a bus, and what listens."""

from __future__ import annotations

import contextlib
import os
import shlex
import shutil
import signal
import subprocess
import tempfile
import time
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Final

from cadena.deliver.drive.accessibility import Accessibility, Ref
from cadena.model.problem import Problem

NEEDED: Final = {
    "Xvfb": "Debian's package xvfb",
    "dbus-run-session": "Debian's package dbus",
}
LISTENER: Final = "/usr/libexec/at-spi-bus-launcher"
WATCHED: Final = r"""
trap : TERM
Xvfb -displayfd 3 -screen 0 2600x2600x24 -nolisten tcp 3> "$0/display" &
display=$!
until test -s "$0/display" || ! kill -0 $! 2> /dev/null; do sleep 0.05; done
DISPLAY=":$(cat "$0/display")" dbus-run-session -- /bin/sh -c \
  'echo "$DBUS_SESSION_BUS_ADDRESS" > "$0/bus"; while sleep 60; do :; done' "$0" &
bus=$!
cat > /dev/null
test -s "$0/app" && kill -KILL -- "-$(cat "$0/app")" 2> /dev/null
kill -TERM 0
{ for turn in 1 2 3 4 5; do sleep 0.5; kill -TERM 0; done; } &
wait $display $bus
for turn in 1 2 3 4 5; do rm -rf -- "$0"; sleep 0.2; test -e "$0" || break; done
kill -KILL 0
"""
"""Runs a display and a bus until its input ends: with what began it, however that ends, they and
the app end, and their folder goes. An app that lived on would make it anew. What was just
beginning does not hear that it is to end, and is told again."""
BEGINS_WITHIN: Final = 20.0
ENDS_WITHIN: Final = 5.0


class Place:
    """A desktop on which one app at a time is run.

    Args:
        folder: where all is kept that the desktop and the app write.
        command: what starts the app; ``--driven`` and ``--size`` are added.
    """

    def __init__(self, folder: Path, command: str) -> None:
        self.folder = folder
        try:
            self.command = shlex.split(command)
        except ValueError as error:
            raise Problem("--command", "", f"it cannot be read ({error})", "a command") from None
        if not self.command:
            raise Problem("--command", "", "it is empty", "what starts the app") from None
        display = f":{_awaited(folder / 'display')}"
        self.bus = _awaited(folder / "bus")
        for name in ("run", "data", "config", "cache"):
            (folder / name).mkdir(mode=0o700, exist_ok=True)
        self.environment: Mapping[str, str] = {
            **os.environ,
            "DISPLAY": display,
            "DBUS_SESSION_BUS_ADDRESS": self.bus,
            "XDG_RUNTIME_DIR": str(folder / "run"),
            "XDG_DATA_HOME": str(folder / "data"),
            "XDG_CONFIG_HOME": str(folder / "config"),
            "XDG_CACHE_HOME": str(folder / "cache"),
            "XDG_SESSION_TYPE": "x11",
            "GSETTINGS_BACKEND": "memory",
            "GDK_BACKEND": "x11",
            "QT_QPA_PLATFORM": "xcb",
            "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1",
            "WAYLAND_DISPLAY": "",
        }
        self.listens = Accessibility(self.bus)
        self.process: subprocess.Popen[bytes] | None = None
        self.app: Ref | None = None

    @property
    def is_running(self) -> bool:
        return self.process is not None and self.process.poll() is None

    def start(self, width: float, height: float, *more: str) -> None:
        """Start the app, and wait until it says what it shows.

        Raises:
            Problem: where it does not, or there is no such command.
        """
        sized = ["--driven", "--size", f"{round(width)}x{round(height)}", *more]
        before = set(self.listens.apps())
        try:
            with (self.folder / "said").open("wb") as said:
                self.process = subprocess.Popen(
                    [*self.command, *sized],
                    env=self.environment,
                    stdin=subprocess.DEVNULL,
                    stdout=said,
                    stderr=said,
                    start_new_session=True,
                )
            (self.folder / "app").write_text(str(self.process.pid))
        except OSError as error:
            reason = f"it cannot be started ({error.strerror})"
            raise Problem(self.command[0], "", reason, "a command") from None
        until = time.monotonic() + BEGINS_WITHIN
        while time.monotonic() < until and self.is_running:
            new = [each for each in self.listens.apps() if each not in before]
            if new:
                self.app = new[0]
                return
            time.sleep(0.02)
        ended = "it ended" if not self.is_running else "it shows nothing that can be read"
        last = (self.folder / "said").read_text("utf-8", "replace").strip().splitlines()[-1:]
        self.end()
        raise Problem(
            " ".join(self.command), "", " ".join([ended, *last]), "an app that can be driven"
        )

    def kill(self) -> None:
        """End the app as the system does that needs its room."""
        self._end(signal.SIGKILL)

    def end(self) -> None:
        """End the app as a person does."""
        self._end(signal.SIGTERM)

    def _end(self, how: signal.Signals) -> None:
        process, self.process, self.app = self.process, None, None
        if process is None:
            return
        for how_to_end in (how, signal.SIGKILL):
            with contextlib.suppress(ProcessLookupError):
                os.killpg(process.pid, how_to_end)
            try:
                process.wait(ENDS_WITHIN)
                # Its number may be another's by the time that the desktop ends.
                (self.folder / "app").unlink(missing_ok=True)
                return
            except subprocess.TimeoutExpired:
                continue

    def forget(self) -> None:
        """Let go of all that the app has kept."""
        for name in ("data", "config", "cache"):
            shutil.rmtree(self.folder / name, ignore_errors=True)
            (self.folder / name).mkdir(mode=0o700, exist_ok=True)


def _awaited(file: Path) -> str:
    """What a program writes once it has begun.

    Raises:
        Problem: where it does not.
    """
    until = time.monotonic() + BEGINS_WITHIN
    while time.monotonic() < until:
        with contextlib.suppress(OSError):
            if (said := file.read_text().strip()) != "":
                return said
        time.sleep(0.02)
    raise Problem("the desktop", "", f"no {file.name} came", "xvfb and dbus that work")


@contextlib.contextmanager
def desktop(command: str) -> Iterator[Place]:
    """A desktop of its own for an app, as long as it is driven.

    Raises:
        Problem: saying what is not there, and the package that has it.
    """
    for name, package in NEEDED.items():
        if shutil.which(name) is None:
            raise Problem(name, "", "it is not there", package)
    if not Path(LISTENER).exists() and shutil.which("at-spi-bus-launcher") is None:
        raise Problem("at-spi-bus-launcher", "", "it is not there", "Debian's package at-spi2-core")
    folder = Path(tempfile.mkdtemp(prefix="cadena-desktop-"))
    watch = subprocess.Popen(
        ["/bin/sh", "-c", WATCHED, str(folder)],
        stdin=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        env={
            **os.environ,
            "XDG_RUNTIME_DIR": str(folder),
            "XDG_CACHE_HOME": str(folder),
            "GSETTINGS_BACKEND": "memory",
        },
        start_new_session=True,
    )
    try:
        place = Place(folder, command)
        try:
            yield place
        finally:
            place.end()
            place.listens.close()
    finally:
        watch.communicate()
