"""What is chosen at delivery, and is the same the next time unless it is chosen otherwise."""

from __future__ import annotations

import re
from typing import Annotated, Final, Literal

import msgspec
from msgspec import Meta, Struct

from cadena.model.problem import Problem

Addresses = Literal["hash", "path"]
UNDER: Final = re.compile(r"/(?:[A-Za-z0-9._~-]+/)*")


class WebWishes(Struct, frozen=True, omit_defaults=True):
    """How a web app is delivered.

    ``bundled``: its page takes one script and one style, the readable ones lie beside them.
    ``addresses`` stand behind ``#``, or are paths of the server, which then answers each that
    it does not know with the page; ``under`` is where on that server the app lies.
    """

    bundled: bool = False
    addresses: Addresses = "hash"
    under: Annotated[str, Meta(max_length=200)] = "/"


def wished(said: object) -> WebWishes:
    """What was chosen the last time; what cannot be read of it counts as not chosen."""
    try:
        wishes = msgspec.convert(said, WebWishes)
    except msgspec.ValidationError:
        return WebWishes()
    return wishes if UNDER.fullmatch(wishes.under) else WebWishes()


def chosen(
    before: WebWishes, bundled: bool | None, addresses: Addresses | None, under: str | None
) -> WebWishes:
    """What was chosen before with what is chosen now.

    Raises:
        Problem: where the app cannot lie there.
    """
    if under is not None:
        under = f"/{under.strip('/')}/" if under.strip("/") else "/"
        if not UNDER.fullmatch(under):
            wanted = "a path such as /huts/, of letters, digits and . _ ~ -"
            raise Problem("--under", "", f"an app cannot lie under {under!r}", wanted)
    return WebWishes(
        before.bundled if bundled is None else bundled,
        before.addresses if addresses is None else addresses,
        before.under if under is None else under,
    )
