"""What of an app cannot be carried over to a form that it is handed over in, by name."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from cadena.engine.wired import WiredApp
from cadena.model.app import FromRecord
from cadena.model.problem import Problem
from cadena.records.records import Records

WHOLE_MOST: Final = 2**53
"""Whole numbers beyond are not told apart in a browser."""


def _in_no_form(app: WiredApp) -> Iterator[Problem]:
    if not app.sections:
        yield Problem("sections", "", "no section has a screen to open", "a section with a root")
    for link in app.app.links:
        for argument in link.arguments:
            if isinstance(argument, FromRecord):
                where = f"links[{link.id}].arguments[{argument.parameter}]"
                yield Problem(
                    where, "", "it carries a whole record", "the key of the record in place of it"
                )


def _without_records(source: str) -> Problem:
    return Problem(f"sources[{source}]", "", "its records are not there", "a file that can be read")


def cannot_be_a_desktop_app(app: WiredApp) -> Iterator[Problem]:
    """What cannot be carried over to an app for the desktop, and what would mend it."""
    yield from _in_no_form(app)
    for source in app.app.sources:
        if source.id not in app.as_read:
            yield _without_records(source.id)


def cannot_be_carried(app: WiredApp) -> Iterator[Problem]:
    """What cannot be carried over to a web app, and what would mend it."""
    yield from _in_no_form(app)
    for source in app.app.sources:
        records = app.as_read.get(source.id)
        if records is None:
            yield _without_records(source.id)
        elif source.served != "service":
            yield from _too_large(source.id, records)
        if source.served == "service" and source.service is not None:
            names = [name for name, value in source.service.headers.items() if "${" in value]
            for name in names:
                yield Problem(
                    f"sources[{source.id}].service.headers[{name}]",
                    "",
                    "it is filled from the environment, which a page has none of",
                    "a service that the page may call without it",
                )


def _too_large(source: str, records: Records) -> Iterator[Problem]:
    for name, kind in records.types.items():
        if kind != "whole number" or not len(records):
            continue
        column = records.frame[name].drop_nulls()
        if len(column) and max(abs(int(column.max())), abs(int(column.min()))) > WHOLE_MOST:  # type: ignore[arg-type]
            yield Problem(
                f"sources[{source}].fields[{name}]",
                "",
                "it holds whole numbers over 9,007,199,254,740,992",
                "text in place of such numbers",
            )
