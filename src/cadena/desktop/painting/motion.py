"""Whether things may move: not where the person, or the desktop, asks for no motion."""

from __future__ import annotations

import os

from PySide6.QtWidgets import QApplication


class Motion:
    """What the person has said, if anything."""

    reduced: bool | None = None


def is_reduced() -> bool:
    """Whether motion is to be left out.

    The person's own word comes first, then ``CADENA_REDUCED_MOTION``, then what the desktop's
    style says of how long its own controls move.
    """
    if Motion.reduced is not None:
        return Motion.reduced
    if "CADENA_REDUCED_MOTION" in os.environ:
        return os.environ["CADENA_REDUCED_MOTION"] not in ("", "0")
    from PySide6.QtWidgets import QStyle

    style = QApplication.style()
    return style.styleHint(QStyle.StyleHint.SH_Widget_Animation_Duration) <= 0
