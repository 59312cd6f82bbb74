"""Someone who presses anything, for as long as is asked: nothing may break, and memory stays level.

python tools/random_acts.py --count 10000 --seed 1 [--project cresta]
"""

from __future__ import annotations

import argparse
import gc
import os
import random
import shutil
import sys
import tempfile
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["QT_LOGGING_RULES"] = "*.warning=false"
sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QWidget

PART = 500


class Hands:
    """What the tests' own driver of windows gives a person, without a test around it."""

    mouseClick = staticmethod(QTest.mouseClick)
    mousePress = staticmethod(QTest.mousePress)
    mouseRelease = staticmethod(QTest.mouseRelease)
    keyClick = staticmethod(QTest.keyClick)
    keyClicks = staticmethod(QTest.keyClicks)

    def addWidget(self, widget: QWidget, **_: object) -> None:
        self.widget = widget

    def waitExposed(self, _: QWidget) -> None:
        QApplication.processEvents()


def resident() -> float:
    """MB of memory that the process now takes."""
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith("VmRSS"):
            return int(line.split()[1]) / 1024
    return 0.0


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=10_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--project", default="cresta")
    asked = parser.parse_args()
    folder = Path(tempfile.mkdtemp())
    for name in ("XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME"):
        os.environ[name] = str(folder / name)
    QFileDialog.getSaveFileName = staticmethod(lambda *_: ("", ""))  # type: ignore[method-assign]
    QFileDialog.getOpenFileName = staticmethod(lambda *_: ("", ""))  # type: ignore[method-assign]
    from builders import DEMO
    from test_desktop import Person
    from test_desktop_monkey import act

    QApplication.instance() or QApplication(sys.argv[:1])
    shutil.copytree(DEMO / asked.project, folder / asked.project)
    person = Person(Hands(), folder / asked.project)  # type: ignore[arg-type]
    before = person.document.app
    chance = random.Random(asked.seed)
    levels: list[float] = []
    for number in range(1, asked.count + 1):
        try:
            act(person, chance)
        except Exception:
            print(f"act {number} of seed {asked.seed} broke it", flush=True)
            raise
        if number % PART == 0 or number == asked.count:
            # All the way back: an app that only ever grows would need more and more.
            edits = len(person.document.history.past)
            while person.document.history.undoes:
                person.document.undo()
                QApplication.processEvents()
            if person.document.app != before:
                print(f"undo after act {number} of seed {asked.seed} does not lead back")
                return 1
            gc.collect()
            levels.append(resident())
            print(f"{number}: {levels[-1]:.0f} MB after {edits} edits undone", flush=True)
    half = levels[len(levels) // 2 :]
    print(f"second half: {half[0]:.0f} to {half[-1]:.0f} MB")
    shutil.rmtree(folder)
    return 0


if __name__ == "__main__":
    sys.exit(main())
