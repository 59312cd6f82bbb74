"""Records as they were last read, kept so that what has not changed since is not read again.

A file for each project under XDG_CACHE_HOME, safe to delete. It is never trusted: it counts only
where it is whole, and for a data file of the same size, time and content.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, Final

import msgspec
import platformdirs

from cadena import __version__
from cadena.model.file.disk import inside, print_of, read_bytes, write_bytes
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.model.values import FieldType
from cadena.records.few_records import FewRecords
from cadena.records.reading import Fault, Reading
from cadena.records.records import Records, is_list

FORMAT: Final = f"1 {__version__}"
LARGEST: Final = 64 * 1024 * 1024
LARGEST_FILE: Final = 4 * 1024 * 1024
"""Bytes of a data file whose records are kept."""
MOST_PROJECTS: Final = 100
ENDING: Final = ".msgpack"
MARK: Final = hashlib.sha256().digest_size


class KeptSource(msgspec.Struct):
    """The records of a source, and the file that they were read from."""

    read_as: str
    size: int
    changed: int
    print_of: str
    types: dict[str, FieldType]
    columns: dict[str, list[Any]]
    faults: tuple[Fault, ...] = ()


class KeptProject(msgspec.Struct):
    """The records of a project's sources, by source."""

    format: str
    sources: dict[str, KeptSource]


class KeptRecords:
    """The records of a project's files as they were last read.

    Args:
        folder: the project's.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._path = kept_at(folder)
        self._before = _whole(self._path)
        self._now: dict[str, KeptSource] = {}

    def records(self, source: Source, read: Callable[[], Records]) -> Records:
        """The records of a source: what is kept of it, or what is read now.

        Raises:
            Problem: as ``read`` does.
        """
        read_as = _read_as(source)
        stamp = self._stamp(source)
        kept = self._before.get(source.id)
        if (
            kept is not None
            and (kept.size, kept.changed, kept.print_of) == stamp
            and kept.read_as == read_as
            and (again := self._made_of(source, kept)) is not None
        ):
            self._now[source.id] = kept
            return again
        made = read()
        if stamp is not None and isinstance(made, FewRecords):
            types, columns = made.types, made.columns
            self._now[source.id] = KeptSource(read_as, *stamp, types, columns, made.faults)
        return made

    def keep(self) -> None:
        """Keep what was read; where that cannot be written, it is read again another time."""
        if self._now == self._before or self._path.parent.is_symlink():
            return
        content = msgspec.msgpack.encode(KeptProject(FORMAT, self._now))
        try:
            self._path.parent.mkdir(parents=True, exist_ok=True)
            write_bytes(hashlib.sha256(content).digest() + content, self._path)
            _let_go_of_old(self._path.parent)
        except (OSError, Problem):
            return

    def _stamp(self, source: Source) -> tuple[int, int, str] | None:
        """Size, time and content of a source's file as it is now; none where it is not kept."""
        if not source.file:
            return None
        try:
            path = inside(self.folder, source.file)
            if path.with_name(f"{path.name}-wal").exists():
                # What such a database holds is not in its file alone.
                return None
            content = read_bytes(path, source.file, LARGEST_FILE, "a data file")
            return len(content), path.stat().st_mtime_ns, print_of(content)
        except (OSError, Problem):
            return None

    def _made_of(self, source: Source, kept: KeptSource) -> FewRecords | None:
        columns, counts = dict(kept.columns), {len(each) for each in kept.columns.values()}
        if columns.keys() != kept.types.keys() or source.key not in columns or len(counts) > 1:
            return None
        for name, kind in kept.types.items():
            if is_list(kind):
                columns[name] = [None if each is None else tuple(each) for each in columns[name]]
        reading = partial(self._reading, source, kept)
        return FewRecords(source, kept.types, columns, kept.faults, reading)

    def _reading(self, source: Source, kept: KeptSource) -> Reading:
        """The columns that records were typed from, which the file still holds.

        Raises:
            Problem: where it holds something else by now.
        """
        from cadena.sources.read_file import read_source

        reading = read_source(self.folder, source)
        if self._stamp(source) != (kept.size, kept.changed, kept.print_of):
            reason = "it was changed by another program since it was read"
            raise Problem(source.file, "", reason, "the file read again")
        return reading


def kept_at(folder: Path) -> Path:
    """Where the records of a project are kept."""
    name = hashlib.sha256(str(folder.resolve()).encode("utf-8", "surrogateescape")).hexdigest()
    return Path(platformdirs.user_cache_dir("cadena")) / "records" / f"{name[:32]}{ENDING}"


def _let_go_of_old(folder: Path) -> None:
    """Remove what was kept longest ago of more projects than are kept."""
    kept = sorted(folder.glob(f"*{ENDING}"), key=lambda file: file.stat().st_mtime)
    for file in kept[:-MOST_PROJECTS]:
        file.unlink(missing_ok=True)


def _read_as(source: Source) -> str:
    """All of a source that decides what its file is read as."""
    return msgspec.json.encode(source).decode()


def _whole(path: Path) -> dict[str, KeptSource]:
    """What is kept in a file; nothing where it is not whole, or of another Cadena."""
    try:
        if path.parent.is_symlink():
            # It is somebody else's folder, and nothing of it is read or removed.
            return {}
        raw = read_bytes(path, path.name, LARGEST, "records")
        if hashlib.sha256(raw[MARK:]).digest() != raw[:MARK]:
            return {}
        made = msgspec.msgpack.decode(raw[MARK:], type=KeptProject)
    except (OSError, Problem, msgspec.MsgspecError):
        return {}
    return made.sources if made.format == FORMAT else {}
