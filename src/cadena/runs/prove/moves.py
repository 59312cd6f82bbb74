"""What is tried from a state: what is on display offers it, or the system lets it happen."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final, Literal, NamedTuple

from cadena.engine import events as do
from cadena.engine.form_values import form_of, value_in
from cadena.engine.layout.forms import opening_link
from cadena.engine.rules.display import can_slide, display_of, taking_events
from cadena.engine.rules.forward import can_go_forward
from cadena.engine.session import Entry, Session
from cadena.engine.step import step
from cadena.engine.wired import Listed, WiredApp
from cadena.model.app import FormScreen, Link
from cadena.model.blocks import FormField
from cadena.model.listing import Button, Follow
from cadena.model.values import Scalar, Unfit, Value, carry
from cadena.records.template import is_empty
from cadena.runs.possible import on_screen, until_answered
from cadena.runs.prove.row_classes import RowClasses
from cadena.runs.prove.state_key import StateKey
from cadena.runs.prove.windows import to_window

Sort = Literal["do", "back", "window", "away"]
SOME: Final[dict[str, Value]] = {
    "text": "Some",
    "picture": "some.png",
    "whole number": 1,
    "number": 1.0,
    "yes/no": True,
    "date": "2026-01-07",
    "date and time": "2026-01-07T09:30:00Z",
}
NOT_TRIED: Final = (do.Cancel, do.TurnPage, do.Type, do.Neighbour, do.PickTo, do.PickAll)
"""Events that change nothing that a rule reads, or that are tried in another way: a neighbour is
what choosing its row gives, and a row of each class is chosen from its list; of what is picked
one row is tried."""


class Move(NamedTuple):
    """Events that are tried together, the link they follow, and of what sort they are."""

    events: tuple[do.Event, ...]
    link: Link | None = None
    sort: Sort = "do"


class Moves:
    """The moves from each state of a section."""

    def __init__(self, app: WiredApp, key: StateKey, classes: RowClasses) -> None:
        self.app = app
        self.key = key
        self.classes = classes
        self.offered: set[tuple[str, str]] = set()
        self._gone_from: set[tuple[int, int]] = set()
        self._on_entry: dict[tuple[Any, ...], tuple[Move, ...]] = {}
        section = key.section
        self._away = next((do.GoTo(section=each) for each in app.sections if each != section), None)
        self._to_windows = {
            window: tuple(
                Move((event,), sort="window")
                for other in key.windows
                if other != window and (event := to_window(window, other)) is not None
            )
            for window in key.windows
        }

    def forget(self) -> None:
        """Let go of what was remembered, once nothing more is asked."""
        self._gone_from.clear()
        self._on_entry.clear()

    def of(self, session: Session) -> Iterator[Move]:
        """The moves from a state in which the app is running, and nothing is asked."""
        yield from self._to_windows[session.window]
        if session.section != self.key.section:
            yield Move((do.GoTo(section=self.key.section),), sort="away")
            return
        app, display = self.app, display_of(self.app, session)
        for pane in taking_events(app, session, display):
            if pane.entry is not None:
                yield from self._on(session, pane.entry)
        yield BACK
        if can_go_forward(app, session):
            yield FORWARD
        if display.slid is not None or display.layer_as == "popover":
            yield OUTSIDE
        if display.slid is None and can_slide(session.entries, display.arrangement):
            yield SLIDE
        if display.layer is None:
            yield Move((do.GoTo(section=session.section),))
            if self._away is not None:
                yield Move((self._away,), sort="away")
        if self.key.is_late and (session.requests or session.writes):
            wait = until_answered(session)
            if wait is not None:
                yield Move((wait,))
        yield from () if app.late else self._gone(session)

    def _on(self, session: Session, index: int) -> tuple[Move, ...]:
        entry = session.entries[index]
        values = self.key.values_of(session)
        key = (index, self.key.entry(entry)[0], self.key.changes(session), values)
        if key not in self._on_entry:
            self._on_entry[key] = tuple(self._on_screen(session, index))
        return self._on_entry[key]

    def _on_screen(self, session: Session, index: int) -> Iterator[Move]:
        app, entry = self.app, session.entries[index]
        screen = entry.screen

        def rows(listed: Listed) -> tuple[Scalar, ...]:
            part = next(
                (e for e in app.listings[screen] if app.listed(session, entry, e) is listed), ""
            )
            return self.classes.of(screen, part, listed)

        reads_list = screen in self.key.reads_list
        picked = set[str]()
        for event, link in on_screen(app, session, index, rows):
            if isinstance(event, NOT_TRIED):
                continue
            if isinstance(event, do.Choose) and entry.view.picked:
                continue
            if isinstance(event, do.OpenFact) and link is None:
                # Who leaves for an address comes back to what was there.
                continue
            if isinstance(event, do.Pick):
                if entry.view.picked or event.list in picked:
                    continue
                picked.add(event.list)
            if isinstance(event, do.SortBy) and not reads_list:
                continue
            if isinstance(event, do.Search):
                yield from self._searching(session, entry, event) if reads_list else ()
                continue
            if link is None and isinstance(event, do.Press | do.Act):
                name = event.button if isinstance(event, do.Press) else event.action
                self.offered.add((screen, name))
                if self._only_shows(event) and not step(app, session, event).refused:
                    continue
            yield Move((event,), link)
        if isinstance(app.screens.get(screen), FormScreen) and not entry.view.draft:
            typed = tuple(self._typing(session, entry, index))
            if typed:
                yield Move(typed)

    def _only_shows(self, event: do.Press | do.Act) -> bool:
        """Whether an action changes only what no link, list or condition reads."""
        app, screen = self.app, event.screen
        buttons = app.buttons.get(screen, {})
        if isinstance(event, do.Press):
            does = buttons[event.button].does
        else:
            does = app.actions[screen][event.action][1].does
        if isinstance(does, Follow):
            return False
        value, field = getattr(does, "value", None), getattr(does, "field", None)
        if isinstance(value, str) and field is None:
            return value not in self.key.values
        read = set().union(*self.key.fields.values())
        return field is not None and field not in read

    def _searching(self, session: Session, entry: Entry, event: do.Search) -> Iterator[Move]:
        """One word that leaves the first row out, where there is one; and none again."""
        searched = entry.view.search.get(event.list, "")
        if searched:
            yield Move((event,))
            return
        listed = self.app.listed(session, entry, event.list)
        count = 0 if listed is None else len(listed.rows)
        if listed is None or count < 2:
            return
        first, last = listed.rows.record_at(0), listed.rows.record_at(count - 1)
        for name in listed.listing.search:
            word = str(last.get(name) or "").split(" ")[0]
            if word and word.lower() not in str(first.get(name) or "").lower():
                yield Move((do.Search(screen=event.screen, entry=event.entry, text=word),))
                return

    def _typing(self, session: Session, entry: Entry, index: int) -> Iterator[do.Event]:
        """What makes a draft that can be saved: each required field is filled, or one changed."""
        app, form = self.app, form_of(self.app, entry)
        missing = [
            each
            for each in form.fields
            if each.required and is_empty(value_in(app, session, entry, each.field))
        ]
        # What is filled from a list is chosen there, and not typed.
        missing = [each for each in missing if opening_link(app, form, each) is None]
        for field in missing or form.fields[-1:]:
            before = value_in(app, session, entry, field.field)
            to = self._some(session, form, field, before)
            yield do.Type(screen=entry.screen, entry=index, field=field.field, to=to)

    def _some(
        self, session: Session, form: FormScreen, field: FormField, before: Value | None
    ) -> Value | None:
        """A value that a field takes, other than it holds."""
        if field.choices:
            return next((each for each in field.choices if each != before), field.choices[0])
        if field.choices_from:
            records = self.app.records(session, field.choices_from)
            if records is not None and len(records):
                some = (records.key_at(at) for at in range(min(2, len(records))))
                return next((each for each in some if each != before), None)
        kind = self.app.type_of(form.source, field.field) or "text"
        value = SOME.get(kind)
        if isinstance(value, bool):
            return before is not True
        if isinstance(value, int | float):
            least = field.least if field.least is not None else 1
            value = least if before != least else least + 1
        elif kind == "text" and before == value:
            value = "Other"
        try:
            return carry(value, kind, convert=True)
        except Unfit:
            return None

    def _gone(self, session: Session) -> Iterator[Move]:
        """A refresh takes away the record that the deepest screen on display is about."""
        if session.changes:
            return
        chain, _ = self.key.chain(session)
        panes = len(display_of(self.app, session).panes)
        if (chain, panes) in self._gone_from:
            return
        self._gone_from.add((chain, panes))
        for pane in display_of(self.app, session).shown[-1:]:
            if pane.entry is None:
                continue
            entry = session.entries[pane.entry]
            source, key = self.app.source_of(entry), self.app.key_of(entry)
            records = self.app.records(session, source)
            if records is not None and records.row_of(key) is not None:
                yield Move((do.Refresh(source=source, gone=(key,)),))


def acting(app: WiredApp, screen: str) -> Iterator[tuple[str, Button]]:
    """The buttons and row actions of a screen that do something other than open another."""
    yield from (
        (name, each)
        for name, each in (
            *app.buttons.get(screen, {}).items(),
            *((name, of[1]) for name, of in app.actions.get(screen, {}).items()),
        )
        if not isinstance(each.does, Follow)
    )


BACK: Final = Move((do.Back(),), sort="back")
FORWARD: Final = Move((do.Forward(),))
OUTSIDE: Final = Move((do.PressOutside(),))
SLIDE: Final = Move((do.SlideList(),))
