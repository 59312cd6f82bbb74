"""Every note that the engine can make has its sentence, and every sentence a note."""

from __future__ import annotations

import ast
from pathlib import Path
from string import Formatter
from typing import get_args

import pytest

import cadena.engine
from cadena.engine.events import Resize
from cadena.engine.notes import Kind, Note
from cadena.words.notes import SENTENCES, in_words

ENGINE = Path(cadena.engine.__file__).parent


def notes_made() -> set[str]:
    """The kind and case of each note in the engine, as they are written there."""
    found: set[str] = set()
    for file in ENGINE.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Call):
                found |= _named(ast.unparse(node.func), node.args)
    return found


def _named(function: str, args: list[ast.expr]) -> set[str]:
    if function == "Refused" and args:
        return {f"refused/{case}" for case in _texts(args[0])}
    if function in ("Note", "Note.of") and args:
        cases = _texts(args[1]) if len(args) > 1 else {""}
        return {f"{kind}/{case}" if case else kind for kind in _texts(args[0]) for case in cases}
    return set()


def _texts(node: ast.expr) -> set[str]:
    return {
        each.value
        for each in ast.walk(node)
        if isinstance(each, ast.Constant) and isinstance(each.value, str)
    }


def test_every_note_of_the_engine_has_its_sentence() -> None:
    written = {name for name in notes_made() if name.partition("/")[0] in get_args(Kind)}
    assert len(written) > 90
    unsaid = written - SENTENCES.keys() - {"refused/app is "}
    assert not unsaid


def test_every_kind_is_said_in_some_way() -> None:
    assert {name.partition("/")[0] for name in SENTENCES} == set(get_args(Kind))


@pytest.mark.parametrize("name", sorted(SENTENCES))
def test_a_sentence_is_whole(name: str) -> None:
    for _, field, _, conversion in Formatter().parse(SENTENCES[name]):
        assert field is None or field.isidentifier() or field[:-3].isidentifier()
        assert conversion is None or conversion in "abcdfhlmnopsuw"


def test_a_note_of_why_is_told_inside_the_sentence() -> None:
    why = Note.of(
        "refused", "argument missing", who=("link", "open", "hut"), parameter="hut", wanted="text"
    )
    said = in_words(Note.of("not opened by rule", why=why))
    assert said == "link open to hut: parameter hut is required; nothing came, text was wanted"


def test_a_long_value_is_cut_in_words_alone() -> None:
    note = Note.of("refused", "row not listed", key="k" * 5000)
    assert len(in_words(note)) < 200
    assert note.data["key"] == "k" * 5000


def test_sizes_dragged_through_are_one_line() -> None:
    from cadena.desktop.document.sessions import Traced, lines_after

    lines: list[Traced] = []
    for width in (300.0, 340.0, 380.0):
        note = Note.of("window", "resized", old=(width - 40, 700.0), new=(width, 700.0))
        event = Resize(width=width, height=700)
        lines = lines_after(lines, event, Traced(event, (note,)))
    assert [in_words(each) for each in lines[0].notes] == ["260 × 700 to 380 × 700"]
    assert len(lines) == 1
