"""What the strip says of a link that opens a list to choose from (rules.md, 15)."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.words import NOTHING, Matter, Sentence, Word
from cadena.model.app import Brings, Link, Screen
from cadena.model.find import by_id
from cadena.model.screen_parts import listings

KEY = "the key"
Change = Callable[[str, Link], None]


def brought_matter(document: Document, link: Link, target: Screen | None, change: Change) -> Matter:
    """What is brought back from a list, and where it goes; of rows and after saving nothing is."""
    brings = link.brings
    if target is None or link.trigger.on not in ("field", "fact", "button"):
        return NOTHING
    lead, said = "bringing back", "" if brings is None else f"{brings.field or KEY} of its row"
    inside = partial(_sentences, document, link, target, change)
    return Matter(lead, said, "what is brought back", inside, "what is chosen comes back")


def _sentences(document: Document, link: Link, target: Screen, change: Change) -> list[Sentence]:
    brings = link.brings or Brings()

    def take(what: str, **changed: Any) -> None:
        change(what, replace(link, brings=replace(brings, **changed)))

    bound = Bound(brings, take, document.refuse)
    lists = listings(target)
    listing = lists.get(brings.list)
    fields = () if listing is None else document.types.get(listing.source, {})
    options = [("nothing", partial(change, "bring nothing", replace(link, brings=None)))]
    options += [
        (f"{name or KEY} of its row", partial(take, f"bring {name or KEY}", field=name))
        for name in ("", *fields)
    ]
    now = "nothing" if link.brings is None else f"{brings.field or KEY} of its row"
    words = [Word("menu", now, name="what it brings back", options=options)]
    if link.brings is not None and link.trigger.on == "button":
        words += _into(document, link, brings, take)
    if link.brings is not None and (len(lists) > 1 or brings.list):
        named = [(each, each or "the list of its own") for each in lists]
        words += [Word("text", "from"), bound.menu("list", named, "the list that chooses")]
    return [Sentence("", words)]


def _into(document: Document, link: Link, brings: Brings, take: Callable[..., None]) -> list[Word]:
    """Where a button's choice goes: an app-wide value, or an argument of its screen."""
    screen = by_id(document.app.screens, link.trigger.screen)
    parameters = screen.parameters if screen is not None else ()
    places = [(f"app-wide {each.id}", each.id, "") for each in document.app.values]
    places += [(f"argument {each.name}", "", each.name) for each in parameters]
    options = [
        (said, partial(take, f"into {said}", value=value, argument=argument))
        for said, value, argument in places
    ]
    held = (brings.value, brings.argument)
    now = next((said for said, *place in places if tuple(place) == held), "choose where")
    return [Word("text", "into"), Word("menu", now, name="into what", options=options)]
