"""Whether a situation is so: the one place where it is judged, for claims and for walks alike."""

from __future__ import annotations

from cadena.engine.rules.display import arrangement_for, display_of
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.model.claims import Situation
from cadena.model.values import Value, same_value


def holds(app: WiredApp, session: Session, situation: Situation) -> bool:
    """Whether all that a situation asks for is so, but for counts of backs.

    An app that is not running shows nothing; a section, values and arguments it still has.
    """
    if situation.section and session.section != situation.section:
        return False
    wanted = situation.arrangement
    if wanted and arrangement_for(app, session.window).id != wanted:
        return False
    if not all(is_so(session.values.get(name), to) for name, to in situation.values.items()):
        return False
    entries = session.entries
    if situation.arguments:
        has = entries[-1].arguments if entries else {}
        if not all(is_so(has.get(name), to) for name, to in situation.arguments.items()):
            return False
    if not situation.shows and not situation.hides:
        return True
    shown = {entries[e.entry].screen for e in display_of(app, session).shown if e.entry is not None}
    return set(situation.shows) <= shown and not set(situation.hides) & shown


def is_so(has: Value | None, wanted: Value) -> bool:
    """Whether a value is what is named, or a list that holds it: kept rooms are each kept."""
    if isinstance(has, tuple) and not isinstance(wanted, tuple):
        return any(is_so(each, wanted) for each in has)
    return same_value(has, wanted)
