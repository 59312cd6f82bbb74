"""A command of Cadena in a process of its own: what takes long there keeps no window waiting."""

from __future__ import annotations

import subprocess
import sys
from typing import NamedTuple


class Ended(NamedTuple):
    """How a command ended: its exit code, less than 0 where it was stopped, and what it said."""

    code: int
    said: str
    problem: str


class OwnProcess:
    """Runs one command until it ends or is stopped, which may be before it has begun."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[str] | None = None
        self._is_stopped = False

    def run(self, *words: str) -> Ended:
        """Run a command, and wait for it: not on the main thread.

        Raises:
            OSError: where it does not begin.
        """
        command = [sys.executable, "-m", "cadena", *words]
        self._process = subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
        )
        if self._is_stopped:
            self._process.kill()
        said, problem = self._process.communicate()
        return Ended(self._process.returncode, said, problem.strip())

    def stop(self) -> None:
        """End what is under way."""
        self._is_stopped = True
        if self._process is not None:
            self._process.kill()
