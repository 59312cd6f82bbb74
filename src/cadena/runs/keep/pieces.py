"""The pieces of state that an app has: found from the app, none of them listed by hand."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, Final, Literal, NamedTuple

import msgspec

from cadena.engine.rules.asking import has_rows_to_bring
from cadena.engine.rules.lists import chosen_row
from cadena.engine.rules.unsent import takes_forms
from cadena.engine.session import Entry, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen, Screen
from cadena.model.part import Lifetime
from cadena.model.screen_depths import sections_to

Kind = Literal[
    "chain",
    "chosen row",
    "scroll",
    "search",
    "sort",
    "choice",
    "groups",
    "picked",
    "carried",
    "asked for",
    "page",
    "draft",
    "being sent",
    "unsent",
    "value",
    "forward",
    "dividers",
    "first in view",
    "chosen in view",
]
KEPT_AS: Final[Mapping[Kind, str]] = {
    "scroll": "scroll",
    "first in view": "scroll",
    "search": "search",
    "sort": "search",
    "choice": "search",
    "groups": "search",
    "picked": "search",
    "page": "page",
    "draft": "draft",
    "being sent": "draft",
    "unsent": "draft",
}
"""What of ``Keep`` says how long a piece lives."""
OF_WRITING: Final[tuple[Kind, ...]] = ("being sent", "unsent")
"""What of a form is on its way to a service, or has not come there (9.1): it lives as a draft."""


class Piece(NamedTuple):
    """One piece of state.

    ``of`` is the screen, the section (of a chain), the arrangement (of where its dividers were
    left) or the app-wide value it belongs to;
    ``part`` the list on the screen. ``lifetime`` is what the app says of it; of what is bound
    to a chain, the shortest of the sections that the screen is in. ``where`` is the path of
    that in the project.
    """

    kind: Kind
    of: str
    part: str
    lifetime: Lifetime
    where: str

    @property
    def name(self) -> str:
        """In words: Huts · scroll."""
        part = f" · {self.part}" if self.part else ""
        return f"{self.of}{part} · {self.kind}"

    @property
    def kept_as(self) -> str:
        """Which of a screen's lifetimes it has, or nothing for what has none of its own."""
        return KEPT_AS.get(self.kind, "")


ORDER: Final[tuple[Lifetime, ...]] = ("view", "entry", "saved", "stored")


def pieces_of(app: WiredApp) -> tuple[Piece, ...]:
    """Every piece of state of an app: screen by screen, then each section, then the app."""
    found: list[Piece] = []
    for screen in app.app.screens:
        found += _of_screen(app, screen)
    for section in app.sections.values():
        where = f"sections[{section.id}].keep"
        found.append(Piece("chain", section.id, "", section.keep, where))
        if app.app.platform.forward:
            found.append(Piece("forward", section.id, "", "entry", "platform.forward"))
    for arrangement in app.arrangements:
        if arrangement.dividers != "fixed" and arrangement.panes > 1:
            where = f"arrangements[{arrangement.id}].keep"
            found.append(Piece("dividers", arrangement.id, "", arrangement.keep, where))
    for value in app.app.values:
        found.append(Piece("value", value.id, "", value.keep, f"values[{value.id}].keep"))
    return tuple(found)


def _of_screen(app: WiredApp, screen: Screen) -> Iterator[Piece]:
    keep, where = screen.keep, f"screens[{screen.id}].keep"
    chain = chain_lifetime(app, screen.id)
    if screen.parameters:
        yield Piece("carried", screen.id, "", chain, "sections[].keep")
    if any(each.to == screen.id and has_rows_to_bring(app, each) for each in app.app.links):
        yield Piece("asked for", screen.id, "", chain, "sections[].keep")
    for part, listing in app.listings[screen.id].items():
        if (screen.id, part) in app.choosing:
            yield Piece("choice", screen.id, part, keep.search, f"{where}.search")
        elif (screen.id, part) in app.row_links:
            yield Piece("chosen row", screen.id, part, chain, "sections[].keep")
        if listing.search:
            yield Piece("search", screen.id, part, keep.search, f"{where}.search")
        if listing.layout != "strip" and not listing.is_grouped:
            yield Piece("sort", screen.id, part, keep.search, f"{where}.search")
        if listing.has_closing_groups:
            yield Piece("groups", screen.id, part, keep.search, f"{where}.search")
        if listing.several != "no":
            yield Piece("picked", screen.id, part, keep.search, f"{where}.search")
    yield Piece("scroll", screen.id, "", keep.scroll, f"{where}.scroll")
    if len(app.pages.get(screen.id, ())) > 1:
        yield Piece("page", screen.id, "", keep.page, f"{where}.page")
    if isinstance(screen, FormScreen):
        yield Piece("draft", screen.id, "", keep.draft, f"{where}.draft")
        if takes_forms(app, screen.source):
            for kind in OF_WRITING:
                yield Piece(kind, screen.id, "", keep.draft, f"{where}.draft")


def chain_lifetime(app: WiredApp, screen: str) -> Lifetime:
    """The shortest time that a section which leads to a screen keeps its chain for."""
    led = sections_to(app.app)
    return min((each.keep for each in led.get(screen, ())), key=ORDER.index, default="saved")


def entry_of(session: Session, section: str, index: int, screen: str) -> Entry | None:
    """An entry of a chain, if it is still that screen."""
    chain = session.chains.get(section)
    if chain is None or not 0 <= index < len(chain.entries):
        return None
    entry = chain.entries[index]
    return entry if entry.screen == screen else None


def value_of(session: Session, piece: Piece, section: str, index: int) -> Any:
    """What a piece holds in a session, or none where it holds nothing.

    Args:
        section: the section whose chain the screen is in.
        index: where in that chain it is.
    """
    if piece.kind == "value":
        return session.values.get(piece.of)
    if piece.kind == "dividers":
        return session.divided.get(piece.of)
    if piece.kind in OF_WRITING:
        sent = (
            e.fields for e in session.writes if e.form is not None and e.form.screen == piece.of
        )
        return next(sent, None)
    if piece.kind == "chain":
        chain = session.chains.get(piece.of)
        if chain is None or len(chain.entries) < 2:
            return None
        return _opened(chain.entries)
    if piece.kind == "forward":
        there = tuple(each for each in session.ahead if each.section == piece.of)
        return tuple(_opened(each.entries) for each in there) or None
    entry = entry_of(session, section, index, piece.of)
    if entry is None:
        return None
    view = entry.view
    match piece.kind:
        case "carried":
            return dict(entry.arguments) or None
        case "chosen row":
            placed = msgspec.structs.replace(session, section=section)
            row = chosen_row(placed, index)
            return row.key if row is not None and row.part == piece.part else None
        case "scroll":
            anchor = view.scroll
            if anchor is None or (anchor.key is None and not anchor.index and not anchor.above):
                return None
            return anchor.part, anchor.key, round(anchor.above, 3)
        case "search":
            return view.search.get(piece.part)
        case "sort":
            return view.sort.get(piece.part)
        case "choice":
            return view.choice.get(piece.part)
        case "groups":
            return view.groups.get(piece.part)
        case "picked":
            return view.picked.get(piece.part)
        case "asked for":
            asked = entry.opened_for
            return None if asked is None else (asked.on, asked.part)
        case "page":
            return view.page or None
        case _:
            return dict(view.draft) or None


def _opened(entries: tuple[Entry, ...]) -> tuple[tuple[str, tuple[Any, ...]], ...]:
    """What is opened with what."""
    return tuple((each.screen, tuple(each.arguments.items())) for each in entries)


def size_of(value: Any) -> int:
    """Bytes that a piece takes when it is saved as JSON."""
    return 0 if value is None else len(msgspec.json.encode(value))
