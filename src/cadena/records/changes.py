"""What differs from the records as they were read."""

from __future__ import annotations

from collections.abc import Callable, Container
from typing import Any

from msgspec import Struct

from cadena.model.values import Scalar, Value


class Change(Struct, frozen=True, forbid_unknown_fields=True):
    """Fields of one record that are now otherwise."""

    key: Scalar
    fields: dict[str, Value | None]


class Alike(Struct, frozen=True, forbid_unknown_fields=True):
    """Fields of many records that are now otherwise, the same in each."""

    keys: tuple[Scalar, ...]
    fields: dict[str, Value | None]


class Changes(Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """What differs from the records as they were read: edits by key, in order.

    ``alike`` are made before those of single records.
    """

    changed: tuple[Change, ...] = ()
    gone: tuple[Scalar, ...] = ()
    added: tuple[dict[str, Value | None], ...] = ()
    alike: tuple[Alike, ...] = ()

    def then(self, later: Changes, key: str, is_known: Callable[[Scalar], bool]) -> Changes:
        """These changes with later ones on top; a record is named once in each part.

        Args:
            later: what then goes, comes new, and changes, in this order; each of it must be
                possible, see ``engine.changing``.
            key: the field of the key.
            is_known: whether a key is among the records as they were read.
        """
        # What stays the same stays the very same: records made of it serve again.
        gone, added, alike = self.gone, self.added, self.alike
        edits = {change.key: change.fields for change in self.changed}
        if later.gone:
            gone = tuple(dict.fromkeys((*gone, *later.gone))) if gone else later.gone
        if later.added:
            new = {row[key]: row for row in later.added}
            gone = tuple(each for each in gone if each not in new)
            added = tuple(row for row in added if row[key] not in new)
            # What is new is not what was changed before.
            alike = tuple(_without(each, new) for each in alike)
            for each, row in new.items():
                edits.pop(each, None)  # type: ignore[arg-type]
                if is_known(each):  # type: ignore[arg-type]
                    # One that was read and came again stands where it stood, as it now is.
                    edits[each] = row  # type: ignore[index]
                else:
                    added = (*added, row)
        for some in later.alike:
            alike = (*alike, some)
            for each in edits.keys() & set(some.keys) if edits else ():
                edits[each] = {**edits[each], **some.fields}
        for change in later.changed:
            edits[change.key] = {**edits.get(change.key, {}), **change.fields}
        changed = tuple(
            Change(each, {name: value for name, value in fields.items() if name != key})
            for each, fields in edits.items()
        )
        return Changes(changed, gone, added, alike)

    def with_back(self, keys: tuple[Scalar, ...]) -> Changes:
        """These changes without that some records are gone."""
        back = set(keys)
        gone = tuple(each for each in self.gone if each not in back)
        return Changes(self.changed, gone, self.added, self.alike)


def _without(alike: Alike, keys: Container[Any]) -> Alike:
    left = tuple(each for each in alike.keys if each not in keys)
    return alike if len(left) == len(alike.keys) else Alike(left, alike.fields)
