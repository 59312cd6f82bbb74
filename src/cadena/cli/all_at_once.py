"""Everything that can be said of a project, once, in processes: for continuous integration."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import Any, NamedTuple

from cadena.check.check import breaks, check
from cadena.check.finding import Finding
from cadena.check.junit_and_sarif import Case, Failed, check_cases
from cadena.check.proof_in_words import findings_of, proof_cases, totals, what_of
from cadena.cli.prove_in_parallel import reached_by, stop_after
from cadena.engine.rules.window_change import window_of
from cadena.engine.wired import WiredApp
from cadena.model.naming import many
from cadena.model.problem import Problem
from cadena.model.windows import windows_of
from cadena.runs.keep.marks_in_words import is_broken, steps_of
from cadena.runs.keep.marks_in_words import totals as kept_totals
from cadena.runs.keep.matrix import matrix_of
from cadena.runs.keep.run import Matrix
from cadena.runs.prove.explore import Limits
from cadena.runs.prove.prove import Proof, Reached, proof_of
from cadena.runs.walks.recording import walk_files
from cadena.runs.walks.walk import not_held, read_walk
from cadena.sources.open_project import Project, open_project

_opened: dict[str, Any] = {}
"""Of a process: the project that it was made for, opened once."""


class Done(NamedTuple):
    """What came of it all: in lines, as cases and findings, and whether any does not hold."""

    lines: list[str]
    cases: list[Case]
    findings: list[Finding]
    is_broken: bool


def everything(
    project: Path, opened: Project, processes: int, seconds: float | None = None
) -> Done:
    """Check a project, replay its walks, measure what survives, and prove its claims."""
    sections = list(WiredApp(opened.app, opened.records).sections)
    walks = walk_files(opened.folder)
    with ProcessPoolExecutor(processes, get_context("spawn"), _open, (project,)) as pool:
        # What takes longest is begun first.
        share = None if seconds is None else seconds * processes / max(1, len(sections))
        reached = [pool.submit(_prove, each, share) for each in sections]
        matrix, found = pool.submit(_keep), pool.submit(_check)
        replayed = [pool.submit(_walk, each) for each in walks]
        parts = (
            _checked(opened, found),
            _walked(walks, replayed),
            _keep_part(matrix),
            _proven(opened, reached),
        )
        done = [each() for each in parts]
    lines = [line for each in done for line in each.lines]
    return Done(
        lines,
        [case for each in done for case in each.cases],
        [finding for each in done for finding in each.findings],
        any(each.is_broken for each in done),
    )


def _open(project: Path) -> None:
    opened = open_project(project)
    _opened["project"] = opened
    _opened["app"] = WiredApp(opened.app, opened.records)


def _check() -> tuple[Finding, ...]:
    opened = _opened["project"]
    return tuple(check(opened.app, opened.records, opened.look))


def _keep() -> Matrix:
    return matrix_of(_opened["app"])


def _prove(section: str, seconds: float | None) -> Reached:
    return reached_by(_opened["app"], section, Limits(stop=stop_after(seconds)))


def _walk(file: Path) -> list[tuple[str, list[str]]]:
    """What does not hold of a walk, at each named window."""
    app: WiredApp = _opened["app"]
    try:
        walk = read_walk(file)
    except Problem as problem:
        return [("", [str(problem)])]
    return [(e.name, not_held(app, walk, window_of(e))) for e in windows_of(app.app)]


Part = Callable[[], Done]


def _checked(opened: Project, found: Future[tuple[Finding, ...]]) -> Part:
    def part() -> Done:
        findings = list(found.result())
        count = many(len(findings), "finding")
        broken = [each for each in findings if each.weight == "breaks"]
        lines = [f"{_sign(not broken)} check: {count}, {len(broken)} of them break the app"]
        lines += [f"    {each.code} at {each.where}: {each.what}" for each in broken]
        return Done(lines, check_cases(opened.app, findings), findings, breaks(found.result()))

    return part


def _walked(walks: list[Path], replayed: list[Future[list[tuple[str, list[str]]]]]) -> Part:
    def part() -> Done:
        cases, lines, runs = [], [], 0
        for file, each in zip(walks, replayed, strict=True):
            for window, failed in each.result():
                runs += 1
                name = f"{file.stem} at {window}" if window else file.stem
                said = tuple(Failed("walk", text, "") for text in failed)
                cases.append(Case("walks", name, said))
                lines += [f"    {name}: {text}" for text in failed]
        count = f"{many(len(walks), 'walk')} in {many(runs, 'run')}"
        what = f"{len(lines)} expectations do not hold" if lines else "all hold"
        return Done([f"{_sign(not lines)} walks: {count}, {what}", *lines], cases, [], bool(lines))

    return part


def _keep_part(matrix: Future[Matrix]) -> Part:
    def part() -> Done:
        made = matrix.result()
        cases: dict[str, list[Failed]] = {piece.name: [] for piece, _ in made}
        lines = []
        for run in made.values():
            if run.is_broken:
                told = steps_of(run)
                cases[run.piece.name].append(Failed(run.mark, told[0], "\n".join(told)))
                lines.append(f"    {told[0]}")
        named = [Case("keep", name, tuple(failed)) for name, failed in cases.items()]
        head = f"{_sign(not lines)} keep: {kept_totals(made) or 'nothing to keep'}"
        return Done([head, *lines], named, [], is_broken(made))

    return part


def _proven(opened: Project, reached: list[Future[Reached]]) -> Part:
    def part() -> Done:
        app = WiredApp(opened.app, opened.records)
        proof = proof_of(app, [each.result() for each in reached])
        lines = [f"{_sign(proof.holds)} prove: {totals(proof)}", *_causes(proof)]
        return Done(lines, proof_cases(proof), list(findings_of(proof)), not proof.holds)

    return part


def _causes(proof: Proof) -> Iterator[str]:
    for proven in proof.broken:
        for cause in proven.causes:
            yield f"    {proven.claim.words}: {cause.where}: {what_of(cause)}"


def _sign(is_well: bool) -> str:
    return "✓" if is_well else "✕"
