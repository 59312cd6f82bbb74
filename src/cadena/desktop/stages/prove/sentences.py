"""What Prove's strip says: what breaks a claim, its walk, a mend, and what is set aside."""

from __future__ import annotations

from functools import partial
from typing import Final

from cadena.check.proof_in_words import answer_of, in_columns, unfinished, what_of
from cadena.desktop.document import walks
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.lit import Lit
from cadena.desktop.document.proven import Proven
from cadena.desktop.document.selection import SelectedLink, SelectedScreen, SelectedWalk
from cadena.desktop.stages.prove.own_sentences import about_own, new_claim
from cadena.desktop.stages.prove.selected import SelectedClaim, SelectedReach
from cadena.desktop.widgets.words import Matter, Sentence, Word, calmly
from cadena.model.find import by_id
from cadena.model.naming import many
from cadena.model.problem import Problem
from cadena.runs.prove.causes import Cause, events_of, thing_of
from cadena.runs.prove.mend import claimed_again, mended, set_aside
from cadena.runs.prove.prove import Answered, Proof
from cadena.runs.walks.recording import write_walk

MOST: Final = 8


def of(document: Document) -> list[Sentence]:
    """The sentences of the claim, the cause or the reach that is selected."""
    proof = document.own(Proven).proof
    selection = document.selection
    add = Word("do", "+ claim", partial(new_claim, document), name="a claim of your own")
    if proof is None:
        words = [Word("subject", "Not looked at yet"), Word("text", "the app is being explored")]
        return [Sentence("", [*words, add])]
    if isinstance(selection, SelectedReach):
        return about_reach(document, proof, selection.where)
    claim = selection.claim if isinstance(selection, SelectedClaim) else ""
    own = by_id(document.app.claims, claim)
    said = [] if own is None else about_own(document, own)
    answered = answered_of(proof, selection)
    if answered is None:
        return said or _in_all(document, proof, add)
    cause = cause_of(answered, selection)
    if cause is not None:
        said += about_cause(document, proof, answered, cause)
    else:
        words = [Word("subject", answered.claim.words), Word("text", answer_of(proof, answered))]
        said.append(Sentence("", words))
    said += [_aside(document, answered, where, why) for where, why in answered.aside]
    others = [each for each in answered.causes if each is not cause][:MOST]
    if others:
        shows = [_show(document, answered, each) for each in others]
        said.append(Sentence("Also broken by", shows))
    return said


def answered_of(proof: Proof, selection: object) -> Answered | None:
    """The claim that is selected."""
    if not isinstance(selection, SelectedClaim):
        return None
    return next((each for each in proof.claims if each.claim.name == selection.claim), None)


def cause_of(answered: Answered, selection: object) -> Cause | None:
    """The cause that is selected, or the first of the claim's."""
    where = selection.where if isinstance(selection, SelectedClaim) else ""
    named = (each for each in answered.causes if each.where == where)
    return next(named, next(iter(answered.causes), None))


def cause_selected(document: Document) -> Cause | None:
    """The cause that is selected, if there is one."""
    proof = document.own(Proven).proof
    answered = None if proof is None else answered_of(proof, document.selection)
    return None if answered is None else cause_of(answered, document.selection)


def _in_all(document: Document, proof: Proof, add: Word) -> list[Sentence]:
    broken = proof.broken
    count = f"{many(len(broken), 'claim')} {'is' if len(broken) == 1 else 'are'} broken"
    words = [Word("subject", count if broken else "Nothing is broken"), add]
    if not broken:
        words.insert(1, Word("text", "choose a claim, or make one of your own"))
    said = [Sentence("", words)]
    for proven in broken[:MOST]:
        cause = proven.causes[0]
        line = [Word("broken", f"✕ {proven.claim.words}: {what_of(cause)}")]
        said.append(Sentence("", [*line, _show(document, proven, cause, "Show")]))
    said += [Sentence("", [Word("text", each)]) for each in unfinished(proof)]
    return said


def _show(document: Document, answered: Answered, cause: Cause, text: str = "") -> Word:
    choose = partial(document.select, SelectedClaim(answered.claim.name, cause.where))
    return Word("do", text or cause.where, choose, name=f"show {answered.claim.name} {cause.where}")


def about_cause(
    document: Document, proof: Proof, answered: Answered, cause: Cause
) -> list[Sentence]:
    """A cause: where, in which windows, in how many events; and what can be done."""
    events = len(list(events_of(cause.walk)))
    far = many(events, "event") if events else "no walk leads there"
    head = [
        Word("subject", answered.claim.words),
        Word("broken", f"✕ {what_of(cause)}"),
        Word("text", f"{in_columns(proof, cause)}; {far}"),
    ]
    act: list[Word] = []
    made = mended(document.app, document.types, cause)
    if made is not None:
        mend = partial(document.edit, made.words.lower(), made.app, document.selection)
        act.append(Word("mend", made.words, mend, name=made.words.lower()))
    act += _of_walk(document, answered, cause)
    act.append(_to_thing(document, cause))
    aside = partial(_set_aside, document, cause)
    line = Word("line", "", aside, name="why it is not claimed here")
    inside = lambda: [Sentence("Because", [line])]  # noqa: E731
    set_aside = Matter("", "", "setting it aside", inside, "not claimed there, because…")
    return calmly(head, [set_aside], act=[each for each in act if each.text or each.name])


def _of_walk(document: Document, answered: Answered, cause: Cause) -> list[Word]:
    if not cause.walk:
        return []
    return [
        Word("do", "Play it on the Bench", partial(play, document, cause), name="play the walk"),
        Word(
            "do",
            "Keep it as a walk",
            partial(keep, document, answered, cause),
            name="keep it as a walk",
        ),
    ]


def _to_thing(document: Document, cause: Cause) -> Word:
    """Leads to the link or the screen of a cause, where it is wired."""
    thing, name = thing_of(cause.where)
    if thing == "links" and by_id(document.app.links, name) is not None:
        go = partial(_go, document, SelectedLink(name))
        return Word("do", "Show it on the board", go, name="show it on the board")
    if thing == "screens" and by_id(document.app.screens, name) is not None:
        go = partial(_go, document, SelectedScreen(name))
        return Word("do", "Show it on the board", go, name="show it on the board")
    return Word("text", cause.where)


def _go(document: Document, selection: SelectedLink | SelectedScreen) -> None:
    document.show_stage("Link")
    document.select(selection)


def play(document: Document, cause: Cause) -> None:
    """Let the walk of a cause happen on the Bench, in its own window."""
    document.play_events(events_of(cause.walk), cause.window or document.session.window)


def keep(document: Document, answered: Answered, cause: Cause) -> None:
    """Keep the walk of a cause among those of the project: it fails until that is mended."""
    folder = walks.folder_of(document)
    if folder is None or cause.window is None:
        return
    base = f"{answered.claim.name} {cause.where.partition('[')[2].partition(']')[0]}".strip()
    there = set(walks.names(document))
    numbers = (f"{base} {number}" if number > 1 else base for number in range(1, len(there) + 2))
    name = next(each for each in numbers if walks.slug_of(each) not in there)
    window = cause.window
    try:
        first = walks.in_window(window)
        file = write_walk(folder, name, (first, *cause.walk))
    except Problem as problem:
        document.refuse(str(problem))
        return
    document.select(SelectedWalk(file.stem))


def _set_aside(document: Document, cause: Cause, why: str) -> None:
    if why.strip():
        made = set_aside(document.app, cause, why.strip())
        document.edit(f"set {cause.claim} aside", made, document.selection)


def _aside(document: Document, answered: Answered, where: str, why: str) -> Sentence:
    made = claimed_again(document.app, answered.claim.name, where)
    again = partial(document.edit, "claim it again", made, document.selection)
    words = [
        Word("text", f"– not claimed at {where}: {why}"),
        Word("do", "Claim it again", again, name=f"claim it again at {where}"),
    ]
    return Sentence("Set aside", words)


def about_reach(document: Document, proof: Proof, where: str) -> list[Sentence]:
    """In which arrangements a screen or a link is reached; and the board, lit so."""
    thing, name = thing_of(where)
    reached = {
        column: any(
            name in (each.screens if thing == "screens" else each.links).get(column, ())
            for each in proof.reached
        )
        for column in proof.columns
    }
    yes = [each or "one pane" for each, is_so in reached.items() if is_so]
    no = [each or "one pane" for each, is_so in reached.items() if not is_so]
    said = f"is reached in {', '.join(yes)}" if yes else "is never reached"
    words = [Word("subject", name), Word("text", said)]
    if no and yes:
        words.append(Word("broken", f"✕ never in {', '.join(no)}"))
    lights: list[Word] = [
        Word(
            "choice",
            column or "one pane",
            partial(light, document, proof, column),
            name=f"light the board for {column or 'one pane'}",
        )
        for column in proof.columns
    ]
    return [Sentence("", words), Sentence("On the board, lit", lights)]


def light(document: Document, proof: Proof, column: str) -> None:
    """Show on the board what is reached in an arrangement; the rest is dimmed."""
    lit = document.own(Lit)
    lit.column = column or "one pane"
    lit.screens = frozenset().union(*(e.screens.get(column, ()) for e in proof.reached))
    lit.links = frozenset().union(*(e.links.get(column, ()) for e in proof.reached))
    lit.is_on = True
    document.show_stage("Link")
    document.tell(Change.LIT)
