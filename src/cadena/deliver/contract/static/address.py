"""Addresses as RFC 6570 templates, level 1 to 3: told of words, and read back into them."""

import re
from urllib.parse import parse_qsl, quote, unquote

LONGEST = 2000
EXPRESSION = re.compile(r"\{([+#/?&]?)([A-Za-z0-9_,.%-]*)\}")
ENDS = {"": "/?#&,;", "+": "", "#": "", "/": "/?#&,;"}
BEGINS = {"": "", "+": "", "#": "#", "/": "/"}
BETWEEN = {"": ",", "+": ",", "#": ",", "/": "/"}
RESERVED = ":/?#[]@!$&'()*+,;="


def _expressions(template: str) -> list[tuple[str, str, list[str]]]:
    """What stands before each expression, its operator and its names; at last what follows all."""
    at, found = 0, []
    for match in EXPRESSION.finditer(template):
        found.append((template[at : match.start()], match[1], match[2].split(",")))
        at = match.end()
    return [*found, (template[at:], "", [])]


def _encoded(text: str, reserved: bool) -> str:
    if not reserved:
        return quote(text, safe="~")
    parts = re.split(r"(%[0-9A-Fa-f]{2})", text)
    return "".join(p if n % 2 else quote(p, safe=RESERVED + "~") for n, p in enumerate(parts))


def told(template: str, words: dict[str, str]) -> str | None:
    """The address of these words; None where one that stands in its path has none."""
    address = ""
    for before, operator, names in _expressions(template):
        address += before
        if operator in ("?", "&"):
            given = [f"{name}={_encoded(words[name], False)}" for name in names if name in words]
            address += operator + "&".join(given) if given else ""
        elif names:
            values = [words.get(name, "") for name in names]
            if "" in values:
                return None
            reserved = operator in ("+", "#")
            joined = BETWEEN[operator].join(_encoded(each, reserved) for each in values)
            address += BEGINS[operator] + joined
    return address


def read(template: str, address: str) -> dict[str, str] | None:
    """The words that an address gives the variables of a template; None where it is another."""
    match = re.fullmatch(r"([^?#]*)(?:\?([^#]*))?(#.*)?", address, re.DOTALL)
    if match is None or len(address) > LONGEST:
        return None
    fragment = "" if match[3] in (None, "#") else match[3]
    found = _matched(_pieces(template), match[1] + fragment)
    if found is None:
        return None
    words = {name: unquote(value) for name, value in found.items()}
    if "" in words.values():
        return None
    asked = dict(parse_qsl(match[2] or "", keep_blank_values=True))
    for _, operator, names in _expressions(template):
        if operator in ("?", "&"):
            words |= {name: asked[name] for name in names if name in asked}
    return words


def _pieces(template: str) -> list[list[str]]:
    """Fixed texts, with no name, and variables with the letters that they cannot hold."""
    pieces: list[list[str]] = []

    def add(text: str) -> None:
        if pieces and not pieces[-1][0]:
            pieces[-1][1] += text
        elif text:
            pieces.append(["", text])

    for before, operator, names in _expressions(template):
        add(before)
        if operator in ("?", "&"):
            continue
        for number, name in enumerate(names):
            add(BETWEEN[operator] if number else BEGINS[operator])
            pieces.append([name, ENDS[operator]])
    return pieces


def _matched(pieces: list[list[str]], address: str) -> dict[str, str] | None:
    """Towards the one variable that may hold anything, each other up to the text that ends it."""
    opens = [at for at, (name, text) in enumerate(pieces) if name and not text]
    rest = pieces
    if not opens and pieces and not pieces[-1][0]:
        if not address.endswith(pieces[-1][1]):
            return None
        address, rest = address[: len(address) - len(pieces[-1][1])], pieces[:-1]
    words: dict[str, str] = {}
    start = 0
    for number, (name, text) in enumerate(rest[: opens[0]] if opens else rest):
        if not name:
            if not address.startswith(text, start):
                return None
            start += len(text)
            continue
        is_last = number + 1 == len(rest)
        end = len(address) if is_last else address.find(rest[number + 1][1], start)
        if end < 0 or set(text) & set(address[start:end]):
            return None
        words[name], start = address[start:end], end
    if not opens:
        return words if start == len(address) else None
    end = len(address)
    for number in range(len(pieces) - 1, opens[0], -1):
        name, text = pieces[number]
        if not name:
            if end < start + len(text) or not address.endswith(text, start, end):
                return None
            end -= len(text)
            continue
        ahead = pieces[number - 1][1]
        at = address.rfind(ahead, start, end)
        if at < 0 or set(text) & set(address[at + len(ahead) : end]):
            return None
        words[name], end = address[at + len(ahead) : end], at + len(ahead)
    words[pieces[opens[0]][0]] = address[start:end]
    return words


def word(value: object) -> str:
    """A value as it stands in an address."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple | list):
        return ",".join(map(word, value))
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return str(value)


def value_of(text: str, kind: str) -> object:
    """A word of an address as a value of a type; a ValueError where it is none."""
    if kind.startswith("list of "):
        return tuple(value_of(each, kind[len("list of ") :]) for each in text.split(","))
    if kind == "whole number":
        return int(text)
    if kind == "number":
        return float(text)
    if kind == "yes/no":
        if text not in ("yes", "no", "true", "false"):
            raise ValueError(text)
        return text in ("yes", "true")
    return text


def checked(value: object, kind: str) -> object:
    """A value that came, where it is one of a type; a ValueError where it is none."""
    if kind.startswith("list of "):
        if not isinstance(value, tuple | list):
            raise ValueError(value)
        return tuple(checked(each, kind[len("list of ") :]) for each in value)
    wanted = {"whole number": int, "number": (int, float), "yes/no": bool}.get(kind, str)
    if not isinstance(value, wanted) or (isinstance(value, bool) and kind != "yes/no"):  # type: ignore[arg-type]
        raise ValueError(value)
    return value
