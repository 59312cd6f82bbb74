"""The delivered app as a person's own page: links, history, text of any size, keyboards."""

from __future__ import annotations

import shutil
import time
from pathlib import Path

import pytest
from msgspec.structs import replace

from builders import demo, records_of, with_screen
from cadena.deliver.delivery import deliver
from cadena.deliver.drive import webdriver
from cadena.deliver.drive.folder_server import served
from cadena.deliver.drive.webdriver import Browser, browser
from cadena.deliver.web_app import web_app, web_files
from cadena.deliver.wishes import WebWishes
from cadena.engine.wired import WiredApp
from cadena.model.app import Platform
from cadena.model.blocks import AddressBlock
from test_drive import (
    CRESTA,
    FIRST_ROW,
    assert_as_wired,
    bundled,
    delivered,
    driven,
    page,
    plan,
    pytestmark,
    shown,
    until,
)

ENTER, END, LEFT, RIGHT, DOWN = "\ue007", "\ue010", "\ue012", "\ue014", "\ue015"
"""Keys, as W3C WebDriver names them."""

__all__ = ["bundled", "delivered", "page", "pytestmark"]


@pytest.mark.long
def test_rows_and_facts_are_links_where_what_they_open_has_an_address(page: Browser) -> None:
    link = f"{FIRST_ROW}"
    assert page.run(f"return {link}.localName") == "a"
    href = page.run(f"return {link}.getAttribute('href')")
    assert href == "#/huts/alp"
    # Asked of the browser, it is the browser's: the app stays where it is.
    page.run(
        f"{link}.addEventListener('click', (e) => {{ window.left = e.defaultPrevented;"
        " e.preventDefault(); }, { once: true });"
        f"{link}.dispatchEvent(new MouseEvent('click', {{ bubbles: true, cancelable: true,"
        " ctrlKey: true }))"
    )
    assert page.run("return window.left") is False
    assert shown(page, "huts")
    page.press(page.element(f"return {link}"))
    shown(page, "hut")
    at = page.run("return location.href").split("#")[0]
    page.new_tab()
    page.size(360, 780)
    page.go_to(f"{at}{href}")
    assert shown(page, "hut").panes[-1].title == "Alpe Ghiara"


def want_motion(monkeypatch: pytest.MonkeyPatch) -> None:
    """Browsers from here on are somebody's who wants motion."""
    quiet = tuple(each for each in webdriver.QUIET if "reduced-motion" not in each)
    monkeypatch.setattr(webdriver, "QUIET", quiet)


@pytest.mark.long
def test_12_a_screen_comes_from_below_where_motion_is_wanted(
    delivered: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The demo's form for a stay; where no motion is wanted it is there at once."""
    runs = (
        "return document.getAnimations().map((each) => `${each.effect.pseudoElement} "
        "${each.animationName}`).filter((each) => each.includes('coming'))"
    )
    wanted = (
        ["::view-transition-new(coming) from-below"],
        ["::view-transition-old(coming) to-below"],
    )
    for moves in (False, True):
        if moves:
            want_motion(monkeypatch)
        with served(delivered) as at, browser(tmp_path / str(moves)) as page:
            page.size(400, 700)
            page.go_to(at)
            page.press(page.element(f"return {FIRST_ROW}"))
            shown(page, "hut")
            time.sleep(0.5)
            page.press(page.element("return document.querySelector('[data-button=book]')"))
            forth = page.run(runs)
            until(lambda page=page: not page.run(runs))
            page.back()
            back = page.run(runs)
            until(lambda page=page: not page.run(runs))
            assert shown(page, "hut").panes[-1].title == "Alpe Ghiara"
            assert page.run("return document.documentElement.dataset.comes ?? null") is None
        assert (forth, back) == (wanted if moves else ([], []))


@pytest.mark.long
def test_the_browsers_history_is_written_only_when_something_is_other(page: Browser) -> None:
    page.run(
        "window.writes = 0; for (const how of ['replaceState', 'pushState']) {"
        " const of = history[how].bind(history);"
        " history[how] = (...all) => { window.writes += 1; of(...all); }; }"
    )
    scroller = "document.querySelector('[data-scroll]')"
    for to in range(200, 4200, 200):
        page.run(f"{scroller}.scrollTop = {to}")
        time.sleep(0.02)
    until(lambda: page.run(f"return {scroller}.scrollTop") >= 1000)
    assert page.run("return window.writes") == 0
    page.run(f"{scroller}.scrollTop = 0")
    page.press(page.element(f"return {FIRST_ROW}"))
    shown(page, "hut")
    assert 0 < page.run("return window.writes") <= 2


def test_a_history_that_refuses_stops_nothing(page: Browser) -> None:
    page.run(
        "const no = () => { throw new DOMException('too many', 'SecurityError'); };"
        "history.replaceState = no; history.pushState = no;"
    )
    page.press(page.element(f"return {FIRST_ROW}"))
    assert shown(page, "hut")


@pytest.mark.long
def test_after_back_the_row_that_was_opened_has_the_focus_and_enter_opens_it(
    page: Browser,
) -> None:
    third = "document.querySelectorAll('[data-list=\"\"] .contents')[2]"
    page.press(page.element(f"return {third}"))
    title = shown(page, "hut").panes[-1].title
    page.back()
    shown(page, "huts")
    at = "return document.activeElement.closest('li')?.dataset.key"
    until(lambda: page.run(at) == page.run(f"return {third}.closest('li').dataset.key"))
    page.type(ENTER)
    assert shown(page, "hut").panes[-1].title == title


def test_a_list_is_one_stop_and_arrows_lead_to_its_rows_and_their_actions(page: Browser) -> None:
    rows = "[...document.querySelectorAll('[data-list=\"\"] :is(a, button)')]"
    assert page.run(f"return {rows}.filter((each) => each.tabIndex === 0).length") == 1
    page.run(f"{rows}.find((each) => each.tabIndex === 0).focus()")
    page.type(RIGHT)
    assert page.run("return document.activeElement.className") == "more"
    page.type(LEFT)
    assert page.run("return document.activeElement.className") == "contents"
    for _ in range(2):
        page.type(DOWN)
    second = "return document.activeElement.closest('li').getAttribute('aria-posinset')"
    until(lambda: page.run(second) == "2")
    assert page.run(f"return {rows}.filter((each) => each.tabIndex === 0).length") == 1
    page.run("document.querySelector('[data-scroll]').scrollTop = 1500")
    until(lambda: page.run(f"return {rows}.filter((each) => each.tabIndex === 0).length") == 1)


@pytest.mark.long
@pytest.mark.parametrize("px", [9, 16, 32, 48])
def test_text_of_any_size_fills_the_window_and_scrolls(page: Browser, px: int) -> None:
    page.run(
        f"document.documentElement.style.fontSize = '{px}px'; dispatchEvent(new Event('resize'))"
    )
    time.sleep(0.2)
    size = page.run("return [innerWidth, innerHeight]")
    pane = page.run(
        "const r = document.querySelector('[data-pane]').getBoundingClientRect();"
        " return [r.left, r.right, r.bottom]"
    )
    assert pane[0] == pytest.approx(0, abs=1)
    assert pane[1] == pytest.approx(size[0], abs=1.5)
    assert page.run("return document.documentElement.scrollWidth <= innerWidth + 1")
    room = page.run(
        "const s = document.querySelector('[data-scroll]');"
        " return [s.scrollHeight, s.clientHeight, s.clientWidth, s.scrollWidth]"
    )
    assert room[0] > room[1] > 0
    assert room[3] <= room[2] + 1


def test_a_telephone_shows_the_keyboard_of_each_field(page: Browser) -> None:
    page.press(page.element("return document.querySelector('[data-section=\"stays\"]')"))
    shown(page, "stays")
    page.press(page.element("return document.querySelector('[data-button=\"new\"]')"))
    shown(page, "stay-form")
    modes = page.run(
        "return Object.fromEntries([...document.querySelectorAll('input[data-field]')]"
        ".map((each) => [each.dataset.field, each.inputMode]))"
    )
    assert modes["nights"] == "numeric"
    assert modes["guest"] == ""
    picked = "document.querySelector('.calendar input[type=\"date\"]')"
    page.run(f"{picked}.value = '2027-03-09'; {picked}.dispatchEvent(new Event('change'))")
    begins = "return document.querySelector('[data-field=\"begins\"]').value"
    until(lambda: page.run(begins) == "2027-03-09")
    assert page.run(f"return {picked}.previousSibling.getAttribute('aria-label')").endswith(
        "choose a date"
    )


def test_the_face_comes_with_the_app(page: Browser, delivered: Path) -> None:
    loaded = "return document.fonts.ready.then(() => document.fonts.check('16px Inter'))"
    assert page.run(loaded)
    there = {each.name for each in (delivered / "fonts").iterdir()}
    assert there == {"Inter-Regular.woff2", "Inter-Bold.woff2", "LICENSE.txt"}


@pytest.mark.long
def test_a_bundle_is_driven_like_the_readable_modules_with_what_is_yours_in_it(
    tmp_path: Path,
) -> None:
    screen = "screens/hut.js"
    deliver(web_app(demo(), CRESTA), tmp_path)
    mine = (tmp_path / screen).read_text().replace("Ask the warden", "Ask somebody")
    (tmp_path / screen).write_text(mine)
    wishes = WebWishes(bundled=True)
    deliver(web_files(demo(), CRESTA, tmp_path, wishes), tmp_path, wishes)
    assert "Ask somebody" in (tmp_path / "bundle.js").read_text()
    assert "kit/" not in (tmp_path / "index.html").read_text()
    assert_as_wired(driven(demo(), tmp_path, plan("tour", "Pocket")))


@pytest.mark.long
def test_addresses_that_are_paths_of_a_server_under_a_path(tmp_path: Path, tab: Browser) -> None:
    wishes = WebWishes(addresses="path", under="/of/huts/")
    deliver(web_files(demo(), CRESTA, tmp_path, wishes), tmp_path, wishes)
    assert_as_wired(driven(demo(), tmp_path, plan("tour", "Pocket")))
    with served(tmp_path) as at:
        assert at.endswith("/of/huts/")
        tab.size(360, 780)
        tab.go_to(f"{at}huts/mor")
        assert shown(tab, "hut").panes[-1].title == "Morenna"
        tab.reload()
        assert shown(tab, "hut").panes[-1].title == "Morenna"
        tab.back()
        shown(tab, "huts")
        assert tab.run("return location.pathname") == "/of/huts/huts"
        href = tab.run(f"return {FIRST_ROW}.getAttribute('href')")
        assert href.startswith("/of/huts/huts/")
        tab.new_tab()
        tab.size(360, 780)
        tab.go_to(f"{at}nowhere/at/all")
        shown(tab, "huts")
        assert "nothing at /nowhere" in tab.run("return document.body.textContent")


OWN = """
export const rows = {
  huts: ({ h, value, said }) => h('b', { class: 'mine' }, `${value('name')}: ${said('altitude')}`),
};
export const blocks = {
  'hut/name': ({ h, value }) => h('em', { class: 'mine' }, value('name').toUpperCase()),
};
export const screens = {
  warden: ({ h, back }) => h('button', { class: 'mine', onclick: back }, 'Nobody is in'),
};
export const sources = {
  routes: async () => [{ id: 7, name: 'A way of my own', grade: 'easy', days: 1 }],
};
"""


@pytest.mark.long
def test_a_row_a_block_a_screen_and_a_source_of_ones_own(tmp_path: Path, tab: Browser) -> None:
    app = web_app(demo(), CRESTA)
    deliver(app, tmp_path)
    (tmp_path / "extend.js").write_text(OWN)
    deliver(app, tmp_path)
    mine = "return document.querySelector('.mine')?.textContent"
    with served(tmp_path) as at:
        tab.size(360, 780)
        tab.go_to(f"{at}index.html")
        assert shown(tab, "huts")
        assert tab.run(mine) == "Alpe Ghiara: 1,890 m"
        # What is drawn otherwise is the same row: it is pressed, and opens the same.
        tab.press(tab.element(f"return {FIRST_ROW}"))
        assert shown(tab, "hut").panes[-1].title == "Alpe Ghiara"
        assert tab.run(mine) == "ALPE GHIARA"
        tab.press(tab.element("return document.querySelector('[data-button=ask]')"))
        assert shown(tab, "warden")
        tab.press(tab.element("return document.querySelector('[data-screen=warden] .mine')"))
        assert shown(tab, "hut")
        tab.go_to(f"{at}index.html#/routes")
        assert shown(tab, "routes")
        assert "A way of my own" in tab.run("return document.body.textContent")


@pytest.mark.long
def test_the_first_rows_are_in_the_page_before_anything_has_run(
    delivered: Path, tmp_path: Path, tab: Browser
) -> None:
    folder = tmp_path / "still"
    shutil.copytree(delivered, folder)
    (folder / "start.js").write_text("")
    first = "return document.querySelector('.early .row-title')"
    with served(folder) as at:
        tab.size(360, 780)
        tab.go_to(f"{at}index.html")
        assert tab.run(f"{first}.textContent") == "Alpe Ghiara"
        top = tab.run(f"{first}.closest('li').getBoundingClientRect().top")
        tab.go_to(f"{at}look.css")
        tab.go_to(f"{at}index.html#/huts/mor")
        assert tab.run(f"getComputedStyle({first[7:]}.closest('ul')).display") in ("none", None)
    with served(delivered) as at:
        tab.size(360, 780)
        tab.go_to(f"{at}index.html")
        shown(tab, "huts")
        row = f"{FIRST_ROW}.closest('li').getBoundingClientRect().top"
        assert abs(tab.run(f"return {row}") - top) <= 1


def test_on_paper_all_rows_of_a_list_are_there(page: Browser) -> None:
    rows = "return document.querySelectorAll('[data-list=\"\"] > li.row').length"
    few = page.run(rows)
    page.run("dispatchEvent(new Event('beforeprint'))")
    count = "return Number(document.querySelector('[data-list=\"\"]').dataset.count)"
    assert page.run(rows) == page.run(count) > few
    page.run("dispatchEvent(new Event('afterprint'))")
    assert page.run(rows) == few


SWIPE = """
const [dx] = arguments;
const target = document.querySelector('[data-screen=room] [data-scroll]');
const touch = (x) => new Touch({ identifier: 1, target, clientX: x, clientY: 300 });
const tell = (kind, x) => target.dispatchEvent(new TouchEvent(kind, {
  bubbles: true, touches: kind === 'touchstart' ? [touch(x)] : [], changedTouches: [touch(x)] }));
tell('touchstart', 200);
tell('touchend', 200 + dx);
"""


def test_16_a_swipe_and_keys_lead_to_the_next_and_back(page: Browser) -> None:
    page.run("location.hash = '/huts/mor'")
    shown(page, "hut")
    room = "[...document.querySelectorAll('[data-list=rooms] .contents')][0]"
    page.run(f"{room}.click()")
    first = shown(page, "room").panes[-1].title

    def title() -> str:
        return str(shown(page, "room").panes[-1].title)

    page.run(SWIPE, -120)
    until(lambda: title() != first)
    page.run(SWIPE, -120)
    assert title() != first, "at the last there is no next"
    page.run(SWIPE, 120)
    until(lambda: title() == first)
    alt = "document.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', altKey: true }))"
    page.run(alt)
    until(lambda: title() != first)


@pytest.mark.long
def test_8_what_is_said_passes_by_itself_or_is_put_away(page: Browser) -> None:
    page.run("location.hash = '/stays/0'")
    shown(page, "stay")
    buttons = "document.querySelector('.segment.actions').getBoundingClientRect()"
    left, right = page.run(
        f"const [at, of] = [{buttons}, document.querySelector('.segment.actions .button')];"
        "const box = of.getBoundingClientRect();"
        "return [box.left - at.left, at.right - box.right]"
    )
    assert left == right == 16
    page.run("document.querySelector('[data-button=edit]').click()")
    shown(page, "stay-form")
    save = "document.querySelector('[data-save]').click()"
    guest = "return document.querySelector('[data-field=guest]')?.value"
    until(lambda: page.run(guest))
    page.run(save)
    said = "return document.querySelector('[data-passing] span')?.textContent ?? ''"
    until(lambda: str(page.run(said)).endswith(" is booked"))
    until(lambda: page.run(said) == "", most=6)
    shown(page, "stay")
    page.run("document.querySelector('[data-button=edit]').click()")
    shown(page, "stay-form")
    until(lambda: page.run(guest))
    page.run(save)
    until(lambda: page.run(said) != "")
    page.run("document.querySelector('[data-put-away]').click()")
    until(lambda: page.run(said) == "", most=1)


def test_14_rows_are_picked_by_a_long_press_by_ctrl_and_shift_and_by_keys(page: Browser) -> None:
    page.press(page.element("return document.querySelector('[data-section=\"stays\"]')"))
    rows = "[...document.querySelectorAll('[data-list=\"\"] [data-key]')]"
    until(lambda: page.run(f"return {rows}.length > 4"))
    picked = f"return {rows}.filter((each) => each.dataset.picked !== undefined).length"
    row = "return document.querySelectorAll('[data-list=\"\"] [data-key] .contents')[arguments[1]]"
    at = page.run(
        "const box = arguments[0].getBoundingClientRect();"
        " return [box.x + box.width / 3, box.y + box.height / 2]",
        page.element(row, "row", 1),
    )
    page.hold_at(*at, 700)
    until(lambda: page.run(picked) == 1)
    assert page.run("return document.querySelectorAll('[data-pane]').length") == 1
    page.press_holding("control", page.element(row, "row", 2))
    until(lambda: page.run(picked) == 2)
    page.press_holding("shift", page.element(row, "row", 4))
    until(lambda: page.run(picked) == 4)
    assert page.run("return document.querySelector('[role=checkbox]').ariaChecked") == "false"
    said = "return document.querySelector('[data-title] [role=status]').textContent"
    assert page.run(said) == "4 picked"
    page.run("arguments[0].focus()", page.element(row, "row", 0))
    page.type(" ")
    until(lambda: page.run(picked) == 5)
    page.type_with_control("a")
    until(lambda: page.run(said) == "20 picked")
    page.press(page.element("return document.querySelector('[data-let-go]')"))
    until(lambda: page.run(picked) == 0)


def test_15_a_field_is_filled_from_a_list_and_emptied(page: Browser) -> None:
    page.press(page.element("return document.querySelector('[data-section=\"stays\"]')"))
    page.press(page.element("return document.querySelector('[data-button=\"new\"]')"))
    opens = "return document.querySelector('[data-open-field=\"hut\"]')"
    page.press(page.element(opens))
    row = "return document.querySelector('[data-screen=\"choose-hut\"] [data-key] .contents')"
    page.press(page.element(row))
    until(lambda: page.run(f"{opens}?.dataset.value") is not None)
    assert page.run(f"{opens}.textContent") == page.run(f"{opens}.ariaLabel").split(", ")[1]
    value = page.run(f"{opens}.dataset.value")
    page.press(page.element(opens))
    chosen = "return document.querySelector('[data-screen=\"choose-hut\"] [aria-current=true]')"
    until(lambda: page.run(f"{chosen}?.dataset.key") == value)


@pytest.mark.long
def test_3_2_a_divider_is_moved_by_keys_and_kept(page: Browser) -> None:
    page.size(1280, 800)
    held = "document.querySelector('[data-divider=\"0\"]')"
    until(lambda: page.run(f"return {held} !== null"))
    now = f"return {held}.getAttribute('aria-valuenow')"
    assert page.run(now) == "360"
    page.run(f"{held}.focus()")
    page.type(RIGHT + RIGHT + LEFT)
    assert page.run(now) == "376"
    assert page.run(f"return document.activeElement === {held}"), "the focus stays where it is"
    page.type(END)
    assert page.run(now) == "640"
    page.reload()
    until(lambda: page.run(f"return {held} !== null"))
    assert page.run(now) == "640"
    address = page.run("return location.href")
    page.new_tab()
    page.size(1280, 800)
    page.go_to(address)
    until(lambda: page.run(f"{now.replace('.get', '?.get')}") == "640")
    page.size(1200, 1920)
    until(lambda: page.run(f"return {held}?.getAttribute('aria-orientation') === 'horizontal'"))
    page.drag(page.element(f"return {held}"), 0, -150)
    high = float(page.run(now))
    page.size(1280, 800)
    until(lambda: page.run(now) == "640")
    page.size(1200, 1920)
    until(lambda: float(page.run(now)) == high)


@pytest.mark.long
def test_7_10_what_is_elsewhere_is_shown_in_a_frame_that_reaches_nothing(
    tmp_path: Path, tab: Browser
) -> None:
    """Of a host that the app names; of another it says that it is not shown."""
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    (elsewhere / "index.html").write_text(
        "<!doctype html><title>There</title><p id=there>There</p>"
        "<script>try { parent.document.title = 'taken' } catch { there.append(', alone') }</script>"
    )
    frame = "document.querySelector('.frame')"
    said = "return document.querySelector('#there')?.textContent"
    with served(elsewhere) as other:
        host = other.split("/")[2]
        rows = [{**(demo().as_read["huts"].by_key("alp") or {}), "web": f"{other}index.html"}]
        records = {**demo().as_read, "huts": records_of("huts", rows)}
        for named in ((), (host,)):
            block = AddressBlock(id="site", field="web", frame=200)
            app = replace(
                with_screen(demo().app, "hut", blocks=(block,)),
                platform=Platform(frames_from=named),
            )
            made = tmp_path / f"app {len(named)}"
            deliver(web_app(WiredApp(app, records), CRESTA), made)
            with served(made) as at:
                tab.size(400, 700)
                tab.go_to(f"{at}index.html#/huts/alp")
                shown(tab, "hut")
                until(lambda: tab.run(f"return {frame} !== null"))
                if not named:
                    words = tab.run(f"return [{frame}.localName, {frame}.textContent]")
                    assert words == ["p", f"Not shown here: {host}"]
                    continue
                assert tab.run(f"return {frame}.sandbox.value") == "allow-scripts"
                tab._in_session("frame", id=tab.element(f"return {frame}"))
                until(lambda: tab.run(said) == "There, alone")
                tab._in_session("frame", id=None)
                assert tab.run("return document.title").startswith("Alpe Ghiara")


@pytest.mark.long
def test_12_rows_go_to_their_other_place_where_motion_is_wanted(
    delivered: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    runs = "return document.getAnimations().filter((e) => e.effect.target?.closest('.row')).length"
    found = {}
    for moves in (False, True):
        if moves:
            want_motion(monkeypatch)
        with served(delivered) as at, browser(tmp_path / str(moves)) as page:
            page.size(400, 700)
            page.go_to(at)
            shown(page, "huts")
            time.sleep(0.8)
            for pressed in ("[data-key] .more", "[data-action=take-out]", "[data-answer=yes]"):
                page.run(f"document.querySelector('{pressed}').click()")
            found[moves] = page.run(runs)
            until(lambda page=page: not page.run(runs))
    assert found[False] == 0
    assert found[True] > 0
