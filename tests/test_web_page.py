"""The delivered app as a person's own page: links, history, text of any size, keyboards."""

from __future__ import annotations

import time
from pathlib import Path

import pytest

from cadena.deliver.drive.webdriver import Browser
from test_drive import FIRST_ROW, delivered, page, pytestmark, shown, until

ENTER, LEFT, RIGHT, DOWN = "\ue007", "\ue012", "\ue014", "\ue015"
"""Keys, as W3C WebDriver names them."""

__all__ = ["delivered", "page", "pytestmark"]


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
        "calendar"
    )


def test_the_face_comes_with_the_app(page: Browser, delivered: Path) -> None:
    loaded = "return document.fonts.ready.then(() => document.fonts.check('16px Inter'))"
    assert page.run(loaded)
    there = {each.name for each in (delivered / "fonts").iterdir()}
    assert there == {"Inter-Regular.woff2", "Inter-Bold.woff2", "LICENSE.txt"}
