"""A prover that leaves out nothing: plain breadth first, every row, every value, every window.

It is slow, and only for small apps of one section; the prover itself is held against it.
"""

from __future__ import annotations

import random
from collections import deque
from collections.abc import Iterator
from typing import Any

from msgspec import json
from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.session import Session
from cadena.engine.step import start, step
from cadena.engine.wired import Listed, WiredApp
from cadena.model.claims import OwnClaim, Situation
from cadena.model.values import Scalar
from cadena.runs.possible import possible
from cadena.runs.prove.windows import to_window, windows_to_try
from cadena.runs.walks.situation import holds

TAKEN = (do.Choose, do.Press, do.Act, do.OpenFact, do.Back, do.PressOutside, do.SlideList, do.GoTo)


def every_row(listed: Listed) -> Iterator[Scalar]:
    return (listed.rows.key_at(at) for at in range(len(listed.rows)))


class Everything:
    """All sessions that can be come to, nearest first, with how many moves that takes."""

    def __init__(self, app: WiredApp) -> None:
        self.app = app
        self.sessions: list[Session] = []
        self.depths: list[int] = []
        self.leads: list[list[int]] = []
        known: dict[bytes, int] = {}
        windows = [each.window for each in windows_to_try(app)]
        waiting: deque[int] = deque()

        def meet(session: Session, depth: int) -> int:
            key = json.encode((session.window, self.told(session)))
            if key not in known:
                known[key] = len(self.sessions)
                self.sessions.append(session)
                self.depths.append(depth)
                self.leads.append([])
                waiting.append(known[key])
            return known[key]

        for window in windows:
            if not window.folded:
                meet(start(app, window)[0], 0)
        while waiting:
            at = waiting.popleft()
            session = self.sessions[at]
            for event in self.events(session):
                after, _, refused = step(app, session, event)
                if after.question is not None:
                    after, _, refused = step(app, after, do.Decide(yes=True))
                if not refused and after.phase == "running":
                    self.leads[at].append(meet(after, self.depths[at] + 1))
            for window in windows:
                to = to_window(session.window, window) if window != session.window else None
                if to is not None:
                    meet(step(app, session, to).session, self.depths[at] + 1)

    def events(self, session: Session) -> Iterator[do.Event]:
        for each in possible(self.app, session, every_row):
            if isinstance(each.event, TAKEN):
                yield each.event

    def told(self, session: Session) -> list[Any]:
        """All of a session but where it is scrolled to, and the clock."""
        entries = [
            (e.screen, e.arguments, e.opened, e.by, e.row, e.view.choice, e.view.last)
            for e in session.entries
        ]
        return [session.section, entries, session.chain.asked, session.values, session.slid]

    def shortest(self, claim: OwnClaim) -> int | None:
        """In how many moves a claim is broken, or none where it holds."""
        when = [at for at, each in enumerate(self.sessions) if holds(self.app, each, claim.when)]
        so = [holds(self.app, each, claim.so) for each in self.sessions]
        if claim.says == "can reach":
            reaches = self.leading_to({at for at, is_so in enumerate(so) if is_so})
            broken = [at for at in when if at not in reaches]
        else:
            broken = [at for at in when if so[at] is (claim.says == "never")]
        return min((self.depths[at] for at in broken), default=None)

    def leading_to(self, goals: set[int]) -> set[int]:
        before: dict[int, list[int]] = {}
        for at, leads in enumerate(self.leads):
            for to in leads:
                before.setdefault(to, []).append(at)
        found, waiting = set(goals), deque(goals)
        while waiting:
            for at in before.get(waiting.popleft(), ()):
                if at not in found:
                    found.add(at)
                    waiting.append(at)
        return found


def a_claim(chance: random.Random, app: WiredApp) -> OwnClaim:
    """A claim over screens, arguments, values and arrangements that there are, or nearly."""

    def situation(least: int) -> Situation:
        made = Situation()
        for _ in range(chance.randint(least, 2)):
            screen = chance.choice([each.id for each in app.app.screens])
            hut, room = f"h{chance.randrange(7)}", chance.randrange(14)
            made = chance.choice(
                [
                    replace(made, shows=(screen,)),
                    replace(made, hides=(*made.hides, screen)),
                    replace(made, arguments={"hut": hut}),
                    replace(made, arguments={"room": room}),
                    replace(made, arrangement=chance.choice(["one", "two"])),
                ]
            )
        return made

    return OwnClaim(
        id="own",
        says=chance.choice(["always", "never", "never", "can reach"]),
        when=situation(0),
        so=situation(1),
    )
