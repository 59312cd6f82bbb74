"""Handing an app over, and driving it."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import click

from cadena.cli.speaking import OUT, PROJECT, say, speaks_plainly
from cadena.deliver.wishes import Addresses
from cadena.model.naming import many

if TYPE_CHECKING:
    from cadena.check.junit_and_sarif import Case
    from cadena.deliver.drive.walks_driven import Outcome, Plan
    from cadena.engine.events import Event
    from cadena.engine.wired import WiredApp
    from cadena.sources.open_project import Project


RECORDS = click.option(
    "--records",
    "most",
    type=click.IntRange(1),
    default=5_000,
    show_default=True,
    help="Records of a source that are taken along, at most.",
)


@click.command()
@PROJECT
@click.option(
    "--as",
    "form",
    type=click.Choice(["web", "desktop", "contract"]),
    default="web",
    show_default=True,
)
@click.option("--to", "folder", required=True, type=click.Path(path_type=Path, file_okay=False))
@click.option("--plan", is_flag=True, help="Say what would be written, and write nothing.")
@click.option(
    "--bundle/--no-bundle",
    "bundled",
    default=None,
    help="One script and one style for the page, beside the readable ones.",
)
@click.option(
    "--addresses",
    type=click.Choice(["hash", "path"]),
    help="Behind #, which any server serves, or as paths of a server that knows them.",
)
@click.option("--under", help="Where on its server the app lies, such as /huts/.")
@RECORDS
@speaks_plainly
def deliver(
    project: Path,
    form: str,
    folder: Path,
    plan: bool,
    bundled: bool | None,
    addresses: Addresses | None,
    under: str | None,
    most: int,
) -> None:
    """Hand an app over: a web app, one for the desktop, or the contract for any other platform.

    Delivered again, changes by hand are joined with what is new; where both touch the same lines,
    the new file is put beside yours, and told until it is joined: --plan then exits with 1. What
    was chosen of a web app stays chosen.
    """
    from cadena.deliver import delivery
    from cadena.deliver.cannot import cannot_be_a_desktop_app, cannot_be_carried
    from cadena.deliver.contract.contract import contract
    from cadena.deliver.desktop_app import desktop_app
    from cadena.deliver.taken_along import taken_along
    from cadena.deliver.web_app import picture_hosts, web_files
    from cadena.deliver.wishes import chosen, wished
    from cadena.engine.wired import WiredApp
    from cadena.model.file.disk import said_path
    from cadena.sources.open_project import open_project

    opened = open_project(project)
    app, left = taken_along(WiredApp(opened.app, opened.records), most)
    checks = {"web": cannot_be_carried, "desktop": cannot_be_a_desktop_app}
    problems = list(checks[form](app)) if form in checks else []
    if problems:
        for problem in problems:
            say(f"cadena: it cannot be carried over: {problem}", err=True)
        sys.exit(2)
    wishes = None
    if form == "web":
        before = wished(delivery.web_of(folder))
        wishes = chosen(before, bundled, addresses, under)
        files = web_files(app, opened.folder, folder, wishes)
    else:
        files = (desktop_app if form == "desktop" else contract)(app, opened.folder)
    handed = delivery.planned(files, folder) if plan else delivery.deliver(files, folder, wishes)
    for file in handed:
        if file.state in (*delivery.YOURS, "gone"):
            say(f"{file.path}: {file.said}")
        if file.state == "both" and file.difference:
            say(file.difference)
    for line in left:
        say(f"{line}; --records takes more")
    if form == "web" and (hosts := picture_hosts(app)):
        say(f"its pictures come from {', '.join(hosts)}")
    counts = {state: sum(each.state == state for each in handed) for state in ("new", "changed")}
    said = ", ".join(f"{count} {state}" for state, count in counts.items() if count) or "no changes"
    size = f"{delivery.size_of(files) / 1000:,.0f} kB"
    say(f"{said_path(folder)}: {many(len(files), 'file')}, {size}, {said}")
    if plan and any(each.state == "both" for each in handed):
        sys.exit(1)


@click.command()
@PROJECT
@click.argument("walks", nargs=-1, type=click.Path(path_type=Path))
@click.option("--app", "folder", type=click.Path(path_type=Path, file_okay=False))
@click.option("--at", "address", help="Where the app is served, in place of --app.")
@click.option("--command", help="What starts an app for the desktop, in place of --app.")
@click.option("--window", "windows", multiple=True, help="WIDTHxHEIGHT; all named ones without.")
@click.option("--random", "count", type=click.IntRange(0), default=0, help="So many random walks.")
@click.option("--length", type=click.IntRange(1), default=20, show_default=True)
@click.option("--seed", type=int, default=1, show_default=True)
@click.option("--write", is_flag=True, help="Let the app write to the project's services.")
@click.option("--junit", type=OUT, help="Write what came of it as JUnit XML as well.")
@click.option("--shots", type=click.Path(path_type=Path, file_okay=False))
@RECORDS
@speaks_plainly
def drive(
    project: Path,
    walks: tuple[Path, ...],
    folder: Path | None,
    address: str | None,
    command: str | None,
    windows: tuple[str, ...],
    count: int,
    length: int,
    seed: int,
    write: bool,
    junit: Path | None,
    shots: Path | None,
    most: int,
) -> None:
    """Drive an app in a browser or on a desktop of its own, and hold it against what is wired.

    Exit 1 where it differs.

    Without WALKS those of the project are driven. --shots takes a folder for a picture of each
    step, beside the engine's. Services are written to with --write alone: what the app sends is
    then overheard, and held against what is wired.
    """
    from cadena.check.junit_and_sarif import cases_to_junit
    from cadena.deliver.drive.walks_driven import drive_all, drive_all_on_desktop, unseen
    from cadena.deliver.taken_along import taken_along
    from cadena.engine.wired import WiredApp
    from cadena.model.file.disk import write_text
    from cadena.model.problem import Problem
    from cadena.sources.open_project import open_project

    if sum(each is not None for each in (folder, address, command)) != 1:
        raise Problem("--app", "", "not one of --app, --at and --command came", "one of them")
    if command is not None and write:
        raise Problem("--write", "", "what an app sends is heard in a browser alone", "--app")
    opened = open_project(project)
    app = taken_along(WiredApp(opened.app, opened.records), most).app
    plans = _plans(opened, app, walks, windows, count, length, seed, write)
    seen = unseen
    if shots is not None:
        from cadena.desktop.shell.driven_shots import Shots

        seen = Shots(opened, app, shots)
    outcomes: list[Outcome] = []
    with _served(folder, address) as at:
        driven = (
            drive_all_on_desktop(app, command, plans, seen)
            if command is not None
            else drive_all(app, at, plans, seen, writes=write)
        )
        for outcome in driven:
            outcomes.append(outcome)
            _tell(outcome)
    if junit is not None:
        write_text(cases_to_junit("cadena drive", opened.app.name, _cases(outcomes)), junit)
    differing = sum(1 for each in outcomes if each.differs is not None)
    steps = sum(each.steps for each in outcomes)
    said = f"{many(len(outcomes), 'walk')} driven, {many(steps, 'step')}"
    say(f"{said}, {differing} differ")
    sys.exit(1 if differing else 0)


@contextmanager
def _served(folder: Path | None, address: str | None) -> Iterator[str]:
    from cadena.deliver.drive.folder_server import served

    if folder is None:
        yield address or ""
        return
    with served(folder) as at:
        yield at


def _plans(
    opened: Project,
    app: WiredApp,
    walks: tuple[Path, ...],
    windows: tuple[str, ...],
    count: int,
    length: int,
    seed: int,
    write: bool,
) -> list[Plan]:
    """Each walk in each window, and so many random ones in turn."""
    from cadena.deliver.drive.walks_driven import Plan, RandomSteps, events_of, random_walk
    from cadena.engine.rules.window_change import window_of
    from cadena.model.windows import windows_of
    from cadena.runs.walks.recording import walk_files
    from cadena.runs.walks.walk import parse_window, read_walk

    named = {each.name: window_of(each) for each in windows_of(opened.app)}
    sizes = {text: named.get(text) or parse_window(text) for text in windows} or named
    files = list(walks) or ([] if count else walk_files(opened.folder))
    read = [(file.stem, events_of(read_walk(file))) for file in files]
    plans = [Plan(name, events, at, size) for name, events in read for at, size in sizes.items()]
    for number in range(count):
        at, size = list(sizes.items())[number % len(sizes)]
        chosen = seed + number
        # What services answer is known only once it is driven.
        steps: tuple[Event, ...] | RandomSteps = RandomSteps(app, chosen, length)
        if not write:
            steps = random_walk(app, size, chosen, length)
        plans.append(Plan(f"random {chosen}", steps, at, size))
    return plans


def _tell(outcome: Outcome) -> None:
    plan = outcome.plan
    if outcome.differs is None:
        say(f"{plan.walk} at {plan.window}: as wired, {outcome.steps} steps")
        return
    say(f"{plan.walk} at {plan.window}: step {outcome.differs.step} differs")
    say(f"  after {_event(outcome)}")
    for difference in outcome.differences:
        say(f"  {difference}")


def _event(outcome: Outcome) -> str:
    from cadena.engine.events import in_short

    event = None if outcome.differs is None else outcome.differs.event
    fields = ("screen", "list", "key", "button", "action", "section", "field", "to", "text")
    return "the start" if event is None else in_short(event, *fields)


def _cases(outcomes: list[Outcome]) -> list[Case]:
    from cadena.check.junit_and_sarif import Case, Failed

    return [
        Case(
            f"drive.{outcome.plan.window}",
            outcome.plan.walk,
            ()
            if outcome.differs is None
            else (
                Failed(
                    "difference",
                    f"step {outcome.differs.step}, after {_event(outcome)}",
                    "\n".join(map(str, outcome.differences)),
                ),
            ),
        )
        for outcome in outcomes
    ]
