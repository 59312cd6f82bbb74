"""What is said for a moment after an act (rules.md, 8)."""

from __future__ import annotations

from msgspec.structs import replace

from builders import Run, small_app
from cadena.engine import events as do
from cadena.model.blocks import ActionsBlock
from cadena.model.listing import RemoveRecord
from cadena.runs.possible import possible
from cadena.scene.lay_out import lay_out
from stays import FORM, stays, stays_app


def saying() -> Run:
    """Stays, whose form, action of a row and removal say what they have done."""
    app = stays_app()
    screens = []
    for screen in app.screens:
        if screen.id == "form":
            screen = replace(screen, says="{guest} is booked")
        elif screen.id == "stays":
            rows = screen.rows  # type: ignore[union-attr]
            made = tuple(replace(each, says="{guest}: done") for each in rows.actions)
            screen = replace(screen, rows=replace(rows, actions=made))
        elif screen.id == "stay":
            blocks = tuple(
                replace(each, buttons=tuple(
                    replace(b, says="{guest} is gone") if isinstance(b.does, RemoveRecord) else b
                    for b in each.buttons
                )) if isinstance(each, ActionsBlock) else each
                for each in screen.blocks  # type: ignore[union-attr]
            )  # fmt: skip
            screen = replace(screen, blocks=blocks)
        screens.append(screen)
    return stays(replace(app, screens=tuple(screens)))


def said(run: Run) -> list[str]:
    boxes = lay_out(run.app, run.session, run.session.window).boxes
    return [each.text for each in boxes if each.kind == "removed"]


def saved() -> Run:
    assert FORM.id == "form"
    run = saying()(do.Press(button="new", screen="stays"), do.Type(field="guest", to="Ada"))
    for field, to in (("nights", 3), ("hut", "h1"), ("begins", "2026-08-01")):
        run(do.Type(field=field, to=to))
    return run(do.Save())


def test_8_a_saving_says_what_it_is_told_to() -> None:
    run = saved()
    assert said(run) == ["Ada is booked"], run.said
    assert "said" in run.kinds


def test_8_it_is_gone_after_four_seconds() -> None:
    run = saved()(do.Wait(ms=3_999))
    assert said(run) == ["Ada is booked"]
    assert said(run(do.Wait(ms=1))) == []


def test_8_it_is_gone_with_the_next_act_and_not_by_looking_about() -> None:
    run = saved()(do.Turn(), do.Scroll(by=10.0, screen=saved().chain[-1]))
    assert said(run) == ["Ada is booked"]
    assert said(run(do.Back())) == []


def test_8_it_can_be_put_away() -> None:
    run = saved()
    assert do.PutAway() in [each.event for each in possible(run.app, run.session)]
    assert said(run(do.PutAway())) == []
    assert run(do.PutAway()).refused


def test_8_a_removal_says_it_of_what_is_gone_and_can_be_undone() -> None:
    run = saying().choose(0, "stays")(do.Press(button="gone", screen="stay"))
    (text,) = said(run)
    assert text.endswith(" is gone")
    assert not text.startswith(" ")
    run(do.Undo())
    assert said(run) == []
    assert run.app.records(run.session, "stays").row_of(0) is not None  # type: ignore[union-attr]


def test_8_a_removal_that_says_nothing_of_its_own_says_what_was_removed() -> None:
    run = stays().choose(0, "stays")(do.Press(button="gone", screen="stay"))
    assert said(run)[0].endswith(" removed")
    assert said(run(do.Wait(ms=9_000)))[0].endswith(" removed")
    assert said(run(do.PutAway())) == []


def test_8_a_faulty_form_says_nothing_and_it_is_not_saved_state() -> None:
    run = saying()(do.Press(button="new", screen="stays"), do.Save())
    assert said(run) == []
    run = saved()(do.Kill(), do.Restore())
    assert said(run) == []
    assert small_app().screens
