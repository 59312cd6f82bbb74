"""What has come of a source is called for anew (rules.md, 9)."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.engine.session import Entry, Session
from cadena.engine.wired import WiredApp


def called_again(app: WiredApp, session: Session, source: str) -> Session:
    """After a refresh: all that has come of a source is to be called for anew."""
    if source not in app.late:
        return session

    def anew(entry: Entry) -> Entry:
        lists = app.listings.get(entry.screen, {})
        loads = {
            part: replace(load, state="loading", request=0, again=load.brought)
            if (lists[part].source if part in lists else app.source_of(entry)) == source
            else load
            for part, load in entry.loads.items()
        }
        return replace(entry, loads=loads) if loads else entry

    return session.with_each_entry(lambda chain, index, entry: anew(entry))
