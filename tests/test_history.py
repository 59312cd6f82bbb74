"""The history of a project: edits, and the way back, as values."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from cadena.desktop.document.history import MOST, History, opened
from cadena.model.app import App

A, B, C = App(name="A"), App(name="B"), App(name="C")


def test_an_edit_can_be_undone_and_done_again() -> None:
    made = History(app=A, saved=A).edited("to B", B).edited("to C", C)
    assert (made.app, made.undoes, made.redoes, made.is_saved) == (C, "to C", "", False)
    back = made.undone()
    assert (back.app, back.undoes, back.redoes) == (B, "to B", "to C")
    assert back.undone().is_saved
    assert back.undone().undone().app == A
    assert back.redone() == made
    assert made.redone() is made


def test_an_edit_after_undo_leaves_no_way_on() -> None:
    made = History(app=A, saved=A).edited("to B", B).undone().edited("to C", C)
    assert made.redoes == ""
    assert made.undone().app == A


def test_an_edit_that_changes_nothing_is_none() -> None:
    made = History(app=A, saved=A)
    assert made.edited("nothing", App(name="A")) is made


def test_what_was_not_saved_can_be_undone_to_what_was() -> None:
    assert opened(A, A).undoes == ""
    recovered = opened(B, A)
    assert (recovered.app, recovered.is_saved) == (B, False)
    assert recovered.undone().is_saved
    assert recovered.kept(B).is_saved


def test_no_history_grows_without_end() -> None:
    made = History(app=A, saved=A)
    for number in range(MOST + 5):
        made = made.edited("on", App(name=str(number)))
    assert len(made.past) == MOST


@given(st.lists(st.sampled_from(["A", "B", "C", "undo", "redo"]), max_size=30))
def test_undo_leads_all_the_way_back_and_redo_on_again(acts: list[str]) -> None:
    made = History(app=App(name="start"), saved=App(name="start"))
    for act in acts:
        made = {"undo": made.undone, "redo": made.redone}.get(
            act,
            lambda act=act, made=made: made.edited(act, App(name=act)),  # type: ignore[misc]
        )()
    back = made
    while back.undoes:
        back = back.undone()
    assert back.app == App(name="start")
    while back.redoes:
        back = back.redone()
    on = made
    while on.redoes:
        on = on.redone()
    assert back.app == on.app
