"""The editor of any value of the model or of a walk, made from the types of its fields.

One place that knows which kind of control each type has: words, a number, a menu, several of, on
or off, a value for each name. What is said of a field in its own strip is not made here.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from typing import Any, NamedTuple, TypeGuard

import msgspec
from msgspec import UNSET, Struct, UnsetType, inspect
from msgspec.structs import replace

from cadena.desktop.widgets.bound import number_in
from cadena.desktop.widgets.in_brief import brief, label
from cadena.desktop.widgets.words import Sentence, Word
from cadena.model.properties import about_of, fields_of
from cadena.model.values import Value, shown

Choices = Sequence[tuple[Any, str]]
YES, NO = "yes", "no"


class Known(NamedTuple):
    """What a field can be of an app, by its name; and what each is now, to be picked."""

    choices: Mapping[str, Choices] = {}
    now: Mapping[str, Any] = {}


def struct_sentences(
    value: Struct,
    change: Callable[[str, Struct], object],
    refuse: Callable[[str], object],
    known: Known = Known(),
    of: str = "",
) -> list[Sentence]:
    """A line for each field that says something, and a way to say more.

    Args:
        change: takes what is changed, in words, and the whole value.
        refuse: says why what was typed cannot be.
        of: what goes before the names of its controls, so that each is found by its own.
    """
    said: list[Sentence] = []
    unsaid: list[tuple[str, Callable[[], object]]] = []
    for field in fields_of(type(value)):
        held = getattr(value, field.name)
        kind = _plain(field.type)
        set_to = partial(_set, value, change, field.name)
        if _says_nothing(field, held):
            offered = known.now.get(field.name, UNSET)
            choices = known.choices.get(field.name) or _choices_of(kind)
            first = _first(kind, choices, _default(field)) if offered is UNSET else offered
            if first is not UNSET:
                shows = "" if offered is UNSET else f": {brief(offered)}"
                unsaid.append((f"{label(field.name)}{shows}", partial(set_to, first)))
            continue
        made = _Field(field.name, kind, held, set_to, refuse, known, of)
        about = about_of(type(value), field.name)
        lines = [
            line._replace(words=[word._replace(about=word.about or about) for word in line.words])
            for line in made.sentences()
        ]
        if not field.required:
            let_go = Word("do", "✕", partial(set_to, _default(field)), name=made.named("no {}"))
            lines[0] = lines[0]._replace(words=[*lines[0].words, let_go])
        said += lines
    if unsaid:
        menu = Word("menu", "+ what is so", name=f"{of}more that is so".strip(), options=unsaid)
        said.append(Sentence("", [menu]))
    return said


def _set(value: Struct, change: Callable[[str, Struct], object], name: str, to: Any) -> None:
    change(label(name), replace(value, **{name: to}))


def _default(field: inspect.Field) -> Any:
    if field.default_factory is not msgspec.NODEFAULT:
        return field.default_factory()
    return UNSET if field.default is msgspec.NODEFAULT else field.default


def _says_nothing(field: inspect.Field, held: Any) -> bool:
    return held is UNSET or (not field.required and held == _default(field))


def _plain(kind: inspect.Type) -> inspect.Type:
    """A type without that it may be left out."""
    if isinstance(kind, inspect.UnionType):
        rest = tuple(
            each
            for each in kind.types
            if not isinstance(each, inspect.NoneType) and not _is_unset(each)
        )
        return rest[0] if len(rest) == 1 else inspect.UnionType(rest)
    return kind


def _is_unset(kind: inspect.Type) -> bool:
    return isinstance(kind, inspect.CustomType) and kind.cls is UnsetType


def _choices_of(kind: inspect.Type) -> Choices:
    """What the type of a field itself says that it can be."""
    if isinstance(kind, inspect.VarTupleType):
        kind = kind.item_type
    return [(each, str(each)) for each in kind.values] if _is_literal(kind) else ()


def _is_literal(kind: inspect.Type) -> TypeGuard[inspect.LiteralType]:
    return isinstance(kind, inspect.LiteralType)


def _first(kind: inspect.Type, choices: Choices, usual: Any) -> Any:
    """What a field says first that is to say something else than it usually does."""
    match kind:
        case inspect.LiteralType():
            return next(each for each in kind.values if each != usual)
        case inspect.BoolType():
            return not usual
        case inspect.IntType() | inspect.FloatType():
            return 1 if usual == 0 else 0 if usual in (None, UNSET) else usual * 2
        case inspect.StrType():
            return choices[0][0] if choices else "…"
        case inspect.VarTupleType():
            return next(((e,) for e, _ in choices if (e,) != usual), UNSET)
        case inspect.DictType():
            return {choices[0][0]: ""} if choices else UNSET
        case inspect.StructType():
            return UNSET if any(each.required for each in kind.fields) else kind.cls()
    return "…"


class _Field:
    """One field that says something, and its controls."""

    def __init__(
        self,
        name: str,
        kind: inspect.Type,
        held: Any,
        set_to: Callable[[Any], object],
        refuse: Callable[[str], object],
        known: Known,
        of: str,
    ) -> None:
        self.name, self.kind, self.held = name, kind, held
        self.set_to, self.refuse, self.known, self.of = set_to, refuse, known, of
        self.choices = list(known.choices.get(name) or _choices_of(kind))

    def named(self, name: str = "{}") -> str:
        return f"{self.of}{name.replace('{}', label(self.name))}"

    def sentences(self) -> list[Sentence]:
        about = label(self.name)
        match self.kind:
            case inspect.StructType() if isinstance(self.held, Struct):
                inside = struct_sentences(
                    self.held,
                    lambda _, made: self.set_to(made),
                    self.refuse,
                    self.known,
                    f"{self.named()} ",
                )
                return [Sentence(about, []), *inside]
            case inspect.DictType():
                return self._each_name(about)
            case inspect.VarTupleType() if self.choices:
                return [Sentence(about, self._several())]
            case inspect.BoolType():
                options = [(True, YES), (False, NO)]
                return [Sentence(about, [self._menu(options)])]
            case inspect.IntType() | inspect.FloatType():
                return [Sentence(about, [self._number()])]
            case inspect.VarTupleType():
                # Whole records, or orders: they are told, and stay as they are.
                return [Sentence(about, [Word("text", brief(self.held))])]
        if self.choices:
            return [Sentence(about, [self._menu(self.choices)])]
        return [Sentence(about, [Word("line", _typed(self.held), self._take, name=self.named())])]

    def _menu(self, choices: Choices) -> Word:
        now = next((said for value, said in choices if value == self.held), brief(self.held))
        options = [(said, partial(self.set_to, value)) for value, said in choices]
        return Word("menu", now, name=self.named(), options=options)

    def _several(self) -> list[Word]:
        words = []
        others = [(each, str(each)) for each in self.held if each not in dict(self.choices)]
        for value, said in (*self.choices, *others):
            has = value in self.held
            made = tuple(e for e in self.held if e != value) if has else (*self.held, value)
            name = self.named(f"{said} in {{}}")
            words.append(Word("toggle", said, partial(self.set_to, made), has, name))
        return words

    def _number(self) -> Word:
        return Word("size", f"{self.held:g}", self._take_number, name=self.named())

    def _take_number(self, text: str) -> None:
        value = number_in(text, (-1e9, 1e9))
        is_whole = isinstance(self.kind, inspect.IntType)
        if value is None or (is_whole and value != int(value)):
            self.refuse(f'"{text}" came, a {"whole " if is_whole else ""}number was wanted')
        else:
            self.set_to(int(value) if is_whole else value)

    def _take(self, text: str) -> None:
        self.set_to(text if isinstance(self.kind, inspect.StrType) else value_typed(text))

    def _each_name(self, about: str) -> list[Sentence]:
        """A value for each name, and a way to another name."""
        said: list[Sentence] = []
        for name, value in self.held.items():
            rest = {each: of for each, of in self.held.items() if each != name}
            without = self.named(f"no {name} in {{}}")
            drop = Word("do", "✕", partial(self.set_to, rest), name=without)
            called = dict(self.choices).get(name, name)
            if isinstance(value, dict):
                words = [Word("text", f"{called}: {brief(value)}"), drop]
            else:
                put = partial(self._put, name)
                line = Word("size", _typed(value), put, name=self.named(f"{name} in {{}}"))
                words = [Word("text", f"{called} is"), line, drop]
            said.append(Sentence(about if not said else "", words))
        options = [
            (text, partial(self.set_to, {**self.held, name: ""}))
            for name, text in self.choices
            if name not in self.held
        ]
        if options:
            more = Word("menu", "+", name=self.named("one more in {}"), options=options)
            said.append(Sentence("" if said else about, [more]))
        return said or [Sentence(about, [Word("text", brief(()))])]

    def _put(self, name: str, text: str) -> None:
        self.set_to({**self.held, name: value_typed(text)})


def _typed(value: Any) -> str:
    """A value as it would be typed."""
    if value is None:
        return ""
    if isinstance(value, tuple):
        return ", ".join(_typed(each) for each in value)
    return shown(value)


def value_typed(text: str) -> Value | None:
    """A value as somebody types it: nothing, yes or no, a number, or a text.

    >>> value_typed("3"), value_typed("0.5"), value_typed("yes"), value_typed("mor")
    (3, 0.5, True, 'mor')
    """
    text = text.strip()
    if not text:
        return None
    if text in (YES, NO):
        return text == YES
    for number in (int, float):
        try:
            return number(text)
        except ValueError:
            continue
    return text
