"""Writes what the docs tell of each kind of mistake: ``make schemas`` runs it."""

from __future__ import annotations

import re
from pathlib import Path

from cadena.check.finding import mistakes
from cadena.check.mend import MENDS

DOCS = Path(__file__).parents[1] / "docs" / "checks.md"
HEAD = "| code | | why it matters | stage | mends |\n| --- | --- | --- | --- | --- |\n"


def table() -> str:
    """Every kind of mistake, one in a line; what differs from one to another is in italics."""
    rows = []
    for code, kind in sorted(mistakes().items()):
        why = re.sub(r"{(.*?)}", r"*\1*", kind.why)
        mends = "✓" if code in MENDS else ""
        rows.append(f"| `{code}` | {kind.weight} | {why} | {kind.stage} | {mends} |\n")
    return HEAD + "".join(rows)


def with_table(text: str) -> str:
    """The page with its table made anew."""
    return re.sub(r"(?:^\|.*\n)+", lambda _: table(), text, count=1, flags=re.MULTILINE)


if __name__ == "__main__":
    DOCS.write_text(with_table(DOCS.read_text("utf-8")), "utf-8")
