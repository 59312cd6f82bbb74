"""How a field is said, as sentences: for Gather's strip and Shape's alike."""

from __future__ import annotations

from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.words import Matter, Sentence, Word, one_line
from cadena.model.edits.shaping import field_of, with_field, with_source
from cadena.model.source import Source, StandsOut
from cadena.model.values import Unfit, carry, shown
from cadena.records.conditions import comparable

TESTS: Final = ("is", "is not", "under", "over", "at least", "at most", "contains", "is empty")
COLOURS: Final = {"good": "✓", "warning": "!", "bad": "✕", "quiet": "·"}
NONE_GIVEN: Final = "none given"
DECIMALS: Final = ((None, "as they are"), *((n, str(n)) for n in range(5)))


def saying_matters(document: Document, source: Source, name: str, of: str = "") -> list[Matter]:
    """How a field is said: empty, its label, unit and date, and when it stands out."""

    def change(what: str, **changed: Any) -> None:
        _change(document, source, name, what, **changed)

    field = field_of(source, document.types, name)
    bound = Bound(field, change, document.refuse)
    empty = field.when_empty and f"“{field.when_empty}”"
    saying = one_line(_empty_words, document, source, name)
    matters = [
        bound.said("label", "label", of=of),
        bound.matter("when_empty", empty, saying, of),
    ]
    if field.type in ("whole number", "number"):
        matters += [
            bound.said("unit", "unit", of=of),
            bound.said("unit_of_one", "unit of one", of=of),
            bound.chosen("decimals", "decimals {}", "{} decimals", None, DECIMALS, of),
        ]
    if field.type in ("date", "date and time"):
        matters.append(bound.chosen("date", usual="as written", of=of))
    matters.append(bound.on("required", of=of))
    rules = [rule for rule in source.stands_out if rule.field == name]
    stands = ", ".join(f"{rule.sign} {rule.word}".strip() for rule in rules)
    inside = partial(_standing_sentences, document, source, name)
    offer = "a rule by which it stands out"
    return [*matters, Matter("stands out as", stands, f"standing out{of}", inside, offer)]


def _change(document: Document, source: Source, name: str, what: str, **changed: Any) -> None:
    app = with_field(document.app, document.types, source.id, name, **changed)
    document.edit(f"{what} {source.id}.{name}", app)


def _empty_words(document: Document, source: Source, name: str) -> list[Word]:
    field = field_of(source, document.types, name)
    change = partial(_change, document, source, name, "when empty:")
    now = field.when_empty
    words = [
        Word("choice", "leave out", partial(change, when_empty=""), now == "", "leave it out"),
        Word("choice", "–", partial(change, when_empty="–"), now == "–", "say a dash"),
        Word(
            "choice",
            f"say “{NONE_GIVEN}”",
            partial(change, when_empty=NONE_GIVEN),
            now == NONE_GIVEN,
        ),
    ]
    others = [each for each in document.types.get(source.id, {}) if each != name]
    options = [(each, partial(change, when_empty="{" + each + "}")) for each in others]
    text = f"use {now[1:-1]}" if now.startswith("{") else "use another field"
    words.append(Word("menu", text, name="use another field when empty", options=options))
    own = now if now not in ("", "–", NONE_GIVEN) else ""
    words.append(Word("line", own, lambda text: change(when_empty=text), name="words when empty"))
    return words


def _standing_sentences(document: Document, source: Source, name: str) -> list[Sentence]:
    """Each rule by which the field stands out, and a way to another."""
    said = []
    for at, rule in enumerate(source.stands_out):
        if rule.field == name:
            said.append(Sentence("", _rule_words(document, source, at, rule)))

    def add() -> None:
        kind = document.types.get(source.id, {}).get(name, "text")
        test: Any = "under" if kind in ("whole number", "number") else "is empty"
        constant = 1 if test == "under" else None
        made = StandsOut(field=name, test=test, constant=constant, word="mind this")
        app = with_source(document.app, replace(source, stands_out=(*source.stands_out, made)))
        document.edit(f"{source.id}.{name} stands out", app)

    return [*said, Sentence("", [Word("do", "+ a rule", add, name="add a rule")])]


def _rule_words(document: Document, source: Source, at: int, rule: StandsOut) -> list[Word]:
    kind = document.types.get(source.id, {}).get(rule.field, "text")

    def change(**changed: Any) -> None:
        rules = list(source.stands_out)
        rules[at] = replace(rule, **changed)
        app = with_source(document.app, replace(source, stands_out=tuple(rules)))
        document.edit(f"{source.id}.{rule.field} stands out", app)

    def compare(text: str) -> None:
        try:
            value = carry(text, kind, convert=True) if text else None
        except Unfit as unfit:
            document.failed.emit(f"{rule.field}: {unfit}")
            return
        change(constant=value)

    def remove() -> None:
        rules = source.stands_out[:at] + source.stands_out[at + 1 :]
        app = with_source(document.app, replace(source, stands_out=rules))
        document.edit(f"{source.id}.{rule.field} stands out no more", app)

    tests = [(each, partial(change, test=each)) for each in TESTS]
    colours = [
        (f"{sign} {each}", partial(change, colour=each, sign=sign))
        for each, sign in COLOURS.items()
    ]
    value = "" if rule.constant is None else shown(rule.constant)
    words = [Word("text", "when it"), Word("menu", rule.test, name="test", options=tests)]
    if rule.test not in ("is empty", "is filled"):
        words.append(Word("line", value, compare, name="value that stands out"))
        if not comparable(rule.constant, kind) and rule.test != "contains":
            words.append(Word("broken", f"✕ {kind} is wanted"))
    return [
        *words,
        Word("text", "as"),
        Word("menu", f"{rule.sign} {rule.colour}", name="sign and colour", options=colours),
        Word("line", rule.word, lambda text: change(word=text), name="word"),
        Word("do", "Remove", remove, name=f"remove rule {at + 1}"),
    ]
