"""How the whole app writes numbers and dates."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.widgets.words import Sentence, Word
from cadena.records.formats import date, known_locale, number


def locale_sentences(document: Document) -> list[Sentence]:
    """How the whole app writes numbers and dates."""
    now = document.app.locale

    def take(text: str) -> None:
        name = text.strip()
        if name and not known_locale(name):
            document.failed.emit(f'"{name}" came, a locale such as en-GB or de was wanted')
            return
        document.edit("locale", replace(document.app, locale=name))

    known = known_locale(now)
    example = f"{number(1234.5, None, known)}, {date('2027-03-09', 'medium', known)}"
    words = [Word("line", now, take, name="locale"), Word("text", f"so 1234.5 is said {example}")]
    return [Sentence("", words)]
