"""Addresses as RFC 6570 templates, level 1 to 3: told of values, and read back into them.

Telling is the library's; the standard says nothing of reading, so that is done here: what a
template can tell, it reads back to the same values.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from functools import lru_cache
from typing import Final, NamedTuple
from urllib.parse import parse_qsl, unquote

from cadena.model.app import App
from cadena.model.values import Value, shown

LONGEST: Final = 2_000
VARIABLE: Final = re.compile(r"[A-Za-z0-9_.%-]+")
EXPRESSION: Final = re.compile(r"\{([+#./;?&]?)([A-Za-z0-9_,.*:%-]*)\}")
NAME: Final = re.compile(r"[A-Za-z0-9_%][A-Za-z0-9_.%-]*")
ENDS: Final = {"": "/?#&,;", "+": "", "#": "", "/": "/?#&,;"}
"""Letters that the value of a variable cannot hold, by the operator of its expression."""
BEGINS: Final = {"": "", "+": "", "#": "#", "/": "/"}
BETWEEN: Final = {"": ",", "+": ",", "#": ",", "/": "/"}


class Addressed(NamedTuple):
    """A screen or a section that has an address; a section stands for its root."""

    template: str
    screen: str
    section: str
    where: str


def addressed(app: App) -> tuple[Addressed, ...]:
    """Everything with an address: sections first, for theirs are shorter."""
    found = [
        Addressed(section.address, section.root, section.id, f"sections[{section.id}].address")
        for section in app.sections
        if section.address
    ]
    found += [
        Addressed(screen.address, screen.id, "", f"screens[{screen.id}].address")
        for screen in app.screens
        if screen.address
    ]
    return tuple(found)


@lru_cache(maxsize=256)
def fault_of_template(template: str) -> str | None:
    """Why a template cannot be an address, or none."""
    if len(template) > LONGEST:
        return f"it is longer than {LONGEST} characters"
    if not template.startswith("/"):
        return "an address begins with /"
    if re.search(r"[\s<>\"\\^`|]", template):
        return "it holds a character that no address has"
    left = EXPRESSION.sub("", template)
    if "{" in left or "}" in left:
        return "its braces do not match, or hold what RFC 6570 does not know"
    if re.search(r"\}\{(?![?&/#])", template) or len(re.findall(r"\{[+#]", template)) > 1:
        return "nobody can tell where one of its variables ends and the next begins"
    for operator, names in EXPRESSION.findall(template):
        if operator in (";", "."):
            return f"{{{operator}{names}}} is told and cannot be read back"
        for name in names.split(","):
            if "*" in name or ":" in name:
                return f"{{{name}}} is of level 4: levels 1 to 3 are read"
            if not NAME.fullmatch(name):
                return f"{{{names}}} names nothing"
    return None


@lru_cache(maxsize=256)
def names_in(template: str) -> tuple[str, ...]:
    """The variables of a template, each once."""
    names = (name for _, some in EXPRESSION.findall(template) for name in some.split(","))
    return tuple(dict.fromkeys(each for each in names if each))


def renamed_in(template: str, renamed: Callable[[str], str]) -> str:
    """The template with its variables called otherwise."""

    def expression(found: re.Match[str]) -> str:
        names = VARIABLE.sub(lambda name: renamed(name[0]), found[2])
        return "{" + found[1] + names + "}"

    return EXPRESSION.sub(expression, template)


def told(template: str, arguments: Mapping[str, Value]) -> str | None:
    """The address of these arguments; none where one that stands in its path has no value."""
    needed = [
        name
        for operator, some in EXPRESSION.findall(template)
        if operator not in ("?", "&")
        for name in some.split(",")
    ]
    if fault_of_template(template) or any(_word(arguments.get(e)) == "" for e in needed):
        return None
    if "{" not in template:
        return template
    words = tuple([(name, _word(value)) for name, value in arguments.items() if value is not None])
    return _expanded(template, words)


@lru_cache(maxsize=1024)
def _expanded(template: str, words: tuple[tuple[str, str], ...]) -> str:
    import uritemplate

    return str(uritemplate.expand(template, dict(words)))


def _word(value: Value | None) -> str:
    if value is None:
        return ""
    if isinstance(value, tuple):
        return ",".join(shown(each) for each in value)
    return shown(value)


def read(template: str, address: str) -> dict[str, str] | None:
    """The values that an address gives the variables of a template; none where it is another."""
    if fault_of_template(template) or len(address) > LONGEST:
        return None
    plain, _, query = address.partition("?")
    query, _, fragment = query.partition("#")
    if not query and "#" in plain:
        plain, _, fragment = plain.partition("#")
    found = _matched(_pieces(template), plain + (f"#{fragment}" if fragment else ""))
    if found is None:
        return None
    values = {name: unquote(value) for name, value in found.items()}
    if any(value == "" for value in values.values()):
        return None
    try:
        asked = dict(parse_qsl(query, keep_blank_values=True, max_num_fields=100))
    except ValueError:
        return None
    names = [
        name
        for operator, some in EXPRESSION.findall(template)
        if operator in ("?", "&")
        for name in some.split(",")
    ]
    return {**values, **{name: asked[name] for name in names if name in asked}}


class Piece(NamedTuple):
    """A stretch of a template before its query: what stands there, or a variable.

    ``name`` is that of the variable, or empty; ``text`` is what stands there, or of a variable
    the letters that its value cannot hold.
    """

    name: str
    text: str


@lru_cache(maxsize=256)
def _pieces(template: str) -> tuple[Piece, ...]:
    """What an address under a template is made of, before its query."""
    made: list[Piece] = []
    at = 0
    for found in EXPRESSION.finditer(template):
        made.append(Piece("", template[at : found.start()]))
        at = found.end()
        operator, names = found.group(1), found.group(2).split(",")
        if operator in ("?", "&"):
            continue
        for number, name in enumerate(names):
            made.append(Piece("", BETWEEN[operator] if number else BEGINS[operator]))
            made.append(Piece(name, ENDS[operator]))
    made.append(Piece("", template[at:]))
    return tuple(_joined(made))


def _joined(pieces: list[Piece]) -> Iterator[Piece]:
    """The pieces with what stands side by side as one, and without what stands for nothing."""
    text = ""
    for piece in pieces:
        if not piece.name:
            text += piece.text
            continue
        if text:
            yield Piece("", text)
        text = ""
        yield piece
    if text:
        yield Piece("", text)


def _matched(pieces: tuple[Piece, ...], address: str) -> dict[str, str] | None:
    """The values of a template's variables in an address; none where it is another.

    From both ends towards the one variable that may hold anything, each other one up to the
    nearest text that ends it: every letter is looked at a fixed number of times.
    """
    open_ = next((at for at, each in enumerate(pieces) if each.name and not each.text), None)
    first = len(pieces) if open_ is None else open_
    if open_ is None and pieces and not pieces[-1].name:
        # What an address ends with ends it: a value may hold the same text before.
        if not address.endswith(pieces[-1].text):
            return None
        address, pieces = address[: len(address) - len(pieces[-1].text)], pieces[:-1]
    start, values = 0, dict[str, str]()
    for number, piece in enumerate(pieces[:first]):
        if not piece.name:
            if not address.startswith(piece.text, start):
                return None
            start += len(piece.text)
            continue
        following = pieces[number + 1].text if number + 1 < len(pieces) else ""
        is_last = number + 1 == len(pieces)
        end = len(address) if is_last else address.find(following, start)
        if end < 0 or any(letter in piece.text for letter in address[start:end]):
            return None
        values[piece.name], start = address[start:end], end
    if open_ is None:
        return values if start == len(address) else None
    end = len(address)
    for number in range(len(pieces) - 1, open_, -1):
        piece = pieces[number]
        if not piece.name:
            if end < start + len(piece.text) or not address.endswith(piece.text, start, end):
                return None
            end -= len(piece.text)
            continue
        before = pieces[number - 1].text
        begin = address.rfind(before, start, end) + len(before)
        if begin < len(before) or any(letter in piece.text for letter in address[begin:end]):
            return None
        values[piece.name], end = address[begin:end], begin
    values[pieces[open_].name] = address[start:end]
    return values


def path_of(text: str) -> str:
    """An address as a template tells it, of what a person may have pasted: no scheme, no host."""
    text = text.strip()
    scheme = re.match(r"[A-Za-z][A-Za-z0-9+.-]*:(//[^/?#]*)?", text)
    if scheme is not None:
        text = text[scheme.end() :]
    return text if text.startswith("/") else f"/{text}"
