"""Forms: rule 10 of rules.md, at two sizes of window."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from builders import POCKET, SLATE, Run, with_link, with_screen
from cadena.engine import events as do
from cadena.engine.form_values import faults_of
from cadena.engine.session import Window
from cadena.model.app import Keep
from stays import FORM, stays, stays_app

BOTH = pytest.mark.parametrize("window", [POCKET, SLATE], ids=["pocket", "slate"])


def fill(run: Run, **values: Any) -> Run:
    return run(*(do.Type(field=name, to=value) for name, value in values.items()))


def new(window: Window = POCKET) -> Run:
    return stays(window=window)(do.Press(button="new"))


def stay(run: Run, key: int) -> dict[str, Any]:
    records = run.app.records(run.session, "stays")
    assert records is not None
    return records.by_key(key) or {}


@BOTH
def test_10_no_key_means_new_and_any_key_means_edit_even_0(window: Window) -> None:
    run = new(window)
    assert run.app.title_of(run.session, run.session.entries[-1]) == "New stay"
    run = stays(window=window)(do.Act(key=0, action="change"))
    assert run.arguments == {"stay": 0}
    assert run.app.title_of(run.session, run.session.entries[-1]) == "Change Guest 0"


@BOTH
def test_10_saving_names_every_field_at_fault_and_writes_nothing(window: Window) -> None:
    run = fill(new(window), guest="A name that is much too long", nights="many", hut="nowhere")
    run(do.Save())
    assert run.kinds == ["not saved"]
    assert "guest must be at most 12 characters" in run.said
    assert "nights must be whole number" in run.said
    assert "hut must be one of huts" in run.said
    assert not run.session.changes
    assert run.chain[-1] == "form"
    assert set(faults_of(run.app, run.session, run.session.entries[-1])) == {
        "guest",
        "nights",
        "hut",
    }


@BOTH
def test_10_a_saved_form_gives_its_place_and_back_never_returns_to_it(window: Window) -> None:
    run = fill(new(window), guest="Ada", hut="h2", nights="3")(do.Save())
    assert run.chain == ["stays", "stay"]
    assert run.arguments == {"stay": 6}
    assert stay(run, 6)["guest"] == "Ada"
    assert stay(run, 6)["nights"] == 3
    row = run.session.entries[1].row
    assert row is not None
    assert row.key == 6
    run(do.Back())
    assert "form" not in run.chain


def test_10_without_a_link_after_saving_the_form_is_left() -> None:
    app = stays_app()
    app = replace(app, links=tuple(each for each in app.links if each.id != "saved"))
    run = fill(stays(app)(do.Act(key=1, action="change")), guest="Bea")(do.Save())
    assert run.chain == ["stays"]
    assert stay(run, 1)["guest"] == "Bea"


def test_10_after_saving_by_replace_it_is_opened_as_the_form_was() -> None:
    app = with_link(stays_app(), "saved", how="replace")
    run = fill(stays(app)(do.Act(key=1, action="change")), guest="Bea")(do.Save())
    assert run.chain == ["stays", "stay"]
    assert run.session.entries[1].opened == "modal"


@BOTH
def test_10_leaving_a_changed_draft_asks_first(window: Window) -> None:
    for leaves in (do.Cancel(), do.Back()):
        run = fill(new(window), guest="Ada")(leaves)
        assert run.kinds == ["asked"]
        assert run.session.question is not None
        assert run(do.Search(text="x")).kinds == ["refused"]
        kept = run(do.Decide(yes=False))
        assert kept.session.entries[-1].view.draft == {"guest": "Ada"}
        left = run(leaves, do.Decide(yes=True))
        assert left.chain == ["stays"]
        assert left.session.question is None


def test_10_a_draft_that_was_typed_back_is_none_and_nothing_is_asked() -> None:
    run = stays()(do.Act(key=1, action="change"))
    fill(run, guest="Bea")
    fill(run, guest="Guest 1")
    assert run.session.entries[-1].view.draft == {}
    assert run(do.Back()).chain == ["stays"]


def test_10_choosing_another_row_beside_a_draft_asks_too() -> None:
    run = stays(window=SLATE).choose(0, "stays")(do.Press(button="edit"))
    fill(run, guest="Bea").choose(1, "stays")
    assert run.kinds == ["asked"]
    run(do.Decide(yes=True))
    assert run.chain == ["stays", "stay"]
    assert run.arguments == {"stay": 1}


def test_6_a_draft_outlives_a_kill_as_its_lifetime_says() -> None:
    run = fill(new(), guest="Ada")(do.Turn(), do.Kill(), do.Restore())
    assert run.session.entries[-1].view.draft == {"guest": "Ada"}
    app = stays_app()
    form = replace(FORM, keep=Keep(draft="view"))
    app = replace(app, screens=tuple(form if e.id == "form" else e for e in app.screens))
    run = fill(stays(app)(do.Press(button="new")), guest="Ada")(do.Turn())
    assert run.session.entries[-1].view.draft == {}


def test_an_argument_and_a_default_fill_a_new_record() -> None:
    app = stays_app()
    run = stays(app)
    entry = replace(run.session.entries[0], screen="form", arguments={"hut": "h3"}, opened="root")
    run.session = run.session.with_entries((entry,))
    fill(run, guest="Cy")(do.Save())
    assert stay(run, 6)["hut"] == "h3"
    assert stay(run, 6)["nights"] == 1


def test_a_key_that_is_typed_must_be_free() -> None:
    field = replace(FORM.fields[0], field="id", most=None)
    form = replace(FORM, fields=(field, *FORM.fields))
    app = stays_app()
    app = replace(app, screens=tuple(form if e.id == "form" else e for e in app.screens))
    run = fill(stays(app)(do.Press(button="new")), id="3", guest="Ada", hut="h1")(do.Save())
    assert run.notes[0].data["faults"] == {"id": "is taken"}
    assert run.session.entries[-1].view.tried
    assert fill(run, id="77")(do.Save()).arguments == {"stay": 77}


def test_the_key_of_a_record_that_is_there_stays() -> None:
    """It is said at its field, and the form stays open with what was typed."""
    field = replace(FORM.fields[0], field="id", most=None)
    app = stays_app()
    app = with_screen(app, "form", fields=(field, *FORM.fields))
    run = stays(app)(do.Act(screen="stays", key=1, action="change"))
    fill(run, id="77", guest="Ada")(do.Save())
    assert run.notes[0].data["faults"] == {"id": "stays as it is"}
    assert run.chain[-1] == "form"
    fill(run, id=1)(do.Save())
    assert "saved" in run.kinds


def test_a_form_for_a_record_that_went_says_so() -> None:
    run = stays()(do.Act(key=1, action="change"), do.Remove(source="stays", key=1), do.Save())
    assert run.kinds == ["refused"] or "not saved" in run.kinds
    assert not run.session.changes["stays"].changed
