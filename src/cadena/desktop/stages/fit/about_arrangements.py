"""What the strip says of an arrangement: which windows it is for, and what it makes of them."""

from __future__ import annotations

from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.desktop.stages.fit.about_sides import about_sides
from cadena.desktop.stages.fit.selected import SelectedArrangement
from cadena.desktop.widgets.bound import Bound, replaced
from cadena.desktop.widgets.words import Sentence, Word, screen_words
from cadena.model.app import Arrangement, ListScreen, PaneWidth
from cadena.model.edits import arrangements as arranging
from cadena.model.edits import wiring as edits
from cadena.model.find import by_id
from cadena.runs.window_plane import used_in

BARS: Final = ("bottom", "rail", "wide rail", "top", "button", "none")
ORDER: Final = ("first", "second", "third")

SHAPES: Final = ((None, "any shape"), ("portrait", "portrait"), ("landscape", "landscape"))
FOLDS: Final = ((None, "folded or flat"), ("folded", "folded"), ("flat", "flat"))
PANES: Final = ((1, "one pane"), (2, "two panes"), (3, "three panes"))
BACK: Final = (("leave", "leaves"), ("close", "closes the detail"))
DETAIL_FIRST: Final = (
    ("no", "starts with the list"),
    ("open first", "detail first: open first"),
    ("open last", "detail first: open last"),
)
WISHES: Final = tuple((each, each) for each in ("say so", "open first", "open last"))


def about_arrangement(document: Document, rule: Arrangement) -> list[Sentence]:
    """All that an arrangement decides, each as a choice in place."""
    said = [Sentence("", _first_words(document, rule))]
    said += [Sentence("", [Word("broken", f"✕ {w}: {t}")]) for w, t in arranging.faults_of(rule)]
    said.append(Sentence("Windows", _when_words(document, rule)))
    said.append(Sentence("Panes", _pane_words(document, rule)))
    for number in range(min(rule.panes, len(ORDER))):
        said.append(_width_sentence(document, rule, number))
    said.append(Sentence("Section bar", _bar_words(document, rule)))
    if rule.panes > 1 or rule.detail_first != "no":
        said += _nothing_chosen(document)
    return said + about_sides(document)


def _change(document: Document, rule: Arrangement, what: str, **changed: Any) -> None:
    made = arranging.with_arrangement(document.app, replace(rule, **changed))
    document.edit(f"{what} in {rule.title or rule.id}", made, SelectedArrangement(rule.id))


def _first_words(document: Document, rule: Arrangement) -> list[Word]:
    app = document.app
    at = app.arrangements.index(rule)

    def move(by: int) -> None:
        made = replace(app, arrangements=edits.moved(app.arrangements, at, by))
        document.edit(f"move {rule.title or rule.id}", made, SelectedArrangement(rule.id))

    def remove() -> None:
        made = arranging.without_arrangement(app, rule.id)
        document.edit(f"remove {rule.title or rule.id}", made, Selection())

    def title(text: str) -> None:
        _change(document, rule, "title", title=text.strip())

    words = [
        Word("subject", f"Rule {at + 1}"),
        Word("line", rule.title or rule.id, title, name="title of the arrangement"),
        Word("text", f"for {arranging.when_words(rule.when)}: {arranging.words_of(rule)}"),
    ]
    if at not in used_in(app.arrangements):
        words.append(Word("broken", "✕ it can never match: rules before it take every window"))
    return [
        *words,
        Word("do", "Sooner", partial(move, -1), name="ask this rule sooner"),
        Word("do", "Later", partial(move, 1), name="ask this rule later"),
        Word("do", "Remove", remove, name="remove this arrangement"),
    ]


def _when_words(document: Document, rule: Arrangement) -> list[Word]:
    words: list[Word] = []
    axes: tuple[arranging.Axis, ...] = ("width", "height")
    for axis in axes:
        sizes = arranging.range_of(rule.when, axis)
        least = f"{sizes.least:g}" if sizes.least else ""
        below = "" if sizes.below is None else f"{sizes.below:g}"
        set_range = partial(_type_range, document, rule, axis)
        words += [
            Word("text", "wide from" if axis == "width" else "high from"),
            Word("size", least, partial(set_range, "least"), name=f"least {axis}, dp"),
            Word("text", "to below"),
            Word("size", below, partial(set_range, "below"), name=f"below {axis}, dp"),
        ]
    when = Bound(rule.when, partial(_change_when, document, rule), document.refuse)
    return [
        *words,
        when.menu("shape", SHAPES, "shape"),
        when.menu("fold", FOLDS, "folded or flat"),
        *_split_words(document, rule),
    ]


def _change_when(document: Document, rule: Arrangement, what: str, **changed: Any) -> None:
    _change(document, rule, what, when=replace(rule.when, **changed))


def _split_words(document: Document, rule: Arrangement) -> list[Word]:
    """A breakpoint of its own, by typing where."""

    def split(axis: arranging.Axis, text: str) -> None:
        try:
            at = _size(text)
            if at is None:
                return
            app, made = arranging.split(document.app, rule.id, axis, at)
        except ValueError as error:
            document.failed.emit(f"{rule.title or rule.id}: {error}")
            return
        document.edit(f"split at {at:g}", app, SelectedArrangement(made.id))

    return [
        Word("text", "split at width"),
        Word("size", "", partial(split, "width"), name="split at this width, dp"),
        Word("text", "or height"),
        Word("size", "", partial(split, "height"), name="split at this height, dp"),
    ]


def _type_range(
    document: Document, rule: Arrangement, axis: arranging.Axis, end: str, text: str
) -> None:
    sizes = arranging.range_of(rule.when, axis)
    try:
        size = _size(text)
        least = (size or 0.0) if end == "least" else sizes.least
        below = size if end == "below" else sizes.below
        when = arranging.with_range(rule, axis, least, below)
    except ValueError as error:
        _refuse(document, rule, str(error))
        return
    _change(document, rule, f"{end} {axis}", when=when)


def _refuse(document: Document, rule: Arrangement, what: str) -> None:
    """Say what cannot be; what was there before stays, and stands in the strip again."""
    document.refuse(f"{rule.title or rule.id}: {what}. It stays as it was.")


def _size(text: str) -> float | None:
    """The size in dp that was typed, or none for nothing.

    Raises:
        ValueError: for anything else.
    """
    text = text.strip().removesuffix("dp").strip()
    if not text:
        return None
    try:
        size = float(text)
    except ValueError:
        raise ValueError(f'"{text}" is not a size in dp, such as 640') from None
    if not 0 <= size <= 100_000:
        raise ValueError(f"{text} dp is not a size that a window can have")
    return size


def _pane_words(document: Document, rule: Arrangement) -> list[Word]:
    change = partial(_change, document, rule)
    bound = Bound(rule, change, document.refuse)
    words = bound.one_of("panes", PANES, "{}")
    if rule.panes == 1:
        words.append(bound.toggle("over", "list over"))
        words.append(bound.menu("detail_first", DETAIL_FIRST, "what a section starts with"))
    else:
        stays = rule.first == "stays"
        turn = partial(change, "list stays", first="scrolls" if stays else "stays")
        words += [
            Word("toggle", "list stays", turn, stays),
            Word("text", "· back from list beside detail"),
            *bound.one_of("back", BACK, "back {}"),
        ]
    popover = partial(_type_popover, document, rule)
    return [
        *words,
        Word("text", "· popovers are modals below"),
        Word("size", f"{rule.popover_from:g}", popover, name="popovers are modals below, dp"),
    ]


def _type_popover(document: Document, rule: Arrangement, text: str) -> None:
    try:
        size = _size(text) or 0.0
    except ValueError as error:
        _refuse(document, rule, str(error))
        return
    _change(document, rule, "popovers", popover_from=size)


def _width_sentence(document: Document, rule: Arrangement, number: int) -> Sentence:
    """One pane's width: what is left, fixed, or a share, between a least and a most."""
    width = _widths(rule)[number]
    give = partial(_give_width, document, rule, number)
    typed = partial(_type_width, document, rule, number)
    kinds = [
        ("what is left", partial(give, "what is left", replace(width, fixed=None, share=None))),
        ("fixed", partial(give, "fixed", replace(width, fixed=300, share=None))),
        ("a share", partial(give, "a share", replace(width, fixed=None, share=0.4))),
    ]
    now = "fixed" if width.fixed is not None else "a share" if width.share is not None else ""
    name = f"width of the {ORDER[number]} pane"
    words = [Word("menu", now or kinds[0][0], name=name, options=kinds)]
    share = "" if width.share is None else f"{width.share * 100:g} %"
    for field, said, named in (
        ("fixed", _said(width.fixed), f"fixed width {number + 1}, dp"),
        ("share", share, f"share {number + 1}, %"),
    ):
        if said:
            words.append(Word("size", said, partial(typed, field), name=named))
    return Sentence(
        f"{ORDER[number].capitalize()} pane",
        [
            *words,
            Word("text", "at least"),
            Word(
                "size",
                _said(width.least or None),
                partial(typed, "least"),
                name=f"least {number + 1}, dp",
            ),
            Word("text", "at most"),
            Word("size", _said(width.most), partial(typed, "most"), name=f"most {number + 1}, dp"),
        ],
    )


def _said(size: float | None) -> str:
    return "" if size is None else f"{size:g}"


def _widths(rule: Arrangement) -> list[PaneWidth]:
    """The width of each pane, also where nothing is said of it."""
    return [*rule.widths, *[PaneWidth()] * (rule.panes - len(rule.widths))]


def _type_width(document: Document, rule: Arrangement, number: int, field: str, text: str) -> None:
    width = _widths(rule)[number]
    try:
        size = _size(text.strip().removesuffix("%"))
        if field == "share":
            size = (size or 0.0) / 100
        made = replace(width, **{field: (size or 0.0) if field == "least" else size})
    except ValueError as error:
        _refuse(document, rule, str(error))
    else:
        _give_width(document, rule, number, "width", made)


def _give_width(
    document: Document, rule: Arrangement, number: int, what: str, width: PaneWidth
) -> None:
    changed = replaced(tuple(_widths(rule)), number, width)[: rule.panes]
    fault = next(iter(arranging.faults_of(replace(rule, widths=changed))), None)
    if fault is not None and fault not in tuple(arranging.faults_of(rule)):
        _refuse(document, rule, fault[1])
        return
    _change(document, rule, what, widths=changed)


def _bar_words(document: Document, rule: Arrangement) -> list[Word]:
    change = partial(_change, document, rule)
    names = {"wide rail": "wide rail, words", "button": "behind a button"}
    words = [
        Word(
            "choice",
            names.get(bar, bar),
            partial(change, f"bar {bar}", bar=bar),
            rule.bar == bar,
            f"section bar {bar}",
        )
        for bar in BARS
    ]
    words.append(Word("text", "· in it"))
    for section in document.app.sections:
        made = edits.with_section(document.app, replace(section, in_bar=not section.in_bar))
        does = partial(document.edit, f"{section.title} in the bar", made)
        said = f"{section.title} in the section bar"
        words.append(Word("toggle", section.title, does, section.in_bar, said))
    return words


def _nothing_chosen(document: Document) -> list[Sentence]:
    """What a list does where nothing is chosen beside it."""
    said: list[Sentence] = []
    app = document.app
    for screen in app.screens:
        link = document.wired.row_links.get((screen.id, ""))
        if not isinstance(screen, ListScreen) or link is None or link.how != "beside":
            continue

        change = partial(_choose_nothing, document, screen.id)
        bound = Bound(screen, change, document.refuse)
        named = f"{screen.id}: {{}}"
        wishes = bound.one_of("nothing_chosen", WISHES, "{}", named)
        words = [Word("text", f"in {screen_words(screen)}"), *wishes]
        said.append(Sentence("" if said else "None chosen", words))
    return said


def _choose_nothing(document: Document, name: str, wish: str, **changed: Any) -> None:
    now = by_id(document.app.screens, name)
    if isinstance(now, ListScreen):
        made = edits.with_screen(document.app, replace(now, **changed))
        document.edit(f"nothing chosen in {name}: {wish}", made, document.selection)
