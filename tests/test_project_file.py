"""The project file: round trips, small diffs, atomic saving, and clear words for what is wrong."""

from __future__ import annotations

import json
import os
from pathlib import Path

import jsonschema
import msgspec
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import DEMO, small_app
from cadena.model.app import App, Link, Transition, Trigger
from cadena.model.claims import Situation
from cadena.model.file.migrations import FORMAT, MIGRATIONS, NEEDS
from cadena.model.file.project_file import decode, encode, locate, read_app, schema, write_app
from cadena.model.problem import Problem
from cadena.model.source import Service


def test_what_is_written_is_read_again() -> None:
    app = small_app()
    assert decode(encode(app).encode(), "x") == app


# What a default of a dictionary is, hypothesis cannot ask a structure.
NAMED = st.dictionaries(st.text(), st.text(), max_size=2)
st.register_type_strategy(Link, st.builds(Link, how=..., arguments=..., sets=NAMED))
st.register_type_strategy(Situation, st.builds(Situation, arguments=NAMED, values=NAMED))
st.register_type_strategy(Service, st.builds(Service, item=..., paging=..., headers=NAMED))


@given(st.from_type(App))
def test_any_app_survives_the_file(app: App) -> None:
    # What a signature shows for a default that is made anew is taken for a value, now and then.
    assume("<factory>" not in repr(app))
    app = replace(app, cadena=FORMAT, needs=NEEDS)
    try:
        again = decode(encode(app).encode(), "x")
    except Problem as problem:
        refused = ("stands there twice", "a name is empty", "no file can be named so")
        assert problem.found.endswith(refused)
    except ValueError as error:
        assert "JSON compliant" in str(error) or "Expected" in str(error)
    else:
        assert again == app


def test_the_demos_are_written_as_cadena_writes_them() -> None:
    for name in ("cresta", "cresta-broken", "cresta-written"):
        file = DEMO / name / f"{name}.cadena"
        assert encode(read_app(file)) == file.read_text()


def test_a_small_change_is_a_small_diff() -> None:
    app = small_app()
    before = encode(app).splitlines()
    links = (*app.links[:1], replace(app.links[1], how="replace"), *app.links[2:])
    after = encode(replace(app, links=links)).splitlines()
    assert len(set(after) - set(before)) <= 1
    assert len(before) - len(after) in (0, 1, -1)


def test_the_schema_describes_the_demos_and_is_kept_in_docs() -> None:
    kept = json.loads((DEMO.parents[2] / "docs" / "cadena.schema.json").read_text())
    assert kept == json.loads(json.dumps(schema()))
    for name in ("cresta", "cresta-broken", "cresta-written"):
        jsonschema.validate(json.loads((DEMO / name / f"{name}.cadena").read_text()), kept)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({"cadena": FORMAT, "screens": [{"kind": "map"}]}, kept)


def test_saving_is_atomic_and_keeps_the_one_before(tmp_path: Path) -> None:
    file = tmp_path / "a.cadena"
    write_app(small_app(name="First"), file)
    write_app(small_app(name="Second"), file)
    assert read_app(file).name == "Second"
    assert decode((tmp_path / "a.cadena.before").read_bytes(), "x").name == "First"
    assert sorted(os.listdir(tmp_path)) == ["a.cadena", "a.cadena.before"]


def test_a_disk_that_does_not_take_it_leaves_what_was_there(tmp_path: Path) -> None:
    missing = tmp_path / "gone" / "a.cadena"
    with pytest.raises(Problem, match="cannot be written"):
        write_app(small_app(), missing)


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        (b"", "the file is empty"),
        (b"  \n", "the file is empty"),
        (b"{", "it is not JSON"),
        (b"\xff\xfe", "it is not JSON"),
        (b"[" * 100_000, "it is not JSON"),
        (b"[]", "not a Cadena project"),
        (b'{"name": "x"}', "not a Cadena project"),
        (b'{"cadena": 4}', "knows up to 3"),
        (b'{"cadena": "1"}', "the format number is '1'"),
        (b'{"cadena": 1, "colour": "red"}', "colour"),
        (b'{"cadena": 1, "arrangements": [{"id": "a", "panes": 0}]}', "arrangements[0].panes"),
        (b'{"cadena": 1, "arrangements": [{"id": "a", "widths": [{"fixed": -1}]}]}', ">= 0"),
        (b'{"cadena": 1, "screens": [{"kind": "map", "id": "x"}]}', "screens[0]"),
        (
            b'{"cadena": 1, "links": [{"id": "a", "trigger": {"screen": 3}, "to": "b"}]}',
            "links[0].trigger",
        ),
        (
            b'{"cadena": 1, "values": [{"id": "a"}, {"id": "a"}]}',
            "twice",
        ),
    ],
)
def test_what_is_no_project_is_said_to_be_none(raw: bytes, says: str) -> None:
    with pytest.raises(Problem) as caught:
        decode(raw, "a.cadena")
    assert says in str(caught.value)
    assert str(caught.value).startswith("a.cadena")
    assert "Wanted: " in str(caught.value)


@given(st.binary(max_size=200), st.integers(0, 4000), st.integers(0, 255))
def test_damage_is_always_a_problem_and_never_a_traceback(cut: bytes, at: int, flip: int) -> None:
    raw = bytearray(encode(small_app()).encode())
    raw[at % len(raw)] = flip
    for damaged in (bytes(raw), bytes(raw[: at % len(raw)]), cut):
        try:
            decode(damaged, "x")
        except Problem as problem:
            assert problem.wanted


def test_finding_the_project_of_a_folder(tmp_path: Path) -> None:
    with pytest.raises(Problem, match="no project file"):
        locate(tmp_path)
    write_app(small_app(), tmp_path / "a.cadena")
    assert locate(tmp_path) == tmp_path / "a.cadena"
    write_app(small_app(), tmp_path / "b.cadena")
    with pytest.raises(Problem, match=r"a\.cadena, b\.cadena"):
        locate(tmp_path)
    with pytest.raises(Problem, match="no such file or folder"):
        locate(tmp_path / "nowhere")


def test_numbers_that_json_has_not_are_not_written() -> None:
    with pytest.raises((ValueError, msgspec.MsgspecError)):
        encode(
            replace(
                small_app(),
                arrangements=(replace(small_app().arrangements[0], popover_from=float("nan")),),
            )
        )


def test_an_optional_part_with_nothing_but_defaults_is_kept() -> None:
    link = Link(id="l", trigger=Trigger(screen="a"), to="b", transition=Transition())
    app = App(links=(link,))
    assert '"transition": {}' in encode(app)
    assert decode(encode(app).encode(), "a.cadena") == app


FORMATS = Path(__file__).resolve().parent / "formats"


def test_there_is_a_project_of_each_earlier_format() -> None:
    assert sorted(each.stem for each in FORMATS.iterdir()) == [str(n) for n in range(1, FORMAT)]
    assert sorted(MIGRATIONS) == list(range(1, FORMAT))


@pytest.mark.parametrize("file", sorted(FORMATS.iterdir()), ids=lambda each: each.name)
def test_projects_of_earlier_formats_open_and_are_saved_in_todays(file: Path) -> None:
    app = read_app(file)
    assert (app.cadena, app.needs) == (FORMAT, NEEDS)
    assert [each.id for each in app.sections] == ["huts", "routes", "stays", "saved"]
    assert len(app.links) == 14
    written = encode(app)
    assert written.startswith(f'{{\n  "cadena": {FORMAT},\n  "needs": "{NEEDS}",\n')
    assert decode(written.encode(), "again") == app


@pytest.mark.parametrize(
    ("head", "says"),
    [
        ('"cadena": 99, "needs": "4.1"', "Wanted: Cadena 4.1 or newer"),
        ('"cadena": 99', "Wanted: a newer Cadena"),
        ('"cadena": 99, "needs": {"a": 1}', "Wanted: a newer Cadena"),
    ],
)
def test_a_newer_format_says_which_cadena_is_needed(head: str, says: str) -> None:
    with pytest.raises(Problem, match=f"knows up to {FORMAT}. {says}"):
        decode(f'{{{head}, "strange": []}}'.encode(), "p.cadena")
