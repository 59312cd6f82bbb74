"""The table of what things have: whole, true to the types, and what docs and schema are made of."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from msgspec import inspect

from cadena.desktop.document.selection import SelectedLink, SelectedScreen
from cadena.desktop.stages.fit.selected import SelectedArrangement
from cadena.desktop.stages.shape.selected import SelectedList
from cadena.desktop.widgets.controls import Pill
from cadena.desktop.widgets.words import all_of
from cadena.model.app import App, Arrangement
from cadena.model.file.project_file import decode, schema
from cadena.model.listing import Listing, TableColumn
from cadena.model.problem import Problem
from cadena.model.properties import (
    bounds_of,
    fields_of,
    property_of,
    structures,
    things,
    value_words,
    wanted_at,
)
from kit_traces import ROOT
from test_desktop import Person, person
from test_desktop_every_property import properties

__all__ = ["person"]


KINDS = {each.cls.__name__: each.cls for each in structures(App)}


def test_every_property_of_the_model_is_told_and_nothing_else() -> None:
    told = {(kind, name) for kind, thing in things().items() for name in thing.has}
    assert told == properties()
    assert {thing.stage for thing in things().values()} <= {
        "Gather",
        "Shape",
        "Link",
        "Fit",
        "Prove",
    }
    for thing in things().values():
        for each in thing.has.values():
            assert each.name
            assert each.about
            assert not each.about.endswith(".")


def test_words_are_there_for_every_value_that_can_be_and_for_no_other() -> None:
    for kind, thing in things().items():
        types = {each.name: each.type for each in fields_of(KINDS[kind])}
        for name, told in thing.has.items():
            if not told.words:
                continue
            held = types[name]
            if isinstance(held, inspect.BoolType):
                assert set(told.words) <= {"yes", "no"}, f"{kind}.{name}"
            else:
                assert isinstance(held, inspect.LiteralType), f"{kind}.{name}"
                assert set(told.words) == set(held.values), f"{kind}.{name}"


def test_bounds_are_within_those_of_the_type() -> None:
    assert bounds_of(TableColumn, "least") == (24, 2000)
    assert bounds_of(Arrangement, "panes") == (1, 8)
    for kind, thing in things().items():
        for name, told in thing.has.items():
            if told.bounds is not None:
                (held,) = [e.type for e in fields_of(KINDS[kind]) if e.name == name]
                assert isinstance(held, inspect.IntType | inspect.FloatType)
                assert told.bounds[0] >= (held.ge or 0)
                assert held.le is None or told.bounds[1] <= held.le


def test_a_value_is_told_in_words() -> None:
    listing = Listing(source="huts", layout="strip", keep_in_view=False)
    assert value_words(listing, "layout") == "a strip across"
    assert value_words(listing, "keep_in_view") == "left where it was scrolled"
    with pytest.raises(KeyError):
        property_of(Listing, "nothing")


def test_the_schema_tells_what_each_property_does() -> None:
    made = schema()
    density = made["$defs"]["Listing"]["properties"]["density"]
    told = property_of(Listing, "density")
    assert (density["title"], density["description"]) == (told.name, told.about)
    assert made["$defs"]["Listing"]["title"] == "a list"


def test_the_docs_are_made_of_the_table() -> None:
    made = subprocess.run(
        [sys.executable, "-c", "import make_docs; print(make_docs.properties_page(), end='')"],
        cwd=ROOT / "tools",
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    assert (ROOT / "docs" / "properties.md").read_text("utf-8") == made
    assert "| `density` | how much room a row takes | `compact`, `regular`, `roomy` |" in made


@pytest.mark.parametrize(
    ("stage", "selection", "name", "kind", "field"),
    [
        ("Shape", SelectedList("huts", ""), "how roomy its rows are", "Listing", "density"),
        ("Link", SelectedScreen("hut"), "record gone", "DetailScreen", "when_gone"),
        ("Link", SelectedLink("huts-to-hut"), "what if it is open", "Link", "if_open"),
        ("Fit", SelectedArrangement("wide"), "how panes lie", "Arrangement", "lie"),
    ],
)
def test_the_strip_tells_what_each_property_does(
    person: Person, stage: str, selection: Any, name: str, kind: str, field: str
) -> None:
    """Where it is pointed at, to assistive technology, and to who asks for it."""
    person.document.show_stage(stage)
    person.document.select(selection)
    about = things()[kind].has[field].about
    strip = person.window.stage.strip
    (word,) = [word for each in strip.said for word in each.words if word.name == name]
    assert word.about == about
    (pill,) = [each for each in strip.findChildren(Pill) if each.accessibleName() == name]
    assert about in pill.toolTip()
    assert pill.accessibleDescription() == about
    inside = [word for each in all_of(strip.said) if each.about == name for word in each.words]
    assert any(word.about == about for word in inside if word.kind != "text")


def test_panes_beyond_those_that_are_offered_are_told_and_kept(person: Person) -> None:
    """A rule can have up to eight; the strip failed over more than three."""
    document = person.document
    document.show_stage("Fit")
    document.select(SelectedArrangement("wide"))
    field = person.field("shares of the panes")
    field.setText("20/20/20/20/20")
    field.setModified(True)
    field.editingFinished.emit()
    rule = next(each for each in document.app.arrangements if each.id == "wide")
    assert rule.panes == 5
    said = [*all_of(person.window.stage.strip.said)]
    assert "5 panes" in [word.text for each in said for word in each.words]
    assert "width of the fifth pane" in [word.name for each in said for word in each.words]


@pytest.mark.parametrize(
    ("place", "wanted"),
    [
        ("$.name", "what stands in the title of its window and of its page"),
        ("$.screens[...].rows.density", "how much room a row takes: compact, regular, roomy"),
        (
            "$.sources[...].csv.skip",
            "how many lines stand above the header",
        ),
        ("$.arrangements[...].when.width.below", "up to how many dp, which is not in it"),
        (
            "$.links[...].sets[...]",
            "app-wide values that keep what was carried",
        ),
        ("$.screens[...].blocks[...].field", ""),
        ("$.nothing", ""),
        ("$", ""),
    ],
)
def test_what_is_wanted_at_a_place_is_told_where_it_is_one_thing(place: str, wanted: str) -> None:
    told = wanted_at(place, App)
    assert told.startswith(wanted)
    assert bool(told) == bool(wanted)


def test_a_file_with_a_value_that_cannot_be_is_told_what_can(tmp_path: Path) -> None:
    project = {"cadena": 3, "screens": [{"kind": "list", "id": "a", "title": "A"}]}
    project["screens"][0]["rows"] = {"source": "s", "density": "huge"}
    with pytest.raises(Problem) as told:
        decode(json.dumps(project).encode(), "a.cadena")
    assert "rows.density" in str(told.value)
    assert "huge" in str(told.value)
    assert "how much room a row takes: compact, regular, roomy" in str(told.value)
