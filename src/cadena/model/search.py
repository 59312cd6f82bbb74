"""The one search: breadth first, over whatever is next to what."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Hashable, Iterable, Iterator
from typing import TypeVar

Node = TypeVar("Node")


def nearest_first(
    starts: Iterable[Node],
    neighbours: Callable[[Node], Iterable[Node]],
    key: Callable[[Node], Hashable],
) -> Iterator[Node]:
    """Every node that can be reached, nearest first, in the order in which they are next.

    Plain breadth-first search. Of nodes with one key only the first is given, and gone on from.
    """
    known: set[Hashable] = set()
    waiting: deque[Node] = deque()

    def meet(nodes: Iterable[Node]) -> None:
        for node in nodes:
            if (name := key(node)) not in known:
                known.add(name)
                waiting.append(node)

    meet(starts)
    while waiting:
        node = waiting.popleft()
        yield node
        meet(neighbours(node))
