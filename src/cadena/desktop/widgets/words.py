"""The words of which the strip's sentences are made, and how things are called in them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Final, Literal, NamedTuple

from cadena.model.app import App, Screen, Trigger
from cadena.model.find import by_id
from cadena.model.screen_parts import label_of


def nothing(*_: object) -> None:
    """What a word does that does nothing."""


Kind = Literal[
    "subject",
    "broken",
    "text",
    "line",
    "size",
    "menu",
    "widget",
    "mend",
    "do",
    "choice",
    "toggle",
    "chip",
]
Options = Sequence[tuple[str, Callable[..., object]]]


class Word(NamedTuple):
    """One word of a sentence; ``kind`` says what control it becomes (``widget``: what it makes).

    ``role`` is how it looks, where that is not as its kind usually does; ``keys`` do the same.
    With an ``icon`` it is seen as that alone, and says its text where it is pointed at.
    A ``chip`` opens its editor where it stands: ``inside`` gives the sentences in it.
    ``about`` explains what it says, where it is pointed at and to assistive technology.
    """

    kind: Kind
    text: str
    does: Callable[..., object] = nothing
    chosen: bool | None = None
    name: str = ""
    options: Options = ()
    role: str = ""
    is_on: bool = True
    keys: str = ""
    icon: str = ""
    inside: Callable[[], list[Sentence]] | None = None
    about: str = ""


class Sentence(NamedTuple):
    """Words in a line of their own, and what they are about."""

    about: str
    words: list[Word]


class Matter(NamedTuple):
    """One thing that can be so of what is selected.

    ``lead`` are the words before its chip, ``now`` what the chip says, which is nothing where it
    is not so: then ``offer`` adds it. ``inside`` gives the sentences of its editor, ``about``
    explains it.
    """

    lead: str
    now: str
    name: str
    inside: Callable[[], list[Sentence]]
    offer: str = ""
    about: str = ""


def _no_sentences() -> list[Sentence]:
    return []


NOTHING: Final = Matter("", "", "", _no_sentences)
"""What cannot be so of what is selected."""
OFFERS: Final = "Can also"


def chip(
    text: str,
    name: str,
    inside: Callable[[], list[Sentence]],
    role: str = "chip",
    about: str = "",
) -> Word:
    """A word that opens its editor where it stands."""
    return Word("chip", text, name=name, inside=inside, role=role, about=about)


def calmly(
    first: list[Word], matters: Iterable[Matter], *lines: Sentence, act: Iterable[Word] = ()
) -> list[Sentence]:
    """What is so as one sentence of chips, further lines, and what is not so, to be added.

    What can be done with the whole of it stands at the end of the sentence. A line that says
    nothing but what could be added is offered with the rest.
    """
    words = [*first]
    offers = [word for line in lines if is_offer(line) for word in line.words]
    lines = tuple(line for line in lines if not is_offer(line))
    for matter in matters:
        if matter.now:
            lead = [Word("text", matter.lead)] if matter.lead else []
            words += [*lead, chip(matter.now, matter.name, matter.inside, "chip", matter.about)]
        elif matter is not NOTHING:
            text = f"+ {matter.offer or matter.name}"
            offers.append(chip(text, matter.name, matter.inside, "offer", matter.about))
    words += (word._replace(role="act") if word.kind == "do" else word for word in act)
    more = [Sentence(OFFERS, offers)] if offers else []
    return [Sentence("", words), *lines, *more]


def is_offer(line: Sentence) -> bool:
    """Whether all that a line says is what could be added."""
    return bool(line.words) and all(word.role == "offer" for word in line.words)


def explained(choices: Iterable[Word], abouts: Iterable[str], example: Word) -> list[Sentence]:
    """Choices, each with what it means, and the one that is made at work."""
    said = [
        Sentence("", [choice, Word("text", about)])
        for choice, about in zip(choices, abouts, strict=True)
    ]
    return [*said, Sentence("", [example])]


def one_line(words: Callable[..., list[Word]], *of: object) -> Callable[[], list[Sentence]]:
    """An editor of one sentence."""
    return lambda: [Sentence("", words(*of))]


def chips(sentences: Iterable[Sentence]) -> Iterator[Word]:
    """The words that open an editor."""
    return (word for sentence in sentences for word in sentence.words if word.inside is not None)


def all_of(sentences: Iterable[Sentence]) -> Iterator[Sentence]:
    """The sentences, and those inside their chips, however deep."""
    for sentence in sentences:
        yield sentence
        for word in chips([sentence]):
            if word.inside is not None:
                for each in all_of(word.inside()):
                    yield each if each.about else each._replace(about=word.name)


def trigger_words(app: App, trigger: Trigger) -> str:
    """A trigger in words: Huts · row; Hut · Ask the warden."""
    screen = by_id(app.screens, trigger.screen)
    what = label_of(screen, trigger) if screen is not None else trigger.part
    return f"{screen_words(screen) if screen else trigger.screen} · {what}"


def screen_words(screen: Screen) -> str:
    """A screen in words: its title, or what it is called where that is a field."""
    return screen.title if screen.title and "{" not in screen.title else screen.id.capitalize()
