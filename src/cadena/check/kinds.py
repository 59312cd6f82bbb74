"""Checks of links that are for rows of a kind (rules.md, 2.7)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Final

from msgspec.structs import replace

from cadena.check.finding import Finding, Mend, first_few, found, of_link
from cadena.model.app import App, Link, RowKind, Trigger
from cadena.model.edits.wiring import Types, source_of, with_link
from cadena.model.find import by_id
from cadena.model.in_words import kind_words
from cadena.model.values import shown
from cadena.records import conditions
from cadena.records.records import Records

WITH_ROWS: Final = ("row", "action")


def kind_findings(app: App, records: Mapping[str, Records]) -> Iterator[Finding]:
    """Links that no row follows, and rows that no link is for."""
    together: dict[Trigger, list[Link]] = {}
    for link in app.links:
        together.setdefault(link.trigger, []).append(link)
    for trigger, links in together.items():
        source = source_of(app, trigger)
        own = None if source is None else records.get(source.id)
        yield from _never(links, own)
        kinds = [each.when for each in links if each.when is not None]
        is_all = trigger.on in WITH_ROWS and len(kinds) == len(links)
        if own is not None and is_all:
            yield from _left(links[0], own, kinds)


def _never(links: list[Link], own: Records | None) -> Iterator[Finding]:
    """Links that something stands before, or that no record there is passes."""
    seen: list[RowKind | None] = []
    for link in links:
        kind, why = link.when, ""
        if kind in seen:
            why = f"another link from there is for the same rows, {_kind_or_rest(kind)}"
        elif kind is not None and link.trigger.on not in WITH_ROWS:
            why = f"it says for which rows it is, and a {link.trigger.on} is of no row"
        elif kind is not None and own is not None and len(own) and not any(passing(own, kind)):
            why = f"no record of {own.source.id} passes: {_kind_or_rest(kind)}"
        seen.append(kind)
        if why:
            vain = link.trigger.on not in WITH_ROWS and kind is not None
            yield _found(
                "kind-never",
                link,
                why,
                why="it is followed all the same" if vain else "it is never followed",
            )


def _left(link: Link, own: Records, kinds: list[RowKind]) -> Iterator[Finding]:
    """Rows that none of the links of a list is for."""
    passes = map(any, zip(*(passing(own, each) for each in kinds), strict=True))
    left = [at for at, holds in enumerate(passes) if not holds]
    if left:
        some = first_few(shown(own.key_at(at)) for at in left)
        yield _found(
            "kinds-leave-rows",
            link,
            f"no link is for {len(left)} of {len(own)} {own.source.id}: {some}",
        )


def passing(records: Records, kind: RowKind) -> list[bool]:
    """For each record whether it is of a kind."""
    test = conditions.passing(kind.test, kind.constant, records.types.get(kind.field, "text"))
    if isinstance(test, bool):
        return [test] * len(records)
    has_field = kind.field in records.types
    values = records.values_of(kind.field) if has_field else [None] * len(records)
    return list(map(test, values))


def _kind_or_rest(kind: RowKind | None) -> str:
    return "all that no other is for" if kind is None else kind_words(kind, in_full=True)


def _found(code: str, link: Link, what: str, why: str = "") -> Finding:
    said = f"link {link.id} from {link.trigger.screen} to {link.to}: {what}"
    return found(code, of_link(link), said, f"links[{link.id}].when", why=why)


def _for_all(app: App, types: Types, finding: Finding) -> App | None:
    """The link is for all rows that no other is for, where there is none that is yet."""
    link = by_id(app.links, finding.subject.name)
    if link is None or link.when is None:
        return None
    made = with_link(app, replace(link, when=None))
    return made if len(made.links) == len(app.links) else None


MENDS: Final[Mapping[str, Mend]] = {"kind-never": _for_all, "kinds-leave-rows": _for_all}
