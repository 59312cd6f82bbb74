"""Groups of a list that open and close: what shows, where it is scrolled, what keys do."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import DESK, POCKET, Run, with_screen
from cadena.engine import events as do
from cadena.engine.layout.rows import RowStack
from cadena.engine.layout.sizes import GROUP
from cadena.engine.notes import Note
from cadena.engine.rules.display import display_of
from cadena.engine.rules.lists import offset_of
from cadena.engine.session import sized
from cadena.model.app import App, Keep
from cadena.model.edits.wiring import with_screen as put
from cadena.model.find import by_id
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box
from stays import stays, stays_app


def grouped(start: str = "open", keep: Keep | None = None, **changed: object) -> App:
    """The stays, in groups that open and close."""
    app = stays_app()
    screen = by_id(app.screens, "stays")
    rows = replace(screen.rows, groups_start=start, **changed)
    return put(app, replace(screen, rows=rows, keep=keep or screen.keep))


def titles(run: Run) -> dict[str, Box]:
    """The titles of the groups in view."""
    scene = lay_out(run.app, run.session, run.session.window)
    return {box.text: box for box in scene.boxes if box.kind == "group"}


def rows(run: Run) -> list[object]:
    """The keys of the rows in view."""
    scene = lay_out(run.app, run.session, run.session.window)
    return [box.key for box in scene.boxes if box.kind == "row"]


def opened(title: str, is_open: bool = True) -> do.ShowGroup:
    return do.ShowGroup(screen="stays", title=title, open=is_open)


def begun(app: App, window: object = POCKET, count: int = 6) -> Run:
    return stays(app, window, count)(do.GoTo(section="stays"))


def scrolled(run: Run) -> float:
    area = display_of(run.app, run.session).area_of(0)
    assert area is not None
    return offset_of(run.app, run.session, 0, area)


def test_7_1_a_press_on_a_title_closes_its_group_and_one_more_opens_it() -> None:
    run = begun(grouped())
    assert rows(run) == [0, 1, 3, 4, 2, 5]
    title = titles(run)["Due · 4"]
    assert title.state == {"open"}
    assert title.name == "Due, 4 rows, open"
    run(title.does)
    assert rows(run) == [2, 5]
    assert run.notes[-1] == Note.of("group", "closed", group="Due")
    title = titles(run)["Due · 4"]
    assert title.state == {"closed"}
    run(title.does)
    assert rows(run) == [0, 1, 3, 4, 2, 5]
    assert run.session.entries[0].view.groups == {}


def test_7_1_groups_may_be_closed_at_first_or_be_open_always() -> None:
    assert rows(begun(grouped("closed"))) == []
    assert list(titles(begun(grouped("closed")))) == ["Due · 4", "Arrived · 2"]
    fixed = begun(grouped("fixed"))
    assert titles(fixed)["Due"].does is None
    assert fixed(opened("Due", False)).kinds == ["refused"]


def test_a_group_that_is_not_there_or_is_so_already() -> None:
    run = begun(grouped())
    assert run(opened("Gone")).kinds == ["refused"]
    assert run(opened("Due")).said == "Due is so already"


def test_7_6_a_record_that_goes_to_a_closed_group_stays_chosen() -> None:
    run = begun(grouped(), DESK)
    run.choose(1, "stays")
    run(opened("Arrived", False), do.Act(screen="stays", key=1, action="arrive"))
    assert 1 not in rows(run)
    assert run.session.entries[1].arguments == {"stay": 1}
    assert titles(run)["Arrived · 3"].state == {"closed", "chosen"}


def test_while_a_list_is_searched_all_its_groups_are_open() -> None:
    run = begun(grouped("closed", search=("guest",)))
    run(do.Search(screen="stays", text="guest"))
    assert rows(run) == [0, 1, 3, 4, 2, 5]
    assert titles(run)["Due"].does is None
    assert run(opened("Due", False)).kinds == ["refused"]
    assert rows(run(do.Search(screen="stays", text=""))) == []


def test_7_2_what_is_in_view_stays_where_it_is_when_a_group_above_it_closes() -> None:
    run = begun(grouped(), count=60)
    run(do.Scroll(screen="stays", row=50), do.Scroll(screen="stays", by=10))
    first = rows(run)[0]
    before = next(b for b in lay_out(run.app, run.session, POCKET).boxes if b.key == first)
    run(opened("Due", False))
    after = next(b for b in lay_out(run.app, run.session, POCKET).boxes if b.key == first)
    assert (after.y, rows(run)[0]) == (before.y, first)
    run(opened("Due"))
    again = next(b for b in lay_out(run.app, run.session, POCKET).boxes if b.key == first)
    assert again.y == before.y


def test_7_2_where_the_group_in_view_closes_its_title_is_at_the_top() -> None:
    run = begun(grouped(), count=120)
    run(do.Scroll(screen="stays", row=30), opened("Due", False))
    assert scrolled(run) == 0
    assert titles(run)["Due · 80"].state == {"closed"}
    run(opened("Due"))
    assert (scrolled(run), rows(run)[0]) == (0, 0)
    assert run(opened("Due", False), do.Scroll(screen="stays", row=3)).kinds == ["refused"]


def test_7_4_keys_pass_over_closed_groups() -> None:
    run = begun(grouped(), count=9)
    run(do.Move(to="home"), opened("Due", False))
    assert run.session.entries[0].view.marker == {"": 0}
    run(do.Move(to="down"))
    assert run.session.entries[0].view.marker == {"": 2}
    run(do.Move(to="up"))
    assert run.session.entries[0].view.marker == {"": 2}
    run(do.Move(to="home"))
    assert run.session.entries[0].view.marker == {"": 2}
    run(opened("Arrived", False), opened("Due"), do.Move(to="end"))
    assert run.session.entries[0].view.marker == {"": 7}
    assert run(opened("Due", False), do.Move(to="end")).kinds == ["refused"]


@pytest.mark.parametrize(("start", "wanted"), [("open", 0), ("closed", None)])
def test_5_2_the_first_row_is_the_first_that_shows(start: str, wanted: int | None) -> None:
    app = grouped(start)
    app = with_screen(app, "stays", nothing_chosen="open first")
    run = begun(app, DESK)
    got = [each.arguments.get("stay") for each in run.session.entries[1:]]
    assert got == ([] if wanted is None else [wanted])


@pytest.mark.parametrize(
    ("life", "turned", "killed", "cold"),
    [
        ("view", False, False, False),
        ("entry", True, False, False),
        ("saved", True, True, False),
        ("stored", True, True, True),
    ],
)
def test_6_groups_live_as_long_as_a_search(
    life: str, turned: bool, killed: bool, cold: bool
) -> None:
    app = grouped(keep=Keep(search=life))
    for events, stays_closed in (
        ((do.Turn(),), turned),
        ((do.Kill(), do.Restore()), killed),
        ((do.Relaunch(), do.GoTo(section="stays")), cold),
    ):
        run = begun(app)(opened("Due", False), *events)
        assert (run.session.entries[0].view.groups == {"": ("Due",)}) is stays_closed, events


def test_a_grid_closes_its_groups_as_well() -> None:
    run = begun(grouped(layout="grid"), sized(500, 780), count=30)
    high = titles(run)["Due · 20"]
    run(opened("Due", False))
    assert titles(run)["Arrived · 10"].y == high.y + GROUP
    assert rows(run)[0] == 2
    run(do.Move(to="home"), do.Move(to="down"))
    assert run.session.entries[0].view.marker[""] in range(30)
    assert run.session.entries[0].view.marker[""] % 3 == 2


@given(
    sizes=st.lists(st.integers(1, 7), min_size=1, max_size=6),
    columns=st.integers(1, 4),
    data=st.data(),
)
def test_stacks_with_closed_groups_add_up(
    sizes: list[int], columns: int, data: st.DataObject
) -> None:
    closed = frozenset(data.draw(st.sets(st.integers(0, len(sizes) - 1))))
    begins = tuple(sum(sizes[:at]) for at in range(len(sizes)))
    count, width = sum(sizes), 400.0 if columns > 1 else 0.0
    stack = RowStack(count, 50.0, begins, columns, width, closed)
    lines = [0 if at in closed else -(-size // columns) for at, size in enumerate(sizes)]
    assert stack.total == pytest.approx(len(sizes) * GROUP + 50 * sum(lines))
    for index in range(count):
        group = max(at for at, begin in enumerate(begins) if begin <= index)
        assert stack.is_hidden(index) == (group in closed)
        assert stack.begin(index) == begins[group]
        assert stack.end(index) == begins[group] + sizes[group]
        after, before = stack.shown(index), stack.shown(index, -1)
        assert after is None or (after >= index and not stack.is_hidden(after))
        assert before is None or (before <= index and not stack.is_hidden(before))
        if group not in closed:
            assert after == before == index
            assert stack.at(stack.top(index)) <= index
    at = data.draw(st.floats(0, stack.total + 50))
    found = stack.at(at)
    assert stack.top(found) <= at or found == 0
    assert not stack.is_hidden(found) or found in begins
