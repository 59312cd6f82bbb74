"""Two or three versions of an app set against each other thing by thing, and never by line.

An app is taken as its plain tree; in lists, things of one name are the same thing wherever they
stand.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any, Final, NamedTuple

from msgspec import Struct

from cadena.model.app import App

NAMES: Final = ("id", "name", "parameter", "field", "title", "slot", "shows")
"""What things are told apart by in a list, the first of these that all of them have."""
WORDS: Final = frozenset(
    {
        *("title", "title_new", "label", "heading", "subtitle", "badge", "empty", "not_found"),
        *("nothing_chosen_words", "past_limit", "save_label", "text", "words", "word", "icon"),
        *("confirm", "says", "why", "unit", "unit_of_one", "sign", "colour", "when_empty"),
        *("when_on", "locale", "head"),
    }
)
"""Fields that only say something to people: whatever is in them, the app behaves alike."""


class Difference(NamedTuple):
    """What is other in a new version: at a place, before and now; ``none`` where it was not."""

    where: str
    old: Any
    new: Any

    @property
    def field(self) -> str:
        """The last name of the place."""
        return self.where.rpartition(".")[2].partition("[")[0]

    @property
    def is_words(self) -> bool:
        """Whether only what is said to people differs."""
        return self.field in WORDS or (self.where == "name")


def tree_of(app: App) -> dict[str, Any]:
    """An app as plain values, with all that is left to its default."""
    tree: dict[str, Any] = _plain(app)
    return tree


def _plain(node: Any) -> Any:
    if isinstance(node, Struct):
        tag = node.__struct_config__
        made = {name: _plain(getattr(node, name)) for name in node.__struct_fields__}
        return {str(tag.tag_field): tag.tag, **made} if tag.tag_field else made
    if isinstance(node, tuple):
        return [_plain(each) for each in node]
    if isinstance(node, dict):
        return {name: _plain(each) for name, each in node.items()}
    return node


def is_same(one: Any, other: Any) -> bool:
    """Whether two plain trees are the same; ``1`` is not ``true``, and ``0`` is not ``false``."""
    if isinstance(one, dict) and isinstance(other, dict):
        return one.keys() == other.keys() and all(is_same(v, other[k]) for k, v in one.items())
    if isinstance(one, list | tuple) and isinstance(other, list | tuple):
        return len(one) == len(other) and all(map(is_same, one, other))
    return bool(one == other) and isinstance(one, bool) == isinstance(other, bool)


def differences(old: Any, new: Any, where: str = "") -> Iterator[Difference]:
    """What differs between two plain trees, place by place."""
    if is_same(old, new):
        return
    if isinstance(old, dict) and isinstance(new, dict):
        for name in dict.fromkeys((*old, *new)):
            place = f"{where}.{name}" if where else name
            yield from differences(old.get(name), new.get(name), place)
        return
    keyed = _keyed(old, new)
    if keyed is None:
        yield Difference(where, old, new)
        return
    before, after = keyed
    for name in dict.fromkeys((*before, *after)):
        place = f"{where}[{name}]"
        if name not in before or name not in after:
            yield Difference(place, before.get(name), after.get(name))
        else:
            yield from differences(before[name], after[name], place)
    both = [each for each in before if each in after]
    if both != [each for each in after if each in before]:
        yield Difference(f"{where}.order", list(before), list(after))


def _keyed(*lists: Any) -> list[dict[str, Any]] | None:
    """Lists of things as dictionaries by their names; none where these do not tell them apart."""
    if not all(isinstance(each, list | tuple) for each in lists):
        return None
    items = [item for each in lists for item in each]
    if not items or not all(isinstance(each, dict) for each in items):
        return None
    for name in NAMES:
        made = []
        for each in lists:
            keys = [str(item[name]) for item in each if isinstance(item.get(name), str)]
            if len(keys) != len(each) or len(set(keys)) != len(keys):
                break
            made.append(dict(zip(keys, each, strict=True)))
        else:
            return made
    return None


class Conflict(NamedTuple):
    """What both sides have made other, and not alike."""

    where: str
    ours: Any
    theirs: Any


def merged(base: Any, ours: Any, theirs: Any, where: str = "") -> tuple[Any, list[Conflict]]:
    """Three versions joined; where both sides differ at one place, ours stands, and it is told."""
    if is_same(ours, theirs) or is_same(theirs, base):
        return ours, []
    if is_same(ours, base):
        return theirs, []
    if all(isinstance(each, dict) for each in (base, ours, theirs)):
        return _merged_dicts(base, ours, theirs, where)
    keyed = _keyed(base or [], ours, theirs)
    if keyed is None:
        return ours, [Conflict(where, ours, theirs)]
    before, mine, other = keyed
    made, conflicts = _merged_dicts(before, mine, other, where, "[{}]")
    order = _order(before, mine, other)
    if order is None:
        conflicts.append(Conflict(f"{where}.order", list(mine), list(other)))
        order = [*mine, *(name for name in other if name not in mine)]
    return [made[name] for name in order if name in made], conflicts


def _merged_dicts(
    base: dict[str, Any],
    ours: dict[str, Any],
    theirs: dict[str, Any],
    where: str,
    step: str = ".{}",
) -> tuple[dict[str, Any], list[Conflict]]:
    made: dict[str, Any] = {}
    conflicts: list[Conflict] = []
    for name in dict.fromkeys((*ours, *theirs)):
        place = (where + step.format(name)).lstrip(".")
        sides = [each.get(name, MISSING) for each in (base, ours, theirs)]
        if MISSING in sides[1:] and sides[0] is not MISSING:
            # One side took it away: it stays only where the other has changed it meanwhile.
            stays = sides[1] if sides[2] is MISSING else sides[2]
            if stays not in (sides[0], MISSING):
                conflicts.append(Conflict(place, sides[1], sides[2]))
                made[name] = stays
            continue
        if MISSING in sides[1:]:
            made[name] = sides[1] if sides[2] is MISSING else sides[2]
            continue
        common = None if sides[0] is MISSING else sides[0]
        made[name], found = merged(common, sides[1], sides[2], place)
        conflicts += found
    return made, conflicts


def _order(base: Iterable[str], ours: Iterable[str], theirs: Iterable[str]) -> list[str] | None:
    """The order of things that both have, and after each of these what only one of them has put
    there; none where what both have moved goes round in a circle. It is the same from either side.
    """
    sides = list(ours), list(theirs)
    both = set(sides[0]) & set(sides[1])
    shared = _joined_order(list(base), *([name for name in each if name in both] for each in sides))
    if shared is None:
        return None
    runs: dict[str | None, list[list[str]]] = {}
    for side in sides:
        after: str | None = None
        run: list[str] = []
        for name in side:
            if name in both:
                after, run = name, []
            else:
                if not run:
                    runs.setdefault(after, []).append(run)
                run.append(name)
    order: list[str] = []
    for before in (None, *shared):
        order += [] if before is None else [before]
        order += [name for run in sorted(runs.get(before, ())) for name in run]
    return order


def _joined_order(base: list[str], ours: list[str], theirs: list[str]) -> list[str] | None:
    """The order of things that both have, pair by pair as the side has it that has changed it;
    none where that goes round in a circle.

    Of a pair there are but two orders: where the sides differ, one of them is as it was.
    """
    if ours == theirs:
        return ours
    at = [{name: place for place, name in enumerate(each)} for each in (base, ours, theirs)]

    def comes_first(one: str, other: str) -> bool:
        was, mine, their = (
            each[one] < each[other] if one in each and other in each else None for each in at
        )
        if mine == their:
            return bool(mine)
        if was is None:
            return one < other
        return bool(mine if mine != was else their)

    places = {one: sum(comes_first(other, one) for other in ours if other != one) for one in ours}
    # All pairs agree with one order just where each thing has a place of its own in it.
    if len(set(places.values())) < len(places):
        return None
    return sorted(ours, key=places.__getitem__)


class _Missing:
    """Not there at all."""

    def __repr__(self) -> str:
        return "nothing"


MISSING: Final = _Missing()
