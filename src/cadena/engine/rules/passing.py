"""What is said for a moment after an act (rules.md, 8)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from msgspec.structs import replace

from cadena.engine.events import PutAway
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.display import display_of
from cadena.engine.rules.unsent import asking_write, with_write, words_for_write
from cadena.engine.session import Passing, Session
from cadena.engine.wired import WiredApp
from cadena.model.values import Scalar

STAYS: Final = 4_000
"""How long it is said, in ms."""


def saying(
    app: WiredApp,
    session: Session,
    text: str,
    source: str,
    key: Scalar,
    before: Mapping[str, Any] | None = None,
) -> tuple[Session, Notes]:
    """A session in which a text is said of a record.

    Args:
        text: with fields in it; of none nothing is said.
        before: the record as it was, for one that is gone.
    """
    if not text:
        return session, ()
    records = app.shown(session, source)
    record = None if records is None else records.by_key(key)
    said = app.say(source).fill(text, record if record is not None else before)
    return saying_text(session, said)


def saying_text(session: Session, said: str) -> tuple[Session, Notes]:
    """A session in which a text is said; of none nothing is."""
    if not said:
        return session, ()
    passing = Passing(said, session.clock + STAYS)
    return replace(session, passing=passing), (Note.of("said", text=said),)


def said_now(app: WiredApp, session: Session) -> str | None:
    """What is said now: of an act, that a record was removed and can be put back, or that
    something was not sent."""
    if session.passing is not None:
        return session.passing.text
    removal = session.removal
    if removal is not None:
        return app.words("{title} removed", title=removal.title)
    write = asking_write(session, display_of(app, session)) if session.writes else None
    return None if write is None else words_for_write(app, session, write)


def put_away(app: WiredApp, session: Session, event: PutAway) -> tuple[Session, Notes]:
    """What is said goes, and with it what was offered to be undone."""
    if session.passing is None and session.removal is None:
        write = asking_write(session, display_of(app, session))
        if write is None:
            raise Refused("nothing is said")
        return with_write(session, replace(write, away=True)), (Note("closed", "said"),)
    return replace(session, passing=None, removal=None), (Note("closed", "said"),)
