"""Texts of strangers where they are printed or written down: they are only read."""

from __future__ import annotations

import re
from typing import Final

NOT_OF_XML: Final = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
"""What no document of XML 1.0 can hold (2.2)."""
CONTROLS: Final = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u200e\u200f\u202a-\u202e\u2066-\u2069]")
"""What a terminal does not show, but does: also what turns the direction of reading."""


def xml_text(text: str) -> str:
    """A text without what XML 1.0 cannot hold."""
    return NOT_OF_XML.sub("\ufffd", text)


def printed(text: str) -> str:
    """A text as it is printed: what would be done by a terminal is shown as such."""
    shown = CONTROLS.sub(lambda found: f"\\u{ord(found[0]):04x}", text)
    return shown.encode("utf-8", "backslashreplace").decode()
