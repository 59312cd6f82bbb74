"""How roomy the rows of a list are, and on what ground (rules.md, 7.9)."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from builders import POCKET, Run, small_app, with_screen
from cadena.check.check import check
from cadena.check.mend import mended
from cadena.engine import events as do
from cadena.engine.layout.sizes import ROWS
from cadena.engine.session import sized
from cadena.engine.wired import WiredApp
from cadena.model.app import App
from cadena.model.listing import Row, TableColumn
from cadena.model.source import StandsOut
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box
from kit_traces import kit_differs, needs_node

RULES = (
    StandsOut(field="note", test="is", constant="x", sign="✕", word="closed", colour="bad"),
    StandsOut(field="region", test="is", constant="S", sign="✓", word="sunny", colour="good"),
)


def app_of(row: Row, **rows: Any) -> App:
    app = small_app()
    app = replace(app, sources=(replace(app.sources[0], stands_out=RULES), *app.sources[1:]))
    listing = replace(app.screens[0].rows, row=row, where=(), groups=(), group_by="", **rows)  # type: ignore[union-attr]
    return with_screen(app, "huts", rows=listing)


def boxes(app: App, kind: str, window: Any = POCKET) -> list[Box]:
    run = Run(app, window)
    return [each for each in lay_out(run.app, run.session, window).boxes if each.kind == kind]


@pytest.mark.parametrize("density", ROWS)
def test_7_9_rows_their_pictures_and_their_texts_are_of_one_table(density: Any) -> None:
    sizes = ROWS[density]
    one = boxes(app_of(Row(title="{name}"), density=density), "row")[0]
    two = boxes(app_of(Row(title="{name}", subtitle="{region}"), density=density), "row")[0]
    row = Row(title="{name}", subtitle="{region}", picture="note")
    pictured = app_of(row, density=density)
    assert [one.height, two.height] == [sizes.one_line, sizes.two_lines]
    assert boxes(pictured, "row")[0].height == sizes.with_picture
    assert boxes(pictured, "thumb")[0].height == sizes.picture
    title, below = (boxes(pictured, kind)[0] for kind in ("row title", "row subtitle"))
    assert (title.height, below.height) == (sizes.title[1], sizes.subtitle[1])
    assert title.y + title.height == below.y
    columns = (TableColumn(shows="name"), TableColumn(shows="region"))
    table = app_of(row, density=density, layout="columns", columns=columns)
    assert boxes(table, "row")[0].height == sizes.one_line
    tiles = app_of(row, density=density, layout="grid")
    assert boxes(tiles, "row")[0].height == boxes(app_of(row, layout="grid"), "row")[0].height


@pytest.mark.parametrize("layout", ["rows", "grid", "columns"])
@pytest.mark.parametrize("badge", ["", "{note}", "{region}"])
def test_7_9_never_the_ground_alone(layout: Any, badge: str) -> None:
    row = Row(title="{name}", badge=badge, takes_ground=True)
    columns = (TableColumn(shows="name"), TableColumn(shows="id"))
    app = app_of(row, layout=layout, columns=columns)
    there = Run(app, POCKET)
    scene = lay_out(there.app, there.session, POCKET)
    records = {key: there.app.as_read["huts"].by_key(key) for key in ("h0", "h1", "h2", "h3")}
    for key, record in records.items():
        assert record is not None
        mine = [each for each in scene.boxes if each.key == key]
        at = next(each for each in mine if each.kind == "row")
        rule = next((e for e in RULES if record[e.field] == e.constant), None)
        if rule is None:
            assert "on ground" not in at.state
            assert not any("✕" in each.text or "✓" in each.text for each in mine)
            continue
        assert {"on ground", rule.colour} <= at.state
        assert rule.word in at.name
        # The badge shows the sign of its own field; else it stands before the title.
        shown = [each.text for each in mine if each.text]
        assert any("✕" in text or "✓" in text for text in shown)


def test_7_9_without_being_asked_no_row_takes_a_ground() -> None:
    assert not [e for e in boxes(app_of(Row(title="{name}")), "row") if "on ground" in e.state]


@needs_node
@pytest.mark.parametrize("density", ["compact", "roomy"])
def test_7_9_the_kit_lays_them_out_as_well(density: Any) -> None:
    row = Row(title="{name}", subtitle="{note}", takes_ground=True)
    app = WiredApp(app_of(row, density=density), Run(app_of(row)).app.as_read)
    events = [do.Scroll(to=333), do.Move(to="page down"), do.Resize(width=200, height=400)]
    assert kit_differs(app, sized(360, 500), events) == [None] * 4


def test_7_9_the_page_of_a_detail_takes_the_ground_and_its_title_shows_the_sign() -> None:
    app = with_screen(app_of(Row(title="{name}")), "hut", takes_ground=True)
    seen = set()
    for key in ("h0", "h1", "h2", "h3"):
        there = Run(app, POCKET).choose(key)
        record = there.app.as_read["huts"].by_key(key)
        assert record is not None
        rule = next((e for e in RULES if record[e.field] == e.constant), None)
        scene = lay_out(there.app, there.session, POCKET)
        ground = [each for each in scene.boxes if each.kind == "page ground"]
        title = next(each for each in scene.boxes if each.kind.startswith("title") and each.text)
        name = next(each for each in scene.boxes if each.kind == "screen").name
        seen.add(rule)
        if rule is None:
            assert (ground, title.text) == ([], record["name"])
            continue
        assert [each.state for each in ground] == [frozenset({rule.colour})]
        assert title.text == f"{rule.sign} {record['name']}"
        assert name.endswith(rule.word)
    assert len(seen) > 1
    plain = with_screen(app_of(Row(title="{name}")), "hut", takes_ground=False)
    there = Run(plain, POCKET).choose("h1")
    kinds = {each.kind for each in lay_out(there.app, there.session, POCKET).boxes}
    assert "page ground" not in kinds


def test_7_9_a_ground_that_nothing_is_ever_on_is_found_and_mended() -> None:
    app = app_of(Row(title="{name}", takes_ground=True))
    app = with_screen(app, "hut", takes_ground=True)
    records = Run(app).app.as_read
    assert not [each for each in check(app, records) if each.code == "ground-never"]
    bare = replace(app, sources=tuple(replace(each, stands_out=()) for each in app.sources))
    found = [each for each in check(bare, records) if each.code == "ground-never"]
    assert {each.screen for each in found} == {"huts", "hut"}
    for each in found:
        made = mended(bare, {name: some.types for name, some in records.items()}, each)
        assert made is not None
        bare = made
    assert not [each for each in check(bare, records) if each.code == "ground-never"]
