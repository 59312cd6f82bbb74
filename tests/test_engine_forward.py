"""Going forward to what back took away (rules.md, 17)."""

from __future__ import annotations

from msgspec.structs import replace

from builders import POCKET, SLATE, Run, small_app, with_screen
from cadena.engine import events as do
from cadena.engine.events import Event
from cadena.engine.rules.forward import can_go_forward
from cadena.engine.step import resume
from cadena.engine.wired import WiredApp
from cadena.model.app import App, Keep, Platform
from stays import stays, stays_app


def forward_app(app: App | None = None, **platform: object) -> App:
    app = app or small_app()
    return replace(app, platform=Platform(forward=True, **platform))  # type: ignore[arg-type]


def there_and_back(run: Run) -> Run:
    return run.choose("h3").choose(6, "hut", "rooms")(do.Back(), do.Back())


def test_17_what_back_took_away_is_gone_forward_to_as_it_was() -> None:
    run = Run(forward_app()).choose("h3")(do.Scroll(to=40.0, screen="hut"))
    was = run.choose(6, "hut", "rooms").session.entries
    run(do.Back(), do.Back())
    assert run.chain == ["huts"]
    run(do.Forward())
    assert run.chain == ["huts", "hut"]
    assert run.kinds == ["forward"]
    run(do.Forward())
    assert run.session.entries[2] == was[2]
    assert run.session.entries[1].view.scroll == was[1].view.scroll
    assert not can_go_forward(run.app, run.session)
    assert run(do.Forward()).refused
    assert run.said == "there is nothing to go forward to"


def test_17_an_app_may_offer_none() -> None:
    run = there_and_back(Run(small_app()))
    assert run(do.Forward()).refused


def test_17_opening_anything_else_or_another_section_forgets_it() -> None:
    for events in (
        (do.Choose(key="h1"),),
        (do.GoTo(section="again"),),
        (do.GoTo(section="again"), do.GoTo(section="huts")),
    ):
        run = there_and_back(Run(forward_app()))(*events)
        assert run(do.Forward()).refused, events


def test_17_looking_about_forgets_nothing() -> None:
    events: tuple[Event, ...] = (
        do.Scroll(to=90.0, screen="huts"),
        do.Search(text="h", screen="huts"),
        do.Turn(),
        do.Sleep(),
        do.Wake(),
        do.Edit(source="huts", key="h3", fields={"note": "new"}),
    )
    run = there_and_back(Run(forward_app()))(*events, do.Forward())
    assert run.arguments == {"hut": "h3"}
    assert not run.refused


def test_17_it_is_not_saved() -> None:
    run = there_and_back(Run(forward_app()))(do.Kill(), do.Restore())
    assert run(do.Forward()).refused


def test_17_a_layer_comes_back_over_what_is_there() -> None:
    run = Run(forward_app()).choose("h3")(do.Press(button="book"), do.Back(), do.Forward())
    assert run.shown == ["hut", "book"]
    run(do.Back()).resize(SLATE)(do.Forward())
    assert run.shown == ["huts", "hut", "book"]


def test_17_what_a_cancel_or_a_press_outside_closed_is_not_ahead() -> None:
    run = Run(forward_app(), SLATE).choose("h3")(do.Press(button="ask"), do.PressOutside())
    assert run.chain == ["huts", "hut"]
    assert run(do.Forward()).refused


def test_17_what_was_typed_is_gone_it_was_asked_for() -> None:
    run = stays(forward_app(stays_app()), POCKET)
    run(do.Press(button="new", screen="stays"), do.Type(field="guest", to="Ada"), do.Back())
    assert run.session.question is not None
    run(do.Decide(yes=True), do.Forward())
    assert run.chain[-1] == "form"
    assert run.session.entries[-1].view.draft == {}


def test_17_a_screen_that_goes_with_its_record_is_not_gone_forward_to() -> None:
    app = with_screen(forward_app(), "hut", when_gone="close")
    run = there_and_back(Run(app))(do.Remove(source="huts", key="h3"))
    assert run(do.Forward()).refused
    run = there_and_back(Run(forward_app()))(do.Remove(source="huts", key="h3"), do.Forward())
    assert run.chain == ["huts", "hut"], "a screen that says so says so"


def test_17_what_lay_over_a_screen_that_has_gone_has_gone_with_it() -> None:
    app = with_screen(forward_app(), "room", when_gone="close")
    run = there_and_back(Run(app))(do.Remove(source="rooms", key=6), do.Forward())
    assert run.chain == ["huts", "hut"]
    assert run(do.Forward()).refused


def test_17_where_back_went_to_the_start_section_forward_goes_to_where_it_came_from() -> None:
    run = Run(forward_app(back_to_start=True))(do.GoTo(section="again")).choose("h2")
    run(do.Back(), do.Back())
    assert run.session.section == "huts"
    run(do.Forward())
    assert (run.session.section, run.chain) == ("again", ["huts"])
    assert run(do.Forward()).chain == ["huts", "hut"]


def test_17_what_a_rule_opened_meanwhile_makes_room_for_it() -> None:
    app = with_screen(forward_app(), "huts", nothing_chosen="open first")
    run = Run(app).choose("h3")(do.Back()).resize(SLATE)
    assert run.arguments == {"hut": "h0"}
    run(do.Forward())
    assert run.arguments == {"hut": "h3"}
    assert run.session.entries[-1].by == "hand"


def test_17_what_lives_as_long_as_its_view_has_gone() -> None:
    app = with_screen(forward_app(), "hut", keep=Keep(scroll="view"))
    run = Run(app).choose("h3")(do.Scroll(to=40.0, screen="hut"), do.Back(), do.Forward())
    assert run.chain == ["huts", "hut"]
    assert run.session.entries[-1].view.scroll is None


def test_17_an_app_that_changes_keeps_ahead_what_it_could_have_opened() -> None:
    run = there_and_back(Run(forward_app()))
    wider = WiredApp(replace(run.app.app, name="Other"), run.app.as_read)
    assert can_go_forward(wider, resume(wider, run.session, run.app)[0])
    fewer = tuple(each for each in run.app.app.screens if each.id != "room")
    links = tuple(each for each in run.app.app.links if each.to != "room")
    fewer_app = WiredApp(replace(run.app.app, screens=fewer, links=links), run.app.as_read)
    session, _ = resume(fewer_app, run.session, run.app)
    assert len(session.ahead) == 1
    assert can_go_forward(fewer_app, session)
