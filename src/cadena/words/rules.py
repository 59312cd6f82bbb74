"""The rule that each kind of note goes by, as the rulebook numbers them."""

from __future__ import annotations

from typing import Final, get_args

from cadena.engine.notes import Kind, Note

RULES: Final[dict[str, str]] = {
    "already open": "2.4",
    "answered": "9",
    "arranged": "5.1",
    "asked": "2.5",
    "asleep": "6",
    "awake": "6",
    "back": "4",
    "back to": "9.1",
    "brought": "15",
    "called": "9",
    "changed": "8",
    "closed": "8",
    "closed by rule": "5.5",
    "divided": "3.2",
    "dropped": "6",
    "emptied": "10",
    "failed": "9",
    "fallback": "11",
    "filtered": "7.1",
    "forward": "17",
    "given up": "9.1",
    "group": "7.1",
    "handed out": "7.1",
    "kept": "6",
    "killed": "6",
    "late": "9",
    "left": "4.6",
    "left for": "7.10",
    "left out": "8.1",
    "let go": "14",
    "marked": "7",
    "moved on": "8",
    "not opened": "2.2",
    "not opened by rule": "5.2",
    "not saved": "10",
    "not sent": "9",
    "not written": "9.1",
    "opened": "2.3",
    "page": "3",
    "picked": "14",
    "put back": "8",
    "rebuilt": "5.4",
    "refreshed": "8",
    "refused": "2.2",
    "relaunched": "6",
    "removed": "8",
    "restored": "6",
    "said": "8",
    "saved": "10",
    "section": "2.6",
    "sent": "9.1",
    "set": "2.1",
    "settled": "9.1",
    "shares": "3.2",
    "started": "1",
    "visited": "11",
    "window": "5",
    "written": "9.1",
}
assert set(RULES) == set(get_args(Kind))


def rule_of(note: Note) -> str:
    """The number of the rule that a note goes by."""
    return RULES[note.kind]
