"""What Deliver's strip says: what is handed over and where to, and what came of driving it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices, QGuiApplication

from cadena.deliver.delivery import WRITTEN, YOURS
from cadena.deliver.desktop_app import package_of
from cadena.deliver.wishes import chosen
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.handed import FORMS, Came, Form, HandOver
from cadena.desktop.document.handing import FOLDER, Handing, handing_of
from cadena.desktop.jobs.comparing import comparing_of
from cadena.desktop.jobs.driving import driving_of
from cadena.desktop.jobs.reporting import REPORT, reporting_of
from cadena.desktop.stages.deliver.selected import SelectedDriven, SelectedFile, SelectedForm
from cadena.desktop.widgets.words import Matter, Sentence, Word, calmly
from cadena.engine.events import in_short
from cadena.model.problem import Problem

MOST: int = 6


def of(document: Document) -> list[Sentence]:
    """The sentences of the form, the file or the driven walk that is selected."""
    selection, state = document.selection, document.own(HandOver)
    if isinstance(selection, SelectedDriven):
        came = state.came.get((selection.walk, selection.window))
        return _driven(document, came, selection)
    chosen = selection.form if isinstance(selection, SelectedForm) else state.form
    form = next((each for each in FORMS if each == chosen), state.form)
    said = _form(document, form)
    if isinstance(selection, SelectedFile):
        said += _file(document, form, selection.path)
    return said


def _form(document: Document, form: Form) -> list[Sentence]:
    """What can be done with a form, and why it cannot be handed over."""
    handing = handing_of(document)
    made = handing.made(form)
    if form == "report":
        return [_report(document)]
    if form == "changes":
        return [_changes(document)]
    settings = _chosen(handing) if form == "web" else []
    if made is None:
        return [Sentence("", [Word("subject", "Being made…")]), *settings]
    if made.problems:
        said = [Sentence("", [Word("subject", "It cannot be carried over")])]
        said += [Sentence("", [Word("broken", f"✕ {each}")]) for each in made.problems[:MOST]]
        return said
    new = sum(each.state in WRITTEN for each in made.handed)
    words = [
        Word("subject", f"{FOLDER}/{form}"),
        Word("text", f"{new} to write" if new else "written as it is now"),
        Word("mend", "Write it", partial(handing.write, form), name="write it", is_on=bool(new)),
    ]
    if form == "web":
        words.append(Word("do", "Open in the browser", partial(open_app, document), role="act"))
    words.append(Word("do", "Copy the command", partial(copy_command, document, form), role="act"))
    behind = [Sentence("", [Word("text", each)]) for each in made.left]
    return [Sentence("", words), *settings, *behind[:MOST]]


def _chosen(handing: Handing) -> list[Sentence]:
    """How the web app is delivered, each a chip."""
    wishes = handing.wishes()
    page = "one script and one style" if wishes.bundled else "its modules as they are"
    address = {"hash": "behind #", "path": f"as paths under {wishes.under}"}[wishes.addresses]
    return calmly(
        [Word("text", "Its page takes")],
        [
            Matter("", page, "what the page takes", partial(_bundle, handing)),
            Matter("with addresses", address, "addresses of the app", partial(_paths, handing)),
        ],
    )


def _bundle(handing: Handing) -> list[Sentence]:
    wishes = handing.wishes()
    words = [
        Word("choice", said, partial(handing.wish, replace(wishes, bundled=is_so)),
             wishes.bundled is is_so, said)
        for said, is_so in (("its modules as they are", False), ("one script and one style", True))
    ]  # fmt: skip
    about = "The readable modules lie beside the bundle, and what you have changed is in it."
    return [Sentence("", words), Sentence("", [Word("text", about)])]


def _paths(handing: Handing) -> list[Sentence]:
    wishes = handing.wishes()

    def under(text: str) -> None:
        try:
            handing.wish(chosen(wishes, None, None, text))
        except Problem as problem:
            handing.document.refuse(str(problem))

    behind, paths = replace(wishes, addresses="hash"), replace(wishes, addresses="path")
    is_path = wishes.addresses == "path"
    words = [
        Word("choice", "behind #", partial(handing.wish, behind), not is_path, "behind #"),
        Word("choice", "as paths", partial(handing.wish, paths), is_path, "as paths"),
    ]
    if is_path:
        words += [Word("text", "under"), Word("line", wishes.under, under, name="under")]
    about = "Any server serves what is behind #; of paths it must know to answer with the page."
    return [Sentence("", words), Sentence("", [Word("text", about)])]


def _report(document: Document) -> Sentence:
    """Write the report of the project as it is saved."""
    reporting = reporting_of(document)
    words = [Word("subject", "A report to read"), Word("text", f"{FOLDER}/report/{REPORT}")]
    if reporting.is_at_work:
        return Sentence("", [*words, Word("text", "being written…"), _stop(reporting.stop)])
    write = Word("mend", "Write it", reporting.begin, name="write the report")
    return Sentence("", [*words, write])


def _stop(does: Callable[[], object]) -> Word:
    return Word("do", "Stop", does)


def _changes(document: Document) -> Sentence:
    """Compare the app with how it was saved, or with a revision of it."""
    comparing, state = comparing_of(document), document.own(HandOver)

    def since(revision: str) -> None:
        state.since = revision.strip()
        state.made.pop("changes", None)
        document.tell(Change.HANDED)

    words = [Word("subject", "What has changed"), Word("text", "since")]
    words.append(Word("line", state.since, since, name="revision to compare with"))
    if comparing.is_at_work:
        words += [Word("text", "comparing…"), _stop(comparing.stop)]
    else:
        told = "" if state.since else "it was saved; or a revision in git, such as HEAD~1"
        words.append(Word("mend", "Compare", comparing.begin, name="compare the versions"))
        words += [Word("text", told)] if told else []
    return Sentence("", words)


def _file(document: Document, form: Form, path: str) -> list[Sentence]:
    """A file that somebody has changed by hand."""
    made = handing_of(document).made(form)
    handed = () if made is None else made.handed
    each = next((one for one in handed if one.path == path), None)
    if each is None or each.state not in YOURS:
        return []
    return [Sentence("", [Word("text", f"{path} was changed by hand: {each.said}")])]


def _driven(document: Document, came: Came | None, selection: SelectedDriven) -> list[Sentence]:
    """What came of driving a walk."""
    head = Word("subject", f"{selection.walk} at {selection.window}")
    begin = driving_of(document).begin
    again = Word("do", "Drive again", begin, name="drive all walks again", role="act")
    if came is None:
        return [Sentence("", [head, Word("text", "not driven yet"), again])]
    differs = came.outcome.differs
    if differs is None:
        words = [head, Word("text", f"as wired, {came.outcome.steps} steps"), again]
        return [Sentence("", words)]
    after = "the start" if differs.event is None else in_short(differs.event, "screen", "key")
    play = Word("do", "Show the step", partial(show_step, document, came), role="act")
    said = [Sentence("", [head, Word("text", f"step {differs.step}, after {after}"), play, again])]
    said += [Sentence("", [Word("broken", f"✕ {each}")]) for each in differs.differences[:MOST]]
    return said


def show_step(document: Document, came: Came) -> None:
    """Bring the Bench to where the app first differs."""
    from cadena.deliver.drive.as_a_person import as_a_person
    from cadena.engine.events import Relaunch
    from cadena.engine.rules.window_change import resize_to

    differs = came.outcome.differs
    if differs is None:
        return
    document.do(Relaunch())
    document.do(resize_to(came.outcome.plan.size))
    left = differs.step
    for wanted in came.outcome.plan.events:
        for event in tuple(as_a_person(document.wired, document.session, wanted)):
            if left == 0:
                return
            left -= 1
            document.do(event)


def open_app(document: Document) -> None:
    """Open the app that was delivered in the person's own browser, served on this machine."""
    from cadena.deliver.drive.folder_server import served

    handing = handing_of(document)
    folder = handing.folder("web")
    if folder is None:
        return
    if not (folder / "index.html").is_file():
        handing.write("web")
    state = document.own(Opened)
    try:
        if state.at is None:
            state.server = served(folder)
            state.at = state.server.__enter__()
    except Problem as problem:
        document.refuse(str(problem))
        return
    QDesktopServices.openUrl(QUrl(f"{state.at}index.html"))


class Opened:
    """Where the delivered app of a project is served for its person; as long as it is open."""

    def __init__(self) -> None:
        from contextlib import AbstractContextManager

        self.at: str | None = None
        self.server: AbstractContextManager[str] | None = None

    def __del__(self) -> None:
        if self.server is not None:
            self.server.__exit__(None, None, None)


def command(handing: Handing, form: Form) -> str:
    """The command that does the same without the window."""
    folder = handing.folder(form)
    project = "." if folder is None else str(folder.parent.parent)
    deliver = f"cadena deliver {project!r} --as {form} --to {str(folder)!r}"
    if form == "diagrams":
        return f"cadena diagram {project!r} --as mermaid"
    if form == "web":
        wishes = handing.wishes()
        deliver += " --bundle" if wishes.bundled else ""
        deliver += f" --addresses path --under {wishes.under}" if wishes.addresses == "path" else ""
    drive = f"\ncadena drive {project!r} --app {str(folder)!r} --junit drive.xml"
    if form == "desktop":
        name = package_of(handing.document.wired)
        drive = f"\n(cd {str(folder)!r} && cadena drive {project!r} --command 'python3 -m {name}')"
    return deliver + (drive if form in ("web", "desktop") else "")


def copy_command(document: Document, form: Form) -> None:
    """Copy the commands that do this in continuous integration."""
    QGuiApplication.clipboard().setText(command(handing_of(document), form))
    document.say("The command is copied")
