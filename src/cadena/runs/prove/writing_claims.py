"""What is claimed of forms that are sent to a service (rules.md, 9.1), whatever that answers."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, get_args

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.layout.forms import free_text_field
from cadena.engine.rules.display import display_of
from cadena.engine.rules.passing import said_now
from cadena.engine.rules.unsent import NO_ANSWER, takes_forms, write_of
from cadena.engine.session import Session, Write
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen
from cadena.model.source import Kind, Source, StandIn, takes_of
from cadena.model.values import Value
from cadena.runs.prove.causes import Cause, confirmed, run_of
from cadena.runs.prove.explore import Edge, Explored
from cadena.runs.prove.found import Found
from cadena.runs.walks.walk import Expectation, Expected

TYPED: Final = "typed"
ONCE: Final = "made once"
SAID: Final = "refused"
OF_WRITING: Final = (TYPED, ONCE, SAID)
WHY: Final = "it is not taken"
Events = tuple[do.Event, ...]


class Sent:
    """Judges what is saved at a source that is written to: of each form, in each chain that it is
    saved from, in each window, what comes of every answer, and of a form that was left meanwhile.

    The app is run there with its services as stand-ins that answer each call and take all that
    they take. ``causes`` are what was found; none where the run did not show it again.
    """

    def __init__(self, app: WiredApp) -> None:
        self.app = _answering(app)
        self.causes: list[tuple[Found, Cause | None]] = []
        self.looked_at = 0

    def __call__(self, explored: Explored, edge: Edge) -> Iterator[Found]:
        save = next((each for each in edge.taken if isinstance(each, do.Save)), None)
        form = None if save is None else self.app.screens.get(save.screen)
        if isinstance(form, FormScreen) and takes_forms(self.app, form.source):
            shape = tuple(each.screen for each in edge.before.entries)
            if explored.once("sent", shape, edge.before.window, explored.column(edge.state)):
                self._look(explored, edge, form)
        return iter(())

    def _look(self, explored: Explored, edge: Edge, form: FormScreen) -> None:
        app = self.app
        window, leading = explored.walk_to(edge.state)
        lead, session, _ = run_of(app, start(app, window)[0], leading, waits=True)
        done: list[do.Event] = []
        for event in _with_something_typed(app, session, edge, form):
            session, _, refused = step(app, session, event)
            done.append(event)
            if refused:
                return
        write = next((e for e in session.writes if e.state == "sending" and e.form), None)
        if write is None:
            return
        self.looked_at += 1
        for claim, where, what, events, expect in (
            *_lost(app, session, write, form),
            *_made_twice(app, session, write, form),
            *_unsaid(app, session, write, form),
        ):
            column = explored.column(edge.state)
            found = Found(claim, where, what, column, edge.state, (*done, *events), expect)
            walk = (*lead, *done, *events, Expectation(expect=expect))
            cause = Cause(claim, where, what, (column,), window, walk, len(lead))
            self.causes.append((found, confirmed(app, cause)))


def _takes(source: Source) -> tuple[Kind, ...]:
    ways = takes_of(source)
    return tuple(each for each in get_args(Kind) if each in ways)


def _answering(app: WiredApp) -> WiredApp:
    """The app with stand-ins in place of all that is late, at which nothing goes wrong."""
    if not app.writes:
        return app
    sources = tuple(
        source
        if source.id not in app.late
        else replace(source, served="stand-in", stand_in=StandIn(takes=_takes(source)))
        for source in app.app.sources
    )
    return WiredApp(replace(app.app, sources=sources), app.as_read, app.measure, app)


def _with_something_typed(
    app: WiredApp, session: Session, edge: Edge, form: FormScreen
) -> Iterator[do.Event]:
    """What was done, with something typed before it is saved: else there is nothing to lose."""
    free = free_text_field(app, form)
    is_typed = any(isinstance(each, do.Type) for each in edge.taken)
    for event in edge.taken:
        if isinstance(event, do.Save) and not is_typed and free is not None:
            yield do.Type(screen=form.id, entry=event.entry, field=free, to="Ilva")
        yield event


Told = tuple[str, str, str, Events, Expected]


def _answers(write: Write) -> Iterator[do.Written]:
    """All that a service may answer but that it is done."""
    name = next(iter(write.fields), "")
    yield do.Written(request=write.call, outcome="refused", faults={name: WHY} if name else {})
    yield do.Written(request=write.call, outcome="refused", why=WHY)
    yield do.Written(request=write.call, outcome="unsent", why=NO_ANSWER)
    yield do.Written(request=write.call, outcome="gone")
    if write.kind == "change":
        yield do.Written(
            request=write.call, outcome="quicker", record={name: _another(write, name)}
        )


def _another(write: Write, name: str) -> Value | None:
    """A value that was neither there before nor typed."""
    for value in ("*", -1, 0.5, None):
        if value not in (write.fields.get(name), write.was.get(name)):
            return value
    return None


def _after(app: WiredApp, session: Session, events: Events) -> Session:
    for event in events:
        session, *_ = step(app, session, event)
    return session


def _left(app: WiredApp, session: Session) -> Events:
    """The form left while it is sent, where back leaves it for another screen."""
    events: Events = (do.Back(),)
    after = _after(app, session, events)
    is_left = after.question is None and after.phase == "running"
    return events if is_left and len(after.entries) < len(session.entries) else ()


def _scenes(app: WiredApp, session: Session, write: Write) -> Iterator[tuple[Events, do.Written]]:
    left = _left(app, session)
    for answer in _answers(write):
        yield (answer,), answer
        if left:
            yield (*left, answer), answer


def _lost(app: WiredApp, session: Session, write: Write, form: FormScreen) -> Iterator[Told]:
    """Something that was typed is not in its form any more, nor comes back to it."""
    assert write.form is not None
    typed = dict(write.form.draft)
    for events, answer in _scenes(app, session, write):
        after = _after(app, session, events)
        if _typed_in(after, form.id) != typed:
            events = (*events, do.GoBackTo(write=write.number))
            after = _after(app, session, events)
        if _typed_in(after, form.id) != typed:
            what = f"after {answer.outcome}, what was typed in {form.id} is gone"
            yield TYPED, f"screens[{form.id}]", what, events, Expected(draft={form.id: typed})


def _typed_in(session: Session, form: str) -> dict[str, Value | None] | None:
    drafts = (dict(e.view.draft) for e in reversed(session.entries) if e.screen == form)
    return next(drafts, None)


def _made_twice(app: WiredApp, session: Session, write: Write, form: FormScreen) -> Iterator[Told]:
    """What is saved again, while it is sent or when no answer came, is another write."""
    again = do.Save(screen=form.id)
    no_answer = do.Written(request=write.call, outcome="unsent", why=NO_ANSWER)
    for events in ((again,), (no_answer, again), (no_answer, again, again)):
        after = _after(app, session, events)
        numbers = {each.number for each in after.writes if each.form is not None}
        if numbers - {write.number}:
            what = f"saved again, {form.id} is sent as another"
            yield ONCE, f"screens[{form.id}]", what, events, Expected(note="refused")


def _unsaid(app: WiredApp, session: Session, write: Write, form: FormScreen) -> Iterator[Told]:
    """What was refused is said nowhere: the form is not on display, and nothing beside it."""
    for events, answer in _scenes(app, session, write):
        if answer.outcome not in ("refused", "unsent", "gone"):
            continue
        after = _after(app, session, events)
        shown = [each.entry for each in display_of(app, after).shown if each.entry is not None]
        is_in_form = any((e := write_of(after, at)) is not None and e.number == write.number
                         for at in shown)  # fmt: skip
        if not is_in_form and not said_now(app, after):
            what = f"{answer.outcome}, and it is said nowhere"
            yield SAID, f"screens[{form.id}]", what, events, Expected(shows=(form.id,))
