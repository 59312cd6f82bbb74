"""What the strip says of for which rows a link is (rules.md, 2.7)."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Final, get_args

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedLink
from cadena.desktop.widgets.bound import Bound, matter_of
from cadena.desktop.widgets.words import Matter, Sentence, Word
from cadena.model.app import Link, RowKind
from cadena.model.edits.row_kinds import kinds_among, with_kind
from cadena.model.edits.wiring import source_of
from cadena.model.in_words import kind_words
from cadena.model.source import Test
from cadena.records.conditions import compared_as

LOOKED_AT: Final = 2_000
"""Records whose values are looked at for kinds."""
MOST: Final = 24


def kind_matters(
    document: Document, link: Link, change: Callable[[str, Link], None]
) -> list[Matter]:
    """For which rows a link is, and another screen for the rows of a kind."""
    if link.trigger.on not in ("row", "action"):
        return []
    now = "" if link.when is None else f"rows whose {kind_words(link.when, in_full=True)}"
    of_kind = partial(_of_kind, document, link, change)
    another = partial(_another, document, link)
    return [
        matter_of(Link, "when", now, of_kind),
        Matter("", "", "another screen for some rows", another, "another screen for some rows"),
    ]


def _fields(document: Document, link: Link) -> dict[str, str]:
    source = source_of(document.app, link.trigger)
    return {} if source is None else dict(document.types.get(source.id, {}))


def _of_kind(document: Document, link: Link, change: Callable[[str, Link], None]) -> list[Sentence]:
    fields = _fields(document, link)
    if link.when is None:
        options = [
            (kind_words(kind, in_full=True), partial(_limit, link, change, kind))
            for kind in _kinds(document, link)
        ]
        options += [
            (
                f"{field} is filled",
                partial(_limit, link, change, RowKind(field=field, test="is filled")),
            )
            for field in fields
        ]
        return [Sentence("rows whose", [Word("menu", "choose", name="kind", options=options)])]
    kind = link.when

    def changed(what: str, **made: object) -> None:
        change(what, replace(link, when=replace(kind, **made)))

    bound = Bound(kind, changed, document.refuse)
    words = [
        bound.menu("field", [(each, each) for each in fields], "field of the kind"),
        bound.menu("test", [(each, each) for each in get_args(Test)], "test of the kind"),
    ]
    if "empty" not in kind.test and kind.test != "is filled":
        type_ = compared_as(kind.test, fields.get(kind.field, "text"))
        words.append(bound.value("constant", "value of the kind", type_))
    every = partial(change, "for all other rows", replace(link, when=None))
    words.append(Word("do", "For all other rows", every, name="for all other rows"))
    return [Sentence("rows whose", words)]


def _limit(link: Link, change: Callable[[str, Link], None], kind: RowKind) -> None:
    change(f"for {kind_words(kind, in_full=True)}", replace(link, when=kind))


def _kinds(document: Document, link: Link) -> list[RowKind]:
    source = source_of(document.app, link.trigger)
    records = None if source is None else document.wired.as_read.get(source.id)
    if records is None:
        return []
    values = ((each, records.values_of(each, LOOKED_AT)) for each in records.types)
    return list(kinds_among(values))[:MOST]


def _another(document: Document, link: Link) -> list[Sentence]:
    """A screen of its own for the rows of a kind, made and linked at once."""

    def make(kind: RowKind) -> None:
        try:
            app, new = with_kind(document.app, document.types, link, kind)
        except ValueError as error:
            document.refuse(str(error))
            return
        what = f"another screen for {kind_words(kind, in_full=True)}"
        document.edit(what, app, SelectedLink(new.id))

    taken = [each.when for each in document.app.links if each.trigger == link.trigger]
    options = [
        (kind_words(each, in_full=True), partial(make, each))
        for each in _kinds(document, link)
        if each not in taken
    ]
    if not options:
        said = "No field of these rows tells kinds apart: none has a few values, each often."
        return [Sentence("", [Word("text", said)])]
    menu = Word("menu", "choose", name="kind with a screen of its own", options=options)
    return [Sentence("rows whose", [menu, Word("text", "get a screen of their own")])]
