"""The prover with one line of it made wrong, to see that what holds it to its word tells so."""

from __future__ import annotations

import importlib
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from importlib.machinery import ModuleSpec
from importlib.util import find_spec, spec_from_loader
from pathlib import Path
from types import ModuleType
from typing import Any, Final, NamedTuple

ROOM: Final = "cadena.runs.prove"


class Seed(NamedTuple):
    """A mistake: in which module, the line and what it is made, and a random app that tells, one
    whose lists are opened to choose or not."""

    module: str
    right: str
    wrong: str
    app: int
    chooses: bool = False


class _Loader:
    def __init__(self, path: str, source: str) -> None:
        self.path, self.source = path, source

    def create_module(self, spec: ModuleSpec) -> None:
        return None

    def exec_module(self, module: ModuleType) -> None:
        exec(compile(self.source, self.path, "exec"), module.__dict__)


class _Finder:
    def __init__(self, seed: Seed) -> None:
        self.name = f"{ROOM}.{seed.module}"
        spec = find_spec(self.name)
        source = Path(spec.origin if spec and spec.origin else "").read_text()
        assert source.count(seed.right) == 1, seed.right
        self.loader = _Loader(self.name, source.replace(seed.right, seed.wrong))

    def find_spec(self, name: str, path: Any = None, target: Any = None) -> ModuleSpec | None:
        if name != self.name:
            return None
        return spec_from_loader(name, self.loader)  # type: ignore[arg-type]


@contextmanager
def seeded(seed: Seed) -> Iterator[Callable[..., Any]]:
    """``prove`` of a fresh copy of the prover that has the mistake."""
    finder = _Finder(seed)
    kept = {name: sys.modules.pop(name) for name in [*sys.modules] if name.startswith(ROOM)}
    sys.meta_path.insert(0, finder)  # type: ignore[arg-type]
    try:
        yield importlib.import_module(f"{ROOM}.prove").prove
    finally:
        sys.meta_path.remove(finder)  # type: ignore[arg-type]
        for name in [name for name in sys.modules if name.startswith(ROOM)]:
            del sys.modules[name]
        sys.modules.update(kept)
        for name, module in kept.items():
            parent, _, child = name.rpartition(".")
            setattr(sys.modules[parent], child, module)


SEEDS: Final = (
    Seed("causes", "return cause if failed else None", "return None", 0),
    Seed("own", 'elif claim.says == "never" and is_so:', "elif False:", 1),
    Seed("claims", "if shown == event.key and", "if", 8),
    Seed("claims", "if records is None or records.row_of(key) is None:", "if records is None:", 10),
    Seed("claims", "    do.Choose,\n    do.Press,", "    do.Choose,", 71),
    Seed("explore", "ROUNDS: Final = 2", "ROUNDS: Final = 1", 78),
    Seed("claims", "tail[: len(circle)]", "tail", 78),
    Seed("states", "and bool(was.view.draft) == bool(now.view.draft)", "", 80),
    Seed("explore", "key in some[name][name != next(iter(first)) :]", "key in some[name][:1]", 4),
    Seed("tables", "lengths[opened] <= lengths[state]", "lengths[opened] < lengths[state]", 4),
    Seed("choosing_claims", "yield from was ^ now", "yield from now", 913, chooses=True),
    Seed("choosing_claims", "len(after.entries) > index", "len(after.entries) >= index", 914, True),
    Seed("choosing_claims", "is_end = place.key(by)", "is_end = place.key(-by)", 903, chooses=True),
)
"""Lines that matter, each made wrong."""
