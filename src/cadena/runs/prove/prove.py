"""Is anything broken, anywhere? Every claim, of all that can be reached in every window."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Final, Literal, NamedTuple

from msgspec.structs import replace

from cadena.engine.wired import WiredApp
from cadena.model.app import App, FromValue, Link
from cadena.runs.prove.causes import Cause, cause_of, grouped
from cadena.runs.prove.claims import CLAIMS, Claim, judged
from cadena.runs.prove.explore import Edge, Explored, Judge, Limits
from cadena.runs.prove.found import Found
from cadena.runs.prove.moves import acting
from cadena.runs.prove.own import Elsewhere, Own, names_nothing
from cadena.runs.prove.own_words import sentence
from cadena.runs.prove.state_key import screens_of_section
from cadena.runs.prove.states import judged_at_start
from cadena.runs.prove.tables import backs_to_leave, judged_by_table
from cadena.runs.prove.writing_claims import Sent

Answer = Literal["holds everywhere", "holds to depth", "not decided", "broken"]
NO_LIMITS: Final = Limits()
LATE_DEPTH: Final = 3
LATE_STATES: Final = 1_500
"""How far it is explored what happens while answers are still to come."""


class Reached(NamedTuple):
    """What was reached in a section: of each arrangement its screens and links; how far.

    ``backs`` is the most that it takes to leave. ``actions`` are those that were offered, by
    screen and name. ``unfinished`` says why it is not all.
    """

    section: str
    states: int
    steps: int
    depth: int
    backs: int
    screens: dict[str, frozenset[str]]
    links: dict[str, frozenset[str]]
    actions: frozenset[tuple[str, str]]
    unfinished: str
    unclassed: int
    found: tuple[Cause, ...]
    unconfirmed: tuple[Found, ...]
    elsewhere: tuple[tuple[Elsewhere, Cause | None], ...] = ()


class Answered(NamedTuple):
    """A claim and what came of it, for each arrangement and in all."""

    claim: Claim
    answer: Answer
    causes: tuple[Cause, ...]
    aside: tuple[tuple[str, str], ...] = ()
    otherwise: Answer = "holds to depth"

    def of(self, column: str) -> Answer:
        """The answer for one arrangement."""
        if any(column in each.columns for each in self.causes):
            return "broken"
        return self.otherwise if self.answer == "broken" else self.answer


class Proof(NamedTuple):
    """All claims, what was reached, and how far that was: in moves from a start."""

    claims: tuple[Answered, ...]
    reached: tuple[Reached, ...]
    columns: tuple[str, ...]
    states: int
    steps: int
    depth: int
    whole: bool

    @property
    def broken(self) -> tuple[Answered, ...]:
        return tuple(each for each in self.claims if each.answer == "broken")

    @property
    def undecided(self) -> tuple[Answered, ...]:
        """Claims of which something was found that the real app did not repeat."""
        return tuple(each for each in self.claims if each.answer == "not decided")

    @property
    def holds(self) -> bool:
        """Whether every claim holds, as far as was looked."""
        return not self.broken and not self.undecided


def at_once(app: WiredApp) -> WiredApp:
    """The app without view state, and with sources that answer at once: what is late is
    explored by itself."""
    sources = tuple(replace(each, served="file") for each in app.app.sources)
    made = replace(app.app, sources=sources)
    return WiredApp(made, app.as_read, app.measure, app, views=False)


def reached_in(app: WiredApp, section: str, limits: Limits = NO_LIMITS) -> Iterator[Reached | int]:
    """Explore a section and judge it, in small pieces of work: how many states there are, and
    at last what was reached."""
    own, sent = Own(app.app), Sent(app)
    explored = Explored(at_once(app), section)
    yield from explored.explore(limits, (judged, _at_start(), own, sent))
    for found in (*judged_by_table(explored), *own.by_table(explored)):
        explored.tell(found)
    causes = [(each, cause_of(app, explored, each)) for each in explored.found.values()]
    causes += sent.causes
    if app.late_screens & explored.key.screens:
        late = Explored(app, section, is_late=True)
        yield from late.explore(limits._replace(depth=LATE_DEPTH, states=LATE_STATES), (judged,))
        known = {(each.claim, each.where) for each in explored.found.values()}
        causes += [
            (breach, cause_of(app, late, breach))
            for breach in late.found.values()
            if (breach.claim, breach.where) not in known
        ]
    elsewhere = tuple(
        (place, None if place.found is None else cause_of(app, explored, place.found))
        for place in own.elsewhere
    )
    yield reached_of(explored, causes)._replace(elsewhere=elsewhere)


def _at_start() -> Judge:
    """A judge of states, each when the first of its edges is judged."""
    last = -1

    def judge(explored: Explored, edge: Edge) -> Iterator[Found]:
        nonlocal last
        if edge.state != last:
            last = edge.state
            yield from judged_at_start(explored, edge.state, edge.before)

    return judge


def reached_of(explored: Explored, causes: list[tuple[Found, Cause | None]]) -> Reached:
    """What was reached, and what of it breaks a claim when the real app is run."""
    columns = [each.arrangement for each in explored.tried]

    def by_column(of: dict[int, set[str]]) -> dict[str, frozenset[str]]:
        found: dict[str, frozenset[str]] = {}
        for at, names in of.items():
            found[columns[at]] = found.get(columns[at], frozenset()) | names
        return found

    return Reached(
        explored.section,
        len(explored),
        explored.steps,
        explored.depth,
        max(backs_to_leave(explored), default=0),
        by_column(explored.screens),
        by_column(explored.followed),
        frozenset(explored.moves.offered),
        explored.unfinished,
        sum(explored.classes.left_out.values()),
        grouped(cause for _, cause in causes if cause is not None),
        tuple(found for found, cause in causes if cause is None),
    )


def proof_of(app: WiredApp, reached: Iterable[Reached]) -> Proof:
    """What is proven of an app by what was reached in its sections."""
    reached = tuple(reached)
    found = [cause for each in reached for cause in each.found]
    columns = tuple(dict.fromkeys(name for each in reached for name in each.screens))
    if columns and not any(each.unfinished for each in reached):
        # What was not looked at to its end may yet lead there.
        found += not_reached(app, reached, columns)
    unreached, unsure = _in_other_sections(reached)
    found += unreached
    for own in app.app.claims:
        if fault := names_nothing(app.app, own):
            found.append(Cause(own.id, f"claims[{own.id}]", fault, columns, None, ()))
    # What is broken is told, whatever else of it is not seen again.
    shown = {each.claim for each in found}
    reached = tuple(
        each._replace(unconfirmed=tuple(e for e in each.unconfirmed if e.claim not in shown))
        for each in reached
    )
    undecided = {each.claim for of in reached for each in of.unconfirmed} | unsure
    aside = {(each.claim, each.where): each.why for each in app.app.aside}
    whole = all(not each.unfinished and not each.unclassed for each in reached)
    depth = min((each.depth for each in reached if each.unfinished), default=0)
    depth = depth or max((each.depth for each in reached), default=0)
    answered = []
    for claim in claims_of(app.app, most_backs(app.app, reached)):
        every = grouped(each for each in found if each.claim == claim.name)
        causes = tuple(each for each in every if (claim.name, each.where) not in aside)
        answer: Answer = "holds everywhere" if whole else "holds to depth"
        if claim.name in undecided:
            answer = "not decided"
        left = tuple(
            (breach.where, aside[claim.name, breach.where])
            for breach in every
            if breach not in causes
        )
        told: Answer = "broken" if causes else answer
        otherwise: Answer = "not decided" if answer == "not decided" else "holds to depth"
        answered.append(Answered(claim, told, causes, left, otherwise))
    return Proof(
        tuple(answered),
        reached,
        columns,
        sum(each.states for each in reached),
        sum(each.steps for each in reached),
        depth,
        whole,
    )


def _in_other_sections(reached: tuple[Reached, ...]) -> tuple[list[Cause], set[str]]:
    """Of what only other sections may lead to: what none of them does, and what is not sure.

    A section is as it was left when it is gone to: that it leads there is only sure where all of
    it does.
    """
    said = {(of.section, each.claim): each for of in reached for each, _ in of.elsewhere}
    broken: list[Cause] = []
    unsure: set[str] = set()
    for of in reached:
        for each, cause in of.elsewhere:
            if each.found is None:
                continue
            others = [said[name, each.claim] for name in each.others if (name, each.claim) in said]
            if any(other.is_from_everywhere for other in others):
                continue
            if cause is not None and not any(other.is_reached for other in others):
                broken.append(cause)
            else:
                unsure.add(each.claim)
    return broken, unsure


def most_backs(app: App, reached: tuple[Reached, ...]) -> int:
    """In how many backs the app is left at most, from everywhere.

    Where back goes to the start first, its own are counted on top: from the tables of
    both, since the start is as it was left.
    """
    of = {each.section: each.backs for each in reached}
    start = of.get(app.start, 0) if app.platform.back_to_start else 0
    return max((n + (start if name != app.start else 0) for name, n in of.items()), default=0)


def claims_of(app: App, backs: int = 0) -> tuple[Claim, ...]:
    """The claims that are made of an app: those of every app, and its person's own."""
    made = [
        claim._replace(words=f"From everywhere, at most {backs} backs leave")
        if claim.name == "backs" and backs > 0
        else claim
        for claim in CLAIMS
    ]
    return (*made, *(Claim(each.id, sentence(each)) for each in app.claims))


def not_reached(
    app: WiredApp, reached: tuple[Reached, ...], columns: tuple[str, ...]
) -> Iterator[Cause]:
    """Screens and links that nothing leads to, in some arrangement or in all."""
    for screen in app.app.screens:
        without = [
            column
            for column in columns
            if not any(screen.id in each.screens.get(column, ()) for each in reached)
        ]
        if without:
            where = f"screens[{screen.id}]"
            yield Cause("reached", where, "it is never open", tuple(without), None, ())
    for arrangement in app.app.arrangements:
        if arrangement.id not in columns:
            where = f"arrangements[{arrangement.id}]"
            yield Cause("reached", where, "no window has it", columns, None, ())
    for screen in app.app.screens:
        offered = set().union(*(each.actions for each in reached))
        shown = tuple(c for c in columns if any(screen.id in e.screens.get(c, ()) for e in reached))
        for name, _ in acting(app, screen.id):
            if shown and (screen.id, name) not in offered:
                where = f"screens[{screen.id}].buttons[{name}]"
                yield Cause("reached", where, "it is never offered", shown, None, ())
    open_ = {name for each in reached for names in each.screens.values() for name in names}
    for link in app.app.links:
        without = [
            column
            for column in columns
            if not any(link.id in each.links.get(column, ()) for each in reached)
        ]
        if without and link.trigger.screen in open_:
            where = f"links[{link.id}]"
            yield Cause("reached", where, "it is never followed", tuple(without), None, ())


Known = dict[str, tuple[object, Reached]]
"""What was reached in each section, and all of the app that this depends on."""


def reached_slowly(app: WiredApp, known: Known, limits: Limits) -> Iterator[Reached | int]:
    """Every section in small pieces of work; of what nothing has changed for is told again."""
    for section in app.sections:
        depends = depends_on(app, section)
        was = known.get(section)
        if was is not None and was[0] == depends:
            yield was[1]
            continue
        for told in reached_in(app, section, limits):
            yield told
            if isinstance(told, Reached) and not told.unfinished:
                known[section] = depends, told


def depends_on(app: WiredApp, section: str) -> object:
    """All of an app that what is reached in a section can depend on."""
    model, screens = app.app, screens_of_section(app, section)
    return (
        tuple(each for each in model.screens if each.id in screens),
        tuple(each for each in model.links if each.trigger.screen in screens),
        tuple(each for each in model.links if carries_value(each)),
        (model.sections, model.arrangements, model.values, model.platform, model.start),
        (model.sources, model.windows, model.locale, model.claims, model.fallback),
        tuple(each.serial for each in app.as_read.values()),
    )


def carries_value(link: Link) -> bool:
    """Whether a link carries an app-wide value: what it leads to says which may be set."""
    return any(isinstance(each, FromValue) for each in link.arguments)


def prove(app: WiredApp, limits: Limits = NO_LIMITS) -> Proof:
    """Explore every section of an app, one after the other, and judge it."""
    found = (each for section in app.sections for each in reached_in(app, section, limits))
    return proof_of(app, (each for each in found if isinstance(each, Reached)))
