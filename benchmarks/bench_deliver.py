"""A delivered app in Chromium, beside a bare static page with the same rows.

Figures are medians; nothing is asserted about time.
"""

from __future__ import annotations

import gzip
import html
import json
import shutil
import statistics
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from builders import DEMO, demo, records_of
from cadena.deliver.bundle import bundled
from cadena.deliver.delivery import deliver
from cadena.deliver.drive.folder_server import served
from cadena.deliver.drive.webdriver import Browser, browser
from cadena.deliver.web_app import LATER, Files, web_app, web_files
from cadena.deliver.wishes import WebWishes
from cadena.engine.wired import WiredApp
from cadena.model.app import App, ListScreen, Section
from cadena.model.listing import Listing, Row, Sort
from cadena.model.source import Field, Source

TURNS = 9
PAINTED = """
const done = arguments[arguments.length - 1];
const first = (list) => list.getEntries().find((each) => each.name === 'first-contentful-paint');
new PerformanceObserver((list) => first(list) && done(first(list).startTime)).observe({
  type: 'paint', buffered: true,
});
"""
ROWS = """
const done = arguments[arguments.length - 1];
const look = () => (document.querySelector('[data-key], li') ? requestAnimationFrame(() =>
  done(performance.now())) : setTimeout(look, 1));
look();
"""
WATCHED = """
window.seen = [0, 0];
const look = () => {
  const at = document.querySelector('[data-key]') ? 1 : 0;
  if (!window.seen[0] && document.querySelector('li')) window.seen[0] = performance.now();
  if (at) window.seen[1] = performance.now();
  else requestAnimationFrame(look);
};
requestAnimationFrame(look);
"""
TAPPED = """
const done = arguments[arguments.length - 1];
const began = performance.now();
arguments[0].click();
requestAnimationFrame(() => {
  const channel = new MessageChannel();
  channel.port1.onmessage = () => done(performance.now() - began);
  channel.port2.postMessage(0);
});
"""
SCROLLED = """
const done = arguments[arguments.length - 1];
const scroll = document.querySelector('[data-scroll]');
const frames = [];
let last = performance.now();
const next = () => {
  const now = performance.now();
  frames.push(now - last);
  last = now;
  scroll.scrollTop += 400;
  if (frames.length < 120) requestAnimationFrame(next);
  else done(frames.slice(3));
};
requestAnimationFrame(next);
"""


@pytest.fixture
def page(tmp_path: Path) -> Iterator[Browser]:
    with browser(tmp_path / "profile") as made:
        made.size(360, 780)
        yield made


def asked(page: Browser, script: str, *arguments: Any) -> Any:
    return page._in_session("execute/async", script=script, args=list(arguments))


def median(values: list[float]) -> float:
    return statistics.median(values)


def code_of(files: Files) -> dict[str, bytes]:
    """Kit and app, without what their records are."""
    code = (".js", ".css", ".html")
    return {n: c for n, c in files.items() if n.endswith(code) and n not in LATER}


def bare_page(folder: Path, app: Path) -> None:
    """The rows of the demo's first list in one page, and nothing else."""
    shutil.copytree(app / "pictures", folder / "pictures")
    rows = json.loads((app / "records" / "huts.json").read_text())
    items = "".join(
        f'<li><img src="{html.escape(each["photo"] or "")}" width="48" height="48" alt="">'
        f"{html.escape(str(each['name']))} {each['altitude']} {each['region']}</li>"
        for each in rows
    )
    (folder / "index.html").write_text(f"<!doctype html><title>Huts</title><ul>{items}</ul>")


def test_how_large_it_is() -> None:
    code = code_of(web_app(demo(), DEMO / "cresta"))
    packed = sum(len(gzip.compress(each)) for each in code.values())
    print(f"\nkit and app: {sum(map(len, code.values())):,} bytes, packed {packed:,}")
    made = bundled(web_app(demo(), DEMO / "cresta"))
    packed = sum(len(gzip.compress(each)) for each in made.values())
    print(f"bundled: {sum(map(len, made.values())):,} bytes, packed {packed:,}")


def test_first_picture_and_tap(page: Browser, tmp_path: Path) -> None:
    deliver(web_app(demo(), DEMO / "cresta"), tmp_path / "app")
    (tmp_path / "bare").mkdir()
    bare_page(tmp_path / "bare", tmp_path / "app")
    first: dict[str, list[float]] = {"bare": [], "app": []}
    rows: dict[str, list[float]] = {"bare": [], "app": []}
    with served(tmp_path / "bare") as bare_at, served(tmp_path / "app") as app_at:
        for turn in range(TURNS + 1):
            # In turn, so that a machine that is slower for a while is so for both.
            for name, at in (("bare", bare_at), ("app", app_at)):
                for took, script in ((first, PAINTED), (rows, ROWS)):
                    page.go_to(f"{at}index.html")
                    value = asked(page, script)
                    time.sleep(0.1)
                    # The first of all comes without anything that the browser has kept.
                    took[name] += [value] if turn else []
        taps = []
        for _ in range(TURNS):
            row = "return document.querySelectorAll('[data-list=\"\"] .contents')[3]"
            taps.append(asked(page, TAPPED, page.element(row)))
            page.back()
            time.sleep(0.3)
    bare, app, bare_rows, app_rows = (
        median(took[name]) for took in (first, rows) for name in ("bare", "app")
    )
    print(f"\nfirst picture: {app:.0f} ms, {app / bare:.1f} times the bare page")
    print(f"rows there: {app_rows:.0f} ms, {app_rows / bare_rows:.1f} times the bare page")
    print(f"a tap to the new screen: {median(taps):.0f} ms")


def test_first_row_on_a_slow_network(page: Browser, tmp_path: Path) -> None:
    """4 Mbit, 150 ms there and back: when a first row is painted, and when it can be pressed."""
    (tmp_path / "bare").mkdir()
    deliver(web_app(demo(), DEMO / "cresta"), tmp_path / "readable")
    bundle = tmp_path / "bundle"
    deliver(web_files(demo(), DEMO / "cresta", bundle, WebWishes(bundled=True)), bundle)
    bare_page(tmp_path / "bare", tmp_path / "readable")
    watch = {"cmd": "Page.addScriptToEvaluateOnNewDocument", "params": {"source": WATCHED}}
    page._in_session("goog/cdp/execute", **watch)
    slow = {"offline": False, "latency": 150, "download_throughput": 500_000,
            "upload_throughput": 500_000}  # fmt: skip
    took: dict[str, list[tuple[float, float]]] = {"bare": [], "readable": [], "bundle": []}
    for conditions, name in ((slow, "slow"), ({**slow, "latency": 0,
            "download_throughput": -1, "upload_throughput": -1}, "loopback")):  # fmt: skip
        page._in_session("chromium/network_conditions", network_conditions=conditions)
        for form, times in took.items():
            times.clear()
            for _ in range(5):
                with served(tmp_path / form) as at:
                    # Another port each time: nothing of it was kept by the browser.
                    page.go_to(f"{at}index.html")
                    times.append(tuple(asked(page, "arguments[0](window.seen)")))
        bare = median([first for first, _ in took["bare"]])
        for form, times in took.items():
            first, there = (median([each[at] for each in times]) for at in (0, 1))
            print(f"\n{name}, {form}: first row {first:.0f} ms, {first / bare:.1f} times; "
                  f"can be pressed {there:.0f} ms, {there / bare:.1f} times", end="")  # fmt: skip
    print()


def of_so_many(count: int) -> WiredApp:
    """A list of so many records, a section away."""
    rows = [
        {"id": at, "name": f"Name {at * 7919 % count:06}", "note": f"note {at % 13}"}
        for at in range(count)
    ]
    fields = (Field(name="id", type="whole number"), Field(name="name"), Field(name="note"))
    source = Source(id="things", key="id", file="things.json", fields=fields)
    row = Row(title="{name}", subtitle="{note}")
    listing = Listing(source="things", row=row, sort=(Sort(field="name"),), search=("name",))
    few = Listing(source="things", row=Row(title="{name}"), limit=5)
    app = App(
        name="Many",
        start="home",
        sources=(source,),
        screens=(
            ListScreen(id="home", title="Home", rows=few),
            ListScreen(id="things", title="Things", rows=listing),
        ),
        sections=(
            Section(id="home", title="Home", root="home"),
            Section(id="things", title="Things", root="things"),
        ),
    )
    return WiredApp(app, {"things": records_of("things", rows)})


def test_a_long_list(page: Browser, tmp_path: Path) -> None:
    opened = {}
    for count in (100, 100_000):
        folder = tmp_path / str(count)
        deliver(web_app(of_so_many(count), tmp_path), folder)
        with served(folder) as at:
            taps = []
            for _ in range(5):
                page.go_to(f"{at}look.css")
                page.run("localStorage.clear(); sessionStorage.clear()")
                page.go_to(f"{at}index.html")
                asked(page, ROWS)
                time.sleep(2)
                section = page.element("return document.querySelector('[data-section=things]')")
                taps.append(asked(page, TAPPED, section))
                time.sleep(0.3)
            opened[count] = median(taps)
            frames = asked(page, SCROLLED)
            over = sum(each > 33 for each in frames)
            print(f"\n{count:,} rows: frames {median(frames):.1f} ms, {over} over 33 ms")
    print(f"opened in {opened[100_000] / opened[100]:.1f} times the time of 100 rows")
