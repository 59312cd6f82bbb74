"""What Shape's strip says of a block of a detail, and the blocks that can be added."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.known_references import references_in
from cadena.desktop.document.selection import SelectedScreen
from cadena.desktop.stages.shape.about_actions import action_sentences
from cadena.desktop.stages.shape.about_lists import about_list
from cadena.desktop.stages.shape.selected import SelectedBlock
from cadena.desktop.widgets.words import Sentence, Word
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
from cadena.model.find import slug, unused
from cadena.model.listing import Button, Condition, Listing, Row
from cadena.model.naming import label_field

Options = list[tuple[str, Callable[[], object]]]


def about_block(document: Document, screen: DetailScreen, block: Block) -> list[Sentence]:
    """A block: what it shows, and where it stands."""
    types = document.types.get(screen.source, {})

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
    said = [
        Sentence(
            "",
            [
                Word("subject", f"Detail · {kind}"),
                Word("text", block.id),
                Word("do", "Up", partial(move, -1), name="move the block up"),
                Word("do", "Down", partial(move, 1), name="move the block down"),
                Word("do", "Remove", remove, name="remove this block"),
            ],
        )
    ]
    match block:
        case PictureBlock() | BodyBlock() | AddressBlock():
            options = [(each, partial(change, "field", field=each)) for each in types]
            said.append(
                Sentence("Shows", [Word("menu", block.field, name="field", options=options)])
            )
        case HeadingBlock():
            said.append(
                Sentence(
                    "Says",
                    [Word("line", block.text, lambda t: change("text", text=t), name="text")],
                )
            )
        case FactsBlock():
            said += _facts(block, list(types), change)
        case ListBlock():
            said.append(
                Sentence(
                    "Heading",
                    [
                        Word(
                            "line",
                            block.heading,
                            lambda text: change("heading", heading=text),
                            name="heading",
                        )
                    ],
                )
            )
            said += about_list(document, screen, block.id)
        case ActionsBlock():
            said += _actions(document, block, change)
        case PageBlock():
            said += _page(screen, block, change)
    if isinstance(block, PictureBlock):
        said.append(fit_sentence(block.fit, lambda how: change("picture", fit=how)))
    return said


def fit_sentence(now: str, take: Callable[[str], object]) -> Sentence:
    """Whether a picture fills its place or is whole; it is never stretched."""
    ways = (("fill", "fills its place, and is cut"), ("whole", "is whole, and leaves some"))
    words = [Word("choice", said, partial(take, how), now == how) for how, said in ways]
    return Sentence("The picture", words)


def _facts(block: FactsBlock, names: list[str], change: Any) -> list[Sentence]:
    """Which fields, and which of them can be changed where they stand."""

    def toggled(have: tuple[str, ...], name: str) -> tuple[str, ...]:
        return tuple(e for e in have if e != name) if name in have else (*have, name)

    shown = [
        Word(
            "toggle",
            each,
            partial(change, "facts", fields=toggled(block.fields, each)),
            each in block.fields,
            f"fact {each}",
        )
        for each in names
    ]
    in_place = [
        Word(
            "toggle",
            each,
            partial(change, "in place", in_place=toggled(block.in_place, each)),
            each in block.in_place,
            f"change {each} in place",
        )
        for each in block.fields
    ]
    return [Sentence("Shows", shown), Sentence("In place", in_place)]


def _actions(document: Document, block: ActionsBlock, change: Any) -> list[Sentence]:
    places = (("flow", "in the flow"), ("bar", "in the title bar"), ("bottom", "at the bottom"))
    where = [
        Word("choice", words, partial(change, "place", place=each), block.place == each)
        for each, words in places
    ]

    def take(buttons: tuple[Button, ...]) -> None:
        change("buttons", buttons=buttons)

    return [Sentence("Stands", where), *action_sentences(document, "Buttons", block.buttons, take)]


def _page(screen: DetailScreen, block: PageBlock, change: Any) -> list[Sentence]:
    """The page's title; and where a list is not on the last page, that it should be."""
    said = [
        Sentence(
            "Titled",
            [
                Word(
                    "line", block.title, lambda text: change("title", title=text), name="page title"
                )
            ],
        )
    ]
    page = ""
    last = [each.id for each in screen.blocks if isinstance(each, PageBlock)][-1]
    for each in screen.blocks:
        if isinstance(each, PageBlock):
            page = each.id
        elif isinstance(each, ListBlock) and page not in ("", last):
            text = f"! {each.id} can scroll, and its page is not the last: people lose the others."
            said.append(Sentence("", [Word("broken", text)]))
            break
    return said


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
            each.field
            for each in references_in(document)
            if (each.source, each.to) == (name, screen.source)
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
            row=Row(title="{" + label_field(source, types) + "}"),
            empty=f"No {(source.title or name).lower()} here.",
        ),
    )
