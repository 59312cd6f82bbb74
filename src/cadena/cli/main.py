"""The command line. Exit 0: well; 1: something does not hold; 2: input that cannot be used."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

import click

from cadena import __version__
from cadena.cli.delivering import deliver, drive
from cadena.cli.speaking import OUT, PROJECT, say, speaks_plainly
from cadena.model.file.disk import said_path
from cadena.model.naming import many
from cadena.model.problem import Problem

if TYPE_CHECKING:
    from cadena.check.finding import Finding
    from cadena.sources.open_project import Project


class Commands(click.Group):
    """The commands; a file or folder in the place of one is opened."""

    def resolve_command(
        self, context: click.Context, arguments: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        first = arguments[0] if arguments else ""
        is_path = first not in self.commands and bool(first) and not first.startswith("-")
        if is_path and Path(first).exists():
            return "open", self.commands["open"], arguments
        return super().resolve_command(context, arguments)


@click.group(
    cls=Commands,
    invoke_without_command=True,
    context_settings={"help_option_names": ["-h", "--help"]},
)
@click.version_option(__version__, prog_name="cadena")
@click.pass_context
@speaks_plainly
def main(context: click.Context) -> None:
    """Wire, run and check the way from a list to its detail and back.

    With a folder or a file in the place of a command it opens that.
    """
    if context.invoked_subcommand is None:
        _show(None)


@main.command("open")
@click.argument("project", required=False, type=click.Path(path_type=Path))
@speaks_plainly
def open_(project: Path | None) -> None:
    """Open a project in the window; without one, the first page."""
    _show(project)


@main.command()
@click.argument("shell", type=click.Choice(["bash", "zsh", "fish"]))
def completion(shell: str) -> None:
    """Print what lets a shell complete the commands: eval "$(cadena completion bash)"."""
    from click.shell_completion import get_completion_class

    made = get_completion_class(shell)
    if made is not None:
        say(made(main, {}, "cadena", "_CADENA_COMPLETE").source())


@main.command()
@click.option(
    "--copy",
    "folder",
    type=click.Path(path_type=Path, file_okay=False),
    help="Lay the demo projects into FOLDER and open nothing.",
)
@speaks_plainly
def demo(folder: Path | None) -> None:
    """Open the demo, Cresta Huts, on a copy that may be changed at will."""
    from cadena.desktop.shell.demo import demo_copy, lay_demos, shows_windows
    from cadena.desktop.shell.tour import tour

    if folder is not None:
        for laid in lay_demos(folder):
            say(said_path(laid))
    elif shows_windows():
        _show(demo_copy())
    else:
        tour(say)


@main.command("install-desktop")
@click.option("--remove", "away", is_flag=True, help="Take it all away again.")
@speaks_plainly
def install_desktop(away: bool) -> None:
    """Put Cadena among the desktop's applications: entry, icon, file type and metadata.

    For you alone, under XDG_DATA_HOME.
    """
    from cadena.desktop.shell.install_desktop import install, remove

    for path in remove() if away else install():
        say(f"{'removed' if away else 'laid'} {path}")


@main.command()
@click.argument("data", nargs=-1, type=click.Path(path_type=Path))
@click.option("--to", "folder", required=True, type=click.Path(path_type=Path, file_okay=False))
@click.option("--name", default="", help="What the app is called.")
@click.option("--closed", is_flag=True, help="Do not open it in the window.")
@click.option("--key", "keys", multiple=True, help="SOURCE=FIELD[+FIELD…]: its key.")
@click.option("--label", "labels", multiple=True, help="SOURCE=FIELD: what names its records.")
@click.option("--only", multiple=True, help="SOURCE: take only those that are named.")
@click.option("--pick", multiple=True, help="SOURCE of those that a service offers.")
@speaks_plainly
def new(
    data: tuple[Path, ...],
    folder: Path,
    name: str,
    closed: bool,
    keys: tuple[str, ...],
    labels: tuple[str, ...],
    only: tuple[str, ...],
    pick: tuple[str, ...],
) -> None:
    """Make a running project of data files, or of the OpenAPI document of a service.

    Without any it is empty, to add records to in the window. It says what it decided of each
    source, and why; --key, --label, --only and --pick say otherwise.
    """
    from cadena.sources.scaffold import Wishes, decided, left_out, new_project

    wanted = {of: tuple(field.split("+")) for of, field in _pairs("--key", keys)}
    wishes = Wishes(wanted, dict(_pairs("--label", labels)), (*only, *pick))
    app, made = new_project(folder, data, name, wishes=wishes)
    for line in decided(app, made):
        say(line)
    for line in left_out(data, made):
        say(line)
    what = f"{many(len(app.screens), 'screen')}, {many(len(app.links), 'link')}"
    say(f"{app.name}: {what} in {folder}")
    if closed:
        return
    # The desktop is not needed for what is done without a window.
    from cadena.desktop.shell.demo import shows_windows

    if shows_windows():
        _show(folder)


def _pairs(option: str, given: tuple[str, ...]) -> list[tuple[str, str]]:
    pairs = [each.partition("=")[::2] for each in given]
    for (source, field), text in zip(pairs, given, strict=True):
        if not source or not field:
            raise Problem(option, "", f'"{text}" came', "SOURCE=FIELD, such as huts=name")
    return pairs


@main.command()
@PROJECT
@click.option("--port", default=8765, show_default=True, type=click.IntRange(0, 65535))
@click.option("--delay", type=click.IntRange(0, 600_000), help="ms, in place of each source's own.")
@click.option("--fails-one-in", type=click.IntRange(0), help="In place of each source's own.")
@click.option("--refuses-one-in", type=click.IntRange(0), help="Refuses a field of what is sent.")
@click.option("--quicker-one-in", type=click.IntRange(0), help="Somebody else was quicker.")
@click.option("--keep", is_flag=True, help="Keep what is written in the project's files.")
@speaks_plainly
def serve(
    project: Path,
    port: int,
    delay: int | None,
    fails_one_in: int | None,
    refuses_one_in: int | None,
    quicker_one_in: int | None,
    keep: bool,
) -> None:
    """Serve the records of a project over HTTP, on this machine alone.

    List, item, create, change and remove; /openapi.json describes it. What is changed lives
    as long as the server, or with --keep in the project's files.
    """
    from cadena.serve.keeping import Kept
    from cadena.serve.serve import LOOPBACK, Served, server
    from cadena.sources.open_project import open_project

    opened = open_project(project)
    served = Served(
        opened.app.name,
        opened.records,
        delay,
        fails_one_in,
        refuses_one_in,
        quicker_one_in,
        Kept(opened.folder) if keep else None,
    )
    try:
        running = server(served, port)
    except (OSError, SystemExit):
        raise Problem(f"port {port}", "", "it cannot be taken", "a port that is free") from None
    address = f"http://{LOOPBACK}:{running.server_port}"
    for name, records in opened.records.items():
        said = ", only read" if served.is_read_only(records) else ", kept" if keep else ""
        say(f"{address}/{name}  {many(len(records), 'record')}{said}")
    say(f"{address}/openapi.json")
    try:
        running.serve_forever()
    except KeyboardInterrupt:
        running.server_close()


def _as_sarif(opened: Project, findings: Iterable[Finding]) -> str:
    """Findings as SARIF, each at its line of the project file."""
    from cadena.check.junit_and_sarif import to_sarif
    from cadena.model.file.project_file import read_project

    source = read_project(opened.file).decode(errors="replace")
    return to_sarif(opened.file.name, source, findings, __version__)


@main.command()
@PROJECT
@click.option("--json", "as_json", is_flag=True, help="One JSON list of findings.")
@click.option("--junit", type=OUT, help="Write them as JUnit XML as well.")
@click.option("--sarif", type=OUT, help="Write them as SARIF 2.1.0 as well.")
@speaks_plainly
def check(project: Path, as_json: bool, junit: Path | None, sarif: Path | None) -> None:
    """Find what is broken in a project. Exit 1 when a finding breaks the app."""
    import msgspec

    from cadena.check.check import NEAREST, breaks, is_in_part
    from cadena.check.check import check as find
    from cadena.check.junit_and_sarif import to_junit
    from cadena.model.file.disk import write_text
    from cadena.sources.open_project import open_project

    opened = open_project(project)
    findings = find(opened.app, opened.records, opened.look)
    if junit is not None:
        write_text(to_junit(opened.app, findings), junit)
    if sarif is not None:
        write_text(_as_sarif(opened, findings), sarif)
    if as_json:
        text = msgspec.json.format(msgspec.json.encode(findings), indent=2)
        say(text.decode())
    else:
        for finding in findings:
            say(f"{finding.weight} {finding.code} at {finding.where}")
            say(f"  {finding.what}\n  why: {finding.why}\n  mend: {finding.mend}")
        count = many(len(findings), "finding")
        say(f"{opened.app.name}: {count}")
    if is_in_part(opened.app):
        said = f"what shows only when it runs was measured on the {NEAREST} screens nearest to"
        say(f"{said} the start; cadena keep measures all", err=True)
    sys.exit(1 if breaks(findings) else 0)


@main.command()
@PROJECT
@click.option("--json", "as_json", is_flag=True, help="Every mark, with the run behind it.")
@speaks_plainly
def keep(project: Path, as_json: bool) -> None:
    """Measure what survives. Exit 1 when anything is lost, or comes back as something else."""
    from cadena.engine.wired import WiredApp
    from cadena.runs.keep.marks_in_words import in_words, is_broken, to_json
    from cadena.runs.keep.matrix import matrix_of
    from cadena.sources.open_project import open_project

    opened = open_project(project)
    matrix = matrix_of(WiredApp(opened.app, opened.records))
    say(to_json(matrix) if as_json else in_words(opened.app.name, matrix))
    sys.exit(1 if is_broken(matrix) else 0)


@main.command()
@PROJECT
@click.option("--json", "as_json", is_flag=True, help="One JSON list of claims.")
@click.option("--claim", "claims", multiple=True, help="Only these, by name.")
@click.option("--depth", type=click.IntRange(1), help="No more moves than this from a start.")
@click.option(
    "--seconds",
    type=click.FloatRange(0),
    default=120,
    show_default=True,
    help="No longer than this, about: then what holds to what depth.",
)
@click.option("--processes", type=click.IntRange(1), default=1, show_default=True)
@click.option("--itself", is_flag=True, help="Test the exploration of this app against itself.")
@click.option("--junit", type=OUT, help="Write them as JUnit XML as well.")
@click.option("--sarif", type=OUT, help="Write what is broken as SARIF 2.1.0 as well.")
@speaks_plainly
def prove(
    project: Path,
    as_json: bool,
    claims: tuple[str, ...],
    depth: int | None,
    seconds: float,
    processes: int,
    itself: bool,
    junit: Path | None,
    sarif: Path | None,
) -> None:
    """Look at all that can be reached, in every window. Exit 1 when a claim is broken,
    or not decided.
    """
    from cadena.check.proof_in_words import findings_of, in_words, to_json, to_junit
    from cadena.cli.prove_in_parallel import itself_tested, proven
    from cadena.model.file.disk import write_text
    from cadena.sources.open_project import open_project

    opened = open_project(project)
    if itself:
        differences = itself_tested(opened)
        say("\n".join(differences) or f"{opened.app.name}: nothing differs")
        sys.exit(1 if differences else 0)
    proof = proven(project, opened, claims, depth, seconds, processes)
    if junit is not None:
        write_text(to_junit(opened.app, proof), junit)
    if sarif is not None:
        write_text(_as_sarif(opened, findings_of(proof)), sarif)
    say(to_json(proof) if as_json else in_words(opened.app.name, proof))
    sys.exit(0 if proof.holds else 1)


@main.command()
@PROJECT
@click.option("--processes", type=click.IntRange(1), default=2, show_default=True)
@click.option(
    "--seconds",
    type=click.FloatRange(0),
    default=300,
    show_default=True,
    help="Prove no longer than this, about.",
)
@click.option("--junit", type=OUT, help="Write all of it as JUnit XML as well.")
@click.option("--sarif", type=OUT, help="Write findings and causes as SARIF 2.1.0 as well.")
@speaks_plainly
def ci(
    project: Path, processes: int, seconds: float, junit: Path | None, sarif: Path | None
) -> None:
    """Check, replay all walks at all windows, keep and prove. Exit 1 when any does not hold."""
    from cadena.check.junit_and_sarif import cases_to_junit
    from cadena.cli.all_at_once import everything
    from cadena.model.file.disk import write_text
    from cadena.sources.open_project import open_project

    opened = open_project(project)
    done = everything(project, opened, processes, seconds)
    if junit is not None:
        write_text(cases_to_junit("cadena ci", opened.app.name or "app", done.cases), junit)
    if sarif is not None:
        write_text(_as_sarif(opened, done.findings), sarif)
    say("\n".join(done.lines))
    sys.exit(1 if done.is_broken else 0)


@main.command()
@PROJECT
@click.option("--as", "form", type=click.Choice(["mermaid", "dot", "svg"]), default="mermaid")
@click.option("--section", help="Only the screens that can be reached in it.")
@click.option("--out", type=OUT, help="Into a file, in place of the standard output.")
@speaks_plainly
def diagram(project: Path, form: str, section: str | None, out: Path | None) -> None:
    """Draw what opens what, as text: Mermaid, DOT or SVG."""
    from cadena.check.diagrams import diagram_of
    from cadena.model.file.disk import write_text
    from cadena.sources.open_project import open_project

    text = diagram_of(open_project(project).app, form, section)
    if out is None:
        say(text)
    else:
        write_text(text, out)


@main.command()
@click.argument("old")
@click.argument("new")
@click.option("--in", "within", type=click.Path(path_type=Path), help="Where both are revisions.")
@click.option("--json", "as_json", is_flag=True, help="All of it as JSON.")
@click.option("--html", type=OUT, help="Write it as a page as well.")
@click.option(
    "--seconds",
    type=click.FloatRange(0),
    default=120,
    show_default=True,
    help="Prove no longer than this, about: then what was not looked at is said.",
)
@speaks_plainly
def compare(
    old: str, new: str, within: Path | None, as_json: bool, html: Path | None, seconds: float
) -> None:
    """What has changed between two projects, or revisions of one, and what that changes.

    OLD and NEW are paths of projects, or revisions of the repository that the other, or --in,
    lies in. Exit 1 when the new one behaves otherwise.
    """
    from cadena.check.compared import compared, in_words, to_html, to_json
    from cadena.cli.prove_in_parallel import both_proven
    from cadena.cli.versions import both, walks_of
    from cadena.engine.wired import WiredApp
    from cadena.model.file.disk import write_text

    with both(old, new, within) as (before, after):
        walks = walks_of(after)
        apps = [WiredApp(each.app, each.records) for each in (before, after)]
        files = before.file, after.file
        made = compared(apps[0], apps[1], walks, lambda: both_proven(files, seconds))
        name = after.app.name
    if html is not None:
        write_text(to_html(name, made), html)
    say(to_json(made) if as_json else in_words(name, made))
    sys.exit(1 if made.behaves_otherwise else 0)


@main.command()
@click.argument("base", type=click.Path(path_type=Path))
@click.argument("ours", type=click.Path(path_type=Path))
@click.argument("theirs", type=click.Path(path_type=Path))
@speaks_plainly
def merge(base: Path, ours: Path, theirs: Path) -> None:
    """Join two people's changes to one project file thing by thing: a merge driver of git.

    What comes of it is written into OURS. Exit 1 where both have changed one thing: ours stands.
    """
    from cadena.cli.versions import joined

    conflicts = joined(base, ours, theirs)
    for conflict in conflicts:
        say(
            f"conflict at {conflict.where}: ours {conflict.ours!r}, theirs {conflict.theirs!r}",
            err=True,
        )
    sys.exit(1 if conflicts else 0)


@main.command()
@PROJECT
@click.option("--out", required=True, type=OUT, help="The page: one file of HTML.")
@speaks_plainly
def report(project: Path, out: Path) -> None:
    """Tell all of a project in one page: screens in every window, what survives, what is proven."""
    from cadena.desktop.shell.painted_report import report_of
    from cadena.model.file.disk import write_text

    write_text(report_of(project), out)
    say(f"{said_path(out)}: {out.stat().st_size / 1e6:.1f} MB")


@main.command()
@PROJECT
@click.argument("walks", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--window", "windows", multiple=True, default=["360x780"], show_default=True)
@click.option("--trace", is_flag=True, help="One JSON object a line for each event.")
@click.option("--call", is_flag=True, help="Let the walk call the project's services.")
@click.option("--write", is_flag=True, help="Let it write to them as well.")
@speaks_plainly
def walk(
    project: Path,
    walks: tuple[Path, ...],
    windows: tuple[str, ...],
    trace: bool,
    call: bool,
    write: bool,
) -> None:
    """Replay walks on a project. Exit 1 when an expectation does not hold.

    Services are called with --call alone; without it what is asked of them stays unanswered.
    They are written to with --write as well; without it what would have been sent is told.
    """
    from cadena.engine.wired import WiredApp
    from cadena.runs.walks.trace import to_line
    from cadena.runs.walks.walk import Failure, parse_window, read_walk, replay
    from cadena.serve.call_services import Answers
    from cadena.sources.open_project import open_project

    if write and not call:
        raise Problem("--write", "", "it came without --call", "--call --write")
    opened = open_project(project)
    read = [(file, read_walk(file)) for file in walks]
    parsed = [(text, parse_window(text)) for text in windows]
    app = WiredApp(opened.app, opened.records)
    failed = False
    for file, steps in read:
        for text, window in parsed:
            failures: list[Failure] = []
            answers = Answers(app, app.sources if write else ()) if call else None
            for at in replay(app, steps, window, answers):
                failures += at.failures
                if trace and at.line is not None:
                    say(to_line(at.line))
            failed = failed or bool(failures)
            verdict = f"{len(failures)} do not hold" if failures else "holds"
            say(f"{file.name} at {text}: {verdict}", err=trace)
            for failure in failures:
                say(f"  {failure}", err=trace)
            for sending in () if answers is None else answers.not_sent:
                say(f"  not sent: {sending.method} {sending.address}; --write sends it", err=trace)
    sys.exit(1 if failed else 0)


@main.command()
@click.option("--walk", "of_walk", is_flag=True, help="The schema of walks and of the trace.")
def schema(of_walk: bool) -> None:
    """Print the JSON Schema of the project file."""
    from cadena.model.file.project_file import schema as of_project
    from cadena.runs.walks.walk import schema as of_walks

    say(json.dumps(of_walks() if of_walk else of_project(), indent=2, ensure_ascii=False))


@main.command()
@PROJECT
@click.option(
    "--stage", default="link", show_default=True, help="By its name, or bench for the app alone."
)
@click.option("--size", default="1280x800", show_default=True, help="In px.")
@click.option("--theme", type=click.Choice(["light", "dark"]), default="light", show_default=True)
@click.option("--window", default="360x780", show_default=True, help="The Bench's window, in dp.")
@click.option("--select", "of", default="", help="What is selected: KIND:NAME or KIND:NAME:PART.")
@click.option("--after", type=click.Path(path_type=Path), help="A walk to replay first.")
@click.option("--out", required=True, type=click.Path(path_type=Path, dir_okay=False))
@speaks_plainly
def shot(
    project: Path,
    stage: str,
    size: str,
    theme: str,
    window: str,
    of: str,
    after: Path | None,
    out: Path,
) -> None:
    """Draw a stage of a project as a picture, with no screen needed.

    The stage "bench" is the app alone, as it is in its window.
    """
    from cadena.desktop.shell.shot import take_shot
    from cadena.runs.walks.walk import parse_window, read_walk

    steps = read_walk(after) if after is not None else ()
    take_shot(project, stage, parse_window(size), theme, parse_window(window), steps, out, of)
    say(said_path(out))


main.add_command(deliver)
main.add_command(drive)


def _show(project: Path | None) -> None:
    from cadena.desktop.shell.application import run

    sys.exit(run(project))
