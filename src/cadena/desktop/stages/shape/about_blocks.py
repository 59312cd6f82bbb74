"""What Shape's strip says of a block of a detail, and the blocks that can be added."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.known_references import references_in
from cadena.desktop.document.selection import SelectedScreen
from cadena.desktop.stages.shape.about_actions import action_chips
from cadena.desktop.stages.shape.about_lists import about_list
from cadena.desktop.stages.shape.selected import SelectedBlock
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.words import Matter, Sentence, Word, calmly
from cadena.model.app import DetailScreen
from cadena.model.blocks import (
    ActionsBlock,
    AddressBlock,
    Block,
    BodyBlock,
    FactsBlock,
    HeadingBlock,
    ListBlock,
    PageBlock,
    PictureBlock,
)
from cadena.model.edits import shaping
from cadena.model.edits.wiring import with_screen
from cadena.model.find import by_id, slug, unused
from cadena.model.listing import Button, Condition, Listing, Row
from cadena.model.naming import label_text
from cadena.model.references import paths_offered
from cadena.model.source import refers_of

Options = list[tuple[str, Callable[[], object]]]


def about_block(document: Document, screen: DetailScreen, block: Block) -> list[Sentence]:
    """A block: what it shows, and where it stands."""

    def change(what: str, **changed: Any) -> None:
        made = shaping.with_block(screen, replace(block, **changed))
        document.edit(f"{what} of {block.id}", with_screen(document.app, made))

    def move(by: int) -> None:
        made = shaping.moved_block(screen, block.id, by)
        document.edit(f"move {block.id}", with_screen(document.app, made))

    def remove() -> None:
        made = shaping.without_block(screen, block.id)
        selection = SelectedScreen(screen.id)
        document.edit(f"remove {block.id}", with_screen(document.app, made), selection)

    kind = str(block.__struct_config__.tag)
    act = [
        Word("do", "Up", partial(move, -1), name="move the block up"),
        Word("do", "Down", partial(move, 1), name="move the block down"),
        Word("do", "Remove", remove, name="remove this block", keys="Delete"),
    ]
    first: list[Word] = [Word("subject", f"Detail · {kind}"), Word("text", block.id)]
    bound = Bound(block, change, document.refuse)
    if isinstance(block, ListBlock):
        said, *rest = about_list(document, screen, block.id)
        heading = bound.said("heading", "heading")
        own, *offer = calmly([], [heading])
        return [Sentence("", [*said.words, *own.words, *act]), *rest, *offer]
    lines = _lines(document, screen, block, bound)
    return calmly(first, _matters(document, screen, block, bound), *lines, act=act)


def _matters(document: Document, screen: DetailScreen, block: Block, bound: Bound) -> list[Matter]:
    types = document.types.get(screen.source, {})
    fields = [(each, each) for each in types]
    match block:
        case PictureBlock():
            return [_field_matter(block.field, bound, fields), fit_matter(bound, "fit", "picture")]
        case BodyBlock():
            return [_field_matter(block.field, bound, fields)]
        case AddressBlock():
            return [_field_matter(block.field, bound, fields), _frame_matter(block, bound)]
        case HeadingBlock():
            return [bound.said("text", "text")]
        case FactsBlock():
            named = "change {} in place"
            facts = [*types, *paths_offered(document.app, document.types, screen.source)]
            matters = [
                bound.some("fields", facts, "facts", "fact {}"),
                bound.some("in_place", block.fields, "in place", named),
            ]
            matters.append(bound.some("leaves", block.fields, "facts that leave", "{} leaves"))
            source = by_id(document.app.sources, screen.source)
            refer = [e for e in block.fields if source is not None and refers_of(source, e)]
            if refer:
                matters.append(bound.some("opens", refer, "facts that open", "{} opens"))
            return matters
        case ActionsBlock():
            return [bound.chosen("place", "place")]
        case PageBlock():
            return [bound.said("title", "page title")]
    return []


def _field_matter(now: str, bound: Bound, fields: list[tuple[str, str]]) -> Matter:
    inside = lambda: [Sentence("", [bound.menu("field", fields, "field")])]  # noqa: E731
    return bound.matter("field", now or "nothing", inside)


def _frame_matter(block: AddressBlock, bound: Bound) -> Matter:
    """How high the frame is in which an address is shown, if it is (7.10)."""
    high = f"a frame {block.frame:g} dp high" if block.frame else ""
    size = bound.number("frame", "height of the frame, dp")
    inside = lambda: [Sentence("", [size])]  # noqa: E731
    return bound.matter("frame", high, inside)


def _lines(document: Document, screen: DetailScreen, block: Block, bound: Bound) -> list[Sentence]:
    if isinstance(block, ActionsBlock):
        take = lambda buttons: bound.change("buttons", buttons=buttons)  # noqa: E731
        return [action_chips(document, "Buttons", "detail button", block.buttons, take)]
    return _where_pages_scroll(screen) if isinstance(block, PageBlock) else []


def fit_matter(bound: Bound, field: str, what: str) -> Matter:
    """Whether a picture fills its place or is whole; it is never stretched."""
    return bound.chosen(field, what)


def _where_pages_scroll(screen: DetailScreen) -> list[Sentence]:
    """Where a list is not on the last page, that it should be."""
    page = ""
    last = [each.id for each in screen.blocks if isinstance(each, PageBlock)][-1]
    for block in screen.blocks:
        if isinstance(block, PageBlock):
            page = block.id
        elif isinstance(block, ListBlock) and page not in ("", last):
            text = f"! {block.id} can scroll, and its page is not the last: people lose the others."
            return [Sentence("", [Word("broken", text)])]
    return []


def new_blocks(document: Document, screen: DetailScreen) -> Options:
    """What can be added to a detail."""
    types = document.types.get(screen.source, {})
    taken = [each.id for each in screen.blocks]
    label = "{" + next(iter(types), "") + "}"
    kinds: list[tuple[str, Block]] = [
        ("a heading", HeadingBlock(id=unused("heading", taken), text=label)),
        ("facts", FactsBlock(id=unused("facts", taken), fields=tuple(types)[:3])),
        (
            "buttons",
            ActionsBlock(
                id=unused("actions", taken),
                buttons=(Button(id=unused("action", taken), label="Action"),),
            ),
        ),
        ("a page", PageBlock(id=unused("page", taken), title="Page")),
    ]
    for name, kind in types.items():
        if kind == "picture":
            kinds.append(
                (f"picture {name}", PictureBlock(id=unused(slug(name), taken), field=name))
            )
        elif kind == "text":
            kinds.append((f"body {name}", BodyBlock(id=unused(slug(name), taken), field=name)))
            if name in ("web", "url", "link", "address", "href", "site"):
                kinds.append(
                    (f"web address {name}", AddressBlock(id=unused(slug(name), taken), field=name))
                )
    for source in document.app.sources:
        kinds.append(
            (f"a list of {source.title or source.id}", _nested(document, screen, source.id))
        )

    def add(block: Block) -> None:
        made = replace(screen, blocks=(*screen.blocks, block))
        selection = SelectedBlock(screen.id, block.id)
        document.edit(f"add {block.id}", with_screen(document.app, made), selection)

    return [(words, partial(add, block)) for words, block in kinds]


def _nested(document: Document, screen: DetailScreen, name: str) -> ListBlock:
    """A list of a source's records that refer to the detail's own, as far as any field does."""
    source = next(each for each in document.app.sources if each.id == name)
    types = document.types.get(name, {})
    field = next(
        (
            reference.field
            for reference in references_in(document)
            if (reference.source, reference.to) == (name, screen.source)
        ),
        "",
    )
    where = (Condition(field=field, argument=screen.key),) if field else ()
    return ListBlock(
        id=unused(slug(name), [each.id for each in screen.blocks]),
        heading=source.title or name.capitalize(),
        rows=Listing(
            source=name,
            where=where,
            row=Row(title=label_text(source, types)),
            empty=f"No {(source.title or name).lower()} here.",
        ),
    )
