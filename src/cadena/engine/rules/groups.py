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
        raise Refused("the groups of this list do not open and close", where)
    if entry.view.search.get(event.list):
        raise Refused("while it is searched all groups are open", where)
    titles = [title for _, title in listed.rows.groups]
    if event.title not in titles:
        raise Refused(f"there is no group {event.title}", where)
    turned = entry.view.groups.get(event.list, ())
    is_open = titles.index(event.title) not in listed.closed
    if is_open == event.open:
        return session, (Note("group", f"{event.title} is so already"),)
    others = tuple(each for each in turned if each != event.title)
    turned = (*turned, event.title) if others == turned else others
    groups = {part: each for part, each in entry.view.groups.items() if part != event.list}
    if turned:
        groups[event.list] = turned
    offset = offset_of(app, session, index, area)
    if offset or entry.view.scroll is not None:
        session = scrolled(app, session, index, area, offset)
    said = "opened" if event.open else "closed"
    return session.with_view(index, groups=groups), (Note("group", f"{event.title} {said}"),)
