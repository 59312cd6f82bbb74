"""Saving, and what it has to ask: whose version counts, and where records go."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.document.on_disk import ChangedOnDisk
from cadena.desktop.shell.message_line import Said
from cadena.model.file.project_file import encode
from cadena.model.find import slug
from cadena.model.problem import Problem

if TYPE_CHECKING:
    from cadena.sources.joined_tables import Clashes, Decided
    from cadena.sources.write_back import NotWritten


class Saving:
    """Saves the document, and asks where it cannot be decided.

    Args:
        over: the window that dialogs open over.
        said: the line in which records are asked about.
    """

    def __init__(self, document: Document, over: QWidget, said: Said) -> None:
        self.document = document
        self.over = over
        self.said = said

    def save(self, over: bool = False, decided: Decided | None = None) -> None:
        """Save, or say why not, with what can be done then; a draft asks where."""
        try:
            if self.document.is_draft:
                self._save_draft()
                return
            self.document.save(over, decided)
        except ChangedOnDisk:
            self._ask_which()
        except Problem as problem:
            self._tell(problem, over, decided or {})

    def _save_draft(self) -> None:
        """Ask where, in a dialog that takes a new name, and go on there."""
        from PySide6.QtWidgets import QFileDialog

        name = slug(self.document.app.name) or "project"
        no_question = QFileDialog.Option.DontConfirmOverwrite
        path, _ = QFileDialog.getSaveFileName(
            self.over, "Save the project in a folder of this name", name, options=no_question
        )
        if path:
            self.document.save_in(Path(path))
            self.document.say(f"Saved in {path}")

    def _tell(self, problem: Problem, over: bool, decided: Decided) -> None:
        # What writes records is loaded only when records were typed.
        from cadena.sources.joined_tables import Clashes
        from cadena.sources.write_back import NotWritten

        if isinstance(problem, Clashes):
            self._ask_whose(problem, over, decided)
        elif isinstance(problem, NotWritten):
            offer = ("Keep them in a file of their own", partial(self._keep_apart, problem))
            self.said.say(str(problem), [offer])
        else:
            self.said.say(str(problem))

    def _ask_whose(self, clashes: Clashes, over: bool, decided: Decided) -> None:
        """Ask whose records count: all of mine, all of theirs, or one by one."""

        def answer(is_mine: bool) -> None:
            all_of_them = {clash.place: is_mine for clash in clashes.clashes}
            self.save(over, {**decided, **all_of_them})

        offers = [
            ("Keep mine", partial(answer, True)),
            ("Take theirs", partial(answer, False)),
        ]
        if len(clashes.clashes) > 1:
            offers.append(("One by one", partial(self._ask_each, clashes, over, decided)))
        self.said.say(str(clashes), offers)

    def _ask_each(self, clashes: Clashes, over: bool, decided: Decided) -> None:
        """Ask of the first clash that is not decided; of none that is left, save."""
        left = [clash for clash in clashes.clashes if clash.place not in decided]
        if not left:
            self.save(over, decided)
            return
        first = left[0]

        def answer(is_mine: bool) -> None:
            self._ask_each(clashes, over, {**decided, first.place: is_mine})

        more = f" ({len(left) - 1} more)" if len(left) > 1 else ""
        self.said.say(
            f"{clashes.file}: {first.what} is {first.mine} here and {first.theirs} there{more}.",
            [("Keep mine", partial(answer, True)), ("Take theirs", partial(answer, False))],
        )

    def _keep_apart(self, problem: NotWritten) -> None:
        from cadena.desktop.document.own_file import keep_in_own_file

        keep_in_own_file(self.document, problem.source)
        self.save()

    def _ask_which(self) -> None:
        """Ask what to do with what somebody else has saved meanwhile."""
        document = self.document
        try:
            theirs = document.on_disk()
            from cadena.desktop.shell.choose_version import ask_which

            answer = ask_which(self.over, document.app.name, encode(document.app), theirs)
            if answer == "theirs":
                document.read_again()
            elif answer == "mine":
                self.save(over=True)
        except Problem as problem:
            self.said.say(str(problem))
