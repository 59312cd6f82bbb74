"""Checks of what should not stand in a project: secrets, for it lies in version control."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Final
from urllib.parse import parse_qsl, urlsplit

from msgspec.structs import replace

from cadena.check.finding import Finding, Mend, found, of_source
from cadena.model.app import App
from cadena.model.edits.wiring import Types
from cadena.model.source import Service, Source

NAMES: Final = re.compile(r"auth|token|secret|passw|api-?_?key|^x-key|cookie|credential", re.I)
"""Words in the name of a header or parameter that carries a secret."""
SCHEMES: Final = re.compile(r"^(basic|bearer|token|digest|apikey)\s+", re.I)
ENVIRONMENT: Final = re.compile(r"\$\{CADENA_[A-Z0-9_]+\}")
SHORTEST: Final = 4
HEADERS: Final = "headers"


def secret_findings(source: Source) -> Iterator[Finding]:
    """What of a source's service looks like a secret."""
    if source.service is None:
        return
    for name in secret_headers(source.service):
        yield _finding(
            source, HEADERS, f"headers.{name}", f"header {name} of {source.id} holds a secret"
        )
    for place in ("list", "item"):
        named = _secret_in(getattr(source.service, place))
        if named:
            said = f"the address of {source.id} holds a secret ({named})"
            yield _finding(source, place, place, said)


def secret_headers(service: Service) -> list[str]:
    """The headers whose values look like secrets."""
    return [name for name, value in service.headers.items() if _is_secret(name, value)]


def _is_secret(name: str, value: str) -> bool:
    left = ENVIRONMENT.sub("", SCHEMES.sub("", value)).strip()
    return NAMES.search(name) is not None and len(left) >= SHORTEST


def _secret_in(address: str) -> str:
    """What of an address looks like a secret: a password, or a parameter of such a name."""
    try:
        parts = urlsplit(address)
        if parts.password:
            return "a password"
        asked = parse_qsl(parts.query)
    except ValueError:
        return ""
    return next((name for name, value in asked if _is_secret(name, value)), "")


def without_secrets(source: Source) -> Source:
    """The source with its secret headers taken from the environment."""
    if source.service is None:
        return source
    headers = dict(source.service.headers)
    for name in secret_headers(source.service):
        scheme = SCHEMES.match(headers[name])
        words = re.sub(r"[^A-Z0-9]+", "_", f"{source.id}_{name}".upper())
        headers[name] = f"{scheme[0] if scheme else ''}${{CADENA_{words}}}"
    return replace(source, service=replace(source.service, headers=headers))


def _finding(source: Source, part: str, place: str, what: str) -> Finding:
    where = f"sources[{source.id}].service.{place}"
    return found("secret-in-project", of_source(source, part), what, where)


def _taken_from_environment(app: App, types: Types, finding: Finding) -> App | None:
    if finding.subject.part != HEADERS:
        return None
    sources = tuple(
        without_secrets(source) if source.id == finding.subject.name else source
        for source in app.sources
    )
    return replace(app, sources=sources)


MENDS: Final[Mapping[str, Mend]] = {"secret-in-project": _taken_from_environment}
