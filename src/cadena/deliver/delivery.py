"""Writing what is delivered into a folder, and again: nothing changed by hand is lost."""

from __future__ import annotations

import difflib
import io
import json
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Final, Literal, NamedTuple

import msgspec

from cadena.deliver.joined_lines import joined_lines
from cadena.deliver.wishes import WebWishes
from cadena.model.file.disk import print_of, read_bytes, said_path, staged
from cadena.model.file.project_file import SUFFIX
from cadena.model.problem import Problem

LEDGER: Final = "delivered.json"
TEXTS: Final = "delivered.zip"
"""The texts that may be changed by hand, as they were delivered: what both changes start from."""
OWN: Final = frozenset({"extend.js"})
"""Files that are only ever put where there is none."""
FIXED: Final = ("kit/", "records/", "fonts/", "bundle.")
"""What is not meant to be changed by hand, or not line by line."""
LARGEST: Final = 64 * 1024 * 1024
LARGEST_TEXT: Final = 512 * 1024
MOST_LINES: Final = 40
"""Lines of a difference that are told."""
Ledger = Mapping[str, tuple[str, ...]]
State = Literal["new", "changed", "as it was", "yours", "joined", "both", "gone", "unused"]
"""What delivering does with a file.

``yours`` was changed by hand, and what is delivered has not changed since; ``joined`` takes both
changes; of ``both`` that touch each other the new one is put beside it, until somebody has joined
them and removed it. ``gone`` is no longer delivered, and nobody has touched it; ``unused`` is not
either, and was changed by hand.
"""


WRITTEN: Final = ("new", "changed", "joined", "both")
"""What becomes of files that something is written for."""
YOURS: Final = ("yours", "joined", "both", "unused")
"""What becomes of files that were changed by hand."""


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

    @property
    def said(self) -> str:
        """What becomes of it, in words; nothing of what stays as it is."""
        return {
            "as it was": "",
            "yours": "yours, left as it is",
            "joined": "yours, joined with what is new",
            "both": f"yours, and not joined: the new one is {self.beside}; remove it once it is",
            "unused": "yours, and nothing uses it any more",
        }.get(self.state, self.state)


class Delivered(NamedTuple):
    """What is known of the deliveries before: what tells each file, and the texts of some.

    ``texts`` are those that changes by hand start from; ``offered`` those that were put beside.
    """

    ledger: Ledger
    texts: Mapping[str, str]
    offered: Mapping[str, str]
    web: object = None


Planned = tuple[tuple[Handed, bytes | None], ...]
"""Files with what is to stand there in place of what does, where anything is."""


def planned(files: Mapping[str, bytes], folder: Path) -> tuple[Handed, ...]:
    """What delivering these files into a folder would do with each.

    Raises:
        Problem: where the folder cannot be delivered into.
    """
    return tuple(handed for handed, _ in _planned(files, folder, known_of(folder)))


def standing(files: Mapping[str, bytes], folder: Path) -> dict[str, bytes]:
    """The files as they would stand in a folder once they are delivered: by hand or not.

    Raises:
        Problem: as ``planned`` does.
    """
    made = dict(files)
    for handed, content in _planned(files, folder, known_of(folder)):
        if handed.path in made:
            there = _there(folder, handed.path) if content is None else content
            made[handed.path] = made[handed.path] if there is None else there
    return made


def _planned(
    files: Mapping[str, bytes], folder: Path, known: Delivered
) -> Iterator[tuple[Handed, bytes | None]]:
    ledger = known.ledger
    for name, content in files.items():
        there = _there(folder, name)
        if there is None:
            yield Handed(name, "new"), content
        elif there == content:
            yield Handed(name, "as it was"), None
        elif name in OWN:
            yield Handed(name, "yours", difference(content, there)), None
        elif print_of(there) in ledger.get(name, ()):
            yield Handed(name, "changed", difference(there, content)), content
        else:
            yield _by_hand(Handed(name, "yours"), there, content, folder, known)
    for name, prints in ledger.items():
        there = None if name in files else _there(folder, name)
        if there is not None:
            yield Handed(name, "gone" if print_of(there) in prints else "unused"), None


def _by_hand(
    file: Handed, there: bytes, content: bytes, folder: Path, known: Delivered
) -> tuple[Handed, bytes | None]:
    """What becomes of a file that was changed by hand."""
    base, told = _base_of(file, folder, known), difference(there, content)
    if base is None:
        is_open = file.path in known.offered
        if not is_open and print_of(content) in known.ledger.get(file.path, ()):
            return file._replace(difference=difference(content, there)), None
        return file._replace(state="both", difference=told), None
    mine, theirs = _text(there), _text(content)
    made = None if mine is None or theirs is None else joined_lines(base, mine, theirs)
    if made is None:
        return file._replace(state="both", difference=told), None
    if made == mine:
        return file._replace(difference=difference(content, there)), None
    whole = made.encode()
    return file._replace(state="joined", difference=difference(there, whole)), whole


def _base_of(file: Handed, folder: Path, known: Delivered) -> str | None:
    """The text that a change by hand starts from: what was put beside, once that is joined."""
    offered = known.offered.get(file.path)
    if offered is not None and _there(folder, file.beside) is None:
        return offered
    return known.texts.get(file.path)


def is_fixed(name: str) -> bool:
    """Whether a file is not meant to be changed by hand, at the top or in a package."""
    return name.startswith(FIXED) or any(f"/{each}" in name for each in FIXED)


def _text(content: bytes) -> str | None:
    try:
        return content.decode() if len(content) <= LARGEST_TEXT else None
    except UnicodeDecodeError:
        return None


def deliver(
    files: Mapping[str, bytes], folder: Path, web: WebWishes | None = None
) -> tuple[Handed, ...]:
    """Write files into a folder; what was changed by hand stays, joined with what is new.

    Args:
        web: what is chosen for the deliveries to come as well.

    Raises:
        Problem: where the folder cannot be delivered into, or the disk does not take it.
    """
    known = known_of(folder)
    plan: Planned = tuple(_planned(files, folder, known))
    handed = tuple(each for each, _ in plan)
    # What somebody else has put there is not delivered, also where it is just the same.
    theirs = {each.path for each in handed if each.state == "as it was"} - known.ledger.keys()
    prints = {name: print_of(content) for name, content in sorted(files.items())}
    now = {name: print_ for name, print_ in prints.items() if name not in theirs}
    now |= {e.path: known.ledger[e.path][0] for e in handed if e.state == "unused"}
    # Were it ended in the middle, what stands there is known by the one or by the other; what is
    # still to be put beside a file, or joined, is not told as delivered before it is there.
    later = {each.path for each in handed if each.state in ("both", "joined")}
    wishes = known.web if web is None else web
    _keep_ledger(folder, {n: now[n] for n in now if n not in later}, known.ledger, wishes)
    for each, content in plan:
        place = folder / each.path
        if content is not None:
            _write(place, content, is_new=each.state == "new")
        elif each.state == "both":
            _write(folder / each.beside, files[each.path])
        elif each.state == "gone":
            place.unlink(missing_ok=True)
        _clear_beside(each, folder, known)
    _keep_texts(files, folder, handed, known)
    _keep_ledger(folder, now, {}, wishes)
    return handed


def _clear_beside(file: Handed, folder: Path, known: Delivered) -> None:
    """What was put beside a file goes once it is joined, unless somebody has changed it."""
    offered = known.offered.get(file.path)
    if offered is None or file.state == "both":
        return
    if _there(folder, file.beside) == offered.encode():
        (folder / file.beside).unlink(missing_ok=True)


def _keep_texts(
    files: Mapping[str, bytes], folder: Path, handed: tuple[Handed, ...], known: Delivered
) -> None:
    """Keep what changes by hand start from: of what is not joined yet, what they started from."""
    open_ = {each.path for each in handed if each.state == "both"}
    texts = {
        name: text
        for name, content in files.items()
        if not is_fixed(name) and name not in OWN and (text := _text(content)) is not None
    }
    offered = {name: texts[name] for name in open_ if name in texts}
    for file in handed:
        if file.path in offered:
            base = _base_of(file, folder, known) or known.texts.get(file.path)
            texts.pop(file.path)
            texts |= {} if base is None else {file.path: base}
    whole = io.BytesIO()
    with zipfile.ZipFile(whole, "w", zipfile.ZIP_DEFLATED) as packed:
        for place, some in (("delivered", texts), ("beside", offered)):
            for name, text in sorted(some.items()):
                packed.writestr(zipfile.ZipInfo(f"{place}/{name}"), text, zipfile.ZIP_DEFLATED)
    _write(folder / TEXTS, whole.getvalue())


def _keep_ledger(folder: Path, now: Mapping[str, str], before: Ledger, web: object) -> None:
    said: dict[str, object] = {"files": now}
    if web is not None and web != WebWishes():
        said["web"] = msgspec.to_builtins(web)
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


def known_of(folder: Path) -> Delivered:
    """What was delivered into a folder before, with the texts of it.

    Raises:
        Problem: where it cannot be delivered into, or does not tell what was.
    """
    known = _ledger_of(folder)
    texts, offered = _texts(folder) if (folder / LEDGER).exists() else ({}, {})
    return known._replace(texts=texts, offered=offered)


def web_of(folder: Path) -> object:
    """What was chosen for a web app, as it stands there; none where nothing was.

    Raises:
        Problem: as ``known_of`` does.
    """
    return _ledger_of(folder).web


def _ledger_of(folder: Path) -> Delivered:
    """What was delivered into a folder before, by path: what tells the content of each, and,
    where a delivery was ended in the middle, what told it before that."""
    name = said_path(folder)
    if folder.exists() and not folder.is_dir():
        raise Problem(name, "", "it is no folder", "a folder, or a name that is free")
    if folder.exists() and any(folder.glob(f"*{SUFFIX}")):
        raise Problem(name, "", "a project is in it", "a folder of its own, such as delivered/web")
    place = folder / LEDGER
    if not place.exists():
        return Delivered({}, {}, {})
    raw = read_bytes(place, f"{name}/{LEDGER}", LARGEST, "what was delivered before")
    try:
        said = json.loads(raw)
        made: dict[str, tuple[str, ...]] = {}
        for path, known in said["files"].items():
            made[str(path)] = (str(known),)
        for path, before in said.get("before", {}).items():
            made[str(path)] = (*made.get(str(path), ()), *map(str, before))
        ledger = {path: known for path, known in made.items() if _is_inside(path)}
        return Delivered(ledger, {}, {}, said.get("web"))
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        raise Problem(
            f"{name}/{LEDGER}", "", "it does not tell what was delivered", "that file as it was"
        ) from None


def _texts(folder: Path) -> tuple[dict[str, str], dict[str, str]]:
    """The texts that were delivered, and put beside others; without them files are not joined."""
    found: dict[str, dict[str, str]] = {"delivered": {}, "beside": {}}
    place = folder / TEXTS
    if not place.is_file():
        return {}, {}
    raw = read_bytes(place, said_path(place), LARGEST, "the texts that were delivered before")
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as packed:
            for member in packed.infolist():
                of, _, name = member.filename.partition("/")
                if of in found and member.file_size <= LARGEST_TEXT:
                    found[of][name] = packed.read(member).decode()
    except (zipfile.BadZipFile, zlib.error, UnicodeDecodeError, NotImplementedError, EOFError):
        return {}, {}
    return found["delivered"], found["beside"]


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
