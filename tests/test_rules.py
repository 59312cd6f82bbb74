"""The rulebook, and all that cites it: no number is cited that is none, and each rule is tested."""

from __future__ import annotations

import io
import re
import tokenize
from collections.abc import Iterator
from pathlib import Path

import pytest

from builders import DEMO, demo
from cadena.engine.session import sized
from cadena.runs.walks.walk import read_walk, replay
from cadena.words.notes import SENTENCES, in_words

ROOT = Path(__file__).resolve().parent.parent
BOOK = (ROOT / "docs" / "rules.md").read_text()
HEADING = re.compile(r"^#{2,3} (\d+(?:\.\d+)?) ", re.M)
NUMBERS = r"\d{1,2}(?:\.\d{1,2})?(?:(?:, | and | or | to )\d{1,2}(?:\.\d{1,2})?)*"
CITED = (
    re.compile(rf"\b[Rr]ules? ({NUMBERS})\b(?! (?:of|to))"),
    re.compile(rf"rules\.md, ({NUMBERS})"),
    re.compile(rf"\((?:rules? )?({NUMBERS})\)"),
)
NAMED = re.compile(r"def test_(\d{1,2})(?:_(\d{1,2})(?=_))?_[a-z]")


def rules() -> set[str]:
    return set(HEADING.findall(BOOK))


def leaves() -> set[str]:
    """The rules that have none under them, and that are in the engine."""
    parts = re.split(r"^#{2,3} ", BOOK, flags=re.M)
    waiting = {
        part.split(" ")[0] for part in parts if "*Not in the engine yet.*" in part.split("\n## ")[0]
    }
    every = rules()
    return {
        each
        for each in every
        if not any(other.startswith(f"{each}.") for other in every if each != "8")
    } - waiting


def texts(file: Path) -> Iterator[str]:
    """The comments and the documentation of a module."""
    begins = True
    for token in tokenize.generate_tokens(io.StringIO(file.read_text()).readline):
        is_documentation = token.type == tokenize.STRING and begins
        if token.type == tokenize.COMMENT or is_documentation:
            yield token.string
        else:
            quiet = (tokenize.NEWLINE, tokenize.NL, tokenize.INDENT, tokenize.DEDENT)
            begins = token.type in quiet


def cited_in(text: str) -> set[str]:
    found: set[str] = set()
    for pattern in CITED:
        for numbers in pattern.findall(text):
            found |= set(re.findall(r"\d{1,2}(?:\.\d{1,2})?", numbers))
    return found


@pytest.mark.long
def test_every_number_that_is_cited_is_a_rule() -> None:
    wrong = {
        f"{file.relative_to(ROOT)}: {number}"
        for folder in ("src", "tests")
        for file in sorted((ROOT / folder).rglob("*.py"))
        for text in texts(file)
        for number in cited_in(text)
        if number not in rules()
    }
    assert wrong == set()


def test_every_number_in_a_note_is_a_rule() -> None:
    """Of all sentences; and of all that the walks of the demo say."""
    made = " ".join(
        found
        for sentence in SENTENCES.values()
        for found in re.findall(r"\(rules? [\d.a-z]+\)", sentence)
    )
    assert cited_in(made) <= rules()
    said = set()
    for walk in sorted((DEMO / "cresta" / "walks").glob("*.json")):
        for each in replay(demo(), read_walk(walk), sized(360, 780)):
            notes = () if each.line is None else each.line.notes
            said |= cited_in(" ".join(map(in_words, notes)))
    assert said
    assert said <= rules()


def test_every_rule_is_cited_by_a_test() -> None:
    cited: set[str] = set()
    for file in sorted((ROOT / "tests").glob("test_*.py")):
        text = file.read_text()
        cited |= {f"{one}.{two}" if two else one for one, two in NAMED.findall(text)}
        cited |= {number for each in texts(file) for number in cited_in(each)}
    assert leaves() - cited == set()
