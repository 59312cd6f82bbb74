"""What the strip says of an arrangement: which windows it is for, and what it makes of them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.desktop.stages.fit.about_sides import about_sides
from cadena.desktop.stages.fit.selected import SelectedArrangement
from cadena.desktop.widgets.words import Sentence, Word, screen_words
from cadena.model.app import Arrangement, ListScreen, PaneWidth
from cadena.model.edits import arrangements as arranging
from cadena.model.edits import wiring as edits
from cadena.model.find import by_id
from cadena.runs.window_plane import used_in

BARS: Final = ("bottom", "rail", "wide rail", "top", "button", "none")
ORDER: Final = ("first", "second", "third")


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
    change = partial(_change, document, rule)
    shapes = [
        (text, partial(change, "shape", when=replace(rule.when, shape=shape)))
        for text, shape in (
            ("any shape", None),
            ("portrait", "portrait"),
            ("landscape", "landscape"),
        )
    ]
    folds = [
        (text, partial(change, "fold", when=replace(rule.when, fold=fold)))
        for text, fold in (("folded or flat", None), ("folded", "folded"), ("flat", "flat"))
    ]
    return [
        *words,
        Word("menu", rule.when.shape or "any shape", name="shape", options=shapes),
        Word("menu", rule.when.fold or "folded or flat", name="folded or flat", options=folds),
        *_split_words(document, rule),
    ]


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
    words = [
        Word("choice", text, partial(change, text, panes=n + 1), rule.panes == n + 1, text)
        for n, text in enumerate(("one pane", "two panes", "three panes"))
    ]
    if rule.panes == 1:
        slide = partial(change, "list over", over=not rule.over)
        words.append(Word("toggle", "list over", slide, rule.over))
        options = [
            (text, partial(change, "detail first", detail_first=value))
            for text, value in (
                ("starts with the list", "no"),
                ("detail first: open first", "open first"),
                ("detail first: open last", "open last"),
            )
        ]
        now = {"no": "starts with the list"}.get(
            rule.detail_first, f"detail first: {rule.detail_first}"
        )
        words.append(Word("menu", now, name="what a section starts with", options=options))
    else:
        stays = rule.first == "stays"
        first = "scrolls" if stays else "stays"
        words.append(
            Word("toggle", "list stays", partial(change, "list stays", first=first), stays)
        )
        words.append(Word("text", "· back from list beside detail"))
        words += [
            Word("choice", text, partial(change, f"back {value}", back=value), rule.back == value)
            for text, value in (("leaves", "leave"), ("closes the detail", "close"))
        ]
    popover = partial(_type_popover, document, rule)
    words += [
        Word("text", "· popovers are modals below"),
        Word("size", f"{rule.popover_from:g}", popover, name="popovers are modals below, dp"),
    ]
    return words


def _type_popover(document: Document, rule: Arrangement, text: str) -> None:
    try:
        size = _size(text) or 0.0
    except ValueError as error:
        _refuse(document, rule, str(error))
        return
    _change(document, rule, "popovers", popover_from=size)


def _width_sentence(document: Document, rule: Arrangement, number: int) -> Sentence:
    """One pane's width: what is left, fixed, or a share, between a least and a most."""
    widths = [*rule.widths, *[PaneWidth()] * (rule.panes - len(rule.widths))]
    width = widths[number]

    def give(what: str, made: PaneWidth) -> None:
        changed = tuple([*widths[:number], made, *widths[number + 1 :]][: rule.panes])
        tried = replace(rule, widths=changed)
        fault = next(iter(arranging.faults_of(tried)), None)
        if fault is not None and fault not in tuple(arranging.faults_of(rule)):
            _refuse(document, rule, fault[1])
            return
        _change(document, rule, what, widths=changed)

    def typed(of: Callable[[float | None], PaneWidth], text: str) -> None:
        try:
            give("width", of(_size(text)))
        except ValueError as error:
            _refuse(document, rule, str(error))

    def share(text: str) -> None:
        plain = text.strip().removesuffix("%").strip()
        typed(lambda size: replace(width, share=(size or 0.0) / 100), plain)

    kinds = [
        ("what is left", partial(give, "what is left", replace(width, fixed=None, share=None))),
        ("fixed", partial(give, "fixed", replace(width, fixed=300, share=None))),
        ("a share", partial(give, "a share", replace(width, fixed=None, share=0.4))),
    ]
    now = "fixed" if width.fixed is not None else "a share" if width.share is not None else ""
    words = [
        Word("menu", now or kinds[0][0], name=f"width of the {ORDER[number]} pane", options=kinds)
    ]
    if width.fixed is not None:
        fixed = partial(typed, lambda size: replace(width, fixed=size))
        words.append(Word("size", f"{width.fixed:g}", fixed, name=f"fixed width {number + 1}, dp"))
    elif width.share is not None:
        words.append(Word("size", f"{width.share * 100:g} %", share, name=f"share {number + 1}, %"))
    least = partial(typed, lambda size: replace(width, least=size or 0.0))
    most = partial(typed, lambda size: replace(width, most=size))
    words += [
        Word("text", "at least"),
        Word(
            "size", f"{width.least:g}" if width.least else "", least, name=f"least {number + 1}, dp"
        ),
        Word("text", "at most"),
        Word(
            "size",
            "" if width.most is None else f"{width.most:g}",
            most,
            name=f"most {number + 1}, dp",
        ),
    ]
    return Sentence(f"{ORDER[number].capitalize()} pane", words)


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

        def choose(wish: Any, screen: ListScreen = screen) -> None:
            now = by_id(document.app.screens, screen.id)
            if isinstance(now, ListScreen):
                made = edits.with_screen(document.app, replace(now, nothing_chosen=wish))
                document.edit(f"nothing chosen in {screen.id}: {wish}", made, document.selection)

        words = [Word("text", f"in {screen_words(screen)}")]
        words += [
            Word(
                "choice",
                wish,
                partial(choose, wish),
                screen.nothing_chosen == wish,
                f"{screen.id}: {wish}",
            )
            for wish in ("say so", "open first", "open last")
        ]
        said.append(Sentence("" if said else "None chosen", words))
    return said
