"""Sources that answer late: rule 9 of rules.md."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from builders import POCKET, SLATE, Run, small_app, small_records, with_screen
from cadena.engine import events as do
from cadena.engine.session import Window, to_json
from cadena.engine.step import start
from cadena.engine.wired import ITEM, WiredApp
from cadena.model.find import by_id
from cadena.model.listing import Sort
from cadena.model.source import Service, StandIn
from cadena.scene.lay_out import lay_out

BOTH = pytest.mark.parametrize("window", [POCKET, SLATE], ids=["pocket", "slate"])


def late(
    window: Window = POCKET, served: Any = "stand-in", count: int = 60, **stand_in: Any
) -> Run:
    app = small_app()
    huts = replace(
        app.sources[0],
        served=served,
        list_brings=("name",),
        stand_in=StandIn(**{"delay": 300, "page": 20, **stand_in}),
    )
    app = replace(app, sources=(huts, *app.sources[1:]))
    run = Run(count=1)
    run.app = WiredApp(app, small_records(count))
    run.session, run.notes = start(run.app, window)
    return run


def state(run: Run, index: int = 0, part: str = "") -> str:
    return run.session.entries[index].loads[part].state


def rows(run: Run) -> int:
    listed = run.app.listed(run.session, run.session.entries[0], "")
    return 0 if listed is None else len(listed.rows)


def said(run: Run, kind: str) -> list[str]:
    scene = lay_out(run.app, run.session, run.session.window)
    return [box.text for box in scene.boxes if box.kind == kind]


@BOTH
def test_9_a_list_loads_page_by_page_as_far_as_it_is_looked_at(window: Window) -> None:
    run = late(window)
    assert (state(run), rows(run)) == ("loading", 0)
    assert said(run, "loading") == ["Loading…"]
    assert rows(run(do.Wait(ms=299))) == 0
    assert rows(run(do.Wait(ms=1))) == 20
    run(do.Wait(ms=5000))
    most = rows(run)
    assert most < 60 or window is SLATE
    run(do.Scroll(to=1e9), do.Wait(ms=300), do.Scroll(to=1e9), do.Wait(ms=300))
    assert rows(run) == 60
    assert not run.session.requests


def test_9_an_item_call_brings_what_the_list_did_not() -> None:
    run = late()(do.Wait(ms=300)).choose("h1")
    entry = run.session.entries[1]
    assert run.app.title_of(run.session, entry) == "Hut 001"
    assert (run.app.record_of(run.session, entry) or {})["note"] is None
    run(do.Wait(ms=300))
    assert (run.app.record_of(run.session, run.session.entries[1]) or {})["note"] == "x"


@BOTH
def test_9_a_late_answer_for_a_row_left_behind_changes_nothing(window: Window) -> None:
    run = late(window)(do.Wait(ms=300)).choose("h1")(do.Wait(ms=200))
    if window is POCKET:
        run(do.Back())
    run.choose("h2")(do.Wait(ms=100))
    assert "late" in run.kinds
    assert state(run, 1, ITEM) == "loading"
    assert run.arguments == {"hut": "h2"}
    run(do.Wait(ms=200))
    assert state(run, 1, ITEM) == "shown"


def test_9_an_answer_to_an_older_search_never_shows() -> None:
    run = late()(do.Wait(ms=300), do.Search(text="Hut 001"), do.Wait(ms=100))
    run(do.Search(text="Hut 002"), do.Wait(ms=200))
    assert "late" in run.kinds
    assert rows(run) == 20
    run(do.Wait(ms=100))
    assert rows(run) == 1


def test_9_a_call_that_fails_can_be_tried_again() -> None:
    run = late(fails_one_in=1)(do.Wait(ms=300))
    assert state(run) == "failed"
    assert "Try again" in said(run, "button")
    run(do.Retry())
    assert state(run) == "loading"
    assert run(do.Wait(ms=300), do.Choose(key="h1")).kinds == ["refused"]


def test_9_a_search_that_fails_is_asked_again_only_when_somebody_asks() -> None:
    run = late(fails_one_in=1)(do.Search(text="Hut 00"), do.Wait(ms=300))
    assert run.kinds.count("called") == 0
    assert (state(run), run.session.requests) == ("failed", ())
    run(do.Wait(ms=60_000))
    assert run.kinds == []
    run(do.Retry())
    assert [each.page for each in run.session.requests] == [0]


def test_9_a_search_that_was_cleared_brings_no_rows() -> None:
    run = late()(do.Wait(ms=300), do.Search(text="Hut 001"), do.Wait(ms=100), do.Search(text=""))
    run(do.Wait(ms=200))
    assert "late" in run.kinds
    assert rows(run) == 20
    run(do.Wait(ms=100))
    assert rows(run) == 20
    assert run.session.entries[0].loads[""].search == ""


def test_9_what_is_not_there_at_the_service_is_missing() -> None:
    run = late()(do.Wait(ms=300)).choose("h1")(do.Remove(source="huts", key="h1"))
    run(do.Wait(ms=300))
    assert state(run, 1, ITEM) == "missing"
    assert "There is no record h1 any more." in said(run, "words")


def test_9_records_change_between_calls_by_a_seed_alone() -> None:
    def traced(seed: int) -> str:
        run = late(changes_one_in=2, seed=seed, count=40)
        run(do.Wait(ms=400), do.Scroll(to=1e9), do.Wait(ms=400))
        return to_json(run.session)

    assert traced(1) == traced(1)
    assert len({traced(seed) for seed in range(1, 6)}) > 1


def test_9_a_refresh_calls_again_and_shows_what_there_was_meanwhile() -> None:
    run = late()(do.Wait(ms=300), do.Refresh(source="huts"))
    assert (state(run), rows(run)) == ("loading", 20)
    assert state(run(do.Wait(ms=3000))) == "shown"


def test_9_a_refresh_calls_for_every_page_that_had_come_and_shows_them_all_the_while() -> None:
    run = late()(do.Wait(ms=300))
    for _ in range(2):
        run(do.Scroll(to=1e9), do.Wait(ms=300))
    assert rows(run) == 60
    run(do.Scroll(to=0), do.Refresh(source="huts"))
    pages = [note.data["page"] for note in run.notes if note.kind == "called"]
    for _ in range(3):
        assert rows(run) == 60
        run(do.Wait(ms=300))
        pages += [note.data["page"] for note in run.notes if note.kind == "called"]
    assert pages == [0, 1, 2]
    assert state(run) == "shown"
    assert not run.session.requests


def test_9_a_refresh_that_fails_goes_on_where_it_was_once_somebody_asks() -> None:
    run = late(served="service", count=2)
    for page in range(3):
        came = tuple({"id": f"h{page}{n}", "name": f"Hut {page}{n}"} for n in range(20))
        number = run.session.requests[0].number
        run(do.Answered(request=number, records=came, more=page < 2), do.Scroll(to=1e9))
    run(do.Refresh(source="huts"))
    (first,) = run.session.requests
    run(do.Answered(request=first.number, records=({"id": "h00", "name": "New"},), more=True))
    (second,) = run.session.requests
    run(do.Answered(request=second.number, failed="gone"))
    assert [first.page, second.page] == [0, 1]
    assert not run.session.requests
    run(do.Retry())
    assert [each.page for each in run.session.requests] == [1]


def test_9_a_service_is_asked_for_the_order_that_a_list_has_by_itself() -> None:
    app = small_app()
    huts = by_id(app.screens, "huts")
    by_name = Sort(field="name", descending=True)
    for sorts, wanted in ((), (by_name,)), (("-name",), (by_name,)), (("name",), None):
        service = Service(list="http://x.example/huts", sort="by", sorts=sorts)
        source = replace(app.sources[0], served="service", service=service)
        made = with_screen(app, "huts", rows=replace(huts.rows, sort=(by_name,)))
        wired = WiredApp(replace(made, sources=(source, *app.sources[1:])), small_records(2))
        session, _ = start(wired, POCKET)
        assert [each.sort for each in session.requests] == [wanted]


def test_9_after_a_kill_everything_is_called_for_anew_as_far_as_the_anchor() -> None:
    run = late()(do.Wait(ms=300), do.Scroll(to=1e9), do.Wait(ms=900), do.Scroll(to=1e9))
    run(do.Wait(ms=900), do.Scroll(row="h30"))
    run(do.Kill(), do.Restore())
    assert rows(run) == 0
    run(do.Wait(ms=5000))
    anchor = run.session.entries[0].view.scroll
    assert anchor is not None
    assert anchor.key == "h30"
    assert rows(run) >= 40


def test_a_real_service_is_asked_and_its_answer_joins() -> None:
    run = late(served="service")
    assert [each.due for each in run.session.requests] == [None]
    assert rows(run) == 0
    brought = ({"id": "h1", "name": "One"}, {"id": "h2", "name": "Two"})
    run(do.Answered(request=1, records=brought, more=True))
    assert rows(run) == 2
    assert len(run.session.requests) == 1
    run(do.Answered(request=2, failed="it is gone"))
    assert state(run) == "failed"
    assert run(do.Answered(request=1, records=brought)).kinds == ["late"]


def test_swapping_who_serves_changes_no_screen() -> None:
    plain = Run(small_app(), count=60)
    run = late()(do.Wait(ms=300))
    assert run.app.app.screens == plain.app.app.screens
    assert said(run, "row title")[:3] == said(plain, "row title")[:3]
