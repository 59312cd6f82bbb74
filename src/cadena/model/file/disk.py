"""Reading and writing files: of bounded size, whole or not at all, and never outside a folder."""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import shutil
import stat
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, Final, Literal

from cadena.model.problem import Problem

LONGEST_NAME: Final = 120
TEMPORARY: Final = ".tmp"


def said_path(path: Path | str) -> str:
    """A path as it can be printed and kept: what is no UTF-8 in it shows as such."""
    return str(path).encode("utf-8", "backslashreplace").decode()


def print_of(content: bytes) -> str:
    """What tells these bytes from any others."""
    return hashlib.sha256(content).hexdigest()


def read_bytes(path: Path, name: str, most: int, wanted: str) -> bytes:
    """What a file holds.

    Args:
        name: what the file is called in messages.
        most: the most bytes that are read.
        wanted: what it should be, for messages.

    Raises:
        Problem: when it is no plain file, too large, or cannot be read.
    """
    try:
        with _opened(path, name, most, wanted) as file:
            held = file.read(most + 1)
    except OSError as error:
        raise _unreadable(name, error, wanted) from None
    if len(held) > most:
        raise _too_large(name, f"over {in_bytes(most)}", most, wanted)
    return held


def demand_plain(path: Path, name: str, most: int, wanted: str) -> None:
    """Refuse what cannot be read to its end: a pipe, a device, or a file too large.

    Raises:
        Problem: as ``read_bytes``.
    """
    try:
        with _opened(path, name, most, wanted):
            return
    except OSError as error:
        raise _unreadable(name, error, wanted) from None


@contextlib.contextmanager
def _opened(path: Path, name: str, most: int, wanted: str) -> Iterator[BinaryIO]:
    # Asked before it is opened: to open a pipe is to wait for whoever writes to it.
    if not stat.S_ISREG(path.stat().st_mode):
        raise Problem(name, "", "it is no plain file", wanted)
    with path.open("rb") as file:
        size = os.fstat(file.fileno()).st_size
        if size > most:
            raise _too_large(name, in_bytes(size), most, wanted)
        yield file


def _unreadable(name: str, error: OSError, wanted: str) -> Problem:
    return Problem(name, "", f"it cannot be read ({error.strerror})", f"{wanted} that can be read")


def _too_large(name: str, size: str, most: int, wanted: str) -> Problem:
    return Problem(name, "", f"it holds {size}", f"{wanted} of {in_bytes(most)} at most")


def in_bytes(size: int) -> str:
    """A size in bytes for a person."""
    for unit, name in ((1 << 30, "GiB"), (1 << 20, "MiB"), (1 << 10, "KiB")):
        if size >= unit:
            return f"{size / unit:.3g} {name}"
    return f"{size} bytes"


def inside(folder: Path, name: str, place: str = "") -> Path:
    """The path of a file that must lie inside a folder, links followed.

    Raises:
        Problem: when it points elsewhere or is not there.
    """
    root = folder.resolve()
    try:
        path = (root / name).resolve()
        is_inside = path.is_relative_to(root) and not Path(name).is_absolute()
        there = is_inside and path.is_file()
    except (OSError, ValueError, RuntimeError):
        is_inside, there = True, False
    if not is_inside:
        raise Problem(name, place, "the path leads outside the project folder", "a file inside it")
    if not there:
        raise Problem(
            name, place, "there is no such file in the project folder", "a file inside it"
        )
    return path


def fault_of_name(name: str) -> str | None:
    """Why a name cannot be that of a file of a project, or none."""
    if re.search(r"[/\\\x00-\x1f\x7f]", name):
        return "it holds a stroke or a control character"
    if name.startswith(".") or name != name.strip():
        return "it begins with a point, or begins or ends with a blank"
    if len(name.encode("utf-8", "surrogatepass")) > LONGEST_NAME:
        return f"it is longer than {LONGEST_NAME} bytes"
    if any("\ud800" <= letter <= "\udfff" for letter in name):
        return "it is no text"
    return None


def place_in(folder: Path, name: str) -> Path:
    """Where a file of this name is written: right in the folder, whatever stands there now.

    Raises:
        Problem: for a name that is none, or that leads elsewhere.
    """
    fault = fault_of_name(name) if name else "it is empty"
    if fault is not None:
        raise Problem(name, "", f"{fault}, so that no file can be named so", "a plain name")
    return folder / name


def write_in(folder: Path, name: str, content: bytes, keep_before: bool = False) -> Path:
    """Write a file right in a folder: the one way in which a project's files are written.

    Raises:
        Problem: for a name that leads elsewhere, or when the disk does not take it; what stood
            there stays whole.
    """
    path = place_in(folder, name)
    write_bytes(content, path, keep_before)
    return path


def copy_in(folder: Path, name: str, file: Path) -> Path:
    """Copy a file right into a folder where there is none of that name, as ``write_new``."""
    path = place_in(folder, name)
    with staged(path, is_new=True) as new:
        with _as_problems(path):
            shutil.copyfile(file, new.temporary)
        new.take_place()
    return path


def write_text(text: str, path: Path, keep_before: bool = False) -> None:
    """Write a text file so that a reader sees the old one or the new one, never a part."""
    write_bytes(text.encode(), path, keep_before)


def write_new(folder: Path, name: str, content: bytes) -> Path:
    """Write a file right in a folder where there is none of that name.

    Raises:
        Problem: as ``write_in``, and where there is one.
    """
    path = place_in(folder, name)
    with staged(path, is_new=True) as new:
        new.fill(content)
        new.take_place()
    return path


def write_bytes(content: bytes, path: Path, keep_before: bool = False) -> None:
    """Write a file so that a reader sees the old one or the new one, never a part.

    Args:
        keep_before: whether the one that stood there is kept beside it, as ``*.before``.

    Raises:
        Problem: when the disk does not take it; what stood there stays whole.
    """
    with staged(path, keep_before) as new:
        new.fill(content)
        new.take_place()


Seen = tuple[int, int, int] | None


def seen_at(path: Path) -> Seen:
    """Which file stands at a path, how large it is and when it was last written, or none.

    Raises:
        Problem: when that cannot be found out.
    """
    with _as_problems(path):
        try:
            found = path.stat()
        except FileNotFoundError:
            return None
        return found.st_ino, found.st_size, found.st_mtime_ns


class Staged:
    """A file that is written beside another, whose place it takes at once or not at all."""

    def __init__(self, path: Path, keep_before: bool, is_new: bool, seen: Seen) -> None:
        self.path = path
        self.temporary = _temporary(path)
        self._keep_before = keep_before
        self._is_new = is_new
        self._seen = seen

    def fill(self, content: bytes) -> None:
        """Write what it holds, so that it is on the disk."""
        with _as_problems(self.path):
            _fill(self.temporary, content)

    def take_place(self) -> None:
        """Put it in its place.

        Raises:
            Problem: when the disk does not take it, or what stands there was exchanged or changed
                since this was begun; that stays whole then.
        """
        with _as_problems(self.path):
            if seen_at(self.path) != self._seen:
                reason = "it was changed by another program this very moment"
                raise Problem(said_path(self.path.name), "", reason, "to save once more")
            # Some disks have no permissions to set.
            with contextlib.suppress(OSError):
                mode = self.path.stat().st_mode & 0o777 if self.path.exists() else 0o644
                os.chmod(self.temporary, mode)
            if self._keep_before and self.path.exists():
                _keep_before(self.path)
            if self._is_new:
                _put_where_none_is(self.temporary, self.path)
            else:
                os.replace(self.temporary, self.path)

    def let_go(self) -> None:
        """Leave nothing of it lying."""
        with contextlib.suppress(OSError):
            self.temporary.unlink(missing_ok=True)


@contextlib.contextmanager
def staged(
    path: Path, keep_before: bool = False, is_new: bool = False, seen: Seen | Literal[""] = ""
) -> Iterator[Staged]:
    """A file to be filled, that takes the place of another when it is told to.

    Args:
        keep_before: whether the one that stood there is kept beside it, as ``*.before``.
        is_new: whether nothing may stand there.
        seen: what stood there when it was read, where that was before.

    Raises:
        Problem: when the disk does not take it.
    """
    with _as_problems(path):
        _clear_left(path)
        made = Staged(path, keep_before, is_new, seen_at(path) if seen == "" else seen)
    try:
        yield made
    finally:
        made.let_go()


@contextlib.contextmanager
def _as_problems(path: Path) -> Iterator[None]:
    try:
        yield
    except FileExistsError:
        reason = "there is a file of that name already"
        raise Problem(said_path(path.name), "", reason, "another name") from None
    except OSError as error:
        reason = f"it cannot be written ({error.strerror})"
        raise Problem(said_path(path.name), "", reason, "a folder that can be written") from None


def move_to_free(path: Path, to: Path) -> None:
    """Call a file otherwise, where there is none of that name.

    Raises:
        Problem: where there is one, or the disk does not take it.
    """
    with _as_problems(to):
        _put_where_none_is(path, to)
        path.unlink(missing_ok=True)


def _put_where_none_is(temporary: Path, path: Path) -> None:
    try:
        os.link(temporary, path)
    except FileExistsError:
        raise
    except OSError:
        # Some disks know no second name of a file.
        if path.exists():
            raise FileExistsError(path) from None
        os.replace(temporary, path)


def _keep_before(path: Path) -> None:
    """A copy of a file as ``*.before``; at no moment is there neither an old one nor a new one."""
    copy = _temporary(path)
    try:
        _fill(copy, path.read_bytes())
        os.replace(copy, path.with_name(path.name + ".before"))
    except BaseException:
        with contextlib.suppress(OSError):
            copy.unlink(missing_ok=True)
        raise


def _fill(path: Path, content: bytes) -> None:
    with path.open("wb") as file:
        file.write(content)
        file.flush()
        os.fsync(file.fileno())


def _temporary(path: Path) -> Path:
    handle, name = tempfile.mkstemp(TEMPORARY, f".{path.name}.{os.getpid()}.", path.parent)
    try:
        os.close(handle)
    except OSError:
        Path(name).unlink(missing_ok=True)
        raise
    return Path(name)


def _clear_left(path: Path) -> None:
    """Remove what a process that was ended in the middle of writing has left."""
    pattern = re.compile(rf"\.{re.escape(path.name)}\.(\d+)\.[^.]*{re.escape(TEMPORARY)}")
    for file in path.parent.iterdir():
        found = pattern.fullmatch(file.name)
        if found is not None and not _is_alive(int(found[1])):
            with contextlib.suppress(OSError):
                file.unlink()


def _is_alive(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except (OSError, OverflowError):
        return True
    return True
