"""How an app goes on from a form that was saved (rules.md, 10)."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.engine.notes import Notes
from cadena.engine.rules.asking import Asking
from cadena.engine.rules.bringing import bring
from cadena.engine.rules.opening import first_form_of, open_after_saving
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen
from cadena.model.values import Scalar


def after_saving(
    app: WiredApp,
    session: Session,
    index: int,
    form: FormScreen,
    key: Scalar,
    wanted: tuple[int, Asking] | None,
) -> tuple[Session, Notes]:
    """Go on from a form: what was made for a list to choose from is brought home (15)."""
    entry = session.entries[index]
    emptied = replace(entry.view, draft={}, tried=False)
    session = session.with_entry(index, replace(entry, view=emptied))
    if wanted is not None:
        return bring(app, session, *wanted, form.source, key)
    link = app.links.get((form.id, "saved", ""))
    if link is not None:
        return open_after_saving(app, session, index, link, form.source, key)
    if index == 0:
        return session, ()
    first = first_form_of(app, session, index, form.source, key)
    return session.cut_back(max(1, first)), ()
