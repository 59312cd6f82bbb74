"""Writing what is delivered into a folder, and again: nothing changed by hand is lost."""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Final, Literal, NamedTuple

from cadena.model.file.disk import print_of, read_bytes, said_path, staged
from cadena.model.file.project_file import SUFFIX
from cadena.model.problem import Problem

LEDGER: Final = "delivered.json"
LARGEST: Final = 64 * 1024 * 1024
MOST_LINES: Final = 40
"""Lines of a difference that are told."""
Ledger = Mapping[str, tuple[str, ...]]
State = Literal["new", "changed", "as it was", "yours", "both", "gone"]
"""What delivering does with a file.

``yours`` was changed by hand, and what is delivered has not changed since; ``both`` have changed:
the new one is put beside it. ``gone`` is no longer delivered, and nobody has touched it.
"""


class Handed(NamedTuple):
    """One file of a delivery: what becomes of it, and how it differs from what is there."""

    path: str
    state: State
    difference: str = ""

    @property
    def beside(self) -> str:
        """Where the new version of a file is put that was changed by hand."""
        stem, dot, ending = self.path.rpartition(".")
        return f"{stem}.delivered.{ending}" if dot else f"{self.path}.delivered"


def planned(files: Mapping[str, bytes], folder: Path) -> tuple[Handed, ...]:
    """What delivering these files into a folder would do with each.

    Raises:
        Problem: where the folder cannot be delivered into.
    """
    return tuple(_planned(files, folder, _ledger(folder)))


def _planned(files: Mapping[str, bytes], folder: Path, ledger: Ledger) -> Iterator[Handed]:
    for name, content in files.items():
        there = _there(folder, name)
        if there is None:
            yield Handed(name, "new")
        elif there == content:
            yield Handed(name, "as it was")
        elif print_of(there) in ledger.get(name, ()):
            yield Handed(name, "changed", difference(there, content))
        elif print_of(content) in ledger.get(name, ()):
            yield Handed(name, "yours", difference(content, there))
        else:
            yield Handed(name, "both", difference(there, content))
    for name, known in ledger.items():
        there = None if name in files else _there(folder, name)
        if there is not None:
            yield Handed(name, "gone" if print_of(there) in known else "yours")


def deliver(files: Mapping[str, bytes], folder: Path) -> tuple[Handed, ...]:
    """Write files into a folder; what was changed by hand stays as it is.

    Raises:
        Problem: where the folder cannot be delivered into, or the disk does not take it.
    """
    ledger = _ledger(folder)
    handed = tuple(_planned(files, folder, ledger))
    # What somebody else has put there is not delivered, also where it is just the same.
    theirs = {each.path for each in handed if each.state == "as it was"} - ledger.keys()
    prints = {name: print_of(content) for name, content in sorted(files.items())}
    now = {name: known for name, known in prints.items() if name not in theirs}
    # Were it ended in the middle, what stands there is known by the one or by the other; what is
    # still to be put beside a file is not told as delivered before it is there.
    beside = {each.path for each in handed if each.state == "both"}
    _keep_ledger(folder, {name: now[name] for name in now if name not in beside}, ledger)
    for each in handed:
        place = folder / each.path
        match each.state:
            case "new" | "changed":
                _write(place, files[each.path], is_new=each.state == "new")
            case "both":
                _write(folder / each.beside, files[each.path])
            case "gone":
                place.unlink(missing_ok=True)
    _keep_ledger(folder, now, {})
    return handed


def _keep_ledger(folder: Path, now: Mapping[str, str], before: Ledger) -> None:
    said: dict[str, object] = {"files": now}
    if before:
        said["before"] = {name: list(known) for name, known in before.items()}
    text = json.dumps(said, indent=1, ensure_ascii=False)
    _write(folder / LEDGER, f"{text}\n".encode())


def _write(place: Path, content: bytes, is_new: bool = False) -> None:
    try:
        place.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Problem(
            said_path(place.parent), "", f"it cannot be made ({error.strerror})", "a free name"
        ) from None
    with staged(place, is_new=is_new) as new:
        new.fill(content)
        new.take_place()


def _ledger(folder: Path) -> Ledger:
    """What was delivered into a folder before, by path: what tells the content of each, and,
    where a delivery was ended in the middle, what told it before that."""
    name = said_path(folder)
    if folder.exists() and not folder.is_dir():
        raise Problem(name, "", "it is no folder", "a folder, or a name that is free")
    if folder.exists() and any(folder.glob(f"*{SUFFIX}")):
        raise Problem(name, "", "a project is in it", "a folder of its own, such as delivered/web")
    place = folder / LEDGER
    if not place.exists():
        return {}
    raw = read_bytes(place, f"{name}/{LEDGER}", LARGEST, "what was delivered before")
    try:
        said = json.loads(raw)
        made: dict[str, tuple[str, ...]] = {}
        for path, known in said["files"].items():
            made[str(path)] = (str(known),)
        for path, before in said.get("before", {}).items():
            made[str(path)] = (*made.get(str(path), ()), *map(str, before))
        return {path: known for path, known in made.items() if _is_inside(path)}
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        raise Problem(
            f"{name}/{LEDGER}", "", "it does not tell what was delivered", "that file as it was"
        ) from None


def _is_inside(path: str) -> bool:
    parts = path.split("/")
    return not path.startswith("/") and not {"", ".", ".."} & set(parts) and "\\" not in path


def _there(folder: Path, name: str) -> bytes | None:
    """What a file of the folder holds, or none where it is not there.

    Raises:
        Problem: where it leads out of the folder, or is no plain file.
    """
    place = folder / name
    if not place.resolve().is_relative_to(folder.resolve()):
        raise Problem(said_path(place), "", "it leads outside the folder", "a folder of its own")
    if not place.exists():
        return None
    return read_bytes(place, said_path(place), LARGEST, "a file to deliver over")


def difference(before: bytes, after: bytes) -> str:
    """How a text differs, line by line (unified); nothing for what is no text."""
    try:
        old, new = before.decode().splitlines(), after.decode().splitlines()
    except UnicodeDecodeError:
        return ""
    if max(len(old), len(new)) > 20_000:
        return ""
    lines = list(difflib.unified_diff(old, new, "there", "delivered", lineterm="", n=1))
    more = [f"… {len(lines) - MOST_LINES} lines more"] if len(lines) > MOST_LINES else []
    return "\n".join([*lines[:MOST_LINES], *more])


def size_of(files: Mapping[str, bytes]) -> int:
    """How many bytes files are together."""
    return sum(map(len, files.values()))
