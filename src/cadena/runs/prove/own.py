"""Claims of a person's own, judged on all that was reached."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, NamedTuple

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.session import Session
from cadena.model.app import App
from cadena.model.claims import OwnClaim, Situation
from cadena.runs.prove.explore import CHANGED, Edge, Explored
from cadena.runs.prove.found import Found
from cadena.runs.prove.state_key import screens_of_section
from cadena.runs.prove.tables import backs_to_leave, leading_to
from cadena.runs.walks.situation import holds
from cadena.runs.walks.walk import Expected

UNCOUNTED: Final = ("can reach", "after")
FOLLOWED: Final = ("opened", "already open")
"""Kinds of notes that say that a link was followed: a form at fault is not saved."""


class Elsewhere(NamedTuple):
    """What a section says of what can be reached: whether it is reached in it, and from all of it.

    ``found`` is where only the ways to ``others`` may lead to it.
    """

    claim: str
    is_reached: bool
    is_from_everywhere: bool
    others: tuple[str, ...]
    found: Found | None


class Own:
    """The judge of a person's own claims of one section.

    It remembers in which states each holds what it speaks of: counts of backs, and what can be
    reached, are told by the whole table.
    """

    def __init__(self, app: App) -> None:
        self.claims = [each for each in app.claims if not names_nothing(app, each)]
        self.when: dict[str, list[int]] = {each.id: [] for each in self.claims}
        self.goals: dict[str, list[int]] = {each.id: [] for each in self.claims}
        self.elsewhere: list[Elsewhere] = []
        self._last = -1

    def __call__(self, explored: Explored, edge: Edge) -> Iterator[Found]:
        if edge.state != self._last:
            self._last = edge.state
            if edge.before.section == explored.section:
                yield from self._of_state(explored, edge.state, edge.before)
        if edge.to == CHANGED and edge.step.session.phase == "running":
            yield from self._of_change(explored, edge)
        link = edge.move.link
        for claim in self.claims:
            is_after = claim.says == "after" and link is not None and link.id == claim.after
            if (
                not is_after
                or edge.step.refused
                or not holds(explored.app, edge.before, claim.when)
            ):
                continue
            after = edge.step.session
            if not any(each.kind in FOLLOWED for each in edge.step.notes):
                continue
            if after.phase == "running" and not holds(explored.app, after, claim.so):
                column = explored.column(edge.state)
                expect = expected_of(claim.so)
                yield self._found(claim, edge.state, column, edge.taken, expect)

    def _of_state(self, explored: Explored, state: int, session: Session) -> Iterator[Found]:
        for claim in self.claims:
            is_so = holds(explored.app, session, claim.so)
            if claim.says == "can reach" and is_so:
                self.goals[claim.id].append(state)
            if claim.says == "after" or not holds(explored.app, session, claim.when):
                continue
            if claim.says == "can reach" or (claim.so.backs is not None and is_so):
                self.when[claim.id].append(state)
            elif claim.says == "always" and not is_so:
                yield self._broken(explored, claim, state, expected_of(claim.so))
            elif claim.says == "never" and is_so:
                expect = Expected(never=expected_of(claim.so))
                yield self._broken(explored, claim, state, expect)

    def _of_change(self, explored: Explored, edge: Edge) -> Iterator[Found]:
        """What a change of the records breaks at once."""
        after, column = edge.step.session, explored.column(edge.state)
        for claim in self.claims:
            if claim.says not in ("always", "never") or claim.so.backs is not None:
                continue
            if not holds(explored.app, after, claim.when):
                continue
            so = holds(explored.app, after, claim.so)
            if so is (claim.says == "never"):
                expect = expected_of(claim.so)
                expect = Expected(never=expect) if so else expect
                yield self._found(claim, edge.state, column, edge.taken, expect)

    def by_table(self, explored: Explored) -> Iterator[Found]:
        """What the whole table says of counts of backs, and of what can be reached."""
        backs = backs_to_leave(explored)
        for claim in self.claims:
            most = claim.so.backs
            if claim.says == "can reach":
                yield from self._reached(explored, claim)
            elif most is not None:
                for state in self.when[claim.id]:
                    many = backs[state] < 0 or backs[state] > most
                    if many is (claim.says == "always"):
                        tail: tuple[do.Event, ...] = (do.Back(),) * most
                        left = Expected(phase="left")
                        expect = left if claim.says == "always" else Expected(never=left)
                        yield self._found(claim, state, explored.column(state), tail, expect)

    def _reached(self, explored: Explored, claim: OwnClaim) -> Iterator[Found]:
        """From where what is claimed cannot be reached; what only another section may lead to is
        kept until all are known."""
        goals = self.goals[claim.id]
        leads = leading_to(explored, goals)
        others = _others(explored, claim)
        stays = {at for at, shape in enumerate(explored.shapes) if shape >= 0}
        # What was not looked at to its end may yet lead there.
        cannot = set() if explored.unfinished else set(self.when[claim.id]) - leads
        out = leading_to(explored, _ways_out(explored)) if others else set()
        for state in sorted(cannot - out)[:1]:
            yield self._broken(explored, claim, state, expected_of(claim.so))
        found = [
            self._broken(explored, claim, state, expected_of(claim.so))
            for state in sorted(cannot & out)[:1]
        ]
        self.elsewhere.append(
            Elsewhere(claim.id, bool(goals), stays <= leads, others, next(iter(found), None))
        )

    def _broken(self, explored: Explored, claim: OwnClaim, state: int, expect: Expected) -> Found:
        return self._found(claim, state, explored.column(state), (), expect)

    def _found(
        self,
        claim: OwnClaim,
        state: int,
        column: str,
        tail: tuple[do.Event, ...],
        expect: Expected,
    ) -> Found:
        what = "it is so" if claim.says == "never" else "it is not so"
        if claim.says == "can reach":
            what = "it cannot be reached from there"
        return Found(claim.id, f"claims[{claim.id}]", what, column, state, tail, expect)


def expected_of(situation: Situation) -> Expected:
    """A situation as a walk expects it; counts of backs are walked back."""
    return Expected(so=replace(situation, backs=None))


def names_nothing(app: App, claim: OwnClaim) -> str:
    """What a claim names that is not there, in words; nothing where all of it is."""
    screens = {each.id for each in app.screens}
    kinds: tuple[tuple[str, set[str], list[str]], ...] = (
        ("screen", screens, [*claim.when.shows, *claim.when.hides]),
        ("screen", screens, [*claim.so.shows, *claim.so.hides]),
        ("value", {each.id for each in app.values}, [*claim.when.values, *claim.so.values]),
        ("section", {each.id for each in app.sections}, [claim.when.section, claim.so.section]),
        (
            "arrangement",
            {each.id for each in app.arrangements},
            [claim.when.arrangement, claim.so.arrangement],
        ),
        ("link", {each.id for each in app.links}, [claim.after]),
    )
    for kind, known, named in kinds:
        for name in named:
            if name and name not in known:
                return f"there is no {kind} {name}"
    if claim.so == Situation():
        return "it claims nothing yet"
    if claim.when.backs is not None or (claim.so.backs is not None and claim.says in UNCOUNTED):
        return "backs are counted only in what is always or never so"
    if claim.says == "after" and not claim.after:
        return "it does not say after which link"
    return ""


def _others(explored: Explored, claim: OwnClaim) -> tuple[str, ...]:
    """The other sections that may hold what is looked for."""
    app, so = explored.app, claim.so
    return tuple(
        section
        for section in app.sections
        if section != explored.section
        and so.section in ("", section)
        and set(so.shows) <= screens_of_section(app, section)
    )


def _ways_out(explored: Explored) -> list[int]:
    """The states from which another section can be gone to."""
    edges = zip(explored.of, explored.by, explored.to, strict=True)
    return [
        state
        for state, by, to in edges
        if to >= 0 and explored.move_of[by].sort == "away" and explored.shapes[state] >= 0
    ]
