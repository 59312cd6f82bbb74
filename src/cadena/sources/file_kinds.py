"""What a data file is: by its ending where that says it, else by what it holds."""

from __future__ import annotations

import gzip
import io
import zlib
from pathlib import Path
from typing import Final, Literal

from cadena.model.file.disk import in_bytes
from cadena.model.problem import Problem

Kind = Literal["json", "lines", "yaml", "csv", "database", "parquet", "sheets"]
ENDINGS: Final[dict[str, Kind]] = {
    ".json": "json",
    ".geojson": "json",
    ".jsonl": "lines",
    ".ndjson": "lines",
    ".yaml": "yaml",
    ".yml": "yaml",
    ".csv": "csv",
    ".tsv": "csv",
    ".txt": "csv",
    ".sqlite": "database",
    ".sqlite3": "database",
    ".db": "database",
    ".parquet": "parquet",
    ".xlsx": "sheets",
    ".xls": "sheets",
    ".ods": "sheets",
}
PACKED: Final = ".gz"
LARGEST: Final = 2 * 1024 * 1024 * 1024
"""Bytes of a data file, also once it is unpacked."""
LOOKED_AT: Final = 64 * 1024
GZIP, ZIP, PARQUET = b"\x1f\x8b", b"PK\x03\x04", b"PAR1"
DATABASE: Final = b"SQLite format 3\x00"
OLD_SHEET: Final = b"\xd0\xcf\x11\xe0"
BOM: Final = b"\xef\xbb\xbf"


def ending_of(path: Path) -> str:
    """The ending of a file, in lower case; of one that is packed that of what is in it."""
    name = path.name.lower().removesuffix(PACKED)
    return Path(name).suffix


def kind_of(path: Path, name: str, raw: bytes | None) -> Kind:
    """What a data file is.

    Args:
        name: what it is called in messages.
        raw: what is in it; it is not needed where the ending is known.

    Raises:
        Problem: where neither its ending nor what it holds says so.
    """
    if (known := ENDINGS.get(ending_of(path))) is not None:
        if known == "database" and path.name.lower().endswith(PACKED):
            raise Problem(name, "", "it is a packed database", "the database itself")
        return known
    found = _by_content((raw or b"")[:LOOKED_AT])
    if found is None:
        ending = path.suffix or "of its name"
        raise Problem(
            name,
            "",
            f"the ending {ending} is not known, and what it holds is no text of records",
            " or ".join(ENDINGS),
        )
    return found


def _by_content(start: bytes) -> Kind | None:
    for mark, kind in (
        (DATABASE, "database"),
        (PARQUET, "parquet"),
        (ZIP, "sheets"),
        (OLD_SHEET, "sheets"),
    ):
        if start.startswith(mark):
            return kind  # type: ignore[return-value]
    text = start.removeprefix(BOM).lstrip()
    if b"\0" in text and not start.startswith((b"\xff\xfe", b"\xfe\xff")):
        return None
    if text[:1] == b"[":
        return "json"
    if text[:1] == b"{":
        # More than one object, each on a line of its own.
        lines = [each for each in text.split(b"\n") if each.strip()]
        is_lines = len(lines) > 1 and lines[0].rstrip().endswith(b"}") and lines[1][:1] == b"{"
        return "lines" if is_lines else "json"
    if text.startswith((b"---", b"- ")):
        return "yaml"
    first = text.split(b"\n", 1)[0]
    is_rows = any(each in first for each in (b",", b";", b"\t", b"|")) and text[:1] != b"<"
    return "csv" if is_rows else None


def unpacked(raw: bytes, name: str) -> bytes:
    """What a data file holds, unpacked where it is packed (RFC 1952).

    Raises:
        Problem: when it cannot be unpacked, or holds too much.
    """
    if raw[:2] != GZIP:
        return raw
    try:
        with gzip.open(io.BytesIO(raw)) as packed:
            held = packed.read(LARGEST + 1)
    except (OSError, EOFError, zlib.error) as error:
        raise Problem(name, "", f"it cannot be unpacked ({error})", "a whole gzip file") from None
    if len(held) > LARGEST:
        said = f"unpacked it is over {in_bytes(LARGEST)}"
        raise Problem(name, "", said, f"at most {in_bytes(LARGEST)}")
    return held
