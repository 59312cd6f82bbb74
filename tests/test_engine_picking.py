"""Several rows at once (rules.md, 14)."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from builders import POCKET, SLATE, Run, with_screen
from cadena.engine import events as do
from cadena.engine.rules.back import back_label
from cadena.engine.rules.passing import said_now
from cadena.engine.session import Window, from_json, to_json
from cadena.model.app import App, Keep
from cadena.model.listing import ForSeveral, Listing
from cadena.model.source import StandIn
from cadena.runs.possible import possible
from cadena.scene.lay_out import lay_out
from stays import ACTIONS, STAYS, stays, stays_app

WORDS = ForSeveral(confirm="Do it to {count} stays?", says="{count} done", label="All {count}")


def several(**changed: Any) -> Listing:
    actions = tuple(
        each if each.id in ("change", "drop") else replace(each, several=WORDS) for each in ACTIONS
    )
    return replace(STAYS, several="yes", actions=actions, search=("guest",), **changed)


def picking(window: Window = POCKET, app: App | None = None, count: int = 6, **changed: Any) -> Run:
    return stays(with_screen(app or stays_app(), "stays", rows=several(**changed)), window, count)


def pick(*keys: Any) -> tuple[do.Event, ...]:
    return tuple(do.Pick(key=each) for each in keys)


def picked(run: Run) -> tuple[Any, ...]:
    return run.session.entries[0].view.picked.get("", ())


def test_14_a_press_picks_while_something_is_picked_and_opens_nothing() -> None:
    run = picking()(*pick(0)).choose(3, "stays")
    assert (picked(run), run.chain) == ((0, 3), ["stays"])
    run.choose(0, "stays").choose(3, "stays")
    assert (picked(run), run.chain) == ((), ["stays"])
    assert run.choose(3, "stays").chain == ["stays", "stay"]


def test_14_key_0_is_picked_and_acted_on() -> None:
    run = picking()(*pick(0), do.ActOnPicked(action="arrive"))
    run(do.Decide(yes=True)) if run.session.question else None
    records = run.app.records(run.session, "stays")
    assert records is not None
    record = records.by_key(0)
    assert record is not None
    assert record["arrived"] is True


def test_14_all_between_the_last_picked_and_this_one_in_the_order_shown() -> None:
    run = picking()(*pick(0), do.PickTo(key=4))
    # Due are 0, 1, 3, 4; arrived 2 and 5 stand after them.
    assert picked(run) == (0, 1, 3, 4)
    run = picking()(*pick(5), do.PickTo(key=3))
    assert set(picked(run)) == {5, 2, 4, 3}
    assert picked(picking()(do.PickTo(key=3))) == (3,)


def test_14_all_that_the_list_shows() -> None:
    run = picking()(do.Search(text="Guest 1", screen="stays"), do.PickAll())
    assert picked(run) == (1,)
    run(do.Search(text="", screen="stays"), do.PickAll())
    assert set(picked(run)) == set(range(6))
    closed = picking(groups_start="closed")
    assert closed(do.PickAll()).refused
    assert picked(closed(do.ShowGroup(title="Due", open=True), do.PickAll())) == (0, 1, 3, 4)


def test_14_of_a_late_source_all_that_has_come() -> None:
    app = stays_app()
    sources = tuple(
        replace(e, served="stand-in", stand_in=StandIn(page=2)) if e.id == "stays" else e
        for e in app.sources
    )
    run = picking(app=replace(app, sources=sources), groups=())
    run(do.Wait(ms=400), do.PickAll())
    listed = run.app.listed(run.session, run.session.entries[0], "")
    assert listed is not None
    assert 0 < len(picked(run)) == len(listed.rows) <= 6


def test_14_searching_sorting_and_grouping_change_nothing_of_what_is_picked() -> None:
    run = picking()(*pick(0, 1), do.Search(text="Guest 5", screen="stays"))
    assert picked(run) == (0, 1)
    said = [box.text for box in lay_out(run.app, run.session, POCKET).boxes if box.kind == "picked"]
    assert said == ["2 picked, 2 of them not shown"]
    run(do.ActOnPicked(action="arrive"))
    run(do.Decide(yes=True)) if run.session.question else None
    assert {each.key for each in run.session.changes["stays"].changed} == {0, 1}


def test_14_back_lets_all_go_first_and_its_label_is_told_as_if_nothing_were() -> None:
    run = picking(SLATE).choose(1, "stays")
    label = back_label(run.app, run.session)
    run(*pick(0))
    assert back_label(run.app, run.session) == label
    assert (picked(run(do.Back())), run.chain) == ((), ["stays", "stay"])


def test_14_what_is_picked_closes_after_a_menu() -> None:
    run = picking()(do.OpenMenu(key=1))
    assert picked(run(*pick(1))) == (1,)
    assert run.session.menu is None
    assert run(do.OpenMenu(key=1)).refused


def test_14_an_action_on_several_asks_once_changes_all_and_is_undone_as_one() -> None:
    run = picking()(*pick(1, 3), do.ActOnPicked(action="remove"))
    assert run.session.question is not None
    assert run.session.question.text == "Do it to 2 stays?"
    assert run.session.question.yes == "All 2"
    run(do.Decide(yes=False))
    assert picked(run) == (1, 3)
    run(do.ActOnPicked(action="remove"), do.Decide(yes=True))
    records = run.app.records(run.session, "stays")
    assert records is not None
    assert (len(records), picked(run)) == (4, ())
    assert said_now(run.app, run.session) == "2 done"
    run(do.Undo())
    records = run.app.records(run.session, "stays")
    assert records is not None
    assert len(records) == 6
    assert "2 records" in run.said


def test_14_marks_go_in_all_at_once_and_out_once_all_are_in() -> None:
    run = picking()(*pick(0, 1), do.ActOnPicked(action="star"), do.Decide(yes=True))
    assert run.session.values["marks"] == (0, 1)
    run(*pick(1, 2), do.ActOnPicked(action="star"), do.Decide(yes=True))
    assert run.session.values["marks"] == (0, 1, 2)
    run(*pick(0, 2), do.ActOnPicked(action="star"), do.Decide(yes=True))
    assert run.session.values["marks"] == (1,)


def test_14_what_is_not_for_several_is_not_done_to_several() -> None:
    run = picking()(*pick(0))
    assert run(do.ActOnPicked(action="drop")).refused
    assert run(do.Act(action="drop", key=0)).refused
    assert run(do.Press(button="new")).refused
    assert picked(run) == (0,)
    offered = {e.event.action for e in possible(run.app, run.session)
               if isinstance(e.event, do.ActOnPicked)}  # fmt: skip
    assert offered == {"arrive", "remove", "star"}


def test_14_a_record_that_goes_is_picked_no_longer() -> None:
    run = picking()(*pick(0, 1, 3), do.Refresh(source="stays", gone=(1,)))
    assert picked(run) == (0, 3)
    run(do.Remove(source="stays", key=0), do.Remove(source="stays", key=3))
    assert picked(run) == ()


@pytest.mark.parametrize(("life", "stays_picked"), [("saved", True), ("entry", False)])
def test_14_it_lives_as_a_search_does(life: Any, stays_picked: bool) -> None:
    app = with_screen(stays_app(), "stays", keep=Keep(search=life))
    run = picking(app=app)(*pick(1, 3), do.Kill(), do.Refresh(source="stays", gone=(3,)))
    run(do.Restore())
    assert picked(run) == ((1,) if stays_picked else ())
    assert from_json(to_json(run.session)) == run.session


def test_14_a_second_pane_says_how_many_and_the_chain_shows_again_after() -> None:
    run = picking(SLATE).choose(1, "stays")(*pick(0, 3))
    boxes = lay_out(run.app, run.session, SLATE).boxes
    assert [box.text for box in boxes if box.kind == "nothing chosen"] == ["2 picked"]
    assert run(do.Press(button="edit")).refused
    assert run.chain == ["stays", "stay"]
    run(do.LetGo())
    titles = [b.text for b in lay_out(run.app, run.session, SLATE).boxes if "title" in b.kind]
    assert "Guest 1" in titles


def test_14_keys_move_the_marker_and_open_nothing_beside() -> None:
    run = picking(SLATE)(*pick(0), do.Move(to="down"), do.Enter())
    assert (picked(run), run.chain) == ((0, 1), ["stays"])


def test_14_boxes_stand_where_the_list_shows_them_or_something_is_picked() -> None:
    def boxes(run: Run) -> int:
        return sum(box.kind == "pick" for box in lay_out(run.app, run.session, POCKET).boxes)

    run = picking()
    assert boxes(run) == 0
    assert boxes(run(*pick(0))) == 6
    shown = stays(with_screen(stays_app(), "stays", rows=replace(several(), several="with boxes")))
    assert boxes(shown) == 6
    (on,) = [b for b in lay_out(run.app, run.session, POCKET).boxes
             if b.kind == "pick" and "on" in b.state]  # fmt: skip
    assert (on.key, on.name) == (0, "Pick Guest 0")


def test_14_a_list_whose_rows_open_nothing_picks_by_a_press() -> None:
    app = stays_app()
    app = replace(app, links=tuple(each for each in app.links if each.id != "stay"))
    run = picking(app=app).choose(2, "stays")
    assert picked(run) == (2,)


def test_14_a_list_that_lets_none_be_picked_takes_none() -> None:
    run = stays()
    for event in (*pick(0), do.PickTo(key=0), do.PickAll(), do.LetGo()):
        assert run(event).refused
    run = picking()
    assert run(do.LetGo()).refused
    assert run(do.ActOnPicked(action="arrive")).refused
    assert run(*pick(99)).refused


def test_14_many_are_picked_and_acted_on_at_once() -> None:
    run = picking(count=3_000, groups=())
    run(do.PickAll(), do.ActOnPicked(action="arrive"))
    run(do.Decide(yes=True)) if run.session.question else None
    records = run.app.records(run.session, "stays")
    assert records is not None
    assert set(records.values_of("arrived")) == {True}
