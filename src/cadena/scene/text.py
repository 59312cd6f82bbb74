"""How large the text of each kind of box is set, in dp, and which of it is bold."""

from __future__ import annotations

from typing import Final

SIZES: Final = {
    "title": 20,
    "title centred": 16,
    "back": 14,
    "row title": 15,
    "row subtitle": 13,
    "badge": 13,
    "heading": 24,
    "body": 15,
    "fact label": 14,
    "fact": 14,
    "list heading": 16,
    "button": 15,
    "search": 14,
    "words": 14,
    "footer": 13,
    "nothing chosen": 15,
    "section": 13,
    "off words": 16,
    "asleep": 16,
    "picture": 13,
    "group": 13,
    "more": 18,
    "row action": 13,
    "page": 14,
    "loading": 14,
    "form label": 13,
    "input": 15,
    "in place": 14,
    "switch": 14,
    "option": 14,
    "fault": 13,
    "address": 14,
    "removed": 14,
    "undo": 14,
    "menu item": 15,
    "action": 15,
    "saved": 15,
}
BOLD: Final = frozenset({"title", "heading", "undo", "more"})
