"""How long state lives: rebuilding, ending and coming back (rules.md, 5.4 and 6)."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

import msgspec
from msgspec.structs import replace

from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.app_start import started
from cadena.engine.rules.asking import with_asker
from cadena.engine.rules.display import display_of
from cadena.engine.rules.dividing import fitting_divided
from cadena.engine.rules.opening import fill_in
from cadena.engine.rules.picked import without_gone
from cadena.engine.rules.saved_state import (
    SURVIVES_KILL,
    ReadChain,
    SavedEntry,
    is_missing,
    outlives,
    pared,
    read_saved,
    saved_entry,
    saved_state,
)
from cadena.engine.rules.writing import unheard
from cadena.engine.session import (
    LAYERS,
    Anchor,
    Chain,
    Entry,
    Session,
    Stored,
    View,
    Write,
    owner_of,
)
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen, Screen
from cadena.model.part import Lifetime
from cadena.model.values import Scalar, Unfit, Value, carry


def rebuild(app: WiredApp, session: Session) -> Session:
    """Make every screen anew: what lives only as long as its view is gone (5.4)."""
    if not app.with_view_lifetimes:
        return session
    return _pare_all(app, session, lambda chain, index: True)


def off_display(app: WiredApp, session: Session) -> Session:
    """What lives only as long as its view goes when its screen goes off display (6)."""
    shown = {each.entry for each in display_of(app, session).shown}
    return _pare_all(
        app, session, lambda chain, index: chain.section != session.section or index not in shown
    )


def _pare_all(app: WiredApp, session: Session, loses: Callable[[Chain, int], bool]) -> Session:
    def without(chain: Chain, index: int, entry: Entry) -> Entry:
        if entry.screen not in app.with_view_lifetimes or not loses(chain, index):
            return entry
        view = pared(app.screens.get(entry.screen), entry.view, outlives_view)
        return replace(entry, view=view)

    return session.with_each_entry(without)


def outlives_view(lifetime: Lifetime) -> bool:
    """Whether a piece of state is there still when its screen is shown again (6)."""
    return lifetime != "view"


def store(app: WiredApp, session: Session) -> Session:
    """Keep what is to be stored, by section, screen and arguments (6)."""
    kept = {_identity(each): each for each in session.stored}
    for chain in session.chains.values():
        for entry in chain.entries:
            screen = app.screens.get(entry.screen)
            view = pared(screen, entry.view, lambda lifetime: lifetime == "stored")
            made = Stored(chain.section, entry.screen, entry.arguments, view)
            if view != View() or _identity(made) in kept:
                kept.pop(_identity(made), None)
                kept[_identity(made)] = made
    most = app.app.platform.stored_most
    stored = tuple(kept.values())
    return replace(session, stored=stored if most is None else stored[-most:])


def without_drafts(before: Session, after: Session) -> Session:
    """What is stored without the drafts that were just discarded, or saved (4.2 and 10)."""
    if not after.stored:
        return after
    gone = _drafts(before) - _drafts(after)
    stored = (
        replace(kept, view=replace(kept.view, draft={}, tried=False))
        if _identity(kept) in gone
        else kept
        for kept in after.stored
    )
    return replace(after, stored=tuple(each for each in stored if each.view != View()))


def _drafts(session: Session) -> set[tuple[str, str, str]]:
    """Of which screens something is typed."""
    return {
        _identity(Stored(chain.section, entry.screen, entry.arguments, View()))
        for chain in session.chains.values()
        for entry in chain.entries
        if entry.view.draft
    }


def _identity(stored: Stored) -> tuple[str, str, str]:
    return (
        stored.section,
        stored.screen,
        msgspec.json.encode(stored.arguments, order="sorted").decode(),
    )


def end(app: WiredApp, session: Session) -> Session:
    """The system ends the process: only what is saved or stored remains, as text."""
    session = unheard(app, session)
    kept = saved_state(app, session, SURVIVES_KILL)
    return Session(
        session.window,
        phase="killed",
        changes=session.changes,
        kept=kept,
        clock=session.clock,
        calls=session.calls,
    )


def come_back(
    app: WiredApp, session: Session, survives: frozenset[Lifetime]
) -> tuple[Session, Notes]:
    """Start the app again from what was kept of it, trusting nothing in it (6)."""
    fresh = started(app, session.window, session.changes)
    fresh = replace(fresh, clock=session.clock, calls=session.calls)
    notes: list[Note] = []
    try:
        saved = read_saved(session.kept, notes)
    except Refused as refused:
        return fresh, (Note.of("dropped", "all", why=refused.note),)
    back = replace(fresh, stored=fitting_stored(app, saved.stored))
    for saved_chain in saved.chains:
        section = app.sections.get(saved_chain.section)
        if section is None:
            notes.append(Note.of("dropped", "section", section=saved_chain.section))
        elif section.keep in survives:
            entries = _doubted(app, fresh, saved_chain, survives, notes)
            chain = Chain(section.id, entries, saved_chain.asked)
            back = back.with_chain(chain) if entries else back
    values = dict(back.values)
    for each in app.app.values:
        if each.id in saved.values and each.keep in survives:
            value = fitting(each.type, saved.values[each.id])
            if value is None:
                notes.append(Note.of("dropped", "value", value=each.id))
            else:
                values[each.id] = value
    section_id = (
        saved.section if saved.section in app.sections and "saved" in survives else back.section
    )
    divided = fitting_divided(app, saved.divided, survives)
    kept = (each for each in saved.writes if outlives(app, each, survives))
    writes = fitting_writes(app, kept)
    back = replace(back, section=section_id, values=values, divided=divided, writes=writes)
    return without_gone(app, with_stored_views(app, back)), tuple(notes)


def fitting_writes(app: WiredApp, writes: Iterable[Write]) -> tuple[Write, ...]:
    """What was not sent, to the sources that are still written to and from forms that there are."""
    return tuple(
        write
        for write in writes
        if write.kind in app.writes.get(write.source, ())
        and (write.form is None or write.form.screen in app.screens)
    )


def fitting_stored(app: WiredApp, stored: Iterable[Stored]) -> tuple[Stored, ...]:
    """What is stored of the screens and sections that there are, as far as it is to be."""
    return tuple(
        replace(
            each, view=pared(app.screens[each.screen], each.view, lambda life: life == "stored")
        )
        for each in stored
        if each.screen in app.screens and each.section in app.sections
    )


def with_stored_views(app: WiredApp, session: Session) -> Session:
    """Give entries that have no view state of their own what was stored of them."""
    if not session.stored:
        return session
    views = {_identity(each): each.view for each in session.stored}

    def restored(chain: Chain, _: int, entry: Entry) -> Entry:
        identity = _identity(Stored(chain.section, entry.screen, entry.arguments, View()))
        if entry.view != View() or identity not in views:
            return entry
        return replace(entry, view=views[identity])

    return session.with_each_entry(restored)


def fitting(kind: str, value: Any) -> Value | None:
    """A value as one of a type; none where it is no such value."""
    try:
        return carry(value, kind)
    except Unfit:
        return None


def _doubted(
    app: WiredApp,
    session: Session,
    chain: ReadChain,
    survives: frozenset[Lifetime],
    notes: list[Note],
) -> tuple[Entry, ...]:
    """The entries of a chain as it was saved, up to the first that can no longer be opened, or
    whose record has gone meanwhile, where its screen then closes (8)."""
    entries: list[Entry] = []
    for index, each in enumerate(chain.entries):
        count = len(chain.entries)
        left = {"section": chain.section, "count": count - index, "all": count}
        try:
            saved = saved_entry(each)
            entry = doubted_entry(app, saved, index, survives)
        except Refused as refused:
            why = refused.note
            notes.append(Note("dropped", "entries", {**left, "why": why}, why.where))
            break
        if index and not saved.missing and is_missing(app, session, entry):
            gone = {"screen": entry.screen, "key": app.key_of(entry)}
            notes.append(Note("closed", "gone meanwhile", {**left, **gone}))
            break
        entries.append(with_asker(app, entries, entry))
    return tuple(entries)


def doubted_entry(
    app: WiredApp, saved: SavedEntry, index: int, survives: frozenset[Lifetime]
) -> Entry:
    """An entry as it was saved.

    Raises:
        Refused: where it can no longer be opened so.
    """
    screen = app.screens.get(saved.screen)
    if screen is None:
        raise Refused("screen is gone", screen=saved.screen)
    if (saved.opened == "root") != (index == 0) or saved.opened not in (
        "root",
        "push",
        "beside",
        *LAYERS,
    ):
        raise Refused("opened oddly", screen=saved.screen, how=saved.opened, depth=index)
    names = {each.name for each in screen.parameters}
    if extra := sorted(set(saved.arguments) - names):
        raise Refused("parameter is gone", screen=saved.screen, parameter=extra[0])
    arguments: dict[str, Value] = {}
    for parameter in screen.parameters:
        came = saved.arguments.get(parameter.name)
        value = fill_in(parameter, came, ("saved", saved.screen), f"screens[{saved.screen}]")
        if value is not None:
            arguments[parameter.name] = value
    by = saved.by if saved.by in ("hand", "rule", "address") else "hand"
    opened: Any = saved.opened
    made_by: Any = by
    view = pared(screen, _sound(app, screen, saved.view), survives.__contains__)
    row = saved.row
    if row is not None and not 0 <= owner_of(row, index) < index:
        row = None
    asked = saved.opened_for
    if asked is not None and not 0 <= owner_of(asked, index) < index:
        asked = None
    return Entry(screen.id, arguments, opened, made_by, row, view, opened_for=asked)


def _sound(app: WiredApp, screen: Screen, view: View) -> View:
    """View state with only the parts that the screen still has, and an anchor that can be."""
    parts = app.listings[screen.id]
    anchor: Anchor | None = view.scroll
    if anchor is not None and not _is_sound(anchor):
        anchor = None
    sort = {
        part: by
        for part, by in view.sort.items()
        if part in parts and all(app.can_sort(parts[part], each.field) for each in by)
    }

    def kept(texts: dict[str, Any]) -> dict[str, Any]:
        return {part: value for part, value in texts.items() if part in parts}

    fields = (
        {each.field for each in screen.fields} if isinstance(screen, FormScreen) else frozenset()
    )
    markers: dict[str, Scalar] = kept(view.marker)
    across = {part: each for part, each in kept(view.across).items() if _is_sound(each)}
    marks = app.pages[screen.id]
    turned = {part: each for part, each in view.turned.items() if part in marks and _is_sound(each)}
    return View(
        anchor,
        kept(view.search),
        sort,
        markers,
        kept(view.last),
        across,
        kept(view.choice),
        view.page if view.page in marks else "",
        turned,
        {name: value for name, value in view.draft.items() if name in fields},
        view.tried,
        {part: each for part, each in view.groups.items() if part in parts},
        {
            part: each
            for part, each in view.picked.items()
            if each and (screen.id, part) in app.with_several
        },
    )


def _is_sound(anchor: Anchor) -> bool:
    return anchor.index >= 0 and abs(anchor.above) < 1e9
