"""What happens to the whole app: its sections, its values, sleep, ending and coming back."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.notes import Note, Notes, Refused, unfit_value
from cadena.engine.rules.display import base_length, display_of
from cadena.engine.rules.lifetimes import come_back, end
from cadena.engine.rules.lists import scrolled
from cadena.engine.rules.saved_state import SURVIVES_COLD, SURVIVES_KILL, saved_state
from cadena.engine.rules.writing import unheard
from cadena.engine.session import Chain, Session, cut
from cadena.engine.wired import WiredApp
from cadena.model.values import Unfit, carry


def go_to(app: WiredApp, session: Session, event: do.GoTo) -> tuple[Session, Notes]:
    """A section's chain as it was left; the current one again is cut to its root (2.6)."""
    section = event.section
    if section not in app.sections:
        raise Refused("no such section", "sections", section=section)
    if base_length(session.entries) < len(session.entries):
        title = app.title_of(session, session.entries[-1])
        raise Refused("sections are covered", "sections", title=title)
    chain = session.chains[section]
    if section != session.section:
        is_cut = app.sections[section].returns == "root"
        entries = cut(chain.entries, 1) if is_cut else chain.entries
        session = session.with_chain(Chain(section, entries))
        case = "at its root" if is_cut else "as it was left"
        session = replace(session, section=section, slid=False)
        return session, (Note.of("section", case, section=section),)
    session = replace(session, slid=False)
    area = display_of(app, session).area_of(0)
    if area is None or any(each.by != "rule" for each in chain.entries[1:]):
        return session.cut_back(1), (Note.of("section", "cut", section=section),)
    session = session.with_chain(Chain(section, chain.entries, asked=True))
    session = session.with_view(0, marker={})
    session = scrolled(app, session, 0, area, 0.0) if app.views else session
    return session, (Note.of("section", "at the top", section=section),)


def set_value(app: WiredApp, session: Session, event: do.SetValue) -> tuple[Session, Notes]:
    """An app-wide value is set, as one of its type; or to nothing."""
    declared = next((each for each in app.app.values if each.id == event.value), None)
    if declared is None:
        raise Refused("no such value", "values", value=event.value)
    values = {name: value for name, value in session.values.items() if name != event.value}
    if event.to is not None:
        try:
            values[event.value] = carry(event.to, declared.type)
        except Unfit as unfit:
            raise unfit_value(event.value, unfit) from None
    return replace(session, values=values), (Note.of("set", value=event.value, to=event.to),)


def sleep(app: WiredApp, session: Session, event: do.Sleep) -> tuple[Session, Notes]:
    """The app goes out of view; nothing of it is lost (6)."""
    return replace(session, phase="asleep"), (Note("asleep"),)


def wake(app: WiredApp, session: Session, event: do.Wake) -> tuple[Session, Notes]:
    """The app comes back as it was (6)."""
    return replace(session, phase="running"), (Note("awake"),)


def kill(app: WiredApp, session: Session, event: do.Kill) -> tuple[Session, Notes]:
    """The system ends the process: what is kept is kept as text."""
    ended = end(app, session)
    return ended, (Note.of("killed", bytes=len(ended.kept.encode())),)


def restore(app: WiredApp, session: Session, event: do.Restore) -> tuple[Session, Notes]:
    """The person comes back to an app that was ended."""
    back, notes = come_back(app, session, SURVIVES_KILL)
    return back, (Note("restored"), *notes)


def relaunch(app: WiredApp, session: Session, event: do.Relaunch) -> tuple[Session, Notes]:
    """The app is started cold."""
    if session.phase != "killed":
        session = unheard(app, session)
        session = replace(session, kept=saved_state(app, session, SURVIVES_COLD))
    back, notes = come_back(app, session, SURVIVES_COLD)
    return back, (Note("relaunched"), *notes)
