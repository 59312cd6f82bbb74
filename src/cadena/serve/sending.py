"""What is sent to a service for a write, and what its answer says of it (rules.md, 9.1; RFC 9110,
9457). Nothing is called here."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from typing import Any, Final, NamedTuple
from urllib.parse import unquote, urlsplit

import msgspec
from msgspec import UNSET

from cadena.engine.events import Written
from cadena.engine.rules.unsent import FAILED, NO_ANSWER, NOT_ALLOWED, NOT_NOW, REFUSED, TOO_MUCH
from cadena.engine.session import Write
from cadena.model.problem import Problem
from cadena.model.source import Source, Writing
from cadena.model.values import Unfit, carry
from cadena.records.records import Records
from cadena.sources.connection import Answer
from cadena.sources.fetch import last_part
from cadena.sources.json_tree import decoded, pointed

JSON: Final = "application/json"
LONGEST_WAIT: Final = 600_000
"""Ms after which nothing is sent again by itself: a person decides."""
MOST_SAID: Final = 500
"""Letters of what a service says that are said on."""
FIELD_IN: Final = ("pointer", "field", "name")
WHY_IN: Final = ("detail", "message", "msg")


class Sending(NamedTuple):
    """One request that writes. The headers are those of the write; a service's own are added as it
    is sent, and are never told."""

    method: str
    address: str
    headers: Mapping[str, str]
    body: bytes | None

    def as_text(self, more: Mapping[str, str] | None = None) -> str:
        """The request as HTTP writes it (RFC 9112).

        Args:
            more: the headers of the service, as the project says them; what does not name the
                environment is left out of what is told.
        """
        own = {name: value if "${" in value else "…" for name, value in (more or {}).items()}
        parts = urlsplit(self.address)
        target = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
        lines = [f"{self.method} {target} HTTP/1.1", f"host: {parts.netloc}"]
        lines += [f"{name}: {value}" for name, value in {**self.headers, **own}.items()]
        body = "" if self.body is None else self.body.decode()
        return "\n".join([*lines, "", body])


def sending_of(
    source: Source,
    write: Write,
    address: str,
    there: Mapping[str, Any] | None = None,
    version: str = "",
    name: str = "",
) -> Sending:
    """The request of a write.

    Args:
        address: where it is sent.
        there: all that the service has of the record, where the whole of it is sent.
        version: which version of the record is meant, where the service tells them apart.
        name: by which the service knows it again, where it does.
    """
    way = way_of(source, write)
    headers = {"accept": JSON}
    body = None
    if write.kind != "remove":
        headers["content-type"] = way.media
        body = msgspec.json.encode(nested(write.fields, there))
    if name:
        headers["idempotency-key"] = name
    if version:
        headers["if-match"] = version
    return Sending(way.method, address, headers, body)


def way_of(source: Source, write: Write) -> Writing:
    """How a service is written to in the way of a write."""
    way = None if source.service is None else source.service.ways().get(write.kind)
    assert way is not None
    return way


def sends_whole(source: Source, write: Write) -> bool:
    """Whether all of a record is sent, with what the app knows nothing of."""
    return write.kind == "change" and way_of(source, write).sends == "whole"


def nested(fields: Mapping[str, Any], there: Mapping[str, Any] | None = None) -> dict[str, Any]:
    """Fields by path as objects in objects, over what is there."""
    made: dict[str, Any] = msgspec.json.decode(msgspec.json.encode(there or {}))
    for path, value in fields.items():
        *steps, last = path.split(".")
        node = made
        for step in steps:
            below = node.get(step)
            if not isinstance(below, dict):
                below = node[step] = {}
            node = below
        node[last] = value
    return made


def outcome_of(source: Source, records: Records | None, write: Write, answer: Answer) -> Written:
    """What an answer says of a write; what else is to be asked for is left to the caller."""
    status = answer.status
    if answer.is_page and status < 500:
        # A gate on the way has answered, and not the service.
        return unsent(write, NO_ANSWER)
    if 200 <= status < 300:
        return Written(
            request=write.call, outcome="done", record=record_in(source, records, write, answer)
        )
    if status in (400, 422) or (status == 409 and write.key is None):
        # What is new was nobody's before: that it is there is a fault of what was typed.
        faults, why = faults_in(_tree(answer))
        return Written(request=write.call, outcome="refused", faults=faults, why=why)
    if status in (409, 412):
        return Written(request=write.call, outcome="quicker")
    if status in (404, 410):
        return Written(request=write.call, outcome="gone")
    if status in (429, 503):
        after = wait_in(answer.headers.get("retry-after", ""))
        if after is not None and 0 < after <= LONGEST_WAIT:
            return Written(request=write.call, outcome="later", after=after)
        return unsent(write, TOO_MUCH if status == 429 else NOT_NOW)
    if status in (401, 403):
        return unsent(write, NOT_ALLOWED)
    return unsent(write, FAILED if status >= 500 else REFUSED)


def unsent(write: Write, why: str) -> Written:
    """It was not sent, or nobody knows whether it was."""
    return Written(request=write.call, outcome="unsent", why=why)


def _tree(answer: Answer) -> Any:
    try:
        return decoded(answer.raw, answer.address) if answer.raw.strip() else None
    except Problem:
        return None


def record_in(
    source: Source, records: Records | None, write: Write, answer: Answer
) -> dict[str, Any] | None:
    """What an answer says of the record, by field; none where it says nothing of it."""
    try:
        came = pointed(_tree(answer), way_of(source, write).record, answer.address)
    except Problem:
        came = None
    record = fields_in(source, records, came)
    if write.kind == "create" and (record or {}).get(source.key) is None:
        made = _made_at(source, records, answer.headers.get("location", ""))
        if made is not None:
            return {**(record or {}), source.key: made}
    return record


def fields_in(source: Source, records: Records | None, came: Any) -> dict[str, Any] | None:
    """A record that came, as the types of its source have it; what is not in it is left out, and
    what does not fit is nothing."""
    if not isinstance(came, dict) or not came:
        return None
    types = {each.name: each.type for each in source.fields} if records is None else records.types
    record: dict[str, Any] = {}
    for name, kind in types.items():
        value: Any = came
        for part in name.split("."):
            value = value.get(part, UNSET) if isinstance(value, dict) else UNSET
        if value is not UNSET and (value is not None or name != source.key):
            record[name] = fitting_value(value, kind)
    address = came.get(source.service.key_from_address) if source.service is not None else None
    if address:
        record[source.key] = fitting_value(last_part(str(address)), types.get(source.key, "text"))
    return record


def fitting_value(value: Any, kind: str) -> Any:
    """What a service says, as a field of a type holds it; none where it does not fit."""
    try:
        return None if value is None else carry(value, kind, convert=True)
    except Unfit:
        return None


def _made_at(source: Source, records: Records | None, location: str) -> Any:
    """The key of what was made, as the last part of where it is (RFC 9110, 10.2.2)."""
    kind = "text" if records is None else records.types.get(source.key, "text")
    return fitting_value(unquote(last_part(location)) or None, kind)


def wait_in(text: str) -> int | None:
    """Ms that a Retry-After asks for: seconds, or until a date (RFC 9110, 10.2.3)."""
    text = text.strip()
    if text.isascii() and text.isdigit() and len(text) < 12:
        return int(text) * 1000
    try:
        until = parsedate_to_datetime(text)
        left = until.replace(tzinfo=until.tzinfo or UTC) - datetime.now(UTC)
    except (ValueError, TypeError, OverflowError):
        return None
    return max(1, round(left.total_seconds() * 1000))


def faults_in(problem: Any) -> tuple[dict[str, str], str]:
    """What a problem says of fields, by path, and of the whole (RFC 9457, and what is met)."""
    held = problem if isinstance(problem, dict) else {}
    detail = held.get("detail")
    some = _first(held, ("errors", "fields"), None)
    is_detail = some is None and isinstance(detail, list)
    some = detail if is_detail else some
    faults = {}
    for name, why in _pairs_in(some):
        path = name.removeprefix("#").removeprefix("/").replace("/", ".")
        faults[path] = why[:MOST_SAID]
    names = ("title", "error", "message")
    whole = _first(held, names if is_detail else ("detail", *names), "")
    return faults, whole[:MOST_SAID] if isinstance(whole, str) else ""


def _pairs_in(some: Any) -> Iterator[tuple[str, str]]:
    if isinstance(some, dict):
        for name, why in some.items():
            yield str(name), _fault_text(why)
    for fault in some if isinstance(some, list) else ():
        if not isinstance(fault, dict):
            continue
        at = fault.get("loc")
        last = at[-1] if isinstance(at, list) and at else None
        name = _first(fault, FIELD_IN, last)
        if isinstance(name, str):
            yield name, _fault_text(_first(fault, WHY_IN, ""))


def _first(held: Mapping[str, Any], names: tuple[str, ...], other: Any) -> Any:
    return next((held[name] for name in names if held.get(name) is not None), other)


def _fault_text(why: Any) -> str:
    """What is said of a field: the first, where it is a list."""
    first = why[0] if isinstance(why, list) and why else why
    if isinstance(first, list):
        return ""
    return first if isinstance(first, str) else "" if first is None else str(first)
