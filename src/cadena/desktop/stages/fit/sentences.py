"""The sentences that Fit's strip says of the document's selection."""

from __future__ import annotations

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import AllFindings
from cadena.desktop.document.stages import stage_of
from cadena.desktop.stages.fit.about_arrangements import about_arrangement
from cadena.desktop.stages.fit.about_windows import (
    Play,
    about_breakpoint,
    about_gap,
    about_window,
)
from cadena.desktop.stages.fit.selected import (
    Gap,
    SelectedArrangement,
    SelectedBreakpoint,
    SelectedWindow,
)
from cadena.desktop.stages.fit.window_map import breakpoint_selected
from cadena.desktop.widgets.words import Sentence, Word
from cadena.engine.rules.display import arrangement_for
from cadena.model.find import by_id
from cadena.model.windows import windows_of
from cadena.runs.window_plane import plane_of


def of(document: Document, play: Play) -> list[Sentence]:
    """The sentences of what is selected; with nothing, those of the arrangement there is now."""
    selection, app = document.selection, document.app
    match selection:
        case SelectedBreakpoint():
            found = breakpoint_selected(plane_of(app.arrangements), selection)
            if found is not None:
                return about_breakpoint(document, found, play)
        case SelectedWindow():
            named = next((e for e in windows_of(app) if e.name == selection.window), None)
            if named is not None:
                return about_window(document, named)
        case Gap():
            return about_gap(document)
        case AllFindings():
            mine = [each for each in document.findings if stage_of(each).name == "Fit"]
            said = f"{len(document.findings)} open findings, {len(mine)} of them here"
            return [Sentence("", [Word("subject", said)])]
        case SelectedArrangement():
            chosen = by_id(app.arrangements, selection.arrangement)
            if chosen is not None:
                return about_arrangement(document, chosen)
    rule = arrangement_for(document.wired, document.session.window)
    if by_id(app.arrangements, rule.id) is None:
        return about_gap(document)
    return about_arrangement(document, rule)
