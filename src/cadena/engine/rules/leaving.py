"""The app is left for an address outside of it, and waits as it is (rules.md, 7.10)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec.structs import replace

from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.session import Session
from cadena.model.outside_address import outside_address


def leave_for(
    session: Session, record: Mapping[str, Any] | None, field: str
) -> tuple[Session, Notes]:
    """Leave for the address in a field of a record.

    Raises:
        Refused: where there is none that an app can be left for.
    """
    address = outside_address((record or {}).get(field))
    if address is None:
        raise Refused("no address there", field=field)
    return replace(session, phase="asleep"), (Note.of("left for", address=address),)
