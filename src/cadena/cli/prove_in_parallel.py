"""Proving in several processes, and for no longer than was said."""

from __future__ import annotations

import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import Final

from cadena.cli.speaking import say
from cadena.engine.wired import WiredApp
from cadena.model.problem import Problem
from cadena.runs.prove.explore import Limits
from cadena.runs.prove.prove import Proof, Reached, claims_of, proof_of, reached_in
from cadena.runs.prove.self_check import differences
from cadena.sources.open_project import Project, open_project

MOST_OF_IT: Final = 0.75
EVERY: Final = 5.0
"""Seconds after which it is said how far it is."""


def proven(
    project: Path,
    opened: Project,
    claims: tuple[str, ...],
    depth: int | None,
    seconds: float | None,
    processes: int,
) -> Proof:
    """What is proven of a project.

    Raises:
        Problem: for a claim that is not made.
    """
    known = [each.name for each in claims_of(opened.app)]
    for name in claims:
        if name not in known:
            raise Problem("--claim", "", f'"{name}" came', f"one of {', '.join(known)}")
    app = WiredApp(opened.app, opened.records)
    sections = list(app.sections)
    if processes == 1 or len(sections) < 2:
        reached = []
        until = None if seconds is None else time.monotonic() + seconds
        for number, each in enumerate(sections):
            # Most of the time that is left: few sections take long, and the others need little.
            left = None if until is None else until - time.monotonic()
            is_last = number == len(sections) - 1
            share = None if left is None else left * (1 if is_last else MOST_OF_IT)
            limits = Limits(depth=depth, stop=stop_after(share))
            reached.append(reached_by(app, each, limits, _told_now_and_then(each)))
    else:
        with ProcessPoolExecutor(processes, get_context("spawn")) as pool:
            share = None if seconds is None else seconds * processes / len(sections)
            jobs = [pool.submit(_in_process, project, each, depth, share) for each in sections]
            reached = []
            for section, job in zip(sections, jobs, strict=True):
                reached.append(job.result())
                say(f"{section}: {reached[-1].states:,} states", err=True)
    proof = proof_of(app, reached)
    if not claims:
        return proof
    return proof._replace(claims=tuple(e for e in proof.claims if e.claim.name in claims))


def both_proven(projects: tuple[Path, Path], seconds: float) -> tuple[Proof, Proof]:
    """What is proven of two projects, each in a process of its own, for no longer than was said."""
    with ProcessPoolExecutor(2, get_context("spawn")) as pool:
        old, new = (pool.submit(_project_in_process, each, seconds) for each in projects)
        return old.result(), new.result()


def _project_in_process(project: Path, seconds: float) -> Proof:
    return proven(project, open_project(project), (), None, seconds, 1)


def itself_tested(opened: Project) -> list[str]:
    """What differs between the exploration of an app and a plainer one."""
    return list(differences(WiredApp(opened.app, opened.records)))


def reached_by(
    app: WiredApp, section: str, limits: Limits, tell: Callable[[int], object] = lambda _: None
) -> Reached:
    """What was reached in a section, at once.

    Args:
        tell: told how many states there are, again and again.
    """
    for told in reached_in(app, section, limits):
        if isinstance(told, Reached):
            return told
        tell(told)
    raise AssertionError(section)


def _told_now_and_then(section: str) -> Callable[[int], None]:
    """Says every few seconds how far a section is."""
    began = last = time.monotonic()

    def tell(states: int) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last >= EVERY:
            last = now
            say(f"{section}: {states:,} states after {now - began:.0f} s", err=True)

    return tell


def _in_process(project: Path, section: str, depth: int | None, seconds: float | None) -> Reached:
    opened = open_project(project)
    limits = Limits(depth=depth, stop=stop_after(seconds))
    return reached_by(WiredApp(opened.app, opened.records), section, limits)


def stop_after(seconds: float | None) -> Callable[[], bool]:
    """Tells whether so many seconds have gone by; they never have, where none are said."""
    until = None if seconds is None else time.monotonic() + seconds
    return lambda: until is not None and time.monotonic() > until
