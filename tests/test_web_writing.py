"""The delivered app writes to a service: what is answered, what goes wrong, and what is kept.

The app is made of the description that ``cadena serve`` gives of itself, and its page lies at
another origin than the service.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple

import httpx
import pytest

from builders import records_of
from cadena.deliver.drive.folder_server import served
from cadena.deliver.drive.webdriver import Browser
from cadena.engine.wired import WiredApp
from cadena.model.source import Field, Source
from cadena.serve.serve import Served
from cadena.sources.open_project import open_project
from cadena.sources.scaffold import Wishes, new_project
from other_habits import OtherHabits, description
from small_service import serving
from test_drive import deliver_bundled, pytestmark, until

__all__ = ["pytestmark"]

BOATS = Source(
    id="boats",
    file="boats.json",
    key="id",
    fields=(
        Field(name="id", type="whole number"),
        Field(name="name", required=True),
        Field(name="berths", type="whole number"),
        Field(name="quay"),
    ),
)
RECORDS = [
    {"id": number, "name": f"Boat {number}", "berths": number, "quay": "East"}
    for number in range(5)
]


class Harbour(NamedTuple):
    """A service on this machine, and a page of the app that writes to it."""

    service: Any
    page: Browser
    address: str

    @property
    def there(self) -> list[dict[str, Any]]:
        """The records, as the service has them."""
        records = self.service.records["boats"]
        keys = [records.key_at(row) for row in range(len(records))]
        return [dict(records.by_key(key) or {}) for key in keys]

    def press(self, selector: str) -> None:
        find = f"return document.querySelector({selector!r})"
        until(lambda: self.page.run(find) is not None)
        self.page.press(self.page.element(find))

    def row(self, key: int) -> None:
        self.press(f"[data-key='{key}'] .contents")
        until(lambda: self.screen != "boats")

    def type_in(self, field: str, text: str) -> None:
        self.press(f"[data-field={field}]")
        self.page.run(f"document.querySelector('[data-field={field}]').select()")
        self.page.type(text)

    def says(self, text: str) -> None:
        until(lambda: text in self.page.run("return document.body.innerText"))

    @property
    def screen(self) -> str:
        return str(shown_now(self.page))

    def written(self) -> None:
        """Wait until nothing is being sent."""
        until(lambda: "Being sent…" not in self.page.run("return document.body.innerText"))

    def by_others(self, key: int, **fields: Any) -> None:
        with httpx.Client(base_url=self.address, trust_env=False) as client:
            assert client.patch(f"/boats/{key}", json=fields).status_code == 200


def shown_now(page: Browser) -> str:
    return str(
        page.run(
            "return [...document.querySelectorAll('[data-screen]')].at(-1)?.dataset.screen ?? ''"
        )
    )


@contextmanager
def app_at(
    service: Any, folder: Path, page: Browser, describe: Callable[[str], bytes]
) -> Iterator[Harbour]:
    """A page of the app that is made of a service's description."""
    with serving(service) as at:
        (folder / "harbour.json").write_bytes(describe(at))
        new_project(folder / "project", [folder / "harbour.json"], wishes=Wishes())
        opened = open_project(folder / "project")
        app = WiredApp(opened.app, opened.records)
        deliver_bundled(app, opened.folder, folder / "app")
        with served(folder / "app") as address:
            page.size(400, 800)
            page.go_to(f"{address}index.html")
            until(lambda: page.run("return document.querySelector('[data-key=\"4\"]') !== null"))
            yield Harbour(service, page, at)


@pytest.fixture
def harbour(tmp_path: Path, tab: Browser) -> Iterator[Harbour]:
    """With the stand-in, as it is served."""
    service = Served("Harbour", {"boats": records_of("boats", RECORDS).said_by(BOATS)})

    def describe(at: str) -> bytes:
        return httpx.get(f"{at}/openapi.json", trust_env=False).content

    with app_at(service, tmp_path, tab, describe) as made:
        yield made


@pytest.mark.long
def test_a_service_of_other_habits_is_written_to(tmp_path: Path, tab: Browser) -> None:
    """Envelopes, a cursor, PUT, faults in a list, a name that is taken, and ``Location`` alone."""
    service = OtherHabits()
    with app_at(service, tmp_path, tab, description) as made:
        made.press("[data-button=add]")
        made.type_in("name", "Boat 1")
        made.press("[data-save]")
        made.says("the name is taken")
        assert len(service.boats) == 8
        made.type_in("name", "Gull")
        made.type_in("quay", "North")
        made.press("[data-save]")
        made.says("there is no such quay")
        fault = "document.querySelector('[data-part=quay] .fault')"
        assert "no such quay" in made.page.run(f"return {fault}.innerText")
        made.type_in("quay", "West")
        made.press("[data-save]")
        until(lambda: made.screen == "boats")
        assert service.boats[8] == {"id": 8, "name": "Gull", "quay": "West"}
        assert len(service.boats) == 9
        made.row(2)
        made.says("East")
        made.press("[data-button=edit]")
        made.type_in("quay", "Mine")
        made.press("[data-save]")
        until(lambda: made.screen == "boat")
        # The whole is sent, with what the app knows nothing of.
        assert service.boats[2] == {"id": 2, "name": "Boat 2", "quay": "Mine", "kept": "k"}
        made.press("[data-button=edit]")
        made.type_in("quay", "")
        del service.boats[2]
        made.press("[data-save]")
        made.says("it is not there any more")
        assert 2 not in service.boats


def test_a_record_is_made_changed_and_removed_at_the_service(harbour: Harbour) -> None:
    harbour.press("[data-button=add]")
    harbour.type_in("name", "Gull")
    harbour.press("[data-save]")
    until(lambda: harbour.screen != "boats-form")
    assert harbour.there[-1] == {"id": 5, "name": "Gull", "berths": None, "quay": None}
    until(lambda: harbour.page.run("return document.querySelector('[data-key=\"5\"]') !== null"))
    harbour.row(2)
    harbour.press("[data-button=edit]")
    harbour.type_in("berths", "9")
    harbour.press("[data-save]")
    until(lambda: harbour.screen == "boat")
    assert harbour.there[2] == {"id": 2, "name": "Boat 2", "berths": 9, "quay": "East"}
    harbour.press("[data-back]")
    harbour.press("[data-key='3'] [data-more]")
    harbour.press("[data-action=remove]")
    harbour.press("[data-answer=yes]")
    # It is sent once its undo has lapsed: with the next that is done.
    harbour.says("Undo")
    assert len(harbour.there) == 6
    harbour.row(4)
    until(lambda: len(harbour.there) == 5, 20)
    assert [each["id"] for each in harbour.there] == [0, 1, 2, 4, 5]


def test_what_is_refused_stands_at_its_field_and_what_was_typed_stays(harbour: Harbour) -> None:
    harbour.service.rates["refuses_one_in"] = 1
    harbour.row(1)
    harbour.press("[data-button=edit]")
    harbour.type_in("quay", "West")
    harbour.press("[data-save]")
    harbour.says("it is not taken, as the stand-in was asked to say")
    fault = "document.querySelector('[data-part=quay] .fault')"
    assert "not taken" in harbour.page.run(f"return {fault}.innerText")
    harbour.service.rates["refuses_one_in"] = 0
    harbour.press("[data-save]")
    until(lambda: harbour.screen == "boat")
    assert harbour.there[1]["quay"] == "West"


@pytest.mark.long
@pytest.mark.parametrize(("take", "held"), [("mine", "Mine"), ("theirs", "Theirs")])
def test_somebody_was_quicker(harbour: Harbour, take: str, held: str) -> None:
    harbour.row(1)
    harbour.says("East")
    harbour.press("[data-button=edit]")
    harbour.type_in("quay", "Mine")
    harbour.by_others(1, quay="Theirs", berths=7)
    harbour.press("[data-save]")
    harbour.says("Theirs")
    assert harbour.there[1]["quay"] == "Theirs"
    harbour.press(f"[data-settle='{take} quay']")
    until(lambda: harbour.there[1]["quay"] == held)
    assert harbour.there[1] == {"id": 1, "name": "Boat 1", "berths": 7, "quay": held}


@pytest.mark.long
def test_what_others_changed_besides_stays_and_what_was_typed_is_sent_on_top(
    harbour: Harbour,
) -> None:
    harbour.row(1)
    harbour.says("East")
    harbour.press("[data-button=edit]")
    harbour.type_in("quay", "Mine")
    harbour.by_others(1, berths=7)
    harbour.press("[data-save]")
    until(lambda: harbour.there[1]["quay"] == "Mine")
    until(lambda: harbour.screen == "boat")
    assert harbour.there[1] == {"id": 1, "name": "Boat 1", "berths": 7, "quay": "Mine"}


@pytest.mark.long
def test_no_record_is_made_twice_where_an_answer_is_lost(harbour: Harbour) -> None:
    """The stand-in fails after it has done it, and before: sent again, it is one record."""
    harbour.press("[data-button=add]")
    harbour.type_in("name", "Gull")
    harbour.service.rates["fails_one_in"] = 1
    harbour.press("[data-save]")
    # Refused before it was done, it is sent again by itself, until no answer comes of it.
    until(lambda: "It was not sent" in harbour.page.run("return document.body.innerText"), 20)
    assert len(harbour.there) == 6
    assert harbour.page.run("return document.querySelector('[data-field=name]').value") == "Gull"
    harbour.page.reload()
    harbour.says("It was not sent")
    harbour.service.rates["fails_one_in"] = 0
    harbour.press("[data-save]")
    until(lambda: harbour.screen != "boats-form")
    assert [each["name"] for each in harbour.there].count("Gull") == 1


@pytest.mark.long
def test_what_was_not_sent_outlives_the_page(harbour: Harbour) -> None:
    harbour.row(1)
    harbour.press("[data-button=edit]")
    harbour.type_in("quay", "Later")
    calls, harbour.service.delay = harbour.service.calls, 60_000
    harbour.press("[data-save]")
    until(lambda: harbour.service.calls > calls)
    time.sleep(0.2)
    harbour.service.delay = 0
    harbour.page.reload()
    harbour.says("no answer came")
    assert harbour.there[1]["quay"] == "East"
