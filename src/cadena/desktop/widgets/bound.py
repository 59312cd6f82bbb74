"""Words that are bound to the fields of a value of the model: each says one, and changes it.

What a field is called, what it does, its choices and its bounds stand in one table beside the
model (``model.properties``).
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.widgets.words import Matter, Sentence, Word, one_line
from cadena.model.properties import Property, bounds_of, property_of
from cadena.model.values import LIST, Unfit, Value, carry, shown

Values = Iterable[tuple[Any, str]]
"""Values that a field can have, each with its words."""


def _carried(text: str, kind: str) -> Value:
    """A text as a value of a type; of a list, its values stand between commas.

    Raises:
        Unfit: where it is none.
    """
    if not kind.startswith(LIST):
        return carry(text, kind, convert=True)
    parts = filter(None, map(str.strip, text.split(",")))
    return carry(tuple(_carried(each, kind[len(LIST) :]) for each in parts), kind)


class Bound:
    """The fields of one value.

    Args:
        of: the value, whose fields are said.
        change: takes what is changed in words, for undo, and the fields by name.
        refuse: says why something that was typed cannot be.
    """

    def __init__(
        self, of: Any, change: Callable[..., object], refuse: Callable[[str], object]
    ) -> None:
        self.of, self.change, self.refuse = of, change, refuse

    def inner(self, field: str) -> Bound:
        """The fields of the value that a field holds."""
        held = getattr(self.of, field)

        def change(what: str, **changed: Any) -> None:
            self.change(what, **{field: replace(held, **changed)})

        return Bound(held, change, self.refuse)

    def item(self, field: str, at: int) -> Bound:
        """The fields of one of the values that a field holds."""
        held = getattr(self.of, field)

        def change(what: str, **changed: Any) -> None:
            self.change(what, **{field: replaced(held, at, replace(held[at], **changed))})

        return Bound(held[at], change, self.refuse)

    def told(self, field: str) -> Property:
        """What is told of a field."""
        return property_of(type(self.of), field)

    def _choices(self, field: str) -> list[tuple[Any, str]]:
        """What a field can be, in words."""
        is_switch = isinstance(getattr(self.of, field), bool)
        words = self.told(field).words.items()
        return [(each == "yes" if is_switch else each, said) for each, said in words]

    def text(self, field: str, name: str, what: str = "") -> Word:
        """A text to change in place."""
        take = partial(self._take_text, field, what or name)
        return self._line(field, getattr(self.of, field), take, name)

    def _line(self, field: str, now: str, take: Callable[[str], object], name: str) -> Word:
        return Word("line", now, take, name=name, about=self.told(field).about)

    def _take_text(self, field: str, what: str, text: str) -> None:
        self.change(what, **{field: text.strip() if field in STRIPPED else text})

    def number(self, field: str, name: str, unit: str = "") -> Word:
        """A number within the bounds that are told of it."""
        take = partial(self._take_number, field, name, unit)
        return self._line(field, f"{getattr(self.of, field):g}", take, name)

    def _take_number(self, field: str, name: str, unit: str, text: str) -> None:
        least, most = bounds_of(type(self.of), field)
        value = number_in(text, (least, most), unit)
        if value is None:
            self.refuse(f'"{text}" came, a number from {least:g} to {most:g} was wanted')
        else:
            self.change(name, **{field: value})

    def count(self, field: str, name: str) -> Word:
        """A whole number from 1, or nothing."""
        now = getattr(self.of, field)
        take = partial(self._take_count, field, name)
        return self._line(field, "" if now is None else str(now), take, name)

    def _take_count(self, field: str, name: str, text: str) -> None:
        text = text.strip()
        if text and (not text.isdecimal() or int(text) < 1):
            self.refuse(f'"{text}" came, a whole number from 1 was wanted, or nothing')
        else:
            self.change(name, **{field: int(text) if text else None})

    def value(self, field: str, name: str, kind: str, what: str = "") -> Word:
        """A value of one of the types of fields, or nothing."""
        now = getattr(self.of, field)
        take = partial(self._take_value, field, what or name, kind)
        return self._line(field, "" if now is None else shown(now), take, name)

    def _take_value(self, field: str, what: str, kind: str, text: str) -> None:
        try:
            value = _carried(text, kind) if text.strip() else None
        except Unfit as unfit:
            self.refuse(str(unfit))
        else:
            self.change(what, **{field: value})

    def one_of(
        self, field: str, what: str = "{}", name: str = "{}", values: Values | None = None
    ) -> list[Word]:
        """Choices, of which one is made; ``name`` is how each is found.

        In ``what`` and ``name``, {} stands for the words and {value} for the value.
        """
        now, about = getattr(self.of, field), self.told(field).about
        return [
            Word(
                "choice",
                said,
                self._to(what, field, value, said),
                now == value,
                _of(name, said, value),
                about=about,
            )
            for value, said in (self._choices(field) if values is None else values)
        ]

    def menu(self, field: str, values: Values, name: str, now: str = "", what: str = "") -> Word:
        """A menu of what a field can be."""
        given = list(values)
        held = getattr(self.of, field)
        said = now or next((words for value, words in given if value == held), str(held))
        what = what or name
        options = [(words, self._to(what, field, value, words)) for value, words in given]
        return Word("menu", said, name=name, options=options, about=self.told(field).about)

    def toggle(self, field: str, said: str, name: str = "", what: str = "") -> Word:
        """On or off."""
        now = getattr(self.of, field)
        does = partial(self.change, what or said, **{field: not now})
        return Word("toggle", said, does, now, name or said, about=self.told(field).about)

    def several(self, field: str, values: Iterable[str], what: str, name: str = "{}") -> list[Word]:
        """Which of these a field has, in the order in which they were put in."""
        have = getattr(self.of, field)
        words = []
        for value in values:
            made = tuple(e for e in have if e != value) if value in have else (*have, value)
            does = partial(self.change, what, **{field: made})
            words.append(Word("toggle", value, does, value in have, _of(name, value, value)))
        return words

    def matter(
        self, field: str, now: str, inside: Callable[[], list[Sentence]], of: str = ""
    ) -> Matter:
        """What a field says as a matter of a sentence, with its editor.

        ``of`` is what comes after its name where several of that name are in one strip.
        """
        return matter_of(type(self.of), field, now, inside, of)

    def some(self, field: str, values: Iterable[str], what: str, name: str = "{}") -> Matter:
        """Which of some values a field has, as a matter of a sentence."""
        now = ", ".join(getattr(self.of, field))
        return self.matter(field, now, one_line(self.several, field, values, what, name))

    def said(self, field: str, control: str, what: str = "", of: str = "") -> Matter:
        """A text as a matter of a sentence: so where it is not empty."""
        now = getattr(self.of, field)
        inside = lambda: [Sentence("", [self.text(field, control, what)])]  # noqa: E731
        return self.matter(field, now and f"“{now}”", inside, of)

    def chosen(
        self,
        field: str,
        what: str = "{}",
        control: str = "{}",
        usual: Any = (),
        values: Values | None = None,
        of: str = "",
    ) -> Matter:
        """A choice as a matter of a sentence; ``usual`` is what goes without saying."""
        given = dict(self._choices(field) if values is None else values)
        held = getattr(self.of, field)
        now = "" if held == usual else given.get(held, str(held))
        inside = one_line(self.one_of, field, what, control, given.items())
        return self.matter(field, now, inside, of)

    def on(self, field: str, control: str = "", of: str = "") -> Matter:
        """On or off as a matter of a sentence: so where it is on."""
        said = self.told(field).words["yes"]
        inside = lambda: [Sentence("", [self.toggle(field, control or said)])]  # noqa: E731
        return self.matter(field, said if getattr(self.of, field) else "", inside, of)

    def _to(self, what: str, field: str, value: Any, said: str) -> Callable[[], object]:
        return partial(self.change, _of(what, said, value), **{field: value})


STRIPPED = frozenset({"title", "unit"})
"""Texts whose blanks at the ends mean nothing."""


def _of(name: str, said: str, value: object) -> str:
    return name.replace("{}", said).replace("{value}", str(value))


def matter_of(
    kind: type, field: str, now: str, inside: Callable[[], list[Sentence]], of: str = ""
) -> Matter:
    """What a field of a type of the model says, as a matter of a sentence."""
    told = property_of(kind, field)
    return Matter(told.lead, now, told.name + of, inside, told.offer, told.about)


def number_in(text: str, bounds: tuple[float, float], unit: str = "") -> float | None:
    """The number that was typed, with or without its unit; none where it is out of bounds."""
    try:
        value = float(text.strip().removesuffix(unit).strip())
    except ValueError:
        return None
    return value if bounds[0] <= value <= bounds[1] else None


def replaced(items: tuple[Any, ...], at: int, item: Any) -> tuple[Any, ...]:
    """A sequence with one of its items exchanged."""
    return (*items[:at], item, *items[at + 1 :])


def without(items: tuple[Any, ...], at: int) -> tuple[Any, ...]:
    """A sequence with one of its items left out."""
    return items[:at] + items[at + 1 :]
