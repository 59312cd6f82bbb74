"""Ctrl+K: what people call things is found, and nothing is ever not called anything."""

from __future__ import annotations

import pytest

from cadena.desktop.document.selection import SelectedLink
from cadena.desktop.shell.do_anything import NEAR, Answer, Ask
from cadena.words.called import CALLED, phrases
from cadena.words.explained import HOWS
from test_desktop import Person, person

__all__ = ["person"]


def answers(person: Person, text: str) -> list[Answer]:
    """The answers to what is typed."""
    person.window.ask()
    ask = person.window._ask
    assert isinstance(ask, Ask)
    ask.field.setText(text)
    ask.hide()
    return ask.answers


def asked(person: Person, text: str) -> list[tuple[str, str]]:
    """The answers to what is typed, each with what is said about it."""
    return [(each.text, each.about) for each in answers(person, text)]


def test_every_word_that_people_have_for_things_finds_what_it_is_called_here(
    person: Person,
) -> None:
    person.document.select(SelectedLink("huts-to-hut"))
    for word, ours in CALLED.items():
        found = [f"{e.text} {e.about} {e.means}".lower() for e in answers(person, word)]
        assert found, word
        assert not found[0].startswith("nothing is called"), word
        assert any(one in said for said in found for one in (word, *ours)), word


@pytest.mark.parametrize(
    ("typed", "wanted"),
    [
        ("rotate", "Bench: turn"),
        ("restart", "Bench: relaunch"),
        ("process death", "Bench: kill"),
        ("back stack", "Bench: back"),
        ("persist", "Stage Keep"),
        ("dark mode", "Light or dark"),
        ("tabs", "Section Huts"),
        ("deep link", "+ address"),
    ],
)
def test_what_is_asked_for_by_another_name_is_there(
    person: Person, typed: str, wanted: str
) -> None:
    from cadena.desktop.document.selection import SelectedScreen

    person.document.select(SelectedScreen("warden"))
    assert wanted in [text for text, _ in asked(person, typed)]


def test_each_way_to_open_is_said_in_half_a_sentence(person: Person) -> None:
    found = dict(asked(person, "open as"))
    for how, (_, about) in HOWS.items():
        assert found[f"Open as {how}"] == about
        assert len(about.split()) <= 14
    person.window.ask()
    ask = person.window._ask
    ask.field.setText("open as modal")
    ask.take()
    assert person.strip.editor.chip == "how it opens"


@pytest.mark.parametrize("typed", ["zzqx", "qwertyuiop asdf", "hutz"])
def test_what_nothing_is_called_is_answered_by_the_nearest_three(
    person: Person, typed: str
) -> None:
    first, *near = asked(person, typed)
    assert first[0].startswith("Nothing is called")
    assert 3 <= len(near) <= NEAR
    assert len(set(near)) == len(near)


def test_the_longest_phrase_is_taken() -> None:
    assert list(phrases("a deep link")) == [("a",), ("deep link", *CALLED["deep link"])]
    assert all(word == word.lower() and ours for word, ours in CALLED.items())


def test_a_property_is_found_by_its_name_and_by_what_it_does(person: Person) -> None:
    for typed in ("roomy", "how much room a row takes"):
        assert ("How roomy its rows are", "of a list, in Shape") in asked(person, typed)
    person.window.ask()
    ask = person.window._ask
    ask.field.setText("how much room a row takes")
    ask.take()
    assert person.document.stage == "Shape"
