"""What people come with, each as a small app with its walk: a window, events, what is then so."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final, NamedTuple

from harbour import (
    BOAT,
    BOATS,
    DETAIL,
    EDIT,
    FORM,
    ONE,
    OPEN,
    TWO,
    boats,
    harbour,
    records_of,
    rows,
    screen,
    wired,
)
from msgspec.structs import replace

from cadena.check.check import read_through
from cadena.engine import events as do
from cadena.engine.rules.display import display_of
from cadena.engine.session import Window, sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    AppValue,
    Arrangement,
    DetailScreen,
    FromConstant,
    FromField,
    FromPosition,
    Keep,
    Link,
    ListScreen,
    Pair,
    PaneWidth,
    Range,
    Section,
    Side,
    Transition,
    Trigger,
    When,
)
from cadena.model.blocks import (
    ActionsBlock,
    AddressBlock,
    FactsBlock,
    FormField,
    ListBlock,
    PictureBlock,
)
from cadena.model.listing import (
    Button,
    Condition,
    Listing,
    Mark,
    Order,
    Row,
    Sort,
    ToggleField,
)
from cadena.model.source import StandsOut
from cadena.runs.keep.matrix import runs
from cadena.runs.walks.walk import Expectation, Expected, Walk
from cadena.scene.flights import came_by
from cadena.scene.lay_out import lay_out

PHONE, TURNED, SLATE, DESK = sized(360, 780), sized(780, 360), sized(820, 1180), sized(1280, 800)
WRIST: Final = sized(198, 242)


class Need(NamedTuple):
    """An app, the window that its walk begins in, the walk, and what else is to be so of it."""

    app: WiredApp
    window: Window
    walk: Walk
    also: Callable[[WiredApp], None] = lambda app: None


def so(**expected: Any) -> Expectation:
    return Expectation(expect=Expected(**expected))


def choose(key: Any, screen: str = "boats", part: str = "") -> do.Choose:
    return do.Choose(key=key, screen=screen, list=part)


def an_edit_form_from_a_row_kept_out_of_the_bar() -> Need:
    action = Button(id="change", label="Change")
    link = replace(EDIT, id="change", trigger=Trigger(screen="boats", on="action", part="change"))
    link = replace(link, arguments=(FromField(parameter="boat", field="id"),))
    hidden = Section(id="new", title="New", root="form", in_bar=False)
    app = rows(harbour(links=(OPEN, EDIT, link), sections=(BOATS, hidden)), actions=(action,))
    return Need(
        wired(app),
        PHONE,
        (
            do.Act(screen="boats", key=0, action="change"),
            so(chain=("boats", "form"), arguments={"boat": 0}, title="Tern 00"),
            do.Type(screen="form", field="name", to="Aeolus"),
            do.Save(screen="form"),
            so(chain=("boats",), first_row={"boats": 0}, note="saved"),
        ),
        lambda app: _bar_is(app, ["boats"]),
    )


def _bar_is(app: WiredApp, names: list[str]) -> None:
    assert [each.id for each in app.in_bar] == names


def an_edit_in_place_that_the_list_follows() -> Need:
    facts = FactsBlock(id="facts", fields=("name", "length"), in_place=("name",))
    app = screen(harbour(), "boat", blocks=(facts, DETAIL.blocks[2]))
    return Need(
        wired(app),
        DESK,
        (
            choose(8),
            so(display=("boats", "boat"), chosen={"boats": 8}),
            do.Edit(source="boats", key=8, fields={"name": "Aeolus"}),
            so(chosen={"boats": 8}, first_row={"boats": 8}, title="Aeolus"),
        ),
    )


def a_picture_that_flies_from_a_tile_into_a_layer() -> Need:
    pairs = (Pair(slot="picture", element="photo"), Pair(slot="title", element="name"))
    moves = Transition(pairs=pairs, duration=240, fades={"facts": 120})
    app = harbour(links=(replace(OPEN, how="modal", transition=moves), EDIT))
    app = rows(app, layout="grid", row=Row(title="{name}", picture="photo"))
    app = screen(app, "boat", blocks=(PictureBlock(id="photo", field="photo"), *DETAIL.blocks))

    def flies(wired: WiredApp) -> None:
        before, _ = start(wired, DESK)
        after = step(wired, before, choose(0)).session
        came = came_by(wired, before, after)
        assert came is not None
        assert came.link.id == "open"

    return Need(
        wired(app),
        DESK,
        (
            choose(0),
            so(display=("boats", "boat")),
            do.Back(),
            so(chain=("boats",)),
        ),
        flies,
    )


def addresses_with_a_parameter_and_a_fallback() -> Need:
    quay = ListScreen(
        id="quays", title="Quays", rows=Listing(source="quays", row=Row(title="{name}"))
    )
    section = Section(id="quays", title="Quays", root="quays", address="/quays")
    app = harbour(quay, fallback="quays", sections=(replace(BOATS, address="/boats"), section))
    app = screen(app, "boat", address="/boats/{boat}")

    def position_is_told(wired: WiredApp) -> None:
        link = replace(OPEN, arguments=(FromPosition(parameter="boat", convert=True),))
        model = replace(wired.app, links=(link, EDIT))
        assert "position-carried" in {e.code for e in read_through(model, wired.as_read)}

    return Need(
        wired(app),
        PHONE,
        (
            do.Visit(address="/boats/0"),
            so(chain=("boats", "boat"), arguments={"boat": 0}, address="/boats/0"),
            do.Visit(address="/boats/none"),
            so(section="quays", chain=("quays",)),
            do.Visit(address="/boats"),
            so(section="boats", chain=("boats",)),
        ),
        position_is_told,
    )


def a_chosen_chip_still_in_view_after_turning() -> Need:
    strip = Listing(source="quays", layout="strip", tile=110, row=Row(title="{name}"))
    app = screen(harbour(), "boats", above=(ListBlock(id="quays", heading="", rows=strip),))
    app = rows(app, where=(Condition(field="quay", choice="quays"),))

    def stays_in_view(wired: WiredApp) -> None:
        marks = {
            run.mark
            for run in runs(wired)
            if (run.piece.kind, run.piece.part) == ("chosen in view", "quays")
        }
        assert "kept" in marks
        assert not marks & {"lost", "wrong"}

    return Need(
        wired(app),
        PHONE,
        (
            choose("q7", part="quays"),
            so(rows={"boats": 2}),
            do.Turn(),
            so(rows={"boats": 2}),
        ),
        stays_in_view,
    )


def two_panes_only_when_wide_30_to_70() -> Need:
    two = replace(
        TWO, when=When(width=Range(least=900)), widths=(PaneWidth(share=0.3), PaneWidth(share=0.7))
    )
    app = harbour(arrangements=(two, Arrangement(id="one")))

    def shares(wired: WiredApp) -> None:
        session, _ = start(wired, sized(1000, 700))
        first, second = (pane.area.width for pane in display_of(wired, session).panes)
        assert (round(first), round(second)) == (300, 700)

    return Need(
        wired(app),
        sized(1000, 700),
        (
            choose(3),
            so(display=("boats", "boat")),
            do.Resize(width=899, height=700),
            so(display=("boat",)),
            do.Resize(width=900, height=700),
            so(display=("boats", "boat"), chosen={"boats": 3}),
        ),
        shares,
    )


def fields_moved_from_the_row_to_the_detail() -> Need:
    app = rows(harbour(), row=Row(title="{name}"))
    facts = FactsBlock(id="facts", fields=("length", "quay", "launched"))
    app = screen(app, "boat", blocks=(DETAIL.blocks[0], facts, DETAIL.blocks[2]))

    def moved(wired: WiredApp) -> None:
        session, _ = start(wired, PHONE)
        assert not [e for e in lay_out(wired, session, PHONE).boxes if e.kind == "badge"]
        session = step(wired, session, choose(1)).session
        said = [e.text for e in lay_out(wired, session, PHONE).boxes if e.kind == "fact"]
        assert said == ["12", "South quay", "11 Feb 2001"]

    return Need(wired(app), PHONE, (choose(1), so(title="Plover 01", back="Boats")), moved)


def a_tiny_window_that_starts_in_the_detail_counts_on_rows_and_ground_by_state() -> Need:
    tiny = Arrangement(id="tiny", when=When(width=Range(below=250)), detail_first="open first")
    app = harbour(arrangements=(tiny, ONE, TWO))
    app = rows(app, row=Row(title="{name}", badge="{jobs.count} jobs", takes_ground=True))
    long = StandsOut(field="length", test="over", constant=12, sign="✓", word="long", colour="good")
    app = replace(
        app,
        sources=tuple(
            replace(each, stands_out=(long,)) if each.id == "boats" else each
            for each in app.sources
        ),
    )

    def counted(wired: WiredApp) -> None:
        session, _ = start(wired, PHONE)
        boxes = lay_out(wired, session, PHONE).boxes
        badges = {e.key: e.text for e in boxes if e.kind == "badge"}
        jobs = [each["boat"] for each in wired.as_read["jobs"].frame.to_dicts()]
        assert badges
        assert badges == {key: f"{jobs.count(key)} jobs" for key in badges}
        boats = wired.as_read["boats"]
        rows_shown = [e for e in boxes if e.kind == "row"]
        for each in rows_shown:
            is_long = (boats.by_key(each.key) or {})["length"] > 12
            assert ("on ground" in each.state) is is_long

    return Need(
        wired(app),
        WRIST,
        (
            so(display=("boat",), arguments={"boat": 3}),
            do.Back(),
            so(display=("boats",)),
            choose(11),
            so(display=("boat",), arguments={"boat": 11}),
        ),
        counted,
    )


def one_form_for_new_and_edit_and_orders_to_choose() -> Need:
    new = Link(
        id="new", trigger=Trigger(screen="boats", on="button", part="new"), to="form", how="modal"
    )
    orders = (Order(name="Longest", sort=(Sort(field="length", descending=True),)),)
    app = rows(harbour(links=(OPEN, EDIT, new)), orders=orders)
    app = screen(app, "boats", buttons=(Button(id="new", label="New"),))
    return Need(
        wired(app),
        PHONE,
        (
            do.Press(screen="boats", button="new"),
            so(title="New boat"),
            do.Save(screen="form"),
            so(chain=("boats", "form")),
            do.Type(screen="form", field="name", to="Zephyr"),
            do.Type(screen="form", field="length", to="99"),
            do.Save(screen="form"),
            so(chain=("boats",), rows={"boats": 25}),
            do.SortBy(screen="boats", by=orders[0].sort),
            so(first_row={"boats": 24}),
            choose(0),
            do.Press(screen="boat", button="edit"),
            so(title="Tern 00", arguments={"boat": 0}),
        ),
    )


def a_detail_with_a_picture_and_an_address_beside_or_below_its_list() -> Need:
    blocks = (
        PictureBlock(id="photo", field="photo", fit="whole"),
        *DETAIL.blocks,
        AddressBlock(id="site", field="site"),
    )
    tall = Arrangement(
        id="tall",
        when=When(width=Range(least=600), shape="portrait"),
        panes=2,
        lie="down",
        widths=(PaneWidth(share=0.4), PaneWidth(share=0.6)),
    )
    app = screen(harbour(arrangements=(tall, ONE, TWO)), "boat", blocks=blocks)

    def shows(wired: WiredApp) -> None:
        session = step(wired, start(wired, DESK)[0], choose(2)).session
        boxes = lay_out(wired, session, DESK).boxes
        assert [e.picture for e in boxes if e.kind == "picture"] == ["2.png"]
        assert [e.text for e in boxes if e.kind == "address"] == ["https://boats.invalid/2"]
        session = step(wired, session, do.Resize(width=800, height=1100)).session
        above, below = (pane.area for pane in display_of(wired, session).panes)
        assert above.y + above.height == below.y

    walk = (
        choose(2),
        so(display=("boats", "boat")),
        do.Resize(width=800, height=1100),
        so(display=("boats", "boat"), chosen={"boats": 2}),
        choose(4),
        so(display=("boats", "boat"), chosen={"boats": 4}),
    )
    return Need(wired(app), DESK, walk, shows)


def three_sections_that_share_a_choice_and_favourites_that_stay() -> Need:
    actions = (Button(id="keep", label="Keep", does=Mark(value="kept")),)
    app = rows(harbour(links=(replace(OPEN, sets={"current": "boat"}), EDIT)), actions=actions)
    work = Listing(
        source="jobs", where=(Condition(field="boat", value="current"),), row=Row(title="{what}")
    )
    kept = Listing(
        source="boats",
        where=(Condition(field="id", test="is one of", value="kept"),),
        row=Row(title="{name}"),
    )
    app = replace(
        app,
        screens=(
            *app.screens,
            ListScreen(id="jobs", title="Jobs", rows=work),
            ListScreen(id="kept", title="Kept", rows=kept),
        ),
        sections=(
            BOATS,
            Section(id="jobs", title="Jobs", root="jobs"),
            Section(id="kept", title="Kept", root="kept"),
        ),
        values=(
            AppValue(id="current", type="whole number"),
            AppValue(id="kept", type="list of whole number", keep="stored"),
        ),
    )
    return Need(
        wired(app),
        PHONE,
        (
            do.Act(screen="boats", key=0, action="keep"),
            choose(0),
            so(values={"kept": (0,), "current": 0}),
            do.GoTo(section="jobs"),
            so(rows={"jobs": 3}),
            do.GoTo(section="kept"),
            so(rows={"kept": 1}, first_row={"kept": 0}),
            do.Relaunch(),
            do.GoTo(section="kept"),
            so(rows={"kept": 1}, first_row={"kept": 0}),
        ),
    )


def a_list_that_slides_over_its_detail_when_upright() -> Need:
    upright = Arrangement(id="upright", when=When(shape="portrait"), over=True)
    app = harbour(arrangements=(upright, TWO))
    return Need(
        wired(app),
        SLATE,
        (
            choose(5),
            so(display=("boat",)),
            do.SlideList(),
            so(display=("boat", "boats"), chosen={"boats": 5}),
            choose(6),
            so(display=("boat",), arguments={"boat": 6}),
            do.SlideList(),
            do.Back(),
            so(display=("boat",)),
            do.Turn(),
            so(display=("boats", "boat"), chosen={"boats": 6}),
        ),
    )


def ten_thousand_found_by_typing_with_a_limit_that_is_said() -> Need:
    app = rows(harbour(), limit=500, past_limit="{shown} of {found}")
    many = {**records_of(), **{"boats": records_of({"boats": boats(10_000)})["boats"]}}

    def says(wired: WiredApp) -> None:
        session, _ = start(wired, DESK)
        listed = wired.listed(session, session.entries[0], "")
        assert listed is not None
        assert listed.counts(wired.words) == "500 of 10000"

    return Need(
        wired(app, many),
        DESK,
        (
            so(rows={"boats": 500}),
            do.Search(screen="boats", text="tern 99"),
            so(rows={"boats": 21}, first_row={"boats": 1992}),
            do.Move(screen="boats", to="down"),
            do.Move(screen="boats", to="down"),
            so(display=("boats", "boat"), chosen={"boats": 2992}),
        ),
        says,
    )


def screens_arranged_by_the_room_they_are_given() -> Need:
    app = screen(harbour(), "boats", nothing_chosen_words="Choose a boat")
    app = screen(app, "boat", side=Side(blocks=("facts",), least=500))

    def words(wired: WiredApp) -> None:
        session, _ = start(wired, DESK)
        said = [e.text for e in lay_out(wired, session, DESK).boxes if e.kind == "nothing chosen"]
        assert said == ["Choose a boat"]

    return Need(
        wired(app),
        DESK,
        (so(display=("boats", "nothing chosen")), choose(4), so(display=("boats", "boat"))),
        words,
    )


def a_list_of_a_fifth_of_the_width_whose_divider_a_person_drags() -> Need:
    widths = (PaneWidth(share=0.2, least=200, most=700), PaneWidth(share=0.8, least=300))
    two = replace(TWO, widths=widths, dividers="the person's")
    app = harbour(arrangements=(ONE, two))

    def fifth(wired: WiredApp) -> None:
        for width, wanted in ((1500, 300), (1000, 200), (800, 200)):
            session, _ = start(wired, sized(width, 800))
            assert display_of(wired, session).panes[0].area.width == wanted

        session, _ = start(wired, sized(1500, 800))
        for event in (do.Divide(pane=0, to=420), do.Kill(), do.Relaunch()):
            session = step(wired, session, event).session
        assert display_of(wired, session).panes[0].area.width == 420

    return Need(
        wired(app),
        sized(1500, 800),
        (
            choose(1),
            so(display=("boats", "boat")),
            do.Divide(pane=0, to=420),
            so(display=("boats", "boat"), note="divided"),
            do.Resize(width=360, height=780),
            so(display=("boat",)),
            do.Resize(width=1500, height=800),
            so(display=("boats", "boat"), chosen={"boats": 1}),
            do.Divide(pane=0, to=9000),
            do.Kill(),
            do.Restore(),
            so(display=("boats", "boat")),
        ),
        fifth,
    )


def open_where_one_was_after_a_cold_start() -> Need:
    app = harbour(sections=(replace(BOATS, keep="stored"),))
    app = screen(app, "boats", keep=Keep(scroll="stored", search="stored"))
    app = replace(app, platform=replace(app.platform, stored_most=20))
    return Need(
        wired(app),
        PHONE,
        (
            do.Search(screen="boats", text="skua"),
            choose(14),
            do.Relaunch(),
            so(chain=("boats", "boat"), arguments={"boat": 14}, back="Boats"),
            do.Back(),
            so(chain=("boats",), rows={"boats": 3}),
        ),
    )


def five_ways_to_open_told_apart() -> Need:
    ways: tuple[Any, ...] = ("push", "modal", "popover", "replace")
    buttons = tuple(Button(id=how, label=how.title()) for how in ways)
    other = replace(DETAIL, id="other", blocks=DETAIL.blocks[:1])
    app = harbour(other)
    links = tuple(
        Link(
            id=how,
            trigger=Trigger(screen="boat", on="button", part=how),
            to="other",
            how=how,
            arguments=(FromConstant(parameter="boat", constant=0),),
        )
        for how in ways
    )
    app = screen(app, "boat", blocks=(*DETAIL.blocks[:2], ActionsBlock(id="do", buttons=buttons)))
    app = replace(app, links=(OPEN, *links), arrangements=(ONE, replace(TWO, popover_from=600)))

    def press(how: str) -> do.Press:
        return do.Press(screen="boat", button=how)

    return Need(
        wired(app),
        DESK,
        (
            choose(2),
            so(display=("boats", "boat"), back=None),
            press("push"),
            so(display=("boats", "other"), chain=("boats", "boat", "other"), back="Gannet 02"),
            do.Back(),
            press("modal"),
            so(display=("boats", "boat", "other")),
            do.Back(),
            press("popover"),
            so(display=("boats", "boat", "other")),
            do.PressOutside(),
            so(chain=("boats", "boat")),
            press("replace"),
            so(chain=("boats", "other"), display=("boats", "other"), arguments={"boat": 0}),
        ),
    )


def pictures_and_back_labels_from_data() -> Need:
    app = rows(
        harbour(links=(replace(OPEN, how="push"), EDIT)), row=Row(title="{name}", picture="photo")
    )
    app = replace(app, links=(app.links[0], replace(EDIT, how="push")))

    def thumbs(wired: WiredApp) -> None:
        session, _ = start(wired, PHONE)
        found = [e.picture for e in lay_out(wired, session, PHONE).boxes if e.kind == "thumb"]
        assert found[:2] == ["0.png", "2.png"]

    return Need(
        wired(app),
        PHONE,
        (
            choose(9),
            so(title="Plover 09", back="Boats"),
            do.Press(screen="boat", button="edit"),
            so(back="Plover 09"),
            do.Back(),
            so(title="Plover 09"),
        ),
        thumbs,
    )


def lists_of_jobs_made_ticked_moved_and_kept() -> Need:
    tick = Button(
        id="tick", label="Tick", does=ToggleField(field="state", between=("to do", "doing", "done"))
    )
    listing = Listing(
        source="jobs",
        group_by="state",
        row=Row(title="{what}", subtitle="{due}"),
        actions=(tick,),
    )
    form = replace(
        FORM,
        id="job-form",
        source="jobs",
        key="job",
        title="{what}",
        title_new="New job",
        parameters=(replace(BOAT, name="job", need="none", key_of="jobs"),),
        fields=(
            FormField(field="what", required=True),
            FormField(field="state", default="to do", choices=("to do", "doing", "done")),
        ),
    )
    jobs = ListScreen(
        id="jobs", title="Jobs", rows=listing, buttons=(Button(id="new", label="New"),)
    )
    new = Link(id="new", trigger=Trigger(screen="jobs", on="button", part="new"), to="job-form")
    app = harbour(jobs, form, links=(OPEN, EDIT, new), start="jobs")
    app = replace(app, sections=(Section(id="jobs", title="Jobs", root="jobs"),))
    return Need(
        wired(app),
        PHONE,
        (
            so(first_row={"jobs": 1}),
            do.Press(screen="jobs", button="new"),
            do.Type(screen="job-form", field="what", to="Sand"),
            do.Save(screen="job-form"),
            so(chain=("jobs",), rows={"jobs": 13}),
            do.Act(screen="jobs", key=1, action="tick"),
            so(first_row={"jobs": 4}),
            do.Act(screen="jobs", key=12, action="tick"),
            do.Relaunch(),
            so(rows={"jobs": 13}, first_row={"jobs": 4}),
        ),
    )


def a_detail_with_a_name_from_another_source_and_a_date() -> Need:
    job = DetailScreen(
        id="job",
        title="{what} · {boat}",
        source="jobs",
        key="job",
        parameters=(replace(BOAT, name="job", key_of="jobs"),),
        blocks=(FactsBlock(id="facts", fields=("boat", "due"), opens=("boat",)),),
    )
    jobs = ListScreen(id="jobs", title="Jobs", rows=Listing(source="jobs", row=Row(title="{what}")))
    links = (
        replace(
            OPEN,
            id="job",
            trigger=Trigger(screen="jobs"),
            to="job",
            arguments=(FromField(parameter="job", field="id"),),
        ),
        Link(
            id="its-boat",
            trigger=Trigger(screen="job", on="fact", part="boat"),
            to="boat",
            arguments=(FromField(parameter="boat", field="boat"),),
        ),
    )
    app = harbour(jobs, job, links=(OPEN, EDIT, *links), start="jobs")
    app = replace(app, sections=(Section(id="jobs", title="Jobs", root="jobs"),))

    def said(wired: WiredApp) -> None:
        session = step(wired, start(wired, PHONE)[0], choose(2, "jobs")).session
        facts = [e.text for e in lay_out(wired, session, PHONE).boxes if e.kind == "fact"]
        assert facts == ["Gannet 02", "12 Mar 2027"]

    return Need(
        wired(app),
        PHONE,
        (
            choose(2, "jobs"),
            so(title="Splice 2 · Gannet 02"),
            do.OpenFact(screen="job", fact="boat"),
            so(title="Gannet 02", back="Splice 2 · Gannet 02"),
            do.Back(),
            so(chain=("jobs", "job")),
        ),
        said,
    )


NEEDS: Final = {
    each.__name__.replace("_", " "): each
    for each in (
        an_edit_form_from_a_row_kept_out_of_the_bar,
        an_edit_in_place_that_the_list_follows,
        a_picture_that_flies_from_a_tile_into_a_layer,
        addresses_with_a_parameter_and_a_fallback,
        a_chosen_chip_still_in_view_after_turning,
        two_panes_only_when_wide_30_to_70,
        fields_moved_from_the_row_to_the_detail,
        a_tiny_window_that_starts_in_the_detail_counts_on_rows_and_ground_by_state,
        one_form_for_new_and_edit_and_orders_to_choose,
        a_detail_with_a_picture_and_an_address_beside_or_below_its_list,
        three_sections_that_share_a_choice_and_favourites_that_stay,
        a_list_that_slides_over_its_detail_when_upright,
        ten_thousand_found_by_typing_with_a_limit_that_is_said,
        screens_arranged_by_the_room_they_are_given,
        a_list_of_a_fifth_of_the_width_whose_divider_a_person_drags,
        open_where_one_was_after_a_cold_start,
        five_ways_to_open_told_apart,
        pictures_and_back_labels_from_data,
        lists_of_jobs_made_ticked_moved_and_kept,
        a_detail_with_a_name_from_another_source_and_a_date,
    )
}
"""By name; a made-up list exchanged for a service stands in ``test_needs``, with its server."""
