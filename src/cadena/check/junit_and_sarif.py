"""Findings in the forms that other tools read: JUnit XML, and SARIF 2.1.0."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any, Final, NamedTuple
from xml.etree import ElementTree

import msgspec

from cadena.check.finding import Finding
from cadena.model.app import App
from cadena.words.plain_text import xml_text

SARIF: Final = "2.1.0"
LEVELS: Final = {"breaks": "error", "weakens": "warning"}


def to_junit(app: App, findings: Sequence[Finding]) -> str:
    """The findings of an app as JUnit XML."""
    return cases_to_junit("cadena check", app.name or "app", check_cases(app, findings))


def check_cases(app: App, findings: Sequence[Finding]) -> list[Case]:
    """A case for each part of the app that was looked at: screens, links, sources and the rest;
    what breaks one is its failure, what weakens it is said in its output."""
    parts = [
        *(f"screens[{each.id}]" for each in app.screens),
        *(f"links[{each.id}]" for each in app.links),
        *(f"sources[{each.id}]" for each in app.sources),
    ]
    held: dict[str, list[Finding]] = {each: [] for each in parts}
    for finding in findings:
        part = next((each for each in parts if finding.where.startswith(each)), "app")
        held.setdefault(part, []).append(finding)
    cases = []
    for part, some in held.items():
        failed = tuple(
            Failed(finding.code, finding.what, _whole(finding))
            for finding in some
            if finding.weight == "breaks"
        )
        weak = "\n\n".join(_whole(each) for each in some if each.weight != "breaks")
        cases.append(Case(f"check.{part.partition('[')[0]}", part, failed, weak))
    return cases


class Failed(NamedTuple):
    """Why a case fails: of what type, a message, and all of it."""

    type: str
    message: str
    whole: str


class Case(NamedTuple):
    """A case of JUnit XML: its class and name, why it fails, and what is said beside."""

    of: str
    name: str
    failed: tuple[Failed, ...] = ()
    said: str = ""


def cases_to_junit(command: str, suite_name: str, cases: Sequence[Case]) -> str:
    """One suite of cases as JUnit XML."""
    failures = sum(bool(each.failed) for each in cases)
    counts = {"tests": str(len(cases)), "failures": str(failures), "errors": "0"}
    suites = ElementTree.Element("testsuites", {"name": command, **counts})
    suite = ElementTree.SubElement(suites, "testsuite", {"name": xml_text(suite_name), **counts})
    for each in cases:
        about = {"classname": xml_text(each.of), "name": xml_text(each.name)}
        case = ElementTree.SubElement(suite, "testcase", about)
        if each.failed:
            first = each.failed[0]
            said = {"type": xml_text(first.type), "message": xml_text(first.message)}
            failure = ElementTree.SubElement(case, "failure", said)
            failure.text = xml_text("\n\n".join(one.whole or one.message for one in each.failed))
        if each.said:
            ElementTree.SubElement(case, "system-out").text = xml_text(each.said)
    ElementTree.indent(suites)
    head = '<?xml version="1.0" encoding="UTF-8"?>\n'
    return head + ElementTree.tostring(suites, encoding="unicode") + "\n"


def _whole(finding: Finding) -> str:
    said = f"{finding.weight} {finding.code} at {finding.where}\n{finding.what}"
    return xml_text(f"{said}\nwhy: {finding.why}\nmend: {finding.mend}")


def to_sarif(file: str, text: str, findings: Iterable[Finding], version: str) -> str:
    """A SARIF log of one run: a rule for each code, a result for each finding.

    Args:
        file: the project file, as a path relative to the folder that is looked at.
        text: what is in it, so that results say their line.
        version: that of Cadena.
    """
    some = list(findings)
    codes = list(dict.fromkeys(each.code for each in some))
    lines = text.splitlines()
    run = {
        "tool": {
            "driver": {
                "name": "cadena",
                "version": version,
                "rules": [{"id": each, "name": each} for each in codes],
            }
        },
        "results": [_result(each, codes, file, lines) for each in some],
    }
    log = {"version": SARIF, "runs": [run]}
    return msgspec.json.format(msgspec.json.encode(log), indent=2).decode() + "\n"


def _result(finding: Finding, codes: list[str], file: str, lines: list[str]) -> dict[str, Any]:
    said = f"{finding.what}. {finding.why}. To mend: {finding.mend}."
    region = {"startLine": _line_of(finding, lines)}
    return {
        "ruleId": finding.code,
        "ruleIndex": codes.index(finding.code),
        "level": LEVELS[finding.weight],
        "message": {"text": said},
        "locations": [
            {
                "physicalLocation": {"artifactLocation": {"uri": file}, "region": region},
                "logicalLocations": [{"fullyQualifiedName": finding.where}],
            }
        ],
    }


def _line_of(finding: Finding, lines: list[str]) -> int:
    """The line of the project file that a finding is about: where its thing has its name."""
    name = finding.link or finding.screen or finding.subject.name
    wanted = f'"id": {msgspec.json.encode(name).decode()}' if name else ""
    found = (number for number, line in enumerate(lines, 1) if wanted and wanted in line)
    return next(found, 1)
