"""How a screen comes from its row and goes back to it, at any moment (rules.md, 12).

A frame is a scene like any other. What is paired flies from where it is on the row to where it
is on the screen; a pair whose row is not in view fades instead; beside a list nothing flies.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Final, NamedTuple

from cadena.engine.events import Choose, OpenFact
from cadena.engine.layout.panes import Area
from cadena.engine.session import Session
from cadena.engine.step import step
from cadena.engine.wired import WiredApp
from cadena.model.app import Comes, Link, Pair, Transition
from cadena.scene.flights import Came, came_by, comes_by, waits
from cadena.scene.lay_out import lay_out
from cadena.scene.rows_moved import (
    Gliding,
    gliding_at,
    is_otherwise_ordered,
    rows_moved,
)
from cadena.scene.scene import Box, Scene

SLOTS: Final = {
    "picture": ("thumb",),
    "title": ("row title",),
    "subtitle": ("row subtitle",),
    "badge": ("badge",),
}
FACT: Final = ("fact",)
OF_ITS_OWN: Final = Transition(duration=250)
TITLES: Final = ("title", "title centred")
Scenes = Callable[[], tuple[Scene, Scene]]


class Flight(NamedTuple):
    """A pair that flies: what it is on the row, and on the screen."""

    pair: Pair
    row: Box
    element: Box


class Moving(NamedTuple):
    """Going from one scene to another by a link's transition, or ``back`` again."""

    link: Link
    transition: Transition
    back: bool
    start: Scene
    end: Scene
    detail: int
    flights: tuple[Flight, ...]
    comes: Comes | None = None

    @property
    def duration(self) -> int:
        """In ms, until the last that waits is there; going back nothing does."""
        ends = () if self.back else (end for _, end in waits(self.transition).values())
        return max(self.transition.duration, *ends, 0)

    @property
    def there(self) -> Scene:
        """The scene with the screen that comes or goes."""
        return self.start if self.back else self.end

    @property
    def under(self) -> Scene:
        """The scene without it."""
        return self.end if self.back else self.start

    @property
    def ground(self) -> Box | None:
        """Where the screen lies that comes or goes."""
        boxes = self.there.boxes
        return next((e for e in boxes if (e.entry, e.kind) == (self.detail, "screen")), None)


def way_between(
    app: WiredApp, before: Session, after: Session, was: Scene, now: Callable[[], Scene]
) -> Moving | Gliding | None:
    """How what is shown goes from one session to another: by the transition of what was opened or
    closed, or rows to their other places; none where all is there at once.

    Args:
        was: what was laid out of the one.
        now: lays out the other.
    """
    found: Moving | Gliding | None = None
    if is_otherwise_ordered(before, after):
        found = rows_moved(was, now())
    elif app.has_transitions:
        found = moving_between(app, before, after, lambda: (was, now()))
    return found if found is not None and found.duration else None


def moving_between(
    app: WiredApp, before: Session, after: Session, scenes: Scenes | None = None
) -> Moving | None:
    """The transition between two sessions; none where nothing was opened or closed by a row.

    Args:
        scenes: lays both out, where that is done elsewhere.
    """
    if scenes is None:
        scenes = lambda: (lay_out(app, before, before.window), lay_out(app, after, after.window))  # noqa: E731
    came = came_by(app, before, after)
    if came is None or came.link.transition is None:
        return _coming(app, before, after, scenes)
    start, end = scenes()
    flights = tuple(_flights(came, *((start, end) if came.forth else (end, start))))
    transition, detail = came.link.transition, came.at + 1
    return Moving(came.link, transition, not came.forth, start, end, detail, flights)


def _coming(app: WiredApp, before: Session, after: Session, scenes: Scenes) -> Moving | None:
    """A screen that comes in a way of its own, where nothing flies."""
    came = comes_by(app, before, after)
    if came is None:
        return None
    start, end = scenes()
    link, back = came.link, not came.forth
    return Moving(link, OF_ITS_OWN, back, start, end, came.at, (), link.comes)


def moving_for(app: WiredApp, session: Session, link: Link) -> Moving | None:
    """A link's transition as this session would show it: of the row open now, or the first.

    None where the session is not at the list, or shows it beside the detail.
    """
    at = link.trigger
    screens = [each.screen for each in session.entries]
    if at.on not in ("row", "fact") or at.screen not in screens:
        return None
    index = screens.index(at.screen)
    before = session.with_entries(session.entries[: index + 1])
    if at.on == "fact":
        opened = step(app, before, OpenFact(screen=at.screen, entry=index, fact=at.part))
        return None if opened.refused else moving_between(app, before, opened.session)
    listed = app.listed(session, session.entries[index], at.part)
    if listed is None or not len(listed.rows):
        return None
    row = session.entries[index + 1].row if index + 1 < len(session.entries) else None
    key = row.key if row is not None and row.part == at.part else listed.rows.key_at(0)
    after, _, refused = step(app, before, Choose(screen=at.screen, list=at.part, key=key))
    if refused:
        return None
    return moving_between(app, before, after)


def _flights(came: Came, rows: Scene, screen: Scene) -> Iterator[Flight]:
    """The pairs whose two sides are both in view."""
    pairs = () if came.link.transition is None else came.link.transition.pairs
    part, key = (came.link.trigger.part, None)
    if came.row is not None:
        part, key = came.row.part, came.row.key
    for pair in pairs:
        kinds = FACT if came.row is None else SLOTS[pair.slot]
        of = (came.at, part, key)
        found = (e for e in rows.boxes if e.kind in kinds and (e.entry, e.part, e.key) == of)
        one = next(found, None)
        other = element_box(screen, came.at + 1, pair.element)
        if one is not None and other is not None and _is_in_view(one) and _is_in_view(other):
            yield Flight(pair, one, other)


def element_box(scene: Scene, entry: int, element: str) -> Box | None:
    """Where an element of a screen lies: a block, or its title."""
    for box in scene.boxes:
        if box.entry != entry:
            continue
        if (box.kind in TITLES) if element == "title" else (box.part == element):
            return box
    return None


def _is_in_view(box: Box) -> bool:
    """Whether some of a box can be seen."""
    clip = box.clip
    if clip is None:
        return True
    return box.y + box.height > clip.y + 1 and box.y < clip.y + clip.height - 1


def frame_of(moving: Moving | Gliding, at: float) -> Scene:
    """The scene ``at`` ms after the transition began."""
    if at >= moving.duration:
        return moving.end
    way = way_at(moving, at)
    if isinstance(moving, Gliding):
        return gliding_at(moving, way)
    if moving.comes is not None:
        return _on_its_way(moving, 1 - way if moving.back else way)
    coming = coming_in(moving, at)
    flying = {id(each) for flight in moving.flights for each in (flight.row, flight.element)}
    boxes = [box for box in moving.start.boxes if id(box) not in flying]
    for box in moving.end.boxes:
        if id(box) in flying:
            continue
        seen = coming.get(element_of(moving, box), way)
        boxes.append(box._replace(fade=box.fade * seen))
    for flight in moving.flights:
        boxes += _flown(flight, 1 - way if moving.back else way)
    return moving.end._replace(boxes=tuple(boxes))


def way_at(moving: Moving | Gliding, at: float) -> float:
    """How much of the way is gone ``at`` ms after it began, from 0 to 1."""
    duration = moving.duration if isinstance(moving, Gliding) else moving.transition.duration
    return _eased(min(1.0, max(0.0, at) / max(1, duration)))


def coming_in(moving: Moving, at: float) -> dict[str, float]:
    """How much is there of each element that waits; going back nothing does."""
    spans = {} if moving.back else waits(moving.transition)
    return {
        name: min(1.0, max(0.0, at - begin) / (end - begin)) for name, (begin, end) in spans.items()
    }


def off_by(moving: Moving, way: float) -> tuple[float, float]:
    """How far from its place a screen is that comes in a way of its own, in dp."""
    ground = moving.ground
    if ground is not None and moving.comes == "from the side":
        return (1 - way) * ground.width * (-1 if moving.there.rtl else 1), 0.0
    if ground is not None and moving.comes == "from below":
        return 0.0, (1 - way) * ground.height
    return 0.0, 0.0


def between(one: Area, other: Area, way: float) -> Area:
    """An area part of the way from one to another."""
    return Area(*(a + (b - a) * way for a, b in zip(one, other, strict=True)))


def _on_its_way(moving: Moving, way: float) -> Scene:
    """The scene while a screen comes in a way of its own: so much of it is there."""
    there, under = moving.there, moving.under
    seen = way if moving.comes == "by fading" else 1.0
    x, y = off_by(moving, way)
    known = set(under.boxes)
    coming = [each for each in there.boxes if each.entry == moving.detail]
    # What comes with it, such as the ground of a layer, does not wander.
    others = [each for each in there.boxes if each.entry is None and each not in known]
    boxes = (
        *(each for each in under.boxes if each.entry != moving.detail),
        *(each._replace(fade=each.fade * way) for each in others),
        *(_moved(each, x, y, seen) for each in coming),
    )
    return moving.end._replace(boxes=boxes)


def _moved(box: Box, x: float, y: float, seen: float) -> Box:
    clip = None if box.clip is None else box.clip._replace(x=box.clip.x + x, y=box.clip.y + y)
    return box._replace(x=box.x + x, y=box.y + y, clip=clip, fade=box.fade * seen)


def element_of(moving: Moving, box: Box) -> str:
    """The element of the screen that a box belongs to, or nothing."""
    if box.entry != moving.detail:
        return ""
    if box.kind == "in place":
        # It is named for its field, to be typed in; the block that it stands in is its key.
        return str(box.key)
    return "title" if box.kind in TITLES else box.part


def _flown(flight: Flight, way: float) -> Iterator[Box]:
    """What flies, part of the way from the row to the screen."""
    one, other = flight.row, flight.element
    area = between(_area(one), _area(other), way)
    if one.kind == "thumb":
        yield other._replace(
            x=area.x, y=area.y, width=area.width, height=area.height, clip=None, does=None
        )
        return
    for box, seen in ((one, 1 - way), (other, way)):
        if seen > 0:
            yield box._replace(
                x=area.x,
                y=area.y,
                width=max(area.width, box.width),
                height=area.height,
                clip=None,
                does=None,
                fade=seen,
                state=frozenset(),
            )


def _area(box: Box) -> Area:
    return Area(box.x, box.y, box.width, box.height)


def _eased(t: float) -> float:
    """Fast first, and slower to the end: a cubic."""
    return 1 - (1 - t) ** 3
