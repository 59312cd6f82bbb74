"""What things have: each property of the model with its name, what it does, and its words.

One table beside the types, ``properties.json``: strips, ``Ctrl+K``, the JSON Schema and the docs
read it. What a property can be, and what it is unless it is said, the types tell.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from functools import lru_cache
from importlib import resources

from msgspec import Struct, inspect, json


class Property(Struct, frozen=True, forbid_unknown_fields=True):
    """One property.

    ``name`` is what a person calls it. In a sentence ``lead`` stands before what it is, and
    ``offer`` adds it where it is not so. ``words`` tell its values where these are few, ``yes``
    and ``no`` what is on or off. ``bounds`` are those in which a number is typed, where they are
    narrower than the type. ``set`` says how it is set that has no control of its own.
    """

    name: str
    about: str
    lead: str = ""
    offer: str = ""
    words: dict[str, str] = {}
    bounds: tuple[float, float] | None = None
    set: str = ""


class Thing(Struct, frozen=True, forbid_unknown_fields=True):
    """What has properties: what it is called, and the stage where it is said."""

    called: str
    stage: str
    has: dict[str, Property]


@lru_cache
def things() -> Mapping[str, Thing]:
    """Everything that has properties, by the name of its type."""
    text = (resources.files(__package__) / "properties.json").read_bytes()
    return json.decode(text, type=dict[str, Thing])


@lru_cache
def fields_of(kind: type) -> tuple[inspect.Field, ...]:
    """The fields of a structure, each with what it can be and what it is unless it is said."""
    made = inspect.type_info(kind)
    assert isinstance(made, inspect.StructType)
    return made.fields


def structures(kind: type[Struct]) -> list[inspect.StructType]:
    """All that one is made of, itself first, in the order in which one comes to them."""
    found: dict[type, inspect.StructType] = {}

    def add(kind: inspect.Type) -> None:
        if isinstance(kind, inspect.StructType):
            if kind.cls in found:
                return
            found[kind.cls] = kind
        for each in _inside(kind):
            add(each)

    add(inspect.type_info(kind))
    return [*found.values()]


def _inside(kind: inspect.Type) -> Iterator[inspect.Type]:
    """The types that a type is made of: of its properties, of what it can be, of what it holds."""
    match kind:
        case inspect.StructType():
            yield from (each.type for each in kind.fields)
        case inspect.UnionType():
            yield from kind.types
        case inspect.VarTupleType():
            yield kind.item_type
        case inspect.DictType():
            yield kind.value_type


def wanted_at(place: str, kind: type[Struct]) -> str:
    """What is wanted at a place of a file: what the property there does, and what it can be.

    Args:
        place: the names that lead to it, such as ``$.screens[...].rows.density``.
        kind: the type of the whole.

    Returns:
        Nothing where no property is there, or properties of several meanings.
    """
    here = [inspect.type_info(kind)]
    said: set[str] = set()
    for name in re.findall(r"\.(\w+)", place):
        fields = [
            (each, field)
            for each in _structures(here)
            for field in each.fields
            if field.name == name
        ]
        said = {_wanted(each, field) for each, field in fields}
        here = [field.type for _, field in fields]
    return said.pop() if len(said) == 1 else ""


def _structures(kinds: Iterable[inspect.Type]) -> Iterator[inspect.StructType]:
    """The structures that types are, or hold."""
    for kind in kinds:
        if isinstance(kind, inspect.StructType):
            yield kind
        else:
            yield from _structures(_inside(kind))


def _wanted(of: inspect.StructType, field: inspect.Field) -> str:
    told = property_of(of.cls, field.name)
    if not isinstance(field.type, inspect.LiteralType):
        return told.about
    return f"{told.about}: {', '.join(map(str, told.words or field.type.values))}"


def property_of(kind: type, name: str) -> Property:
    """A property of a type of the model.

    Raises:
        KeyError: where there is none of that name.
    """
    return things()[kind.__name__].has[name]


def about_of(kind: type, name: str) -> str:
    """What a property does; nothing where none is told, as of a step of a walk."""
    thing = things().get(kind.__name__)
    return thing.has[name].about if thing is not None and name in thing.has else ""


def value_words(thing: Struct, name: str) -> str:
    """What a property of a thing is, in words."""
    held = getattr(thing, name)
    value = ("no", "yes")[held] if isinstance(held, bool) else held
    return property_of(type(thing), name).words.get(value, str(held))


def bounds_of(kind: type, name: str) -> tuple[float, float]:
    """The least and the greatest number that a property can be set to."""
    told = property_of(kind, name).bounds
    if told is not None:
        return told
    held = next(each.type for each in fields_of(kind) if each.name == name)
    assert isinstance(held, inspect.IntType | inspect.FloatType)
    least, most = held.ge, held.le
    return float("-inf") if least is None else least, float("inf") if most is None else most
