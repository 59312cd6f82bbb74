"""All checks of a project, in the order in which its parts stand."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Final

from msgspec.structs import replace

from cadena.check.addresses import address_findings
from cadena.check.finding import Finding, Mend, Subject
from cadena.check.fit import fit_findings
from cadena.check.keeping import keeping_findings, lost_findings
from cadena.check.links import link_findings
from cadena.check.measured import measured
from cadena.check.screens import screen_findings
from cadena.check.secrets import secret_findings
from cadena.check.sources import source_findings
from cadena.engine.wired import WiredApp
from cadena.model.address import addressed
from cadena.model.app import App
from cadena.model.edits.wiring import Types, without_screen
from cadena.model.find import by_id
from cadena.model.screen_depths import unreached
from cadena.records.records import Records
from cadena.runs.keep.matrix import runs


def check(app: App, records: Mapping[str, Records]) -> tuple[Finding, ...]:
    """Find what is wrong with a project: by reading it, and by running it where it must be.

    Args:
        app: the model.
        records: the records of each source, as read.
    """
    wired = WiredApp(app, records)
    return (*read_through(app, records), *measured(wired), *lost_findings(runs(wired)))


def read_through(app: App, records: Mapping[str, Records]) -> tuple[Finding, ...]:
    """What is wrong that can be found without running anything."""
    found: list[Finding] = []
    for source in app.sources:
        found += secret_findings(source)
        if source.id in records:
            found += source_findings(source, records[source.id])
    for screen in app.screens:
        found += screen_findings(app, records, screen)
    for link in app.links:
        found += link_findings(app, records, link)
    found += _section_findings(app)
    found += fit_findings(app)
    found += keeping_findings(app)
    if addressed(app):
        found += address_findings(WiredApp(app, records))
    return tuple(found)


def breaks(findings: tuple[Finding, ...]) -> bool:
    """Whether any of these breaks the app."""
    return any(each.weight == "breaks" for each in findings)


def _section_findings(app: App) -> Iterator[Finding]:
    for section in app.sections:
        where = f"sections[{section.id}].root"
        root = by_id(app.screens, section.root)
        if root is None:
            yield Finding(
                "root-missing",
                "breaks",
                where,
                f'section "{section.title}" starts with {section.root}, which is not there',
                "the section cannot be shown",
                "make the screen, or choose another root",
                subject=Subject("section", section.id),
            )
            continue
        for parameter in root.parameters:
            if parameter.need == "required":
                yield Finding(
                    "root-needs-argument",
                    "breaks",
                    where,
                    f"root {root.id} requires {parameter.name}, and nothing opens a root with one",
                    "the section cannot be shown",
                    f"give {parameter.name} a default, or choose another root",
                    root.id,
                    subject=Subject("section", section.id),
                )
    if app.sections and by_id(app.sections, app.start) is None:
        yield Finding(
            "start-missing",
            "weakens",
            "start",
            f'the app starts in section "{app.start}", and there is no such section',
            "the first section is shown instead",
            "choose the section to start in",
        )
    for name in unreached(app):
        yield Finding(
            "screen-unreachable",
            "weakens",
            f"screens[{name}]",
            f"no path of links leads from a section to {name}",
            "nobody will ever see it",
            "link something to it, make it a section's root, or remove it",
            name,
            subject=Subject("screen", name),
        )


def _with_first_start(app: App, types: Types, finding: Finding) -> App | None:
    return replace(app, start=app.sections[0].id) if app.sections else None


def _without_screen(app: App, types: Types, finding: Finding) -> App | None:
    return without_screen(app, finding.subject.name)


MENDS: Final[Mapping[str, Mend]] = {
    "screen-unreachable": _without_screen,
    "start-missing": _with_first_start,
}
