"""What can happen now: the events that what is on display offers, and what follows a link."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import Any, Final, NamedTuple

from cadena.engine import events as do
from cadena.engine.form_values import form_of, value_in
from cadena.engine.layout.forms import opening_link
from cadena.engine.layout.table_columns import orders_by_heads
from cadena.engine.rules.choosing import opens_by_press, takes_press
from cadena.engine.rules.display import can_slide, display_of, taking_events
from cadena.engine.rules.dividing import dividers_of
from cadena.engine.rules.forward import can_go_forward
from cadena.engine.rules.neighbours import place_of
from cadena.engine.rules.opening import first_of_kind, link_for
from cadena.engine.rules.picked import for_several, hides_buttons
from cadena.engine.rules.picking import is_picking
from cadena.engine.rules.unsent import UNDER_WAY, asking_write, write_of
from cadena.engine.session import RowRef, Session, has_menu
from cadena.engine.wired import Listed, TriggerAt, WiredApp
from cadena.model.app import FormScreen, Link, On
from cadena.model.blocks import FormField
from cadena.model.outside_address import outside_address
from cadena.model.values import Scalar
from cadena.records.template import is_empty

FEW: Final = 3
Rows = Callable[[Listed], Iterable[Scalar]]
"""Which rows of a list are offered, by their keys."""


class Possible(NamedTuple):
    """An event that can happen now, and the link that it follows, if it does."""

    event: do.Event
    link: Link | None = None


def first_few(listed: Listed) -> Iterator[Scalar]:
    """The keys of the first rows of a list."""
    for index in range(min(FEW, len(listed.rows))):
        yield listed.rows.key_at(index)


def every_row(listed: Listed) -> Iterator[Scalar]:
    """The keys of all rows of a list."""
    return (listed.rows.key_at(at) for at in range(len(listed.rows)))


def possible(app: WiredApp, session: Session, rows: Rows = first_few) -> Iterator[Possible]:
    """The events that a person, or the system, could let happen now.

    All that is on display and not covered, and can be pressed there, is offered: so an event is
    refused only where its link is (2.2) or is missing, or where the app's own data stands against
    it.
    """
    if session.phase != "running":
        yield from map(Possible, _come_back(session))
        return
    if session.question is not None:
        yield Possible(do.Decide(yes=True))
        yield Possible(do.Decide(yes=False))
        return
    display = display_of(app, session)
    for pane in taking_events(app, session, display):
        if pane.entry is not None:
            yield from on_screen(app, session, pane.entry, rows)
    yield from map(Possible, _of_whole(app, session))


def on_screen(
    app: WiredApp, session: Session, index: int, rows: Rows = first_few
) -> Iterator[Possible]:
    """What can be chosen, pressed and typed on an open screen that is on display."""
    entry = session.entries[index]
    screen = entry.screen
    if any(load.state == "failed" for load in entry.loads.values()):
        yield Possible(do.Retry(screen=screen, entry=index))
    if app.key_of(entry) is not None and app.record_of(session, entry) is None:
        # Nothing but words is shown where the record is not there, or has yet to come.
        return
    for name in () if hides_buttons(app, entry) else app.buttons.get(screen, {}):
        link = app.links.get((screen, "button", name))
        yield Possible(do.Press(screen=screen, entry=index, button=name), link)
    facts, leaving = app.facts.get(screen, ()), app.leaving.get(screen, ())
    record = app.record_of(session, entry) if facts or leaving else None
    for name in facts:
        link = app.links.get((screen, "fact", name))
        # A fact that says nothing is not shown.
        if link is not None and not is_empty((record or {}).get(name)):
            yield Possible(do.OpenFact(screen=screen, entry=index, fact=name), link)
    for name in leaving:
        if outside_address((record or {}).get(name)) is not None:
            yield Possible(do.OpenFact(screen=screen, entry=index, fact=name))
    for part in app.listings.get(screen, {}):
        yield from _on_list(app, session, index, part, rows)
    if isinstance(app.screens.get(screen), FormScreen):
        write = write_of(session, index)
        if write is not None and write.state == "quicker":
            for name in write.theirs:
                on: dict[str, Any] = {"screen": screen, "entry": index, "field": name}
                yield Possible(do.Settle(**on, take="mine"))
                yield Possible(do.Settle(**on, take="theirs"))
        elif write is None or write.state not in UNDER_WAY:
            for field in form_of(app, entry).fields:
                yield from _on_field(app, session, index, field)
            link = app.links.get((screen, "saved", ""))
            yield Possible(do.Save(screen=screen, entry=index), link)
        yield Possible(do.Cancel(screen=screen, entry=index))
    if (place := place_of(app, session, index)) is not None:
        follows = _following(app, session, place.owner, "row", place.row.part)
        for by in (-1, 1):
            if (key := place.key(by)) is not None:
                yield Possible(do.Neighbour(screen=screen, entry=index, by=by), follows(key))
    for page in app.pages.get(screen, ()):
        yield Possible(do.TurnPage(screen=screen, entry=index, to=page))


def _of_other_kinds(
    app: WiredApp, at: TriggerAt, listed: Listed, keys: tuple[Scalar, ...]
) -> Iterator[Scalar]:
    """The first row of each kind that some rows leave out, so that its link is followed too."""
    records = listed.rows.records
    seen = {id(app.link_for(at, records.by_key(key) or {})) for key in keys}
    for link in app.links_at(at):
        key = None if id(link) in seen else first_of_kind(app, listed, link)
        if key is not None:
            yield key


def _following(
    app: WiredApp, session: Session, index: int, on: On, name: str, part: str = ""
) -> Callable[[Scalar], Link | None]:
    """The link that is followed from each row by a trigger: one for all of them, or by their
    kinds; the first, where there is none for a row.

    Args:
        name: of the list, or of the action, that is then of the list ``part``.
    """
    at = (session.entries[index].screen, on, name)
    base, of = app.links.get(at), part if on == "action" else name
    if base is None or at not in app.kinds:
        return lambda _: base
    return lambda key: link_for(app, session, index, base, RowRef(of, key)) or base


def _on_field(app: WiredApp, session: Session, index: int, field: FormField) -> Iterator[Possible]:
    """A field is typed into; one that opens a list is filled from that, or emptied (15)."""
    entry = session.entries[index]
    form = form_of(app, entry)
    on: dict[str, Any] = {"screen": form.id, "entry": index, "field": field.field}
    opening = opening_link(app, form, field)
    if opening is not None:
        yield Possible(do.OpenField(**on), opening)
        if field.required or is_empty(value_in(app, session, entry, field.field)):
            return
    yield Possible(do.Type(**on, to=field.choices[0] if field.choices else None))


def _on_list(
    app: WiredApp, session: Session, index: int, part: str, rows: Rows
) -> Iterator[Possible]:
    entry = session.entries[index]
    screen = entry.screen
    listing, listed = app.listings[screen][part], app.listed(session, entry, part)
    keys = () if listed is None else tuple(rows(listed))
    if listed is not None and (screen, "row", part) in app.kinds:
        keys = (*keys, *_of_other_kinds(app, (screen, "row", part), listed, keys))
    picking = is_picking(entry, part)
    opens = not picking and opens_by_press(app, session, index, part)
    if takes_press(app, session, index, part):
        follows = _following(app, session, index, "row", part)
        for key in keys:
            choose = do.Choose(screen=screen, entry=index, list=part, key=key)
            yield Possible(choose, follows(key) if opens else None)
    if (screen, part) in app.with_several:
        yield from _picking(app, session, index, part, keys)
    for name, (of, _) in app.actions.get(screen, {}).items():
        if picking:
            break
        if of == part:
            follows = _following(app, session, index, "action", name, part)
            for key in keys:
                act = do.Act(screen=screen, entry=index, list=part, key=key, action=name)
                yield Possible(act, follows(key))
    for order in listing.orders:
        yield Possible(do.SortBy(screen=screen, entry=index, list=part, by=order.sort))
    area = display_of(app, session).area_of(index) if listing.columns and keys else None
    if area is not None:
        sort = entry.view.sort.get(part) or listing.sort
        for by in orders_by_heads(listing, area.width, sort):
            yield Possible(do.SortBy(screen=screen, entry=index, list=part, by=by))
    if listing.search:
        yield Possible(do.Search(screen=screen, entry=index, list=part, text=""))


def _picking(
    app: WiredApp, session: Session, index: int, part: str, keys: Iterable[Scalar]
) -> Iterator[Possible]:
    """Rows are picked, all at once as well; what is picked is acted on, or let go (14)."""
    entry = session.entries[index]
    on: dict[str, Any] = {"screen": entry.screen, "entry": index, "list": part}
    last = None
    for key in keys:
        yield Possible(do.Pick(**on, key=key))
        last = key
    if last is not None:
        yield Possible(do.PickTo(**on, key=last))
        yield Possible(do.PickAll(**on))
    if is_picking(entry, part):
        yield Possible(do.LetGo(**on))
        for button in for_several(app.listings[entry.screen][part]):
            yield Possible(do.ActOnPicked(**on, action=button.id))


def _of_whole(app: WiredApp, session: Session) -> Iterator[do.Event]:
    """What can happen to the app as a whole."""
    display = display_of(app, session)
    yield do.Back()
    if can_go_forward(app, session):
        yield do.Forward()
    if display.slid is not None or display.layer_as == "popover" or has_menu(session):
        yield do.PressOutside()
    if can_slide(session.entries, display.arrangement) and display.slid is None:
        yield do.SlideList()
    if display.layer is None:
        for section in app.sections:
            yield do.GoTo(section=section)
        if display.arrangement.bar == "button":
            yield do.OpenSections()
    for divider in dividers_of(session, display):
        yield do.Divide(pane=divider.pane, to=divider.least)
        yield do.Divide(pane=divider.pane, to=divider.most)
    yield do.Turn()
    if session.window.fold is not None:
        yield do.Unfold() if session.window.folded else do.Fold()
    yield from (do.Sleep(), do.Kill(), do.Relaunch())
    if session.requests or any(each.due is not None for each in session.writes):
        yield until_answered(session) or do.Wait(ms=1)
    if session.removal is not None:
        yield do.Undo()
    asking = asking_write(session, display)
    if session.removal is not None or session.passing is not None or asking is not None:
        yield do.PutAway()
    if session.menu is not None:
        yield do.CloseMenu()
    if asking is not None:
        if asking.state == "unsent":
            yield do.SendAgain(write=asking.number)
        if asking.form is not None:
            yield do.GoBackTo(write=asking.number)
        yield do.GiveUp(write=asking.number)


def until_answered(session: Session) -> do.Wait | None:
    """The wait until the next answer that is due, or none where none is."""
    dues = [*(each.due for each in session.requests), *(each.due for each in session.writes)]
    due = min((each for each in dues if each is not None), default=None)
    return None if due is None else do.Wait(ms=max(1, due - session.clock))


def _come_back(session: Session) -> Iterator[do.Event]:
    match session.phase:
        case "killed":
            yield do.Restore()
        case _:
            yield do.Wake()
            yield do.Kill()
    yield do.Relaunch()
