"""Addresses as RFC 6570 templates, level 1 to 3: told of values, and read back into them.

Telling is the library's; the standard says nothing of reading, so that is done here: what a
template can tell, it reads back to the same values.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Any, Final, NamedTuple
from urllib.parse import parse_qsl, unquote

import uritemplate

from cadena.model.app import App
from cadena.model.values import Value, shown

LONGEST: Final = 2_000
EXPRESSION: Final = re.compile(r"\{([+#./;?&]?)([A-Za-z0-9_,.*:%-]*)\}")
NAME: Final = re.compile(r"[A-Za-z0-9_%][A-Za-z0-9_.%-]*")
ONE: Final = {"": "[^/?#&,;]*", "+": ".*?", "#": ".*", "/": "[^/?#&,;]*"}
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
        Addressed(each.address, each.root, each.id, f"sections[{each.id}].address")
        for each in app.sections
        if each.address
    ]
    found += [
        Addressed(each.address, each.id, "", f"screens[{each.id}].address")
        for each in app.screens
        if each.address
    ]
    return tuple(found)


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


def names_in(template: str) -> tuple[str, ...]:
    """The variables of a template, each once."""
    names = (name for _, some in EXPRESSION.findall(template) for name in some.split(","))
    return tuple(dict.fromkeys(each for each in names if each))


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
    words: dict[str, Any] = {
        name: _word(value) for name, value in arguments.items() if value is not None
    }
    return str(uritemplate.expand(template, words))


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
    found = _pattern(template).fullmatch(plain + (f"#{fragment}" if fragment else ""))
    if found is None:
        return None
    values = {
        name: unquote(value)
        for name, value in zip(_in_path(template), found.groups(), strict=True)
        if value is not None
    }
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


def _in_path(template: str) -> Iterator[str]:
    for operator, some in EXPRESSION.findall(template):
        if operator not in ("?", "&"):
            yield from some.split(",")


@lru_cache(maxsize=256)
def _pattern(template: str) -> re.Pattern[str]:
    """What an address under a template looks like before its query."""
    made, at = "", 0
    for found in EXPRESSION.finditer(template):
        made += re.escape(template[at : found.start()])
        at = found.end()
        operator, names = found.group(1), found.group(2).split(",")
        if operator in ("?", "&"):
            continue
        one = f"({ONE[operator]})"
        made += re.escape(BEGINS[operator]) + re.escape(BETWEEN[operator]).join([one] * len(names))
    return re.compile(made + re.escape(template[at:]))


def path_of(text: str) -> str:
    """An address as a template tells it, of what a person may have pasted: no scheme, no host."""
    text = text.strip()
    scheme = re.match(r"[A-Za-z][A-Za-z0-9+.-]*:(//[^/?#]*)?", text)
    if scheme is not None:
        text = text[scheme.end() :]
    return text if text.startswith("/") else f"/{text}"
