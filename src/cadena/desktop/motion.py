"""Whether things may move: not where the person, or the desktop, asks for no motion."""

from __future__ import annotations

import os

from PySide6.QtWidgets import QApplication


class Motion:
    """What the person has said, if anything."""

    reduced: bool | None = None


def is_reduced() -> bool:
    """Whether motion is to be left out.

    The person's own word comes first, then ``CADENA_REDUCED_MOTION``, then what the desktop
    says of menus and of the interface as a whole.
    """
    if Motion.reduced is not None:
        return Motion.reduced
    if "CADENA_REDUCED_MOTION" in os.environ:
        return os.environ["CADENA_REDUCED_MOTION"] not in ("", "0")
    from PySide6.QtCore import Qt

    return not QApplication.isEffectEnabled(Qt.UIEffect.UI_General)
