"""Two or three versions of an app set against each other thing by thing, and never by line.

An app is taken as its plain tree; in lists, things of one name are the same thing wherever they
stand.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final, NamedTuple

from msgspec import Struct

from cadena.model.app import App

NAMES: Final = ("id", "name", "parameter", "field", "title", "slot")
"""What things are told apart by in a list, the first of these that all of them have."""
WORDS: Final = frozenset(
    {
        *("title", "title_new", "label", "heading", "subtitle", "badge", "empty", "not_found"),
        *("nothing_chosen_words", "past_limit", "save_label", "text", "words", "word", "icon"),
        *("confirm", "why", "unit", "sign", "colour", "when_empty", "when_on", "locale"),
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


def differences(old: Any, new: Any, where: str = "") -> Iterator[Difference]:
    """What differs between two plain trees, place by place."""
    if old == new and type(old) is type(new):
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
    if ours == theirs or theirs == base:
        return ours, []
    if ours == base:
        return theirs, []
    if all(isinstance(each, dict) for each in (base, ours, theirs)):
        return _merged_dicts(base, ours, theirs, where)
    keyed = _keyed(base or [], ours, theirs)
    if keyed is None:
        return ours, [Conflict(where, ours, theirs)]
    before, mine, other = keyed
    made, conflicts = _merged_dicts(before, mine, other, where, "[{}]")
    return [made[name] for name in _order(before, mine, other) if name in made], conflicts


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


def _order(base: dict[str, Any], ours: dict[str, Any], theirs: dict[str, Any]) -> list[str]:
    """The order of ours, or of theirs where only they have moved anything; new ones after what
    they stood after."""
    stays = [each for each in base if each in ours and each in theirs]
    moved = [each for each in ours if each in stays] != stays
    first, second = (ours, theirs) if moved else (theirs, ours)
    order = list(first)
    for before, name in zip([None, *second], second, strict=False):
        if name not in order:
            at = order.index(before) + 1 if before in order else 0
            order.insert(at, name)
    return order


class _Missing:
    """Not there at all."""

    def __repr__(self) -> str:
        return "nothing"


MISSING: Final = _Missing()
