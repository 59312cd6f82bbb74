"""Words that are bound to the fields of a value of the model: each says one, and changes it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.widgets.words import Matter, Sentence, Word, one_line
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

    def text(self, field: str, name: str, what: str = "") -> Word:
        """A text to change in place."""
        take = partial(self._take_text, field, what or name)
        return Word("line", getattr(self.of, field), take, name=name)

    def _take_text(self, field: str, what: str, text: str) -> None:
        self.change(what, **{field: text.strip() if field in STRIPPED else text})

    def number(
        self, field: str, name: str, least: float, most: float = float("inf"), unit: str = ""
    ) -> Word:
        """A number within bounds."""
        take = partial(self._take_number, field, name, (least, most), unit)
        return Word("line", f"{getattr(self.of, field):g}", take, name=name)

    def _take_number(
        self, field: str, name: str, bounds: tuple[float, float], unit: str, text: str
    ) -> None:
        value = number_in(text, bounds, unit)
        if value is None:
            said = f"from {bounds[0]:g} to {bounds[1]:g}"
            self.refuse(f'"{text}" came, a number {said} was wanted')
        else:
            self.change(name, **{field: value})

    def count(self, field: str, name: str) -> Word:
        """A whole number from 1, or nothing."""
        now = getattr(self.of, field)
        take = partial(self._take_count, field, name)
        return Word("line", "" if now is None else str(now), take, name=name)

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
        return Word("line", "" if now is None else shown(now), take, name=name)

    def _take_value(self, field: str, what: str, kind: str, text: str) -> None:
        try:
            value = _carried(text, kind) if text.strip() else None
        except Unfit as unfit:
            self.refuse(str(unfit))
        else:
            self.change(what, **{field: value})

    def one_of(self, field: str, values: Values, what: str, name: str = "{}") -> list[Word]:
        """Choices, of which one is made; ``name`` is how each is found.

        In ``what`` and ``name``, {} stands for the words and {value} for the value.
        """
        now = getattr(self.of, field)
        return [
            Word(
                "choice",
                said,
                self._to(what, field, value, said),
                now == value,
                _of(name, said, value),
            )
            for value, said in values
        ]

    def menu(self, field: str, values: Values, name: str, now: str = "", what: str = "") -> Word:
        """A menu of what a field can be."""
        given = list(values)
        held = getattr(self.of, field)
        said = now or next((words for value, words in given if value == held), str(held))
        what = what or name
        options = [(words, self._to(what, field, value, words)) for value, words in given]
        return Word("menu", said, name=name, options=options)

    def toggle(self, field: str, said: str, name: str = "", what: str = "") -> Word:
        """On or off."""
        now = getattr(self.of, field)
        does = partial(self.change, what or said, **{field: not now})
        return Word("toggle", said, does, now, name or said)

    def several(self, field: str, values: Iterable[str], what: str, name: str = "{}") -> list[Word]:
        """Which of these a field has, in the order in which they were put in."""
        have = getattr(self.of, field)
        words = []
        for value in values:
            made = tuple(e for e in have if e != value) if value in have else (*have, value)
            does = partial(self.change, what, **{field: made})
            words.append(Word("toggle", value, does, value in have, _of(name, value, value)))
        return words

    def said(
        self, lead: str, field: str, name: str, control: str, offer: str = "", what: str = ""
    ) -> Matter:
        """A text as a matter of a sentence: so where it is not empty."""
        now = getattr(self.of, field)
        inside = lambda: [Sentence("", [self.text(field, control, what)])]  # noqa: E731
        return Matter(lead, now and f"“{now}”", name, inside, offer)

    def chosen(
        self,
        lead: str,
        field: str,
        values: Values,
        name: str,
        what: str = "{}",
        control: str = "{}",
        usual: Any = (),
        offer: str = "",
    ) -> Matter:
        """A choice as a matter of a sentence; ``usual`` is what goes without saying."""
        given, held = dict(values), getattr(self.of, field)
        now = "" if held == usual else given.get(held, str(held))
        inside = one_line(self.one_of, field, given.items(), what, control)
        return Matter(lead, now, name, inside, offer)

    def on(self, lead: str, field: str, said: str, name: str, control: str = "") -> Matter:
        """On or off as a matter of a sentence: so where it is on."""
        now = said if getattr(self.of, field) else ""
        return Matter(
            lead, now, name, lambda: [Sentence("", [self.toggle(field, control or said)])]
        )

    def _to(self, what: str, field: str, value: Any, said: str) -> Callable[[], object]:
        return partial(self.change, _of(what, said, value), **{field: value})


STRIPPED = frozenset({"title", "unit"})
"""Texts whose blanks at the ends mean nothing."""


def _of(name: str, said: str, value: object) -> str:
    return name.replace("{}", said).replace("{value}", str(value))


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
