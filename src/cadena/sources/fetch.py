"""Calling an HTTP service for records: list calls page by page, and item calls.

Nothing here is called but when a person asks for it. What a service answers is not trusted: it may
be no JSON, or say the same page again and again.
"""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from typing import Any, Final, NamedTuple
from urllib.parse import urlsplit

import httpx
import uritemplate

from cadena.model.listing import Sort
from cadena.model.problem import Problem
from cadena.model.service_order import sort_asked
from cadena.model.source import Paging, Service
from cadena.model.values import Scalar, shown
from cadena.sources.connection import LONGEST, PATIENCE, Answer, Connection, joined
from cadena.sources.json_tree import arrays_in, decoded, holds_no_array, lines_in, pointed

MOST_PAGES: Final = 2000
MOST_SAID: Final = 3
OURS: Final = "key"
LINES: Final = frozenset(
    f"application/{name}" for name in ("x-ndjson", "ndjson", "jsonl", "x-jsonlines", "json-lines")
)
"""What an answer of a record a line calls itself."""


class Page(NamedTuple):
    """What one list call brought; ``following`` is what to ask for next, if there is more."""

    records: list[Any]
    following: str | int | None


class Whole(NamedTuple):
    """A record as it came, and what tells its version (RFC 9110, 8.8.3), or nothing."""

    record: dict[str, Any]
    version: str


class Asked(NamedTuple):
    """What is asked of a list call, as far as the service says how: a word, an order, and values
    of fields."""

    search: str = ""
    sort: tuple[Sort, ...] = ()
    kept: Mapping[str, Scalar] = {}


NOTHING: Final = Asked()


class Caller:
    """Calls one service. The client may be given, for another transport.

    Args:
        patience: the longest wait for an answer to begin, in seconds.
        longest: the longest that one answer may take in all, in seconds.
    """

    def __init__(
        self,
        service: Service,
        client: httpx.Client | None = None,
        patience: float = PATIENCE,
        longest: float = LONGEST,
    ) -> None:
        self.service = service
        home, headers = service.list, service.headers
        self.connection = Connection(home, headers, client, patience, longest)

    def close(self) -> None:
        self.connection.close()

    def page(self, following: str | int | None = None, asked: Asked = NOTHING) -> Page:
        """Make a list call.

        Args:
            following: what the page before said comes next; none for the first page.
            asked: which records, and in what order.

        Raises:
            Problem: naming the address and what came of it.
        """
        paging = self.service.paging
        at = paging.first if following is None and paging.by == "page" else following or 0
        address = str(following) if isinstance(following, str) else self._at(asked.kept)
        parameters: dict[str, str] = {}
        if not isinstance(following, str):
            parameters = self._asked_for(asked)
            if paging.by in ("page", "offset") and paging.parameter:
                parameters[paging.parameter] = str(at)
            if paging.size_parameter:
                parameters[paging.size_parameter] = str(paging.size)
        answer, tree = self._json(address, parameters)
        found = pointed(tree, self.service.records, address)
        if not isinstance(found, list):
            raise Wrapped(address, self.service.records, found, tree)
        return Page(_of(self._keyed(found), asked.kept), self._following(answer, tree, found, at))

    def _at(self, kept: Mapping[str, Scalar]) -> str:
        """The address of the list call, its variables filled.

        Raises:
            Problem: where one of them is not known.
        """
        return self._address_from(self.service.list, kept, {})

    def address(self, template: str, kept: Mapping[str, Scalar], key: Scalar | None) -> str:
        """An address of the service, for a record of it where a key is given.

        Raises:
            Problem: where a variable of it is not known.
        """
        return self._address_from(template, kept, {} if key is None else {"key": shown(key)})

    def _address_from(self, template: str, kept: Mapping[str, Scalar], more: dict[str, str]) -> str:
        keeps = self.service.keeps
        named = {keeps[field]: shown(each) for field, each in kept.items() if field in keeps}
        given = {name: each for name, each in self.service.given.items() if each}
        values: dict[str, Any] = {**given, **named, **more}
        missing = [str(e) for e in uritemplate.variables(template) if str(e) not in values]
        if missing:
            said = f"{missing[0]} is not known"
            raise Problem(template, "", said, f"a value for {missing[0]} of this source")
        return str(uritemplate.expand(template, values))

    def _asked_for(self, asked: Asked) -> dict[str, str]:
        """The query parameters that ask for a word, an order, and values of fields."""
        service = self.service
        inside = {str(each) for each in uritemplate.variables(service.list)}
        found = {
            service.keeps[field]: shown(value)
            for field, value in asked.kept.items()
            if field in service.keeps and service.keeps[field] not in inside
        }
        if service.search and asked.search:
            found[service.search] = asked.search
        return found | sort_asked(service, asked.sort)

    def _following(self, answer: Answer, tree: Any, found: list[Any], at: Any) -> str | int | None:
        paging = self.service.paging
        if paging.by == "cursor":
            return _cursor(answer, tree, paging)
        if paging.by == "link":
            link = answer.links.get("next", {}).get("url")
            return joined(answer.address, link) if link else None
        if not found or paging.by == "none":
            return None
        if paging.size_parameter and len(found) < paging.size:
            return None
        return int(at) + (1 if paging.by == "page" else len(found))

    def item(self, key: Scalar, kept: Mapping[str, Scalar] | None = None) -> dict[str, Any] | None:
        """Make an item call; none where the service has no such record (404 or 410).

        Raises:
            Problem: as ``page``.
        """
        found = self.whole(key, kept or {})
        return None if found is None else self.of(found, kept or {})

    def whole(self, key: Scalar, kept: Mapping[str, Scalar]) -> Whole | None:
        """All that the service has of a record, as it came; none where it has no such record.

        Raises:
            Problem: as ``page``.
        """
        address = self.address(self.service.item, kept, key)
        try:
            answer, tree = self._json(address, {})
        except Missing:
            return None
        found = pointed(tree, self.service.record, address)
        if not isinstance(found, dict):
            raise Problem(address, self.service.record or "$", "it holds no record", "an object")
        return Whole(found, answer.headers.get("etag", ""))

    def of(self, found: Whole, kept: Mapping[str, Scalar]) -> dict[str, Any]:
        """A record with its key, and with what it was asked for by."""
        return _of(self._keyed([found.record]), kept)[0]  # type: ignore[no-any-return]

    def _keyed(self, records: list[Any]) -> list[Any]:
        """Records with the last part of their own address as key, where they have none."""
        name = self.service.key_from_address
        if not name:
            return records
        return [
            {OURS: last_part(str(record.get(name) or "")), **record}
            if isinstance(record, dict)
            else record
            for record in records
        ]

    def raw(self, address: str) -> bytes:
        """What stands at an address, such as the description of a service.

        Raises:
            Problem: as ``page``.
        """
        return self._good_answer(address, {}).raw

    def _json(self, address: str, parameters: dict[str, str]) -> tuple[Answer, Any]:
        answer = self._good_answer(address, parameters)
        if answer.is_page:
            raise Problem(address, "", f"it answers with {answer.kind or 'a page'}", "JSON")
        if answer.kind in LINES:
            return answer, lines_in(answer.raw, address)[0] if answer.raw.strip() else []
        return answer, decoded(answer.raw, address)

    def _good_answer(self, address: str, parameters: dict[str, str]) -> Answer:
        """The answer to a call, which is to be a good one."""
        answer = self.connection.ask("GET", address, parameters)
        if answer.status in (404, 410):
            raise Missing(address, "", f"it answers {answer.status}", "records")
        if answer.status != 200:
            raise Problem(address, "", f"it answers {answer.status}", "200 and records")
        return answer


def _cursor(answer: Answer, tree: Any, paging: Paging) -> str | None:
    """The address of the next page, as an answer says it; none where it says nothing of one."""
    said: Any = answer.headers.get(paging.next) if paging.next[:1] != "/" else None
    if paging.next[:1] == "/":
        with suppress(Problem):
            said = pointed(tree, paging.next, "")
    if isinstance(said, bool) or not isinstance(said, str | int) or said == "":
        return None
    text = str(said)
    if text.startswith(("http://", "https://", "/", "?")):
        return joined(answer.address, text)
    return (
        str(httpx.URL(answer.address).copy_merge_params({paging.parameter: text}))
        if paging.parameter
        else None
    )


def _of(records: list[Any], kept: Mapping[str, Scalar]) -> list[Any]:
    """Records with what they were asked for by, where they do not say it themselves."""
    if not kept:
        return records
    return [{**kept, **each} if isinstance(each, dict) else each for each in records]


def last_part(address: str) -> str:
    """The last part of the path of an address; nothing, where it is none."""
    try:
        return urlsplit(address).path.rstrip("/").rpartition("/")[2]
    except ValueError:
        return ""


class Wrapped(Problem):
    """A list call brings something that holds its records, such as ``{"items": []}``.

    Attributes:
        pointers: the arrays of records in it, by JSON Pointer.
    """

    def __init__(self, address: str, at: str, found: Any, tree: Any) -> None:
        self.pointers = tuple(pointer for pointer, _ in arrays_in(tree))
        wanted = "an array"
        if self.pointers:
            wanted += f", such as that at {' or '.join(self.pointers[:MOST_SAID])}"
            wanted += f": say which, as in {address.partition('?')[0]}#{self.pointers[0]}"
        super().__init__(address, at or "$", holds_no_array(found), wanted)


class Missing(Problem):
    """The service has nothing at an address."""
