"""Reading CSV: RFC 4180, and what is met besides."""

from __future__ import annotations

import codecs
import csv
import io
import itertools
import re
from collections import Counter
from collections.abc import Iterable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Final

import numpy as np
import polars as pl
from numpy.typing import NDArray

from cadena.model.file.disk import said_path
from cadena.model.problem import Problem
from cadena.model.source import Csv
from cadena.records.reading import MOST_FIELDS, NAMED, Fault, Progress, Reading, silent
from cadena.sources.infer_types import by_content, without_gaps
from cadena.sources.number_texts import unlike_number

DELIMITERS: Final = ",;\t|"
MARKS: Final = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF32_LE, "utf-32"),
    (codecs.BOM_UTF32_BE, "utf-32"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)
SAMPLE: Final = 64 * 1024
LOOKED_AT: Final = 60
"""Rows among which the header is looked for."""
WESTERN: Final = "cp1252"
KIN: Final = frozenset(
    {"latin_1", "iso8859_15", "iso8859_9", "cp1254", "cp1257", "cp1258", "mac_roman", "cp850"}
    | {"cp437", "cp858", "hp_roman8", "cp775", "iso8859_4", "iso8859_10", "iso8859_13", "cp037"}
)
SURE: Final = 40.0
HEADER: Final = 1024 * 1024
PIECE: Final = 16 * 1024 * 1024
QUOTE: Final = ord('"')


def found_form(raw: bytes) -> Csv:
    """How a CSV file is written: its encoding, its delimiter, and whether it has a header."""
    encoding = found_encoding(raw)
    sample = raw[: SAMPLE * 4].decode(encoding, errors="replace")[:SAMPLE].lstrip("﻿")
    if "\n" not in sample:
        sample = sample.replace("\r", "\n")
    delimiter = _found_delimiter(sample)
    skip, rows = _from_head(sample, delimiter)
    blanks = _has_blanks(sample, delimiter)
    if blanks:
        rows = [[cell.strip() for cell in row] for row in rows]
    return Csv(
        delimiter=delimiter, encoding=encoding, header=_has_header(rows), skip=skip, blanks=blanks
    )


def _has_blanks(sample: str, delimiter: str) -> bool:
    """Whether blanks stand after the delimiters, which are no part of the values."""
    if delimiter == "\t":
        return False
    rows = itertools.islice(_rows(io.StringIO(sample, newline=""), delimiter), LOOKED_AT)
    later = [cell for row in rows for cell in row[1:] if cell]
    begun = sum(cell.startswith(" ") for cell in later)
    return begun * 2 > len(later)


def _from_head(sample: str, delimiter: str) -> tuple[int, list[list[str]]]:
    """How many lines stand above the header or the first row, and the rows from there.

    Above are titles and remarks: rows of fewer fields than nearly all that follow.
    """
    reader = csv.reader(io.StringIO(sample, newline=""), delimiter=delimiter)
    rows: list[tuple[int, list[str]]] = []
    before = 0
    with suppress(csv.Error):
        for row in itertools.islice(reader, LOOKED_AT):
            rows.append((before, row))
            before = reader.line_num
    if padded := _above_padded(rows):
        return rows[padded][0], [row for _, row in rows[padded:]]
    lengths = [len(row) for _, row in rows if row]
    usual = max(set(lengths), key=lengths.count, default=0)
    if usual < 2 or lengths.count(usual) * 2 <= len(lengths):
        return 0, [row for _, row in rows]
    first = next(at for at, (_, row) in enumerate(rows) if len(row) == usual)
    above = rows[:first]
    if any(len(row) > usual or sum(map(bool, row)) > usual // 2 for _, row in above):
        return 0, [row for _, row in rows]
    return rows[first][0], [row for _, row in rows[first:]]


def _above_padded(rows: list[tuple[int, list[str]]]) -> int:
    """How many rows of titles stand above the header, where all rows are padded to one width."""
    widths = {len(row) for _, row in rows if row}
    filled = [sum(bool(cell.strip()) for cell in row) for _, row in rows]
    if len(widths) != 1 or max(widths) < 2 or not filled:
        return 0
    usual = max(set(filled), key=filled.count)
    head = next((at for at, count in enumerate(filled) if count * 2 > usual), 0)
    names = [cell for cell in rows[head][1] if cell.strip()]
    is_head = len(set(names)) == len(names) and all(map(unlike_number, names))
    is_above = all(count <= 1 or count * 2 < usual for count in filled[:head])
    return head if usual > 1 and is_head and is_above else 0


def found_encoding(raw: bytes) -> str:
    """The encoding of a text: by its mark, UTF-8 where it is that, or the likeliest other."""
    for mark, name in MARKS:
        if raw.startswith(mark):
            return name
    if raw.isascii() and b"\0" not in raw[:SAMPLE]:
        return "utf-8"
    try:
        decoder = codecs.getincrementaldecoder("utf-8")()
        for at in range(0, len(raw), PIECE):
            decoder.decode(raw[at : at + PIECE], at + PIECE >= len(raw))
    except UnicodeDecodeError:
        pass
    else:
        sample = raw[:SAMPLE]
        if sample.count(0) * 3 < len(sample) or not sample:
            return "utf-8"
    from charset_normalizer import from_bytes

    sample = raw[:SAMPLE]
    best = from_bytes(sample).best()
    # Of encodings that differ in rare letters alone, what most such files are.
    if best is not None and best.encoding in KIN and sample.count(0) == 0:
        best = None
    # A few letters beyond ASCII tell no language: then it is what most such files are.
    if (best is None or best.percent_coherence < SURE) and sample.count(0) == 0:
        with suppress(UnicodeDecodeError):
            sample.decode(WESTERN)
            return WESTERN
    return "utf-8" if best is None or best.encoding == "ascii" else best.encoding.replace("_", "-")


def _rows(lines: Iterable[str], delimiter: str) -> Iterator[list[str]]:
    """The rows of some lines, up to what is none."""
    with suppress(csv.Error):
        yield from csv.reader(lines, delimiter=delimiter)


def _found_delimiter(sample: str) -> str:
    """The delimiter that cuts most of the first lines into as many fields each, and into most."""
    lines = [each for each in sample.split("\n")[:20] if each.strip()]
    if len(sample) >= SAMPLE and len(lines) > 1:
        lines = lines[:-1]

    def rating(delimiter: str) -> tuple[int, int]:
        counts = [len(row) for row in _rows(lines, delimiter) if row]
        several = [each for each in counts if each > 1]
        usual = max(several, key=lambda each: (several.count(each), each), default=0)
        return several.count(usual), usual

    best = max(DELIMITERS, key=rating)
    return best if rating(best) > (0, 0) else ","


def _has_header(rows: list[list[str]]) -> bool:
    """Whether the first row are names: filled, all different, and none of them a number."""
    if not rows:
        return True
    names, below = rows[0], [row for row in rows[1:] if len(row) == len(rows[0])]
    # A name stands above its column, and not in it.
    again = sum(name in (row[at] for row in below) for at, name in enumerate(names) if name)
    if below and again * 2 > len(names):
        return False
    if all(map(unlike_number, names)):
        return True
    # Years above their columns are names as well.
    numbers = [each.strip() for each in names if not unlike_number(each)]
    are_years = all(re.fullmatch(r"(1[89]|20)[0-9]{2}", each) for each in numbers)
    return are_years and len(numbers) > 1 and sorted(set(numbers)) == numbers


def read_csv(
    raw: bytes,
    name: str,
    form: Csv,
    progress: Progress = silent,
    path: Path | None = None,
    is_known: bool = False,
) -> Reading:
    """Read the rows of a CSV file that have as many fields as its header.

    Args:
        is_known: whether it is known that these are records: then there may be none left.

    Raises:
        Problem: where nothing in it can be used.
    """
    # What needs no mending is left where it lies.
    as_read = raw
    raw, faults = as_utf8(raw, name, form.encoding)
    for _ in range(form.skip):
        raw = raw[raw.find(b"\n") + 1 :] if b"\n" in raw else b""
    if form.blanks:
        raw = _without_blanks(raw, form.delimiter)
    if not raw.strip():
        raise Problem(name, "", "no row is left below the lines above", "fewer of them")
    progress(0.1)
    delimiter = form.delimiter.encode()
    if len(delimiter) != 1:
        raise Problem(
            name, "", f"the delimiter {form.delimiter!r} is no single byte", "one such as ,"
        )
    names = _header(raw, name, form)
    if len(names) > MOST_FIELDS:
        raise Problem(name, "line 1", f"it has {len(names):,} columns", f"at most {MOST_FIELDS:,}")
    # The reader takes paths that are UTF-8 alone.
    is_plain = path is not None and said_path(path) == str(path)
    held = path if path is not None and is_plain and raw is as_read else raw
    if (plain := _plainly_even(raw, held, name, form, names)) is not None:
        progress(0.7)
        return _typed(plain, form, faults)
    starts, counts, is_open = field_counts(raw, delimiter[0])
    progress(0.4)
    lines = np.arange(len(starts)) + 1 + form.skip
    whole = np.frombuffer(raw, dtype=np.uint8)
    is_blank = (whole[starts] == 10) | (whole[starts] == 13)
    wrong = (counts != len(names)) & ~is_blank
    if form.header:
        wrong[:1] = False
    if wrong.any() or is_open:
        if is_open or _spans_lines(raw, starts, wrong):
            return _row_by_row(raw, name, form, names, faults)
        at = np.flatnonzero(wrong)
        places = tuple(f"line {lines[each]} has {counts[each]}" for each in at[:NAMED])
        if not is_known and len(at) == int((~is_blank).sum()) - int(form.header):
            raise Problem(
                name, places[0], "no row is as the header", f"rows of {len(names)} fields"
            )
        faults += (Fault(len(at), f"rows left out, not of {len(names)} fields", places),)
    if wrong.any() or is_blank.any():
        raw = _without(raw, starts, wrong | is_blank)
    frame = _frame(raw, name, form, names)
    progress(0.7)
    made = _typed(frame, form, faults)
    progress(1.0)
    return made


def _typed(frame: pl.DataFrame, form: Csv, faults: tuple[Fault, ...]) -> Reading:
    """Columns given their types; words for nothing are empty where the file is so written."""
    made, emptied = by_content(frame), 0
    if form.gaps:
        made, emptied = without_gaps(made, form.gaps)
    return Reading(made, faults, emptied=emptied)


def _plainly_even(
    raw: bytes, held: bytes | Path, name: str, form: Csv, names: list[str]
) -> pl.DataFrame | None:
    """The columns, where there are no quotes and delimiters for just these rows; else none.

    The reader refuses a row too long, and fills one too short at its end: where the last
    column is full there is none. Else the delimiters are counted.

    Args:
        held: where the reader takes the text from; a file need not be copied.
    """
    if len(names) < 2 or b'"' in raw:
        return None
    try:
        frame = _frame(held, name, form, names)
    except Problem:
        return None
    if not frame[:, -1].null_count():
        return frame
    rows = frame.height + form.header
    return frame if raw.count(form.delimiter.encode()) == rows * (len(names) - 1) else None


def as_utf8(raw: bytes, name: str, encoding: str) -> tuple[bytes, tuple[Fault, ...]]:
    """The text as UTF-8 without its mark; bytes that are none are shown as such, and counted."""
    faults: tuple[Fault, ...] = ()
    if encoding.lower() not in ("utf-8", "utf8"):
        try:
            text = raw.decode(encoding, errors="replace")
        except (LookupError, ValueError):
            # Not every codec is of texts, nor can each of them replace what it does not know.
            reason = f"the encoding {encoding} is not known, or not that of this text"
            raise Problem(name, "", reason, "such as utf-8") from None
        raw = text.lstrip("﻿").encode()
    raw = raw.removeprefix(codecs.BOM_UTF8)
    if not raw[:SAMPLE].strip() and not raw.strip():
        raise Problem(name, "", "the file is empty", "records; [] for none")
    if b"\0" in raw:
        count, line = raw.count(b"\0"), raw.count(b"\n", 0, raw.index(b"\0")) + 1
        faults += (Fault(count, "NUL bytes left out", (f"line {line}",)),)
        raw = raw.replace(b"\0", b"")
    if b"\r" in raw and b"\n" not in raw:
        raw = raw.replace(b"\r", b"\n")
    if raw.isascii():
        return raw, faults
    try:
        raw.decode("utf-8")
    except UnicodeDecodeError as error:
        line = raw.count(b"\n", 0, error.start) + 1
        text = raw.decode("utf-8", errors="replace")
        place = f"line {line}, byte {error.start}: 0x{raw[error.start]:02x}"
        faults += (Fault(text.count("�"), "bytes outside UTF-8, shown as �", (place,)),)
        raw = text.encode()
    return raw, faults


def _header(raw: bytes, name: str, form: Csv) -> list[str]:
    """The names of the columns; those of a file without a header are numbered.

    Raises:
        Problem: when two are the same.
    """
    csv.field_size_limit(2**31 - 1)
    start = raw[:HEADER] if b"\n" in raw[:HEADER] and b'"' not in raw[:HEADER] else raw
    text = io.TextIOWrapper(io.BytesIO(start), "utf-8", errors="replace", newline="")
    try:
        first = next(csv.reader(text, delimiter=form.delimiter), [])
    except csv.Error as error:
        raise Problem(
            name, "line 1", f"it is not CSV ({error})", "rows as RFC 4180 has them"
        ) from None
    if not form.header:
        return [f"column_{number + 1}" for number in range(len(first))]
    names = [each.strip() or f"column_{number + 1}" for number, each in enumerate(first)]
    if len(set(names)) < len(names):
        twice = next(each for each, count in Counter(names).items() if count > 1)
        raise Problem(name, "line 1", f'two columns are named "{twice}"', "a name for each column")
    return names


def field_counts(raw: bytes, delimiter: int) -> tuple[NDArray[np.int64], NDArray[np.int64], bool]:
    """Where each row starts and how many fields it has, and whether a quote stays open.

    Whole pieces at a time: a byte counts only where an even number of quotes is before it.
    """
    starts: list[NDArray[np.int64]] = [np.zeros(1, dtype=np.int64)]
    ends: list[NDArray[np.int64]] = []
    marks: list[NDArray[np.int64]] = []
    parity = 0
    whole = np.frombuffer(raw, dtype=np.uint8)
    has_quotes = b'"' in raw
    for at in range(0, len(whole), PIECE):
        piece = whole[at : at + PIECE]
        is_line, is_mark = piece == 10, piece == delimiter
        if has_quotes:
            inside = np.bitwise_xor.accumulate((piece == QUOTE).view(np.uint8)) ^ parity
            parity = int(inside[-1])
            is_line &= inside == 0
            is_mark &= inside == 0
        ends.append(np.flatnonzero(is_line) + at)
        marks.append(np.flatnonzero(is_mark) + at)
    lines = np.concatenate(ends) if ends else np.zeros(0, dtype=np.int64)
    all_starts = np.concatenate([*starts, lines + 1])
    all_starts = all_starts[all_starts < len(raw)]
    at_marks = np.concatenate(marks) if marks else np.zeros(0, dtype=np.int64)
    edges = np.searchsorted(at_marks, np.append(all_starts, len(raw)))
    return all_starts, np.diff(edges) + 1, bool(parity)


def _spans_lines(raw: bytes, starts: NDArray[np.int64], wrong: NDArray[np.bool_]) -> bool:
    """Whether a wrong row swallowed others: a stray quote joined them."""
    edges = np.append(starts, len(raw))
    return any(
        raw.count(b"\n", int(edges[at]), int(edges[at + 1])) > 1 for at in np.flatnonzero(wrong)
    )


def _without_blanks(raw: bytes, delimiter: str) -> bytes:
    """The same rows, without what is blank around their values."""
    made = io.StringIO(newline="")
    writer = csv.writer(made, delimiter=delimiter, lineterminator="\n")
    text = io.StringIO(raw.decode("utf-8", errors="replace"), newline="")
    for row in csv.reader(text, delimiter=delimiter, skipinitialspace=True):
        writer.writerow([cell.strip() for cell in row])
    return made.getvalue().encode()


def _without(raw: bytes, starts: NDArray[np.int64], wrong: NDArray[np.bool_]) -> bytes:
    edges = np.append(starts, len(raw))
    good = np.flatnonzero(~wrong)
    if not len(good):
        return b""
    # Runs of good rows are cut out whole.
    breaks = np.flatnonzero(np.diff(good) > 1)
    firsts = good[np.concatenate([[0], breaks + 1])]
    lasts = good[np.concatenate([breaks, [len(good) - 1]])]
    return b"".join(
        raw[int(edges[first]) : int(edges[last + 1])]
        for first, last in zip(firsts, lasts, strict=True)
    )


def _frame(raw: bytes | Path, name: str, form: Csv, names: list[str]) -> pl.DataFrame:
    try:
        frame = pl.read_csv(
            raw,
            separator=form.delimiter,
            has_header=form.header,
            infer_schema=False,
            new_columns=names,
        )
    except pl.exceptions.NoDataError:
        return pl.DataFrame(schema=dict.fromkeys(names, pl.String()))
    except (pl.exceptions.PolarsError, pl.exceptions.PanicException) as error:
        reason = str(error).splitlines()[0]
        raise Problem(name, "", reason, "rows as RFC 4180 has them") from None
    return frame


def _row_by_row(
    raw: bytes, name: str, form: Csv, names: list[str], faults: tuple[Fault, ...]
) -> Reading:
    """The slow and patient way, for quotes that are not as they should be."""
    text = re.sub(r"\r\n?", "\n", raw.decode("utf-8"))
    kept: list[list[str]] = []
    left: list[str] = []
    count = 0
    for number, line in enumerate(text.split("\n"), 1 + form.skip):
        if not line or (number == 1 + form.skip and form.header):
            continue
        row = next(_rows([line], form.delimiter), [])
        if len(row) != len(names):
            row = line.split(form.delimiter)
        if len(row) == len(names):
            kept.append(row)
        else:
            count += 1
            left.append(f"line {number} has {len(row)}")
    if count:
        said = f"rows left out, not of {len(names)} fields"
        faults += (Fault(count, said, tuple(left[:NAMED])),)
    faults += (Fault(1, "quote that never closes; each line was read by itself"),)
    schema = dict.fromkeys(names, pl.String())
    frame = pl.DataFrame(kept, schema=schema, orient="row")
    frame = frame.with_columns(pl.when(pl.col(each) != "").then(pl.col(each)) for each in names)
    return _typed(frame, form, faults)
