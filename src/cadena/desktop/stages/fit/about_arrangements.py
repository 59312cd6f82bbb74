"""What the strip says of an arrangement: which windows it is for, and what it makes of them."""

from __future__ import annotations

from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.desktop.stages.fit.about_sides import sides_matter
from cadena.desktop.stages.fit.selected import SelectedArrangement
from cadena.desktop.widgets.bound import Bound, replaced
from cadena.desktop.widgets.words import (
    NOTHING,
    Matter,
    Sentence,
    Word,
    calmly,
    one_line,
    screen_words,
)
from cadena.engine.layout.panes import shares_given
from cadena.engine.session import sized
from cadena.model.app import Arrangement, ListScreen, PaneWidth
from cadena.model.edits import arrangements as arranging
from cadena.model.edits import wiring as edits
from cadena.model.find import by_id
from cadena.model.properties import value_words
from cadena.runs.window_plane import plane_of, used_in
from cadena.words.explained import LIVES

ORDER: Final = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth")

SHAPES: Final = ((None, "any shape"), ("portrait", "portrait"), ("landscape", "landscape"))
FOLDS: Final = ((None, "folded or flat"), ("folded", "folded"), ("flat", "flat"))
OFFERED: Final = (1, 2, 3)
"""How many panes are offered; an arrangement can have more."""


def about_arrangement(document: Document, rule: Arrangement) -> list[Sentence]:
    """All that an arrangement decides, as one sentence; each chip decides one thing of it."""
    faults = [Sentence("", [Word("broken", f"✕ {w}: {t}")]) for w, t in arranging.faults_of(rule)]
    first, matters = _first_words(document, rule), _matters(document, rule)
    return calmly(first, matters, *faults, act=_order_words(document, rule))


def _matters(document: Document, rule: Arrangement) -> list[Matter]:
    bound = Bound(rule, partial(_change, document, rule), document.refuse)
    widths = [arranging.width_words(each) or "the rest" for each in _widths(rule)]
    title = rule.title or rule.id
    windows = partial(_when_sentences, document, rule)
    split = partial(_split_sentences, document, rule)
    matters = [
        Matter(
            "", "", "title of the rule", one_line(_title_words, document, rule), "another title"
        ),
        bound.matter("when", arranging.when_words(rule.when), windows),
        Matter("", "", "splitting it", split, f"split {title}"),
        bound.matter(
            "panes", arranging.panes_words(rule.panes), partial(_pane_sentences, document, rule)
        ),
    ]
    if rule.panes == 1:
        matters += [bound.chosen("detail_first", usual="no"), bound.on("over", "list over")]
    else:
        said = " and ".join(widths) if rule.widths else ""
        each = partial(_width_sentences, document, rule)
        stays = "the list stays" if rule.first == "stays" else ""
        matters += [
            bound.chosen("lie", control="panes lie {}"),
            bound.matter("widths", said, each),
            *_shares_missed(document, rule),
            *_divider_matters(bound),
            bound.matter("first", stays, one_line(_stay_words, document, rule)),
            bound.chosen("back", control="back {}"),
        ]
    popovers = f"{rule.popover_from:g} dp"
    matters += [
        bound.matter("bar", value_words(rule, "bar"), partial(_bar_sentences, document, rule)),
        bound.matter("popover_from", popovers, one_line(_popover_words, document, rule)),
    ]
    if rule.panes > 1 or rule.detail_first != "no":
        matters.append(_nothing_chosen(document))
    return [*matters, sides_matter(document)]


def _divider_matters(bound: Bound) -> list[Matter]:
    """Whether people drag the dividers, and how long it is kept where they leave them."""
    found = [bound.chosen("dividers", usual="fixed")]
    if bound.of.dividers != "fixed":
        found.append(bound.chosen("keep", control="kept {}", values=LIVES))
    return found


def _shares_missed(document: Document, rule: Arrangement) -> list[Matter]:
    """The shares that come instead of those asked for, in the smallest window of the rule."""
    at = document.app.arrangements.index(rule)
    size = plane_of(document.app.arrangements).size_in(at)
    pairs = () if size is None else shares_given(rule, sized(*size))
    if not pairs or size is None:
        return []
    came = " and ".join(f"{each * 100:.3g} %" for _, each in pairs)
    said = f"{came} where it is {size[0]:g} × {size[1]:g}"
    return [
        Matter(
            "which comes as", said, "shares that come", partial(_width_sentences, document, rule)
        )
    ]


def _change(document: Document, rule: Arrangement, what: str, **changed: Any) -> None:
    made = arranging.with_arrangement(document.app, replace(rule, **changed))
    document.edit(f"{what} in {rule.title or rule.id}", made, SelectedArrangement(rule.id))


def _first_words(document: Document, rule: Arrangement) -> list[Word]:
    at = document.app.arrangements.index(rule)
    words = [Word("subject", f"Rule {at + 1}"), Word("text", rule.title or rule.id)]
    if at not in used_in(document.app.arrangements):
        words.append(Word("broken", "✕ it can never match: rules before it take every window"))
    return words


def _order_words(document: Document, rule: Arrangement) -> list[Word]:
    app = document.app
    at = app.arrangements.index(rule)

    def move(by: int) -> None:
        made = replace(app, arrangements=edits.moved(app.arrangements, at, by))
        document.edit(f"move {rule.title or rule.id}", made, SelectedArrangement(rule.id))

    def remove() -> None:
        made = arranging.without_arrangement(app, rule.id)
        document.edit(f"remove {rule.title or rule.id}", made, Selection())

    return [
        Word("do", "Sooner", partial(move, -1), name="ask this rule sooner"),
        Word("do", "Later", partial(move, 1), name="ask this rule later"),
        Word("do", "Remove", remove, name="remove this arrangement"),
    ]


def _title_words(document: Document, rule: Arrangement) -> list[Word]:
    def title(text: str) -> None:
        _change(document, rule, "title", title=text.strip())

    return [Word("line", rule.title or rule.id, title, name="title of the arrangement")]


def _when_sentences(document: Document, rule: Arrangement) -> list[Sentence]:
    said = []
    axes: tuple[arranging.Axis, ...] = ("width", "height")
    for axis in axes:
        sizes = arranging.range_of(rule.when, axis)
        least = f"{sizes.least:g}" if sizes.least else ""
        below = "" if sizes.below is None else f"{sizes.below:g}"
        typed = partial(_type_range, document, rule, axis)
        words = [
            Word("text", "from"),
            Word("size", least, partial(typed, "least"), name=f"least {axis}, dp"),
            Word("text", "to below"),
            Word("size", below, partial(typed, "below"), name=f"below {axis}, dp"),
            Word("text", "dp"),
        ]
        said.append(Sentence("Wide" if axis == "width" else "High", words))
    when = Bound(rule, partial(_change, document, rule), document.refuse).inner("when")
    more = [when.menu("shape", SHAPES, "shape"), when.menu("fold", FOLDS, "folded or flat")]
    return [*said, Sentence("Shape", more)]


def _split_sentences(document: Document, rule: Arrangement) -> list[Sentence]:
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

    axes: tuple[arranging.Axis, ...] = ("width", "height")
    return [
        Sentence(
            f"At {axis}",
            [Word("size", "", partial(split, axis), name=f"split at this {axis}, dp")],
        )
        for axis in axes
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


def _pane_sentences(document: Document, rule: Arrangement) -> list[Sentence]:
    bound = Bound(rule, partial(_change, document, rule), document.refuse)
    shares = [each.share for each in rule.widths[: rule.panes]]
    said = "/".join(f"{each * 100:g}" for each in shares if each is not None)
    typed = Word("line", said, partial(_type_shares, document, rule), name="shares of the panes")
    hint = Word("text", "such as 30/70, in %")
    offered = [(n, arranging.panes_words(n)) for n in sorted({*OFFERED, rule.panes})]
    return [
        Sentence("", bound.one_of("panes", values=offered)),
        Sentence("Shares", [typed, hint]),
    ]


def _type_shares(document: Document, rule: Arrangement, text: str) -> None:
    """As many panes as shares are typed, each of its share."""
    try:
        shares = [float(each.strip().removesuffix("%")) / 100 for each in text.split("/")]
    except ValueError:
        _refuse(document, rule, f'"{text}" is not shares in %, such as 30/70')
        return
    if not 2 <= len(shares) <= len(ORDER) or min(shares) <= 0 or sum(shares) > 1 + 1e-9:
        _refuse(document, rule, f"{text}: two to eight shares over 0, of 100 % in all, were wanted")
        return
    widths = tuple(PaneWidth(share=each) for each in shares)
    _change(document, rule, "shares", panes=len(shares), widths=widths)


def _stay_words(document: Document, rule: Arrangement) -> list[Word]:
    stays = rule.first == "stays"
    turn = partial(_change, document, rule, "list stays", first="scrolls" if stays else "stays")
    return [Word("toggle", "list stays", turn, stays)]


def _popover_words(document: Document, rule: Arrangement) -> list[Word]:
    popover = partial(_type_popover, document, rule)
    return [
        Word("size", f"{rule.popover_from:g}", popover, name="popovers are modals below, dp"),
        Word("text", "dp"),
    ]


def _type_popover(document: Document, rule: Arrangement, text: str) -> None:
    try:
        size = _size(text) or 0.0
    except ValueError as error:
        _refuse(document, rule, str(error))
        return
    _change(document, rule, "popovers", popover_from=size)


def _width_sentences(document: Document, rule: Arrangement) -> list[Sentence]:
    return [
        _width_sentence(document, rule, number) for number in range(min(rule.panes, len(ORDER)))
    ]


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
    size = "height" if rule.lie == "down" else "width"
    name = f"{size} of the {ORDER[number]} pane"
    words = [Word("menu", now or kinds[0][0], name=name, options=kinds)]
    share = "" if width.share is None else f"{width.share * 100:g} %"
    for field, said, named in (
        ("fixed", _size_words(width.fixed), f"fixed {size} {number + 1}, dp"),
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
                _size_words(width.least or None),
                partial(typed, "least"),
                name=f"least {number + 1}, dp",
            ),
            Word("text", "at most"),
            Word(
                "size",
                _size_words(width.most),
                partial(typed, "most"),
                name=f"most {number + 1}, dp",
            ),
        ],
    )


def _size_words(size: float | None) -> str:
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


def _bar_sentences(document: Document, rule: Arrangement) -> list[Sentence]:
    bound = Bound(rule, partial(_change, document, rule), document.refuse)
    words = bound.one_of("bar", "bar {value}", "section bar {value}")
    inside = []
    for section in document.app.sections:
        made = edits.with_section(document.app, replace(section, in_bar=not section.in_bar))
        does = partial(document.edit, f"{section.title} in the bar", made)
        said = f"{section.title} in the section bar"
        inside.append(Word("toggle", section.title, does, section.in_bar, said))
    return [Sentence("", words), Sentence("In it", inside)]


def _nothing_chosen(document: Document) -> Matter:
    """What a list does where nothing is chosen beside it."""
    said: list[Sentence] = []
    now: list[str] = []
    app = document.app
    for screen in app.screens:
        link = document.wired.row_links.get((screen.id, ""))
        if not isinstance(screen, ListScreen) or link is None or link.how != "beside":
            continue

        change = partial(_choose_nothing, document, screen.id)
        bound = Bound(screen, change, document.refuse)
        named = f"{screen.id}: {{}}"
        wishes = bound.one_of("nothing_chosen", "{}", named)
        said.append(Sentence(screen_words(screen), wishes))
        now.append(screen.nothing_chosen)
    if not said:
        return NOTHING
    words = ", ".join(dict.fromkeys(now))
    return Matter("nothing chosen:", words, "where nothing is chosen", lambda: said)


def _choose_nothing(document: Document, name: str, wish: str, **changed: Any) -> None:
    now = by_id(document.app.screens, name)
    if isinstance(now, ListScreen):
        made = edits.with_screen(document.app, replace(now, **changed))
        document.edit(f"nothing chosen in {name}: {wish}", made, document.selection)
