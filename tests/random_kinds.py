"""Apps whose rows lead on by their kind (rules.md, 2.7), by chance."""

from __future__ import annotations

import random
from collections.abc import Mapping

from msgspec.structs import replace

from cadena.engine.wired import WiredApp
from cadena.model.app import App, Link, RowKind
from cadena.model.values import Value
from cadena.records.records import Records

TESTS = ("is", "is", "is not", "is one of", "contains", "over", "at most", "is empty", "is filled")
HOWS = ("push", "beside", "replace", "modal", "popover")


def by_kind(chance: random.Random, app: App, records: Mapping[str, Records]) -> App:
    """The app in which rows of a kind open another screen than the others."""
    wired = WiredApp(app, records)
    links: list[Link] = []
    for link in app.links:
        part = wired.part_of(link.trigger)
        listing = wired.listings.get(link.trigger.screen, {}).get(part or "")
        of = None if part is None or listing is None else records.get(listing.source)
        if of is None or not len(of) or chance.random() < 0.4:
            links.append(link)
            continue
        others = [
            replace(
                link,
                id=f"{link.id}-{number}",
                to=chance.choice(app.screens).id,
                how=chance.choice(HOWS) if chance.random() < 0.2 else link.how,
                when=_kind(chance, of),
            )
            for number in range(chance.choice([1, 1, 2]))
        ]
        if chance.random() < 0.2:
            link = replace(link, when=_kind(chance, of))
        links += chance.sample([link, *others], 1 + len(others))
    return replace(app, links=tuple(links))


def _kind(chance: random.Random, records: Records) -> RowKind:
    field, test = chance.choice([*records.types, "nothing"]), chance.choice(TESTS)
    row = records.by_key(records.key_at(chance.randrange(len(records)))) or {}
    constant: Value | None = row.get(field)
    if test == "is one of":
        constant = None if constant is None or isinstance(constant, tuple) else (constant,)
    return RowKind(field=field, test=test, constant=None if "empty" in test else constant)
