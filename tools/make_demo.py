"""Make the demo projects anew: ``python tools/make_demo.py [FOLDER]``. Same seed, same demo."""

from __future__ import annotations

import json
import random
import sqlite3
import sys
from contextlib import closing
from pathlib import Path

import polars as pl
from demo_app import cresta, cresta_broken, cresta_written
from demo_pictures import draw_hut
from demo_records import (
    Record,
    make_huts,
    make_legs,
    make_notices,
    make_regions,
    make_rooms,
    make_routes,
    make_stays,
)

from cadena.model.app import App
from cadena.model.file.project_file import write_app

SEED = 1875
HERE = Path(__file__).resolve().parent.parent / "src" / "cadena" / "demo"


def make(folder: Path) -> None:
    """Write the projects into a folder; the walks beside them are kept by hand."""
    chance = random.Random(SEED)
    huts = make_huts(chance)
    routes = make_routes(chance)
    rooms, legs = make_rooms(chance, huts), make_legs(chance, routes, huts)
    stays, notices = make_stays(chance, huts), make_notices(chance, huts)
    for name, app in (("cresta", cresta()), ("cresta-broken", cresta_broken())):
        project = folder / name
        (project / "pictures").mkdir(parents=True, exist_ok=True)
        _write_json(project / "huts.json", huts)
        _write_json(project / "routes.json", routes)
        pl.DataFrame(rooms, infer_schema_length=None).write_csv(project / "rooms.csv")
        pl.DataFrame(legs, infer_schema_length=None).write_csv(project / "legs.csv")
        pl.DataFrame(stays, infer_schema_length=None).write_csv(project / "stays.csv")
        lines = [json.dumps(each, ensure_ascii=False) for each in make_regions()]
        (project / "regions.jsonl").write_text("\n".join(lines) + "\n", encoding="utf-8")
        _write_notices(project / "notices.sqlite", notices)
        for number, hut in enumerate(huts):
            if hut["photo"]:
                draw_hut(number, project / hut["photo"])
        _write_app(app, project / f"{name}.cadena")
    # It stands on the records of the first.
    written = folder / "cresta-written"
    written.mkdir(exist_ok=True)
    _write_app(cresta_written(), written / "cresta-written.cadena")
    broken = folder / "cresta-broken"
    cabins = [("low", "Low cabin", ""), ("mid", "Middle cabin", ""), ("mid", "Other cabin", "Twin")]
    cabins.append(("top", "Top cabin", ""))
    pl.DataFrame(cabins, schema=["id", "name", "nickname"], orient="row").write_csv(
        broken / "cabins.csv"
    )
    gaps = [("one", "First"), (None, "No key"), ("three", "Third")]
    rows = pl.DataFrame(gaps, schema=["id", "name"], orient="row").write_csv()
    (broken / "gaps.csv").write_text(rows + "four,Fourth,one too many\n", encoding="utf-8")


def _write_notices(file: Path, notices: list[Record]) -> None:
    file.unlink(missing_ok=True)
    with closing(sqlite3.connect(file)) as made:
        made.execute("CREATE TABLE notices (id INTEGER PRIMARY KEY, hut TEXT, day TEXT, text TEXT)")
        made.executemany("INSERT INTO notices VALUES (:id, :hut, :day, :text)", notices)
        made.commit()


def _write_app(app: App, file: Path) -> None:
    file.unlink(missing_ok=True)
    write_app(app, file)


def _write_json(file: Path, records: list[Record]) -> None:
    lines = ",\n".join(json.dumps(each, ensure_ascii=False) for each in records)
    file.write_text(f"[\n{lines}\n]\n", encoding="utf-8")


if __name__ == "__main__":
    make(Path(sys.argv[1]) if len(sys.argv) > 1 else HERE)
