"""What rules open and take away by themselves: nothing chosen, coming from wide, detail first.

Rules 5.2, 5.3 and 5.5 of behaviour.md; they hold after every event.
"""

from __future__ import annotations

from msgspec.structs import replace

from cadena.engine.display import arrangement_for, base_length, runs_of
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.opening import open_link
from cadena.engine.session import Chain, Entry, RowRef, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import Arrangement, ListScreen
from cadena.model.values import Scalar


def settle(app: WiredApp, session: Session) -> tuple[Session, Notes]:
    """Make the three rules hold: 5.3 for every section's chain, the others for the one shown."""
    arrangement = arrangement_for(app, session.window)
    notes: Notes = ()
    for chain in tuple(session.chains.values()):
        if len(chain.entries) < 2:
            continue
        settled = take_away(app, chain, arrangement)
        if settled is not chain:
            gone = len(chain.entries) - len(settled.entries)
            text = f"{gone} opened by rule in {chain.section} went with its pane (rule 5.3)"
            session, notes = session.with_chain(settled), (*notes, Note("closed by rule", text))
    while (key := row_to_open(app, session, session.entries, arrangement)) is not None:
        index = base_length(session.entries) - 1
        link = app.opens_beside(session.entries[index])
        if link is None:
            break
        try:
            session, opened = open_link(app, session, index, link, RowRef("", key), by="rule")
        except Refused as refused:
            return session, (*notes, refused.note)
        notes += opened
        if opened and opened[-1].kind != "opened":
            break
    return session, notes


def take_away(app: WiredApp, chain: Chain, arrangement: Arrangement) -> Chain:
    """Remove the last runs that a rule opened and the arrangement would not open (5.3)."""
    entries = chain.entries
    while len(entries) > 1:
        base = base_length(entries)
        if not base or entries[base - 1].by != "rule":
            break
        runs = runs_of(entries)
        if len(runs) < 2 or any(each.by != "rule" for each in entries[runs[-1][0] : base]):
            break
        start = runs[-1][0]
        if _is_asked_for(app, entries[start - 1], len(runs), start, chain.asked, arrangement):
            break
        entries = (*entries[:start], *entries[base:])
    return chain if entries is chain.entries else replace(chain, entries=entries)


def _is_asked_for(
    app: WiredApp, parent: Entry, runs: int, length: int, asked: bool, arrangement: Arrangement
) -> bool:
    screen = app.screens.get(parent.screen)
    by_nothing_chosen = (
        runs <= arrangement.panes
        and isinstance(screen, ListScreen)
        and screen.nothing_chosen != "say so"
    )
    by_detail_first = (
        arrangement.panes == 1
        and arrangement.detail_first != "no"
        and not asked
        and length == 1
        and runs == 2
    )
    return by_nothing_chosen or by_detail_first


def row_to_open(
    app: WiredApp, session: Session, entries: tuple[Entry, ...], arrangement: Arrangement
) -> Scalar | None:
    """The key of the row that 5.2 or 5.5 would open beside the last entry, or none."""
    base = base_length(entries)
    if not base:
        return None
    last = entries[base - 1]
    screen = app.screens.get(last.screen)
    if not isinstance(screen, ListScreen) or app.opens_beside(last) is None:
        return None
    wish = "say so"
    if len(runs_of(entries)) < arrangement.panes:
        wish = screen.nothing_chosen
    elif arrangement.panes == 1 and base == 1 and not session.chain.asked:
        wish = arrangement.detail_first
    if wish not in ("open first", "open last"):
        return None
    listed = app.listed(session, last, "")
    if listed is None or not len(listed.rows):
        return None
    remembered = last.view.last.get("")
    if (
        wish == "open last"
        and remembered is not None
        and listed.rows.index_of(remembered) is not None
    ):
        return remembered
    first: Scalar | None = None if listed.first is None else listed.rows.key_at(listed.first)
    return first
