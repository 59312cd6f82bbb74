"""Sources that are written to (rules.md, 9.1)."""

from __future__ import annotations

import random
from typing import Any

import pytest
from msgspec.structs import replace

from builders import POCKET, Run
from cadena.check.check import check
from cadena.check.mend import mended
from cadena.engine import events as do
from cadena.engine.rules import writing
from cadena.engine.rules.passing import said_now
from cadena.engine.rules.unsent import without_write
from cadena.engine.session import from_json, to_json
from cadena.engine.step import start
from cadena.engine.wired import WiredApp
from cadena.model.app import App
from cadena.model.source import Service, Writing
from cadena.records.seeded_random import drawn
from cadena.runs.keep.matrix import matrix_of
from cadena.runs.keep.pieces import pieces_of
from cadena.runs.possible import possible
from cadena.runs.prove.explore import Explored
from cadena.runs.prove.prove import NO_LIMITS, at_once, prove
from cadena.runs.prove.writing_claims import Sent
from cadena.runs.walks.trace import trace_line
from cadena.scene.lay_out import lay_out
from kit_traces import kit_differs, needs_node
from stays import stays_app, stays_records
from written import written_app, written_run

EDIT = do.Act(screen="stays", key=1, action="change")


def state(run: Run) -> list[str]:
    return [each.state for each in run.session.writes]


def guest(run: Run, key: Any = 1) -> Any:
    records = run.app.records(run.session, "stays")
    record = None if records is None else records.by_key(key)
    return None if record is None else record["guest"]


def texts(run: Run) -> list[str]:
    return [each.text for each in lay_out(run.app, run.session, run.session.window).boxes]


def edited(run: Run, name: str = "Ilva", **rates: Any) -> Run:
    """The form of stay 1 saved with another guest, at a stand-in of such rates from then on."""
    run(EDIT, do.Wait(ms=400), do.Type(screen="form", field="guest", to=name))
    return at_rates(run, **rates)(do.Save(screen="form"))


def at_rates(run: Run, **rates: Any) -> Run:
    """A run whose stand-in answers otherwise from now on."""
    run.app = written_run(written_app(**rates)).app
    return run


def test_9_1_saving_sends_and_the_form_stays_until_it_is_confirmed() -> None:
    run = edited(written_run())
    assert run.kinds[0] == "sent"
    assert (state(run), guest(run), run.chain[-1]) == (["sending"], "Guest 1", "form")
    assert "Being sent…" in texts(run)
    assert run(do.Save(screen="form")).kinds == ["refused"]
    assert run(do.Type(screen="form", field="guest", to="x")).kinds == ["refused"]
    offered = [type(each.event) for each in possible(run.app, run.session)]
    assert do.Save not in offered
    assert do.Type not in offered
    run(do.Wait(ms=300))
    assert (state(run), guest(run), run.chain) == ([], "Ilva", ["stays", "stay"])


def test_9_1_a_new_record_has_the_key_that_the_service_gives_it() -> None:
    run = written_run()(
        do.Press(screen="stays", button="new"),
        do.Type(screen="form", field="guest", to="New"),
        do.Type(screen="form", field="hut", to="h1"),
        do.Save(screen="form"),
    )
    assert [each.key for each in run.session.writes] == [None]
    run(do.Wait(ms=300))
    assert guest(run, 9) == "New"
    assert run.session.entries[-1].arguments == {"stay": 9}


def test_9_1_a_form_may_be_left_while_it_is_sent_and_the_answer_counts() -> None:
    run = edited(written_run())(do.Back())
    assert run.session.question is None
    assert run.chain == ["stays"]
    run(do.GoTo(section="marked"), do.Wait(ms=300))
    assert (state(run), guest(run), run.session.section) == ([], "Ilva", "marked")


def test_9_1_what_was_not_sent_is_said_with_a_way_back_to_what_was_typed() -> None:
    run = edited(written_run(), fails_one_in=1, seed=failing(2))(do.Wait(ms=300))
    assert state(run) == ["unsent"]
    assert "It was not sent: no answer came" in texts(run)
    run(do.Back())
    assert run.session.question is None, "it has what was typed"
    assert said_now(run.app, run.session) == "Ilva was not sent: no answer came"
    assert {"Back to it", "Give up"} <= set(texts(run))
    number = run.session.writes[0].number
    run(do.GoTo(section="marked"), do.GoBackTo(write=number))
    assert run.session.entries[-1].view.draft == {"guest": "Ilva"}
    assert run.session.section == "stays"
    at_rates(run)(do.Wait(ms=400), do.Save(screen="form"))
    assert state(run) == ["sending"]
    assert [each.number for each in run.session.writes] == [number]


def failing(how: int) -> int:
    """A seed by which calls fail, 0: to be sent again later, 1: once it was done, 2: at once."""
    calls = range(1, 6)
    return next(e for e in range(9999) if all(drawn(e, "how", n) % 3 == how for n in calls))


def arrived(run: Run, key: int = 1) -> Any:
    records = run.app.records(run.session, "stays")
    assert records is not None
    return (records.by_key(key) or {})["arrived"]


def test_9_1_given_up_it_is_not_sent_and_an_act_goes_back() -> None:
    run = at_rates(written_run(), fails_one_in=1, seed=failing(2))
    run(do.Act(screen="stays", key=1, action="arrive"), do.Wait(ms=300))
    assert (state(run), arrived(run)) == (["unsent"], True)
    assert {"Send again", "Give up"} <= set(texts(run))
    number = run.session.writes[0].number
    again = run.session
    at_rates(run)(do.SendAgain(write=number), do.Wait(ms=300))
    assert (state(run), arrived(run)) == ([], True)
    run.session = again
    run(do.GiveUp(write=number))
    assert (state(run), arrived(run)) == ([], False)
    assert run(do.GiveUp(write=number)).kinds == ["refused"]


def test_9_1_what_was_done_and_not_heard_of_is_not_done_twice() -> None:
    run = written_run()(
        do.Press(screen="stays", button="new"),
        do.Type(screen="form", field="guest", to="New"),
        do.Type(screen="form", field="hut", to="h1"),
    )
    at_rates(run, fails_one_in=1, seed=failing(1))(do.Save(screen="form"), do.Wait(ms=300))
    assert (state(run), guest(run, 9)) == (["unsent"], "New"), "it is there, and nobody was told"
    at_rates(run)(do.Save(screen="form"), do.Wait(ms=300))
    records = run.app.records(run.session, "stays")
    assert records is not None
    assert len(records) == 10
    assert run.session.entries[-1].arguments == {"stay": 9}


def test_9_1_what_may_be_sent_later_is_sent_by_itself() -> None:
    run = edited(written_run(), fails_one_in=1, seed=failing(0))(do.Wait(ms=300))
    assert state(run) == ["later"]
    assert run(do.Save(screen="form")).kinds == ["refused"]
    at_rates(run)(do.Wait(ms=1_000))
    assert state(run) == ["sending"]
    run(do.Wait(ms=300))
    assert (state(run), guest(run)) == ([], "Ilva")


def test_9_1_what_is_refused_is_said_at_its_field_until_that_is_typed_in() -> None:
    run = edited(written_run(), refuses_one_in=1)(do.Wait(ms=300))
    assert state(run) == ["refused"]
    assert any(text.startswith("✕ guest is not taken") for text in texts(run))
    run(do.Type(screen="form", field="guest", to="Other"))
    assert not any("not taken" in text for text in texts(run))
    run(do.Save(screen="form"))
    assert state(run) == ["sending"]


def test_9_1_where_somebody_was_quicker_it_is_asked_field_by_field() -> None:
    for take, wanted in (("mine", "Ilva"), ("theirs", "Guest 1 *")):
        run = edited(written_run(), quicker_one_in=1)(do.Wait(ms=300))
        assert state(run) == ["quicker"]
        assert guest(run) == "Guest 1 *"
        assert "Now: Guest 1 *. Before: Guest 1." in texts(run)
        assert {"Mine", "Theirs"} <= set(texts(run))
        assert run(do.Save(screen="form")).kinds == ["refused"]
        events = [each.event for each in possible(run.app, run.session)]
        assert [e.take for e in events if isinstance(e, do.Settle)] == ["mine", "theirs"]
        run(do.Settle(screen="form", take=take, field="guest"))
        assert run.session.writes == () or take == "mine"
        at_rates(run)(do.Wait(ms=300))
        assert (guest(run), state(run)) == (wanted, [])


def test_9_1_an_act_shows_at_once_and_goes_back_if_it_is_refused() -> None:
    run = written_run(written_app(refuses_one_in=1))(do.Act(screen="stays", key=1, action="arrive"))
    assert arrived(run) is True
    run(do.Wait(ms=300))
    assert arrived(run) is False
    assert said_now(run.app, run.session) == "Guest 1 was refused: arrived: is not taken"


def test_9_1_a_removal_is_sent_when_its_undo_has_lapsed() -> None:
    remove = (do.Act(screen="stays", key=1, action="remove"), do.Decide(yes=True))
    run = written_run()(*remove)
    assert state(run) == ["held"]
    run(do.Wait(ms=5_000))
    assert state(run) == ["held"]
    run(do.Undo())
    assert (state(run), guest(run)) == ([], "Guest 1")
    run(*remove)(do.GoTo(section="marked"))
    assert state(run) == ["sending"]
    run(do.Wait(ms=300))
    assert (state(run), guest(run)) == ([], None)
    run = written_run()(*remove)(do.Back())
    assert run.session.phase == "left"
    assert state(run) == ["sending"], "before the app is left it is sent"


def test_9_1_one_record_is_written_to_in_order() -> None:
    run = written_run()
    for _ in range(3):
        run(do.Act(screen="stays", key=1, action="arrive"))
    assert state(run) == ["sending", "queued", "queued"]
    run(do.Wait(ms=300))
    assert state(run) == ["sending", "queued"]
    run(do.Wait(ms=600))
    assert state(run) == []


@pytest.mark.parametrize("keep", ["view", "entry", "saved", "stored"])
def test_9_1_what_was_typed_and_not_sent_outlives_the_process_as_a_draft_does(keep: Any) -> None:
    for end, lives in (
        ((do.Kill(), do.Restore()), ("saved", "stored")),
        ((do.Relaunch(),), ("stored",)),
        ((do.Kill(), do.Relaunch()), ("stored",)),
    ):
        run = edited(written_run(written_app(keep)), keep=keep)(*end)
        assert (state(run) == ["unsent"]) is (keep in lives)
        run = written_run(written_app(keep))(do.Act(screen="stays", key=1, action="arrive"), *end)
        assert state(run) == ["unsent"], "an act is kept whatever happens"


def test_9_1_what_nobody_takes_is_changed_in_the_app_as_before() -> None:
    run = edited(written_run(written_app(takes=())), takes=())
    assert (state(run), guest(run), run.chain) == ([], "Ilva", ["stays", "stay"])


def test_9_1_what_a_service_does_not_take_is_found() -> None:
    app = at_service()
    records = written_run(app).app.as_read
    assert not [each for each in check(app, records) if each.code == "saves-here-only"]
    stays = next(each for each in app.sources if each.id == "stays")
    assert stays.service is not None
    bare = replace(stays, service=replace(stays.service, create=None, change=None, remove=None))
    app = replace(app, sources=tuple(bare if e.id == "stays" else e for e in app.sources))
    records = {**records, "stays": written_run(app).app.as_read["stays"]}
    found = [each for each in check(app, records) if each.code == "saves-here-only"]
    said = " ".join(each.what for each in found)
    assert "form saves records of stays, whose service takes no new ones and no changes" in said
    assert "remove of stays writes to stays, whose service takes no removals" in said
    assert mended(app, {}, found[0]) is None


def test_9_1_a_stand_in_that_does_not_take_what_is_saved_is_mended() -> None:
    run = written_run(written_app(takes=("create",)))
    app, records = run.app.app, run.app.as_read
    found = [each for each in check(app, records) if each.code == "saves-here-only"]
    assert found
    types = {name: each.types for name, each in records.items()}
    after = mended(app, types, found[0])
    assert after is not None
    assert not [each for each in check(after, records) if each.code == "saves-here-only"]


class Server:
    """A service by itself: what it holds, and what it makes of what is sent, by chance."""

    def __init__(self, chance: random.Random) -> None:
        first = stays_records(9)["stays"]
        self.rows: dict[Any, dict[str, Any]] = {
            first.key_at(n): first.record(n) for n in range(len(first))
        }
        self.chance = chance
        self.made: dict[int, Any] = {}
        self.repeated = 0

    def take(self, write: Any) -> do.Written:
        """What it answers; at times it does what was asked, and the answer is lost."""
        drawn = self.chance.random()
        if drawn < 0.12:
            return do.Written(request=write.call, outcome="unsent", why="no answer came")
        if drawn < 0.18:
            return do.Written(
                request=write.call, outcome="later", after=self.chance.choice([0, 500])
            )
        is_there = write.key in self.rows
        if write.kind == "change" and not is_there:
            return do.Written(request=write.call, outcome="gone")
        if drawn < 0.24 and write.fields:
            faults = {next(iter(write.fields)): "is not taken"}
            return do.Written(request=write.call, outcome="refused", faults=faults)
        if drawn < 0.42 and write.kind == "change":
            row = self.rows[write.key]
            row["guest"] = f"Other {self.chance.randrange(99)}"
            return do.Written(request=write.call, outcome="quicker", record=dict(row))
        record = self._done(write)
        if self.chance.random() < 0.15:
            return do.Written(request=write.call, outcome="unsent", why="no answer came")
        return do.Written(request=write.call, outcome="done", record=record)

    def _done(self, write: Any) -> dict[str, Any] | None:
        if write.kind == "remove":
            self.rows.pop(write.key, None)
            return None
        if write.kind == "change":
            self.rows[write.key].update(write.fields)
            return dict(self.rows[write.key])
        if write.number in self.made:
            self.repeated += 1
            return dict(self.rows.get(self.made[write.number], {"id": self.made[write.number]}))
        key = max(self.rows, default=-1) + 1
        self.made[write.number] = key
        empty = dict.fromkeys(("guest", "hut", "nights", "arrived", "begins"))
        self.rows[key] = {**empty, **write.fields, "id": key}
        return dict(self.rows[key])

    def listed(self, request: Any) -> do.Answered:
        if request.part == "*":
            row = self.rows.get(request.key)
            found = () if row is None else (dict(row),)
            return do.Answered(request=request.number, records=found, missing=row is None)
        return do.Answered(request=request.number, records=tuple(map(dict, self.rows.values())))


def at_service() -> App:
    """The same app, whose stays a service takes."""
    ways = {
        "create": Writing(method="POST", address="http://127.0.0.1:1/stays"),
        "change": Writing(method="PATCH", address="http://127.0.0.1:1/stays/{key}"),
        "remove": Writing(method="DELETE", address="http://127.0.0.1:1/stays/{key}"),
    }
    service = Service(list="http://127.0.0.1:1/stays", **ways)
    app = written_app("stored")
    sources = tuple(
        replace(each, served="service", service=service) if each.id == "stays" else each
        for each in app.sources
    )
    return replace(app, sources=sources)


def acts(chance: random.Random, run: Run) -> do.Event:
    """Something that a person, or the system, does."""
    drawn = chance.random()
    offered = [each.event for each in possible(run.app, run.session)]
    rare = [e for e in offered if isinstance(e, do.SendAgain | do.GoBackTo | do.GiveUp | do.Settle)]
    if drawn < 0.15 and rare:
        return chance.choice(rare)
    if drawn < 0.25:
        return do.Act(
            screen="stays",
            key=chance.randrange(8),
            action=chance.choice(["arrive", "drop", "remove", "change"]),
        )
    if drawn < 0.45:
        return do.Type(
            screen="form",
            field=chance.choice(["guest", "nights", "hut"]),
            to=chance.choice(["Ada", "Bo", 3, "h1", "h2"]),
        )
    if drawn < 0.6:
        return do.Save(screen="form")
    if drawn < 0.64:
        return chance.choice([do.Kill(), do.Restore(), do.Relaunch(), do.Wake()])
    if drawn < 0.7:
        return do.Press(screen="stays", button="new")
    return chance.choice(offered)


def walk(seed: int, length: int, seen: set[str] | None = None) -> Run:
    """A random walk beside a server of its own; what both hold in the end is held together."""
    chance = random.Random(seed)
    run = written_run(at_service())
    server = Server(chance)
    for _ in range(length):
        if chance.random() < 0.5:
            answer(run, server, chance)
        run(acts(chance, run))
        assert from_json(to_json(run.session)) == run.session
        trace_line(run.app, run.session, None, ())
        if seen is not None:
            seen |= {each.state for each in run.session.writes}
    run(do.Restore(), do.Wake())
    for _ in range(60):
        run(do.Wait(ms=1_000))
        if not answer(run, server, chance):
            break
    run(do.Relaunch(), do.Refresh(source="stays"))
    for _ in range(60):
        run(do.Wait(ms=1_000))
        if not answer(run, server, chance):
            break
    assert_told(run, server, seed)
    return run


def answer(run: Run, server: Server, chance: random.Random) -> bool:
    """The server answers one of what is asked of it; whether anything was."""
    sent = [each for each in run.session.writes if each.state == "sending"]
    if sent and chance.random() < 0.8:
        run(server.take(chance.choice(sent)))
        return True
    if run.session.requests:
        run(server.listed(chance.choice(run.session.requests)))
        return True
    return bool(sent)


def assert_told(run: Run, server: Server, seed: int) -> None:
    """What the server has is what the app shows, but for what it says was not sent."""
    if run.session.phase == "killed":
        return
    told = {each.key for each in run.session.writes}
    unsure = any(each.kind == "create" for each in run.session.writes)
    records = run.app.records(run.session, "stays")
    assert records is not None
    shown = {records.key_at(n): records.record(n) for n in range(len(records))}
    for key, row in server.rows.items():
        if key in told:
            continue
        assert key in shown or unsure, f"seed {seed}: {key} is at the server alone"
        assert shown.get(key) == row or unsure, f"seed {seed}: {key}"
    for key in shown.keys() - server.rows.keys() - told:
        raise AssertionError(f"seed {seed}: {key} is in the app alone")


@pytest.mark.long
@pytest.mark.parametrize("part", range(4))
def test_9_1_what_the_server_has_in_the_end_was_confirmed_or_is_told_as_unsent(part: int) -> None:
    for seed in range(part * 100, part * 100 + 60):
        walk(seed, 40)


def test_9_1_every_way_is_taken() -> None:
    """What the walks are worth: every state is come to."""
    seen: set[str] = set()
    for seed in range(1_000, 1_040):
        walk(seed, 60, seen)
    assert seen == {"held", "queued", "sending", "later", "unsent", "refused", "quicker"}


@pytest.mark.long
@needs_node
def test_9_1_the_kit_does_the_same() -> None:
    seen: set[str] = set()
    for seed in range(30):
        chance = random.Random(seed)
        keep = chance.choice(["view", "entry", "saved", "stored"])
        rates = {
            "fails_one_in": chance.choice([0, 3]),
            "refuses_one_in": chance.choice([0, 3]),
            "quicker_one_in": chance.choice([0, 2]),
            "seed": seed,
        }
        run = written_run(written_app(keep, **rates))
        session, _ = start(run.app, POCKET)
        run.session = session
        twice = do.Act(screen="stays", key=1, action="arrive")
        events: list[do.Event] = [do.Wait(ms=400), twice, twice]
        if seed % 3 == 0:
            typed = do.Type(screen="form", field="guest", to="Ada")
            events += [do.Wait(ms=700), EDIT, do.Wait(ms=400), typed, do.Save(), do.Wait(ms=300)]
        for event in events:
            run(event)
            seen |= {each.state for each in run.session.writes}
        while len(events) < 70:
            waits = do.Wait(ms=chance.choice([100, 400, 1000]))
            event = waits if chance.random() < 0.3 else acts(chance, run)
            events.append(event)
            run(event)
            seen |= {each.state for each in run.session.writes}
        assert kit_differs(run.app, POCKET, events) == [None] * 71, f"seed {seed}"
    assert seen == {"held", "queued", "sending", "later", "unsent", "refused", "quicker"}


@needs_node
def test_9_1_where_a_service_names_no_key_none_is_made_up() -> None:
    """The form is left as it was come to, and the list is called for anew."""
    app = written_app()
    service = Service(
        list="http://127.0.0.1:9/stays",
        item="http://127.0.0.1:9/stays/{key}",
        create=Writing(method="POST", address="http://127.0.0.1:9/stays"),
    )
    sources = tuple(
        replace(each, served="service", service=service) if each.id == "stays" else each
        for each in app.sources
    )
    run = written_run(replace(app, sources=sources))
    calls = len(run.session.requests)
    events: tuple[do.Event, ...] = (
        do.Press(screen="stays", button="new"),
        do.Type(screen="form", field="guest", to="New"),
        do.Type(screen="form", field="hut", to="h1"),
        do.Save(screen="form"),
    )
    run(*events)
    (write,) = run.session.writes
    done = do.Written(request=write.call, outcome="done", record={})
    run(done)
    assert (run.session.writes, run.chain) == ((), ["stays"])
    assert [each.source for each in run.session.requests[calls:]] == ["stays"]
    records = run.app.records(run.session, "stays")
    assert records is None or "New" not in records.values_of("guest")
    told = (do.Wait(ms=400), *events, done)
    assert kit_differs(run.app, POCKET, told) == [None] * (len(told) + 1)


def test_9_1_what_was_not_sent_can_be_put_away_and_is_said_again() -> None:
    run = edited(written_run(), fails_one_in=1)(do.Back(), do.Wait(ms=300))
    while state(run) != ["unsent"]:
        run(do.Wait(ms=1000))
    said = said_now(run.app, run.session)
    assert said is not None
    assert "was not sent" in said
    run(do.PutAway())
    assert (said_now(run.app, run.session), state(run)) == (None, ["unsent"])
    assert run(do.PutAway()).kinds == ["refused"]
    run(do.Kill(), do.Restore())
    assert said_now(run.app, run.session) == said


@pytest.mark.parametrize(
    ("lifetime", "kill", "relaunch"),
    [
        ("saved", "kept", "let go as asked"),
        ("stored", "kept", "kept"),
        ("view", "lost", "let go as asked"),
    ],
)
def test_keep_measures_what_is_being_sent_and_what_was_not(
    lifetime: str, kill: str, relaunch: str
) -> None:
    """It lives as a draft does; one that goes with its view is told as lost, as that is."""
    app = written_run(written_app(keep=lifetime)).app
    marks = {
        (piece.kind, name): run.mark
        for (piece, name), run in matrix_of(app).items()
        if piece.kind in ("being sent", "unsent")
    }
    for kind in ("being sent", "unsent"):
        assert marks[kind, "kill"] == kill
        assert marks[kind, "relaunch"] == relaunch
        assert {marks[kind, each] for each in ("turn", "sleep")} == {"kept"}
    of_others = {each.kind for each in pieces_of(WiredApp(stays_app(), stays_records(3)))}
    assert not {"being sent", "unsent"} & of_others


@pytest.mark.parametrize(
    ("more", "ending", "is_draft"), [(0, "", False), (0, ".0", False), (1, "", True)]
)
def test_10_a_number_that_is_typed_as_it_was_makes_no_draft(
    more: int, ending: str, is_draft: bool
) -> None:
    """A browser gives what is typed as a text."""
    run = written_run()(EDIT, do.Wait(ms=400))
    records = run.app.records(run.session, "stays")
    assert records is not None
    typed = f"{(records.by_key(1) or {})['nights'] + more}{ending}"
    run(do.Type(screen="form", field="nights", to=typed))
    assert run.session.entries[-1].view.draft == ({"nights": typed} if is_draft else {})


@pytest.mark.long
def test_what_is_claimed_of_writing_is_looked_at_and_its_mistakes_are_found(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """Three claims: each holds of the sound engine, and is broken by a mistake of its own."""
    app = written_run().app
    sent = Sent(app)
    for section in app.sections:
        for _ in Explored(at_once(app), section).explore(NO_LIMITS, (sent,)):
            pass
    assert (sent.looked_at >= 3, sent.causes) == (True, [])

    def mistaken(name: str, wrong: Any) -> set[str]:
        with monkeypatch.context() as patched:
            patched.setattr(writing, name, wrong)
            proof = prove(app)
            return {each.claim.name for each in (*proof.broken, *proof.undecided)}

    lose = lambda app, session, write, *_: (without_write(session, write), ())  # noqa: E731
    assert "typed" in mistaken("_quicker", lose)
    assert "refused" in mistaken("_refused", lose)
    assert "made once" in mistaken("demand_not_sent", lambda session, index: None) | mistaken(
        "write_of", lambda session, index: None
    )
