"""What the strip says of what a screen takes: its parameters, and one more."""

from __future__ import annotations

from functools import partial
from typing import Any, Final, get_args

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.words import Matter, Sentence, Word
from cadena.model.app import Parameter, Screen
from cadena.model.edits.parameters import fault_of_name, with_parameter, without_parameter
from cadena.model.find import by_id
from cadena.model.screen_parts import opens_with
from cadena.model.values import LIST, Unfit, ValueType, carry, shown

ANOTHER: Final = "another parameter"
TYPES: Final = tuple((each, each) for each in get_args(ValueType))


def chip_of(parameter: str) -> str:
    """The name of the chip of a parameter, or of what adds one."""
    return f"parameter {parameter}" if parameter else ANOTHER


def parameter_matters(document: Document, screen: Screen) -> list[Matter]:
    """Each parameter of a screen, and a way to one more."""
    matters = [
        Matter(
            "taking" if not at else "and",
            in_short(parameter),
            chip_of(parameter.name),
            partial(_about, document, screen.id, parameter.name),
        )
        for at, parameter in enumerate(screen.parameters)
    ]
    add = partial(_adding, document, screen.id)
    return [*matters, Matter("", "", ANOTHER, add, "parameter")]


def in_short(parameter: Parameter) -> str:
    """A parameter in few words: hut : text, or nothing."""
    said = f"{parameter.name} : {parameter.type}"
    if parameter.need == "default":
        default = "nothing" if parameter.default is None else shown(parameter.default)
        return f"{said}, else {default}"
    return said if parameter.need == "required" else f"{said}, or nothing"


def _adding(document: Document, screen: str) -> list[Sentence]:
    return [
        Sentence(
            "Called",
            [
                Word("line", "", partial(_add, document, screen), name="name of the new parameter"),
                Word("text", "it may be nothing, until it is said that it is needed"),
            ],
        )
    ]


def _add(document: Document, of: str, text: str) -> None:
    screen = by_id(document.app.screens, of)
    name = text.strip()
    if screen is None or not name:
        return
    if fault := fault_of_name(screen, name):
        document.refuse(f"{fault}. Nothing was added.")
        return
    source = by_id(document.app.sources, name) or by_id(document.app.sources, f"{name}s")
    kind = "text"
    if source is not None:
        kind = document.types.get(source.id, {}).get(source.key, kind)
    made = Parameter(
        name=name,
        type="text" if kind == "picture" else kind,  # type: ignore[arg-type]
        need="none",
        key_of="" if source is None else source.id,
    )
    app = with_parameter(document.app, of, made)
    document.edit(f"{of} takes {name}", app, document.selection)
    document.wants_editor.emit(chip_of(name))


def _about(document: Document, of: str, name: str) -> list[Sentence]:
    screen = by_id(document.app.screens, of)
    parameter = (
        None
        if screen is None
        else next((each for each in screen.parameters if each.name == name), None)
    )
    if screen is None or parameter is None:
        return []

    def change(what: str, **changed: Any) -> None:
        made = replace(parameter, **changed)
        if "type" in changed and made.default is not None:
            made = replace(made, default=_as(made.default, made.type))
        app = with_parameter(document.app, of, made)
        document.edit(f"{what} of {name}", app, document.selection)

    bound = Bound(parameter, change, document.refuse)
    needs: list[Word] = bound.one_of("need", "whether it is needed")
    if parameter.need == "default":
        needs.append(bound.value("default", f"{name} else", parameter.type, "default"))
    keys = [("", "no key"), *((each.id, f"a key of {each.id}") for each in document.app.sources)]
    kinds = [
        bound.menu("type", TYPES, f"type of {name}", what="type"),
        bound.menu("key_of", keys, f"{name} is a key of", what="key"),
    ]
    said = [
        Sentence("Called", [_name_word(document, screen, parameter)]),
        Sentence("It is", kinds),
        Sentence("Without it", needs),
    ]
    own = opens_with(screen)
    if own is not None and own.name == name:
        said.append(Sentence("", [Word("text", "It says which record is shown: it stays.")]))
    else:
        drop = partial(_drop, document, of, name)
        act = Word("do", "Take nothing of it", drop, name=f"remove parameter {name}")
        said.append(Sentence("", [act, Word("text", "and nothing fills it any more")]))
    return said


def _as(value: Any, kind: ValueType) -> Any:
    """A default as a value of another type, or none where it cannot be one."""
    try:
        return None if kind.startswith(LIST) else carry(value, kind, convert=True)
    except Unfit:
        return None


def _name_word(document: Document, screen: Screen, parameter: Parameter) -> Word:
    def rename(text: str) -> None:
        name = text.strip()
        if fault := fault_of_name(screen, name, parameter.name):
            document.refuse(f"{fault}. It stays as it was.")
            return
        app = with_parameter(document.app, screen.id, replace(parameter, name=name), parameter.name)
        document.edit(f"{parameter.name} is called {name}", app, document.selection)
        document.wants_editor.emit(chip_of(name))

    return Word("line", parameter.name, rename, name=f"name of parameter {parameter.name}")


def _drop(document: Document, screen: str, name: str) -> None:
    app = without_parameter(document.app, screen, name)
    document.edit(f"{screen} takes no {name}", app, document.selection)
