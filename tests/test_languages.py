"""What an app says by itself, in its language; and what is sorted and written as it has it."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from msgspec.structs import replace

from builders import POCKET, SLATE, Run, demo, records_of, small_app, with_screen
from cadena.deliver.delivery import deliver
from cadena.deliver.web_app import web_app
from cadena.engine import events as do
from cadena.engine.wired import WiredApp
from cadena.model.app_words import AppWords, languages, words_in
from cadena.model.listing import Sort
from cadena.model.source import Field, Source
from cadena.records.formats import Sayings
from cadena.records.many_records import ManyRecords
from cadena.records.sorting import sorted_by
from cadena.scene.lay_out import lay_out
from test_drive import CRESTA, _is_there, driven, plan

PLACES = re.compile(r"\{\w+\}")


def told(said: str | dict[str, str]) -> list[str]:
    return [said] if isinstance(said, str) else [*said.values()]


@pytest.mark.parametrize("language", languages())
def test_each_language_says_everything_with_the_same_places(language: str) -> None:
    english, own = words_in("en"), words_in(language)
    assert set(own) == set(english)
    for text, said in own.items():
        for each in told(said):
            assert each.strip()
            assert set(PLACES.findall(each)) <= {*PLACES.findall(text), "{count}"}, text
    if language == "en":
        assert all(said == text for text, said in own.items() if isinstance(said, str))


def test_every_text_that_the_engine_or_the_kit_says_is_in_english() -> None:
    root = Path(__file__).parent.parent / "src" / "cadena"
    files = [*(root / "engine").rglob("*.py"), *(root / "scene").rglob("*.py")]
    files += (root / "deliver" / "web" / "kit").rglob("*.js")
    call = re.compile(r"""\.words\(\s*(?:'([^'\n]+)'|"([^"\n]+)")""")
    said = {a or b for file in files for a, b in call.findall(file.read_text())}
    assert len(said) > 25
    assert said <= set(words_in("en"))


def test_a_number_takes_its_plural() -> None:
    text = "must be at least {least} characters"
    for locale, one, two in (
        ("en", "must be at least 1 character", "must be at least 2 characters"),
        ("es-ES", "debe tener al menos 1 carácter", "debe tener al menos 2 caracteres"),
        ("ja", "1文字以上にしてください", "2文字以上にしてください"),
    ):
        words = AppWords(locale)
        assert [words(text, count=n, least=n) for n in (1, 2)] == [one, two]


def test_the_app_speaks_the_language_of_its_locale() -> None:
    run = Run(small_app(locale="de-CH"), SLATE)
    said = {box.text or box.name for box in lay_out(run.app, run.session, SLATE).boxes}
    assert "Nichts gewählt" in said
    run = Run(small_app(locale="fr"), POCKET).choose("h3")(do.Remove(source="huts", key="h3"))
    said = {box.text for box in lay_out(run.app, run.session, POCKET).boxes}
    assert "La fiche h3 n’existe plus." in said
    assert run.app.title_of(run.session, run.session.entries[-1]) == "Introuvable"


def test_7_1_text_is_sorted_without_regard_to_case_or_marks() -> None:
    names = ["Zug", "émile", "Éclair", "eclat", "Straße", "strasse 2", "Ñu", "nube", ""]
    wanted = ["Éclair", "eclat", "émile", "Ñu", "nube", "Straße", "strasse 2", "Zug", ""]
    few = records_of("x", [{"id": n, "name": name} for n, name in enumerate(names)])
    many = ManyRecords(few.source, few.frame, few.types)
    for records in (few, many):
        order = records.order((Sort(field="name"),))
        assert [names[int(row)] for row in order] == wanted
    assert sorted_by("Œuvre") == "oeuvre"


def test_7_1_values_that_differ_in_case_alone_are_a_group_each() -> None:
    few = records_of("x", [{"id": n, "name": name} for n, name in enumerate("aAaéeb")])
    many = ManyRecords(few.source, few.frame, few.types)
    for records in (few, many):
        numbers, values = records.by_field("name")
        assert [values[int(number)] for number in numbers] == [*"aAaéeb"]
        assert len(values) == 5


def test_the_digits_of_years_are_not_grouped() -> None:
    source = Source(id="x", key="id", file="x.json", fields=(Field(name="year"),))
    say = Sayings(source, {"year": "whole number", "height": "whole number"}, "de-DE")
    assert say.value("year", {"year": 1987}) == "1987"
    assert say.value("height", {"height": 1987}) == "1.987"
    assert say.value("open", {"open": True}) == "ja"


@pytest.mark.long
@pytest.mark.skipif(not _is_there(), reason="Chromium and its driver are not there")
def test_a_delivered_app_in_german_does_what_was_wired(tmp_path: Path) -> None:
    app = WiredApp(replace(demo().app, locale="de-DE"), demo().as_read)
    files = web_app(app, CRESTA)
    assert b"from './languages/de.js'" in files["app.js"]
    assert b"Nothing chosen" in files["languages/en.js"]
    deliver(files, tmp_path)
    (done,) = driven(app, tmp_path, plan("groups", "Pocket"))
    assert done.differs is None, done.differences


def test_words_of_ones_own_are_said_as_they_are() -> None:
    app = with_screen(small_app(locale="de"), "huts", nothing_chosen_words="Pick {one}")
    run = Run(app, SLATE)
    assert "Pick {one}" in {box.text for box in lay_out(run.app, run.session, SLATE).boxes}
