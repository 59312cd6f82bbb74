"""Input that was made to hang, to fill or to mislead is refused at once and says why."""

from __future__ import annotations

import json
import time
from pathlib import Path
from xml.etree import ElementTree

import pytest
from click.testing import CliRunner
from msgspec.structs import replace

from builders import small_app
from cadena.check.diagrams import diagram_of
from cadena.cli.main import main
from cadena.deliver.drive import reading
from cadena.model.file.project_file import decode
from cadena.model.problem import Problem
from cadena.sources import kept_records
from cadena.sources.import_file import adopt
from cadena.sources.read_yaml import MOST_VALUES
from cadena.words.plain_text import printed, xml_text
from fuzzing import tried

FOUND = [
    ("jsonl", 7310673),
    ("jsonl", 7312823),
    ("columns", 7311859),
    ("openapi", 7310976),
    ("openapi", 7311631),
    ("openapi", 7311711),
    ("openapi", 7312165),
    ("openapi", 7312891),
]
"""Damaged input that once escaped, by its kind and seed."""
TURNED = "hut\x1b[31m\x00\u202eend"


@pytest.mark.parametrize(("kind", "seed"), FOUND)
def test_what_once_escaped_is_taken_or_refused(kind: str, seed: int) -> None:
    tried(kind, seed)


def test_aliases_that_multiply_are_refused_before_they_do(tmp_path: Path) -> None:
    lines = ["a0: &a0 [{id: 1}, {id: 2}]"]
    lines += [f"a{n}: &a{n} [{', '.join([f'*a{n - 1}'] * 9)}]" for n in range(1, 11)]
    (tmp_path / "a.yaml").write_text("\n".join(lines))
    began = time.monotonic()
    with pytest.raises(Problem, match=f"over {MOST_VALUES:,} values"):
        adopt(tmp_path, tmp_path / "a.yaml", ())
    assert time.monotonic() - began < 5


def test_a_part_that_holds_itself_is_refused(tmp_path: Path) -> None:
    (tmp_path / "a.yaml").write_text("&a [{id: 1, of: *a}]")
    with pytest.raises(Problem, match="holds itself"):
        adopt(tmp_path, tmp_path / "a.yaml", ())


def test_dates_at_the_edge_of_the_calendar_are_read_as_texts_or_dates(tmp_path: Path) -> None:
    times = ["0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-12:00"]
    (tmp_path / "a.json").write_text(
        json.dumps([{"id": n, "at": at} for n, at in enumerate(times)])
    )
    (made,) = adopt(tmp_path, tmp_path / "a.json", ())
    assert len(made.records) == 2


def test_what_a_terminal_would_do_is_shown(tmp_path: Path) -> None:
    assert printed(TURNED) == "hut\\u001b[31m\\u0000\\u202eend"
    assert printed("\ud800é\n\t") == "\\ud800é\n\t"
    said = CliRunner().invoke(main, ["check", str(tmp_path / "no\x1b]0;x\x07.cadena")])
    assert said.exit_code == 2
    assert "\x1b" not in said.output
    assert "\\u001b]0;x" in said.output


def test_what_xml_cannot_hold_is_not_in_it() -> None:
    assert xml_text(TURNED) == "hut\ufffd[31m\ufffd\u202eend"
    app = small_app()
    drawn = diagram_of(replace(app, name=TURNED), "svg")
    assert "hut\ufffd[31m" in (ElementTree.fromstring(drawn).get("aria-label") or "")


def test_a_cache_that_is_linked_elsewhere_is_left_alone(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    (tmp_path / "cache" / "cadena").mkdir(parents=True)
    (tmp_path / "cache" / "cadena" / "records").symlink_to(elsewhere)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    kept = kept_records.kept_at(tmp_path)
    assert kept.parent.is_symlink()
    theirs = [
        elsewhere / f"{n}{kept_records.ENDING}" for n in range(kept_records.MOST_PROJECTS + 9)
    ]
    for file in theirs:
        file.write_bytes(b"theirs")
    (tmp_path / "a.json").write_text('[{"id": 1}]')
    made = CliRunner().invoke(main, ["new", str(tmp_path / "a.json"), "--to", str(tmp_path / "p")])
    assert made.exit_code == 0, made.output
    assert CliRunner().invoke(main, ["check", str(tmp_path / "p")]).exit_code in (0, 1)
    assert sorted(elsewhere.iterdir()) == sorted(theirs)


@pytest.mark.parametrize(
    "came",
    [{"panes": 1}, {"panes": [{"rows": "x" * 9}]}, {"section": []}, {"phase": {"a": 1}}],
)
def test_a_page_that_shows_nonsense_is_said_to(came: object) -> None:
    class Page:
        def run(self, _: str) -> object:
            return came

    with pytest.raises(Problem, match="what it shows cannot be read"):
        reading.read(Page())  # type: ignore[arg-type]


@pytest.mark.parametrize("written", ["{}", "[]", '"3"', "null", "1e400", "true", "-1", "99"])
def test_a_format_that_is_none_is_said(written: str) -> None:
    with pytest.raises(Problem, match=r"a\.cadena"):
        decode(f'{{"format": {written}, "name": "x"}}'.encode(), "a.cadena")
