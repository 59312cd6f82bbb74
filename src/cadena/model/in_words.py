"""Conditions, and for which rows a link is, in words: once for strips, board and checks."""

from __future__ import annotations

from cadena.model.app import RowKind
from cadena.model.listing import Condition
from cadena.model.values import shown


def condition_words(condition: Condition) -> str:
    """A condition in words.

    >>> condition_words(Condition(field="hut", argument="hut"))
    'hut is argument hut'
    """
    if condition.argument:
        wanted = f"argument {condition.argument}"
    elif condition.value:
        wanted = condition.value
    elif condition.choice:
        wanted = f"the choice in {condition.choice}"
    else:
        wanted = "" if condition.constant is None else shown(condition.constant)
    return f"{condition.field} {condition.test} {wanted}".strip()


def kind_words(kind: RowKind, in_full: bool = False) -> str:
    """A kind of rows, in full or in few words.

    >>> kind = RowKind(field="grade", test="is", constant="hard")
    >>> kind_words(kind, in_full=True), kind_words(kind)
    ('grade is hard', 'hard')
    """
    wanted = "" if kind.constant is None else shown(kind.constant)
    if kind.test == "is" and not in_full:
        return wanted
    return " ".join(filter(None, (kind.field if in_full else "", kind.test, wanted)))
