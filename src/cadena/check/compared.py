"""Two versions of an app compared: what has changed, and what that changes, in words and JSON."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from html import escape
from typing import Any, Final, NamedTuple

import msgspec

from cadena.check.proof_in_words import unfinished
from cadena.engine.rules.window_change import window_of
from cadena.engine.wired import WiredApp
from cadena.model.by_thing import Difference, differences, tree_of
from cadena.model.naming import many
from cadena.model.windows import windows_of
from cadena.runs.compare.told_apart import Apart, same_records, told_apart
from cadena.runs.keep.matrix import matrix_of
from cadena.runs.prove.moves_in_words import moves_in_words
from cadena.runs.prove.prove import Proof, at_once, prove
from cadena.runs.walks.walk import Walk, replay

LONGEST: Final = 70
FIRST: Final = 12


class Moved(NamedTuple):
    """Something measured that is other now: what, before and now."""

    what: str
    old: str
    new: str


class Compared(NamedTuple):
    """What has changed, in words alone and beyond; and what that changes in behaviour.

    ``not_looked_at`` says where the proof of either version did not come to its end.
    """

    changes: tuple[Difference, ...]
    apart: tuple[Apart, ...]
    walks: tuple[Moved, ...]
    marks: tuple[Moved, ...]
    claims: tuple[Moved, ...]
    not_looked_at: tuple[str, ...] = ()

    @property
    def behaves_otherwise(self) -> bool:
        return bool(self.apart or self.walks or self.marks or self.claims)


def compared(
    old: WiredApp,
    new: WiredApp,
    walks: Mapping[str, Walk],
    proofs: Callable[[], tuple[Proof, Proof]] | None = None,
) -> Compared:
    """Compare two versions of an app; the walks are replayed on both.

    Args:
        proofs: gives the proofs of the two; without it they are made here, however long it takes.
    """
    changes = tuple(differences(tree_of(old.app), tree_of(new.app)))
    if not any(not each.is_words for each in changes) and same_records(old, new):
        return Compared(changes, (), (), (), ())
    before, after = proofs() if proofs is not None else (prove(old), prove(new))
    return Compared(
        changes,
        tuple(told_apart(at_once(old), at_once(new))),
        tuple(_walks(old, new, walks)),
        tuple(_marks(old, new)),
        tuple(_claims(before, after)),
        tuple(dict.fromkeys((*unfinished(before), *unfinished(after)))),
    )


def _walks(old: WiredApp, new: WiredApp, walks: Mapping[str, Walk]) -> list[Moved]:
    found = []
    for name, walk in walks.items():
        for named in windows_of(new.app):
            ends = [_end(app, walk, window_of(named)) for app in (old, new)]
            if ends[0] != ends[1]:
                found.append(Moved(f"{name} at {named.name}", *ends))
    return found


def _end(app: WiredApp, walk: Walk, window: Any) -> str:
    """Where a walk ends, and how many of its expectations do not hold."""
    failed, last = 0, ""
    for at in replay(app, walk, window):
        failed += len(at.failures)
        if at.line is not None:
            screens = " › ".join(entry.screen for entry in at.line.chain)
            last = screens or at.line.phase
    return f"{last}, {failed} do not hold" if failed else f"{last}, holds"


def _marks(old: WiredApp, new: WiredApp) -> list[Moved]:
    """The marks that are other now; of a piece that is new, how often there is each."""
    before, after = (
        {(piece.name, name): run.mark for (piece, name), run in matrix_of(app).items()}
        for app in (old, new)
    )
    known = {piece for piece, _ in before}
    marks_of_new: dict[str, Counter[str]] = {}
    for (piece, _), mark in after.items():
        if piece not in known:
            marks_of_new.setdefault(piece, Counter())[mark] += 1
    return [
        Moved(f"{piece}, {name}", before.get((piece, name), "not there"), mark)
        for (piece, name), mark in after.items()
        if piece in known and before.get((piece, name)) != mark
    ] + [
        Moved(piece, "not there", ", ".join(f"{mark} ({count})" for mark, count in marks.items()))
        for piece, marks in marks_of_new.items()
    ]


def _claims(old: Proof, new: Proof) -> list[Moved]:
    # How far it was looked is no change of the app.
    whole = old.whole and new.whole
    before, after = (
        {
            e.claim.name: (
                "holds" if e.answer.startswith("holds") and not whole else e.answer,
                tuple(c.where for c in e.causes),
            )
            for e in proof.claims
        }
        for proof in (old, new)
    )
    words = {each.claim.name: each.claim.words for each in new.claims}
    return [
        Moved(words[name], _answer(before.get(name)), _answer(after[name]))
        for name in after
        if before.get(name) != after[name]
    ]


def _answer(answered: tuple[str, tuple[str, ...]] | None) -> str:
    if answered is None:
        return "not claimed"
    answer, places = answered
    return f"{answer} at {', '.join(places[:3])}" if places else answer


def words_of(change: Difference) -> str:
    """A change in the words of the trade."""
    where, old, new = change
    place, _, field = where.rpartition(".")
    if field == "order":
        return f"{place}: in another order: {', '.join(new)}"
    if old is None and isinstance(new, dict):
        return f"{where} is new{_about(new)}"
    if new is None and isinstance(old, dict):
        return f"{where} is gone"
    said = SAID.get(field)
    if said is not None and place:
        return f"{place} {said.format(old=_brief(old), new=_brief(new))}"
    if old is None:
        return f"{where} is {_brief(new)} now"
    return f"{where} is {_brief(new)} now, and was {_brief(old)}"


SAID: Final = {
    "how": "opens as {new} now, and opened as {old}",
    "to": "opens {new} now, and opened {old}",
    "if_open": "where it is open already: {new} now, and was: {old}",
    "need": "is {new} now, and was {old}",
    "least": "begins at {new} dp now, and began at {old} dp",
    "below": "ends below {new} dp now, and ended below {old} dp",
    "panes": "has {new} panes now, and had {old}",
    "keep": "lives: {new} now, and lived: {old}",
    "title": 'is called "{new}" now, and was "{old}"',
}


def _about(thing: dict[str, Any]) -> str:
    return f", opens {thing['to']} as {thing.get('how', 'push')}" if "to" in thing else ""


def _brief(value: Any) -> str:
    text = value if isinstance(value, str) else msgspec.json.encode(value).decode()
    return text if len(text) <= LONGEST else f"{text[:LONGEST]}…"


def in_words(name: str, made: Compared) -> str:
    """What has changed, and what that changes."""
    lines = []
    words = [each for each in made.changes if each.is_words]
    others = [each for each in made.changes if not each.is_words]
    for title, some in (("What has changed", others), ("Words that have changed", words)):
        if some:
            lines += [title, *(f"  {words_of(each)}" for each in some), ""]
    if made.apart:
        lines.append("Walks that tell the two apart")
        alike: dict[tuple[str, ...], list[str]] = {}
        for parting in made.apart:
            width, height = parting.window.size
            steps = ", ".join(moves_in_words(parting.walk)) or "from the start"
            alike.setdefault((steps, *_difference(parting)), []).append(f"{width:g} × {height:g}")
        for (steps, *differs), sizes in list(alike.items())[:FIRST]:
            lines.append(f"  at {', '.join(sizes)}: {steps}")
            lines += [f"    {line}" for line in differs]
        lines.append("")
    for title, moved in (
        ("Walks that end elsewhere", made.walks),
        ("Marks of Keep that have changed", made.marks),
        ("Claims of Prove that have changed", made.claims),
    ):
        if moved:
            lines.append(title)
            lines += [f"  {each.what}: {each.new} now, and was: {each.old}" for each in moved]
            lines.append("")
    if not made.changes:
        return f"{name}: nothing has changed"
    if made.not_looked_at:
        lines += ["Not looked at to the end", *(f"  {each}" for each in made.not_looked_at), ""]
    said = "behaves otherwise" if made.behaves_otherwise else "behaves alike"
    said += ", as far as was looked" if made.not_looked_at else ""
    count = many(len(made.changes), "change")
    return "\n".join([*lines, f"{name}: {count}; it {said}"])


def _difference(apart: Apart) -> list[str]:
    """What each of the two shows, where that differs."""
    return [
        f"{field}: {_value_words(field, apart.new.get(field))} now, "
        f"and was: {_value_words(field, old)}"
        for field, old in apart.old.items()
        if apart.new.get(field) != old
        and not (field == "typed" and apart.new.get("chain") != apart.old.get("chain"))
    ]


def _value_words(field: str, value: Any) -> str:
    if field == "chain" and isinstance(value, list):
        return " › ".join(f"{e['screen']} ({e['opened']})" for e in value) or "nothing"
    if isinstance(value, list):
        return ", ".join(map(str, value)) or "nothing"
    return str(value)


def to_json(made: Compared) -> str:
    """All of it as JSON."""
    tree = {
        "changes": [
            {
                "where": change.where,
                "old": change.old,
                "new": change.new,
                "said": words_of(change),
                "words": change.is_words,
            }
            for change in made.changes
        ],
        "apart": [
            {
                "window": {
                    "width": e.window.width,
                    "height": e.window.height,
                    "fold": e.window.fold,
                },
                "walk": e.walk,
                "old": e.old,
                "new": e.new,
            }
            for e in made.apart
        ],
        "walks": made.walks,
        "marks": made.marks,
        "claims": made.claims,
        "not_looked_at": made.not_looked_at,
        "behaves_otherwise": made.behaves_otherwise,
    }
    return msgspec.json.format(msgspec.json.encode(tree), indent=1).decode()


def to_html(name: str, made: Compared) -> str:
    """All of it as one page without scripts, light and dark, to be read and printed."""
    title = escape(f"What has changed in {name}")
    said = "\n".join(escape(line) for line in in_words(name, made).splitlines())
    parts, open_ = [], False
    for line in said.splitlines():
        if line.startswith("    "):
            parts.append(f"<p class=more>{line.strip()}</p>")
        elif line.startswith("  "):
            parts.append(f"<li>{line.strip()}</li>" if open_ else f"<ul><li>{line.strip()}</li>")
            open_ = True
        elif line:
            parts.append(("</ul>" if open_ else "") + f"<h2>{line}</h2>")
            open_ = False
    end = "</ul>" if open_ else ""
    return (
        f"<!doctype html>\n<html lang=en><head><meta charset=utf-8><title>{title}</title>\n"
        "<meta name=viewport content='width=device-width'><style>"
        "body{font:16px/1.5 sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;"
        "color-scheme:light dark;overflow-wrap:anywhere}h2{font-size:1.1rem}"
        ".more{margin:.1rem 0 .1rem 2rem}</style></head>\n"
        f"<body><main><h1>{title}</h1>\n" + "\n".join(parts) + end + "</main></body></html>\n"
    )
