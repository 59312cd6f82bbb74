"""What the strip says of a link's transition: what flies where, for how long, what comes later."""

from __future__ import annotations

from functools import partial

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedLink
from cadena.desktop.stages.link.time_line import TimeLine, why_still
from cadena.desktop.widgets.bound import matter_of
from cadena.desktop.widgets.words import NOTHING, Matter, Sentence, Word
from cadena.model.app import (
    MOST_DURATION,
    DetailScreen,
    Link,
    Pair,
    Slot,
    Transition,
)
from cadena.model.blocks import PictureBlock
from cadena.model.edits.wiring import with_link
from cadena.model.find import by_id
from cadena.model.screen_parts import elements_of, slots_from


def transition_matter(document: Document, link: Link) -> Matter:
    """The transition of a link from a row, or a fact, to a detail; other links have none."""
    target = by_id(document.app.screens, link.to)
    screen = by_id(document.app.screens, link.trigger.screen)
    slots = slots_from(screen, link.trigger)
    if not slots or not isinstance(target, DetailScreen):
        return NOTHING
    transition = link.transition
    now = ""
    if transition is not None:
        pairs = ", ".join(f"{each.slot} → {each.element}" for each in transition.pairs)
        now = f"{pairs or 'nothing'} in {transition.duration} ms"
    inside = partial(_about_transition, document, link, slots, target)
    offer = f"let the {link.trigger.on} fly into it"
    return matter_of(Link, "transition", now, inside)._replace(offer=offer)


def _about_transition(
    document: Document, link: Link, slots: tuple[Slot, ...], target: DetailScreen
) -> list[Sentence]:
    transition = link.transition
    if transition is None:
        made = first_transition(slots, target)
        add = partial(_change, document, link, made, "a transition")
        words = [
            Word("text", "at once"),
            Word("do", f"+ let the {link.trigger.on} fly into it", add),
        ]
        return [Sentence("Moves", words)]
    said = [Sentence("Moves", _pair_words(document, link, transition, slots, target))]
    said.append(Sentence("Fades in", _fade_words(document, link, transition, target)))
    line = Word("widget", "", lambda: TimeLine(document, link))
    still = why_still(document, link)
    said.append(Sentence("Time", [line, *([Word("text", still)] if still else [])]))
    return said


def first_transition(slots: tuple[Slot, ...], target: DetailScreen) -> Transition:
    """The pairs that anybody would make: picture with picture, title with title."""
    pairs = []
    picture = next((e.id for e in target.blocks if isinstance(e, PictureBlock)), "")
    if "picture" in slots and picture:
        pairs.append(Pair(slot="picture", element=picture))
    pairs.append(Pair(slot="title", element="title"))
    return Transition(pairs=tuple(pairs))


def _change(document: Document, link: Link, made: Transition | None, what: str) -> None:
    changed = replace(link, transition=made)
    selection = SelectedLink(link.id)
    document.edit(what, with_link(document.app, changed), selection)


def _pair_words(
    document: Document,
    link: Link,
    transition: Transition,
    slots: tuple[Slot, ...],
    target: DetailScreen,
) -> list[Word]:
    words: list[Word] = []
    for number, pair in enumerate(transition.pairs):
        rest = transition.pairs[:number] + transition.pairs[number + 1 :]
        drop = partial(_change, document, link, replace(transition, pairs=rest), "one pair less")
        said = f"{pair.slot} → {pair.element}"
        words += [Word("text", said), Word("do", "✕", drop, name=f"do not pair {said}")]
    options = []
    taken = {each.slot for each in transition.pairs}
    for slot in slots:
        for element in elements_of(target):
            if slot not in taken:
                pairs = (*transition.pairs, Pair(slot=slot, element=element))
                add = partial(_change, document, link, replace(transition, pairs=pairs), "a pair")
                options.append((f"{slot} → {element}", add))
    if options:
        words.append(Word("menu", "+ pair", name="pair another element", options=options))
    words += [
        Word("text", "takes"),
        Word(
            "size",
            str(transition.duration),
            partial(_type_duration, document, link, transition),
            name="how long it takes, ms",
        ),
        Word("text", "ms"),
        Word("do", "At once", partial(_change, document, link, None, "no transition")),
    ]
    return words


def _type_duration(document: Document, link: Link, transition: Transition, text: str) -> None:
    ms = _ms(document, text)
    if ms is not None:
        _change(document, link, replace(transition, duration=ms), "how long it takes")


def _ms(document: Document, text: str) -> int | None:
    plain = text.strip().removesuffix("ms").strip()
    if plain.isdigit() and int(plain) <= MOST_DURATION:
        return int(plain)
    document.refuse(f'"{text}" is not a time: 0 to {MOST_DURATION} ms is. It stays as it was.')
    return None


def _fade_words(
    document: Document, link: Link, transition: Transition, target: DetailScreen
) -> list[Word]:
    words: list[Word] = []

    def type_delay(name: str, text: str) -> None:
        ms = _ms(document, text)
        if ms is not None:
            fades = {**transition.fades, name: ms}
            _change(document, link, replace(transition, fades=fades), f"when {name} fades in")

    for name, delay in transition.fades.items():
        rest = {each: at for each, at in transition.fades.items() if each != name}
        drop = partial(_change, document, link, replace(transition, fades=rest), "one fade less")
        words += [
            Word("text", f"{name} after"),
            Word("size", str(delay), partial(type_delay, name), name=f"{name} fades in after, ms"),
            Word("text", "ms"),
            Word("do", "✕", drop, name=f"{name} does not wait"),
        ]
    paired = {each.element for each in transition.pairs}
    options = []
    for element in elements_of(target):
        if element not in transition.fades and element not in paired:
            fades = {**transition.fades, element: transition.duration // 3}
            add = partial(_change, document, link, replace(transition, fades=fades), "a fade")
            options.append((element, add))
    if options:
        words.append(Word("menu", "+ later", name="let an element come later", options=options))
    return words or [Word("text", "with the rest")]
