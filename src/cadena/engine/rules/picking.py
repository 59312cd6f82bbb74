"""Several rows at once: picking them, and doing one thing to all of them (rules.md, 14)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from cadena.engine.events import ActOnPicked, LetGo, Pick, PickAll, PickTo
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.actions import done_to_several, words_for
from cadena.engine.rules.display import display_of
from cadena.engine.rules.passing import saying_text
from cadena.engine.rules.picked import shown_of
from cadena.engine.rules.targets import target_of
from cadena.engine.session import Entry, Session
from cadena.engine.wired import Listed, WiredApp
from cadena.model.values import Scalar

NOTHING: Final[tuple[Scalar, ...]] = ()


def is_picking(entry: Entry, part: str) -> bool:
    """Whether something is picked on a list, so that a press picks and opens nothing."""
    return part in entry.view.picked


def pick(app: WiredApp, session: Session, event: Pick) -> tuple[Session, Notes]:
    """Pick a row, or let it go."""
    index, _ = target_of(app, session, display_of(app, session), event)
    return pick_or_let_go(app, session, index, event.list, event.key)


def pick_or_let_go(
    app: WiredApp, session: Session, index: int, part: str, key: Scalar
) -> tuple[Session, Notes]:
    """A row of entry ``index`` is picked; once more, and it is let go."""
    entry = session.entries[index]
    picked = entry.view.picked.get(part, NOTHING)
    if key in picked:
        session = _marked(session, index, part, key)
        return _with_picked(session, index, part, (each for each in picked if each != key))
    listed = _list_of(app, session, entry, part)
    if listed.rows.index_of(key) is None:
        raise Refused("row not listed", f"screens[{entry.screen}]", key=key)
    return _with_picked(_marked(session, index, part, key), index, part, (*picked, key))


def pick_to(app: WiredApp, session: Session, event: PickTo) -> tuple[Session, Notes]:
    """Pick all between the row picked last, where it is shown, and this one."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry, part = session.entries[index], event.list
    listed = _list_of(app, session, entry, part)
    picked = entry.view.picked.get(part, NOTHING)
    to = listed.rows.index_of(event.key)
    if to is None:
        raise Refused("row not listed", f"screens[{entry.screen}]", key=event.key)
    start = listed.rows.index_of(picked[-1]) if picked else None
    start = to if start is None else start
    between = range(start, to + 1) if start <= to else range(start, to - 1, -1)
    shown = (listed.rows.key_at(at) for at in between if not listed.is_hidden(at))
    keys = (each for each in shown if each is not None)
    session = _marked(session, index, part, event.key)
    return _with_picked(session, index, part, dict.fromkeys((*picked, *keys)))


def pick_all(app: WiredApp, session: Session, event: PickAll) -> tuple[Session, Notes]:
    """Pick all that a list shows; of a late source, all that has come."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry, part = session.entries[index], event.list
    listed = _list_of(app, session, entry, part)
    keys = listed.keys_shown()
    if not keys:
        raise Refused("no rows to pick", f"screens[{entry.screen}]")
    picked = entry.view.picked.get(part, NOTHING)
    if picked:
        return _with_picked(session, index, part, dict.fromkeys((*picked, *keys)))
    shown_of(app, listed, keys, len(keys))
    return _with_picked(session, index, part, keys)


def let_go(app: WiredApp, session: Session, event: LetGo) -> tuple[Session, Notes]:
    """Let go of all that is picked on a list."""
    index, _ = target_of(app, session, display_of(app, session), event)
    if not is_picking(session.entries[index], event.list):
        raise Refused("nothing is picked", f"screens[{session.entries[index].screen}]")
    return _with_picked(session, index, event.list, NOTHING)


def act_on_picked(app: WiredApp, session: Session, event: ActOnPicked) -> tuple[Session, Notes]:
    """An action is done to all that is picked at once, which is then let go."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    part, button = app.actions[entry.screen][event.action]
    picked = entry.view.picked.get(part, NOTHING)
    if button.several is None:
        raise Refused("not for several", f"screens[{entry.screen}]", action=event.action)
    if not picked:
        raise Refused("nothing is picked", f"screens[{entry.screen}]")
    source = app.listings[entry.screen][part].source
    after, notes = done_to_several(app, session, button.does, source, picked)
    if index < len(after.entries) and after.entries[index].screen == entry.screen:
        after, _ = _with_picked(after, index, part, NOTHING)
    after, said = saying_text(after, words_for(app, button.several.says, len(picked)))
    return after, (*notes, *said)


def _marked(session: Session, index: int, part: str, key: Scalar) -> Session:
    """A session in which keys go on from a row that was picked, or let go."""
    return session.with_view(index, marker={**session.entries[index].view.marker, part: key})


def _with_picked(
    session: Session, index: int, part: str, keys: Iterable[Scalar]
) -> tuple[Session, Notes]:
    picked = dict(session.entries[index].view.picked)
    picked.pop(part, None)
    if now := tuple(keys):
        picked[part] = now
    kind = Note.of("picked", part=part, count=len(now)) if now else Note.of("let go", part=part)
    return session.with_view(index, picked=picked), (kind,)


def _list_of(app: WiredApp, session: Session, entry: Entry, part: str) -> Listed:
    listed = app.listed(session, entry, part)
    if listed is None:
        raise Refused("no rows to pick", f"screens[{entry.screen}]")
    return listed
