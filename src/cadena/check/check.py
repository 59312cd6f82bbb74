"""All checks of a project, in the order in which its parts stand."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import partial
from operator import is_not
from typing import Final

from msgspec.structs import replace

from cadena.check.addresses import address_findings
from cadena.check.choosing import bringing_findings, shown_on_findings
from cadena.check.finding import Finding, Mend, found, of_thing
from cadena.check.fit import fit_findings
from cadena.check.forms import unlisted_findings
from cadena.check.keeping import keeping_findings, lost_findings
from cadena.check.kinds import kind_findings
from cadena.check.laid_out import laid_out_findings
from cadena.check.links import link_findings
from cadena.check.screens import screen_findings
from cadena.check.secrets import secret_findings
from cadena.check.sources import Looks, others_findings, picture_findings, source_findings
from cadena.engine.wired import WiredApp
from cadena.model.address import addressed
from cadena.model.app import App, DetailScreen, Link, Screen
from cadena.model.edits.wiring import Types, without_screen
from cadena.model.find import by_id
from cadena.model.screen_depths import links_about, unreached
from cadena.model.source import Source
from cadena.records.joined import joined
from cadena.records.records import Records
from cadena.runs.keep.matrix import runs

MOST_SCREENS: Final = 40
NEAREST: Final = 12
WORDS: Final = frozenset({"title", "keep"})
"""What of a screen no address depends on."""


def check(
    app: App, records: Mapping[str, Records], look: Looks | None = None
) -> tuple[Finding, ...]:
    """Find what is wrong with a project: by reading it, and by running it where it must be.

    Args:
        app: the model.
        records: the records of each source, as read.
        look: looks for the pictures that records name; none are, if it is not given.

    Of an app of more than ``MOST_SCREENS`` screens what shows only when it runs is measured on
    the ``NEAREST`` to the start.
    """
    wired = WiredApp(app, records)
    some = NEAREST if is_in_part(app) else None
    lost = lost_findings(runs(wired, screens=some))
    return (*read_through(app, records, look), *laid_out_findings(wired, some), *lost)


def is_in_part(app: App) -> bool:
    """Whether an app is so large that not all of its screens are measured."""
    return len(app.screens) > MOST_SCREENS


def read_through(
    app: App, records: Mapping[str, Records], look: Looks | None = None
) -> tuple[Finding, ...]:
    """What is wrong that can be found without running anything."""
    return Reading().read(WiredApp(app, records), records, look)


class Reading:
    """Reads an app through again and again: what an edit has not touched is not read anew.

    Values that nothing has changed are the very same after an edit; so each part is read again
    only where something that it is read with is another.
    """

    def __init__(self) -> None:
        self._known: dict[str, tuple[tuple[object, ...], tuple[Finding, ...]]] = {}

    def read(
        self, wired: WiredApp, records: Mapping[str, Records], look: Looks | None = None
    ) -> tuple[Finding, ...]:
        """Read an app through.

        Args:
            wired: the app, compiled.
            records: the records of each source, as read.
            look: looks for the pictures that records name.
        """
        app = wired.app
        # With what references lead to, so that a path is a field like any other.
        records = {
            name: joined(each, wired.leads[name], wired.sources, records.get)
            if name in wired.leads
            else each
            for name, each in records.items()
        }
        read_with = (app.sources, app.values, *records.values())
        found: list[Finding] = []
        for source in app.sources:
            of_source = (source, records.get(source.id), look)
            make = partial(_of_source, *of_source)
            found += self._read(f"source {source.id}", of_source, make)
        about = links_about(app)
        for screen in app.screens:
            links = about.get(screen.id, ())
            of_screen = (screen, *links, app.windows, app.platform, *read_with)
            make = partial(screen_findings, app, records, screen)
            found += self._read(f"screen {screen.id}", of_screen, make)
        screens = {each.id: each for each in app.screens}
        for link in app.links:
            ends = screens.get(link.trigger.screen), screens.get(link.to)
            # Whether a root that is replaced is come to again hangs on all other links.
            others = app.links if link.how == "replace" else ()
            of_link = (link, *ends, *others, app.sections, *read_with)
            found += self._read(f"link {link.id}", of_link, partial(_of_link, app, records, link))
        of_kinds = (app.links, *app.screens, *read_with)
        found += self._read("kinds", of_kinds, partial(kind_findings, app, records))
        wiring = (app.sections, app.links, app.start)
        named = (part for each in app.screens for part in (each.id, each.parameters))
        make = partial(_section_findings, app)
        found += self._read("sections", (*wiring, *named), make)
        of_windows = (app.arrangements, app.windows, *wiring)
        sides = (each.side for each in app.screens if isinstance(each, DetailScreen))
        make = partial(fit_findings, app)
        found += self._read("windows", (*of_windows, *sides), make)
        make = partial(keeping_findings, app)
        lives = (*wiring, app.platform, app.values, *app.screens)
        found += self._read("lifetimes", lives, make)
        found += shown_on_findings(app)
        found += others_findings(wired.sources, wired.paths)
        if addressed(app):
            parts = (part for each in app.screens for part in _but_words(each))
            of_addresses = (*parts, app.links, app.sections, app.fallback, *read_with)
            make = partial(address_findings, wired)
            found += self._read("addresses", of_addresses, make)
        return tuple(found)

    def _read(
        self, part: str, of: tuple[object, ...], make: Callable[[], Iterable[Finding]]
    ) -> tuple[Finding, ...]:
        known = self._known.get(part)
        is_same = known is not None and len(known[0]) == len(of)
        if known is None or not is_same or any(map(is_not, known[0], of)):
            known = self._known[part] = (of, tuple(make()))
        return known[1]


def _of_source(source: Source, records: Records | None, look: Looks | None) -> Iterator[Finding]:
    yield from secret_findings(source)
    if records is not None:
        yield from source_findings(source, records)
        yield from () if look is None else picture_findings(source, records, look)


def _of_link(app: App, records: Mapping[str, Records], link: Link) -> Iterator[Finding]:
    yield from link_findings(app, records, link)
    yield from bringing_findings(app, records, link)
    yield from unlisted_findings(app, link)


def _but_words(screen: Screen) -> Iterator[object]:
    """All of a screen that decides what opens it, and where its own links lead."""
    return (getattr(screen, name) for name in screen.__struct_fields__ if name not in WORDS)


def breaks(findings: tuple[Finding, ...]) -> bool:
    """Whether any of these breaks the app."""
    return any(each.weight == "breaks" for each in findings)


def _section_findings(app: App) -> Iterator[Finding]:
    for section in app.sections:
        where = f"sections[{section.id}].root"
        root = by_id(app.screens, section.root)
        if root is None:
            yield found(
                "root-missing",
                of_thing("section", section.id),
                f'section "{section.title}" starts with {section.root}, which is not there',
                where,
            )
            continue
        for parameter in root.parameters:
            if parameter.need == "required":
                yield found(
                    "root-needs-argument",
                    of_thing("section", section.id, screen=root.id),
                    f"root {root.id} requires {parameter.name}, and nothing opens a root with one",
                    where,
                    parameter=parameter.name,
                )
    titles = [each.title for each in app.sections if each.in_bar]
    for title in sorted({each for each in titles if titles.count(each) > 1}):
        yield found(
            "title-twice",
            of_thing("app"),
            f'{titles.count(title)} sections of the bar are titled "{title}"',
            "sections",
        )
    if app.sections and by_id(app.sections, app.start) is None:
        yield found(
            "start-missing",
            of_thing(),
            f'the app starts in section "{app.start}", and there is no such section',
            "start",
        )
    for name in unreached(app):
        yield found(
            "screen-unreachable",
            of_thing("screen", name),
            f"no path of links leads from a section to {name}",
        )


def _with_first_start(app: App, types: Types, finding: Finding) -> App | None:
    return replace(app, start=app.sections[0].id) if app.sections else None


def _without_screen(app: App, types: Types, finding: Finding) -> App | None:
    return without_screen(app, finding.subject.name)


MENDS: Final[Mapping[str, Mend]] = {
    "screen-unreachable": _without_screen,
    "start-missing": _with_first_start,
}
