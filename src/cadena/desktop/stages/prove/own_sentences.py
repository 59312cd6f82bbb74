"""A claim of a person's own, as a sentence whose words can be changed."""

from __future__ import annotations

from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.desktop.stages.prove.selected import SelectedClaim
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.words import (
    Sentence,
    Word,
    calmly,
    nothing,
    one_line,
    screen_words,
)
from cadena.model.app import App
from cadena.model.claims import OwnClaim, Situation
from cadena.model.find import unused
from cadena.model.properties import value_words
from cadena.model.values import LIST, Unfit, Value, carry, shown

TO_LEAVE: Final = "backs to leave"


def new_claim(document: Document) -> None:
    """One more claim of a person's own, which says nothing yet."""
    name = unused("claim", [each.id for each in document.app.claims])
    made = OwnClaim(id=name, so=Situation(backs=None))
    app = replace(document.app, claims=(*document.app.claims, made))
    document.edit("a claim", app, SelectedClaim(name))


def about_own(document: Document, claim: OwnClaim) -> list[Sentence]:
    """A claim: what it says, where, and how it can be made to say something else."""

    def change(what: str, **changed: Any) -> None:
        made = replace(claim, **changed)
        claims = tuple(made if each.id == claim.id else each for each in document.app.claims)
        app = replace(document.app, claims=claims)
        document.edit(f"{what} of {claim.id}", app, SelectedClaim(claim.id))

    gone = Word("do", "Remove", partial(_remove, document, claim), name="remove this claim")
    bound = Bound(claim, change, document.refuse)
    so, when = partial(_so, change), partial(_when, change)
    matters = [
        bound.matter("says", value_words(claim, "says"), one_line(_says, document, bound)),
        bound.matter(
            "so", _in_short(document, claim.so), one_line(_situation, document, claim.so, so)
        ),
        bound.matter(
            "when",
            _in_short(document, claim.when),
            one_line(_situation, document, claim.when, when),
        ),
    ]
    return calmly([Word("subject", "Claim")], matters, act=[gone])


def _in_short(document: Document, situation: Situation) -> str:
    """What is asked for, in few words: what the editor says, without its controls."""
    parts: list[str] = []
    for word in _situation(document, situation, nothing):
        if word.kind == "size" or word.text == TO_LEAVE:
            parts[-1] += f" {word.text}"
        elif word.kind == "text":
            parts.append(word.text)
    return " and ".join(parts)


def _says(document: Document, bound: Bound) -> list[Word]:
    says = bound.one_of("says", "what it says")
    if bound.of.says == "after":
        links = [(link.id, link.id) for link in document.app.links]
        now, what = bound.of.after or "which link", "after which link"
        says.append(bound.menu("after", links, "after which", now, what))
    return says


def _so(change: Any, what: str, situation: Situation) -> None:
    change(what, so=situation)


def _when(change: Any, what: str, situation: Situation) -> None:
    change(what, when=situation)


def _remove(document: Document, claim: OwnClaim) -> None:
    left = tuple(each for each in document.app.claims if each.id != claim.id)
    document.edit(f"remove {claim.id}", replace(document.app, claims=left), Selection())


def _situation(document: Document, situation: Situation, take: Any) -> list[Word]:
    """What is asked for, each with a way to let go of it, and what more can be asked for."""
    app = document.app
    words: list[Word] = []
    for field, said in (("shows", "shows"), ("hides", "does not show")):
        for name in getattr(situation, field):
            words.append(Word("text", f"it {said} {_screen(app, name)}"))
            rest = tuple(each for each in getattr(situation, field) if each != name)
            words.append(_without(f"{said} {name}", situation, take, **{field: rest}))
    if situation.arrangement:
        words.append(Word("text", f"the window is of {situation.arrangement}"))
        words.append(_without("window", situation, take, arrangement=""))
    if situation.section:
        words.append(Word("text", f"section {situation.section} is shown"))
        words.append(_without("section", situation, take, section=""))
    for name, value in situation.arguments.items():
        others = {each: of for each, of in situation.arguments.items() if each != name}
        words.append(Word("text", f"{name} is"))
        put = partial(_argument, document, situation, take, name)
        words.append(Word("size", shown(value), put, name=f"what {name} is"))
        words.append(_without(name, situation, take, arguments=others))
    for name, value in situation.values.items():
        others = {each: of for each, of in situation.values.items() if each != name}
        words.append(Word("text", f"app-wide {name} is"))
        put = partial(_value, document, situation, take, name)
        words.append(Word("size", shown(value), put, name=f"what app-wide {name} is"))
        words.append(_without(f"app-wide {name}", situation, take, values=others))
    if situation.backs is not None:
        words.append(Word("text", "it takes at most"))
        backs = partial(_backs, document, situation, take)
        words.append(Word("size", str(situation.backs), backs, name="how many backs"))
        words.append(Word("text", TO_LEAVE))
        words.append(_without("backs", situation, take, backs=None))
    more = _more(document, situation, take)
    return [*words, Word("menu", "+ what is so", name="ask for more", options=more)]


def _without(what: str, situation: Situation, take: Any, **changed: Any) -> Word:
    does = partial(take, what, replace(situation, **changed))
    return Word("do", "✕", does, name=f"do not ask for {what}")


def _more(document: Document, situation: Situation, take: Any) -> list[tuple[str, Any]]:
    app = document.app
    options: list[tuple[str, Any]] = []
    for field, said in (("shows", "shows"), ("hides", "does not show")):
        for screen in app.screens:
            has = getattr(situation, field)
            if screen.id not in has:
                made = replace(situation, **{field: (*has, screen.id)})
                options.append((f"it {said} {screen_words(screen)}", partial(take, said, made)))
    if situation.backs is None:
        options.append(
            ("it takes at most 3 backs to leave", partial(take, "backs", _with(situation, backs=3)))
        )
    for arrangement in app.arrangements:
        made = _with(situation, arrangement=arrangement.id)
        words = f"the window is of {arrangement.title or arrangement.id}"
        options.append((words, partial(take, "window", made)))
    for section in app.sections:
        made = _with(situation, section=section.id)
        options.append((f"section {section.title} is shown", partial(take, "section", made)))
    for value in app.values:
        if value.id not in situation.values:
            made = _with(situation, values={**situation.values, value.id: ""})
            options.append((f"app-wide {value.id} is …", partial(take, value.id, made)))
    for name in dict.fromkeys(each.name for screen in app.screens for each in screen.parameters):
        if name not in situation.arguments:
            made = _with(situation, arguments={**situation.arguments, name: ""})
            options.append((f"{name} is …", partial(take, name, made)))
    return options


def _with(situation: Situation, **changed: Any) -> Situation:
    return replace(situation, **changed)


def _argument(document: Document, situation: Situation, take: Any, name: str, text: str) -> None:
    parameters = (each for screen in document.app.screens for each in screen.parameters)
    kind = next((each.type for each in parameters if each.name == name), "text")
    value = _read(document, text, kind)
    if value is not None:
        take(name, _with(situation, arguments={**situation.arguments, name: value}))


def _value(document: Document, situation: Situation, take: Any, name: str, text: str) -> None:
    kind = next((each.type for each in document.app.values if each.id == name), "text")
    value = _read(document, text, kind)
    if value is not None:
        take(name, _with(situation, values={**situation.values, name: value}))


def _read(document: Document, text: str, kind: str) -> Value | None:
    """What was typed, as a value of a type; what cannot be is said."""
    try:
        if kind.startswith(LIST):
            parts = (each.strip() for each in text.split(","))
            values = [carry(each, kind[len(LIST) :], convert=True) for each in parts if each]
            return tuple(each for each in values if not isinstance(each, tuple))
        return carry(text, kind, convert=True)
    except Unfit as unfit:
        document.refuse(str(unfit))
        return None


def _backs(document: Document, situation: Situation, take: Any, text: str) -> None:
    if not text.strip().isdecimal():
        document.refuse(f'"{text}" came, a whole number was wanted. It stays as it was.')
    else:
        take("backs", _with(situation, backs=int(text)))


def _screen(app: App, name: str) -> str:
    return next((screen_words(each) for each in app.screens if each.id == name), name)
