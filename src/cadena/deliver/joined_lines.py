"""Two changes of one text joined line by line, where they do not touch each other.

After S. Khanna, K. Kunal and B. C. Pierce, "A Formal Investigation of Diff3" (2007): stretches
that neither side has changed divide the text; in between, what one side has changed is taken.
"""

from __future__ import annotations

from collections.abc import Iterator
from difflib import SequenceMatcher

Lines = list[str]


def joined_lines(base: str, mine: str, theirs: str) -> str | None:
    """The text with the changes of both sides, or none where both have changed one place.

    >>> joined_lines("a\\nb\\nc\\n", "a\\nb\\nC\\n", "A\\nb\\nc\\n")
    'A\\nb\\nC\\n'
    >>> joined_lines("a\\n", "b\\n", "c\\n") is None
    True
    """
    of = base.splitlines(keepends=True)
    ours, others = mine.splitlines(keepends=True), theirs.splitlines(keepends=True)
    made: Lines = []
    at = a = b = 0
    for start, end, mine_at, theirs_at in _shared(of, ours, others):
        was, left, right = of[at:start], ours[a:mine_at], others[b:theirs_at]
        if left == was:
            made += right
        elif right in (was, left):
            made += left
        else:
            return None
        made += of[start:end]
        at, a, b = end, mine_at + end - start, theirs_at + end - start
    return "".join(made)


def _shared(of: Lines, ours: Lines, others: Lines) -> Iterator[tuple[int, int, int, int]]:
    """Stretches of a text that both sides still have, and where; the end of all is the last."""
    left, right = _lines_kept(of, ours), _lines_kept(of, others)
    at = 0
    while at < len(of):
        if at not in left or at not in right:
            at += 1
            continue
        end = at
        while (
            end < len(of)
            and left.get(end) == left[at] + end - at
            and right.get(end) == right[at] + end - at
        ):
            end += 1
        yield at, end, left[at], right[at]
        at = end
    yield len(of), len(of), len(ours), len(others)


def _lines_kept(of: Lines, now: Lines) -> dict[int, int]:
    """For each line that is kept, where it is now."""
    blocks = SequenceMatcher(None, of, now, autojunk=False).get_matching_blocks()
    return {each.a + n: each.b + n for each in blocks for n in range(each.size)}
