"""What an app says by itself (*Back*, *Save*, *Nothing chosen*), in the language of its locale.

Each language is a file of its own in ``cadena/languages``, by its code of ISO 639: for each text
in English what is said, or, where it depends on a number, a dictionary by the plural categories
of CLDR. Another language is a file more; what it leaves out is said in English.
"""

from __future__ import annotations

import json
import re
from functools import lru_cache
from importlib import resources
from typing import Any, Final

PACKAGE: Final = __name__.rpartition(".model.")[0]
PLACE: Final = re.compile(r"\{(\w+)\}")
Said = dict[str, str | dict[str, str]]


@lru_cache
def language_of(locale: str) -> str:
    """The language of a locale (BCP 47), where there are words in it; else English.

    >>> language_of("de-AT"), language_of("sv"), language_of("")
    ('de', 'en', 'en')
    """
    code = re.split("[-_]", locale)[0].lower()
    return code if code in languages() else "en"


@lru_cache
def languages() -> tuple[str, ...]:
    """The languages that there are words in."""
    names = (each.name for each in (resources.files(PACKAGE) / "languages").iterdir())
    return tuple(sorted(each.removesuffix(".json") for each in names if each.endswith(".json")))


@lru_cache
def words_in(language: str) -> Said:
    """Everything that an app says by itself, by the text in English."""
    folder = resources.files(PACKAGE) / "languages"
    english: Said = json.loads((folder / "en.json").read_text("utf-8"))
    if language == "en":
        return english
    own: Said = json.loads((folder / f"{language}.json").read_text("utf-8"))
    return english | own


class AppWords:
    """The words of one app: called with a text in English and what fills its places."""

    def __init__(self, locale: str) -> None:
        self.language = language_of(locale)
        self._said = words_in(self.language)

    def __call__(self, text: str, /, count: int | None = None, **places: Any) -> str:
        """A text as it is said; one that depends on a number, for that number."""
        said = self._said.get(text, text)
        if isinstance(said, dict):
            said = said.get(_plural(self.language, count or 0), said["other"])
        if count is not None:
            places["count"] = count
        return PLACE.sub(lambda found: str(places.get(found[1], found[0])), said)


@lru_cache
def _plural(language: str, count: int) -> str:
    from babel import Locale

    return str(Locale.parse(language).plural_form(count))
