"""Groups of a list that open and close (rules.md, 7.1 and 7.6)."""

from __future__ import annotations

from cadena.engine.events import ShowGroup
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.display import display_of
from cadena.engine.rules.lists import offset_of, scrolled
from cadena.engine.rules.targets import target_of
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp


def show_group(app: WiredApp, session: Session, event: ShowGroup) -> tuple[Session, Notes]:
    """Open or close a group; what is above it in view stays where it is."""
    index, area = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    where = f"screens[{entry.screen}].blocks[{event.list}]"
    listing = app.listings[entry.screen][event.list]
    listed = app.listed(session, entry, event.list)
    if not listing.has_closing_groups or listed is None:
        raise Refused("groups stay", where)
    if entry.view.search.get(event.list):
        raise Refused("groups are searched", where)
    titles = [title for _, title in listed.rows.groups]
    if event.title not in titles:
        raise Refused("no such group", where, group=event.title)
    turned = entry.view.groups.get(event.list, ())
    is_open = titles.index(event.title) not in listed.closed
    if is_open == event.open:
        return session, (Note.of("group", "already", group=event.title),)
    others = tuple(each for each in turned if each != event.title)
    turned = (*turned, event.title) if others == turned else others
    groups = {part: each for part, each in entry.view.groups.items() if part != event.list}
    if turned:
        groups[event.list] = turned
    offset = offset_of(app, session, index, area)
    if offset or entry.view.scroll is not None:
        session = scrolled(app, session, index, area, offset)
    note = Note.of("group", "opened" if event.open else "closed", group=event.title)
    return session.with_view(index, groups=groups), (note,)
