"""What a page shows, read off its elements by what they say of themselves (docs/driving.md)."""

from __future__ import annotations

import json
from typing import Any, Final

from msgspec import Struct

from cadena.deliver.drive.webdriver import Browser
from cadena.model.values import Scalar


class ReadRow(Struct, frozen=True):
    """A row that is chosen, or the first in view: of which list, and its key."""

    list: str
    key: Any


class ReadPane(Struct, frozen=True, omit_defaults=True):
    """A pane as the page shows it; ``x`` and ``width`` are in CSS pixels, from where reading
    begins. ``above`` is how many of them of what is first in view are over the edge."""

    place: str
    screen: str | None
    x: float
    width: float
    title: str = ""
    back: str | None = None
    chosen: tuple[ReadRow, ...] = ()
    shown: tuple[ReadRow, ...] = ()
    first: ReadRow | None = None
    first_part: str | None = None
    above: float | None = None
    rows: dict[str, int] = {}
    fields: dict[str, str] = {}


class Reading(Struct, frozen=True, omit_defaults=True):
    """What a page shows."""

    phase: str = ""
    section: str = ""
    address: str | None = None
    panes: tuple[ReadPane, ...] = ()
    question: str | None = None
    focus: str | None = None


SCRIPT: Final = """
const root = document.querySelector('[data-app]');
if (!root) return null;
const isRtl = document.documentElement.dir === 'rtl';
const unit = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16;
const round = (value) => Math.round(value * 100) / 100;
const text = (element) => (element ? element.textContent.trim() : '');
const keyOf = (element) => ({ list: element.closest('[data-list]')?.dataset.list ?? '', key: element.dataset.key });
const edge = root.getBoundingClientRect();
const panes = [...root.querySelectorAll('[data-pane]')].filter((each) => each.getClientRects().length).map((pane) => {
  const box = pane.getBoundingClientRect();
  const scroll = pane.querySelector('[data-scroll]');
  const top = scroll ? scroll.getBoundingClientRect().top : box.top;
  const rows = [...pane.querySelectorAll('[data-list] [data-key]')];
  const read = {
    place: pane.dataset.pane, screen: pane.dataset.screen ?? null,
    x: round(isRtl ? edge.right - box.right : box.left - edge.left), width: round(box.width),
    title: text(pane.querySelector('[data-title]')),
    back: pane.querySelector('[data-back]')?.dataset.back ?? null,
    chosen: rows.filter((row) => row.getAttribute('aria-current') === 'true').map(keyOf),
    shown: rows.map(keyOf),
    rows: Object.fromEntries([...pane.querySelectorAll('[data-list]')].map((list) => [list.dataset.list, Number(list.dataset.count ?? -1)])),
    fields: Object.fromEntries([...pane.querySelectorAll('[data-field]')].map((field) => [field.dataset.field, field.getAttribute('role') === 'switch' ? (field.getAttribute('aria-checked') === 'true' ? 'yes' : 'no') : field.value])),
    first: null, first_part: null, above: null,
  };
  const isUnder = (element) => element.getBoundingClientRect().bottom > top + 0.5;
  const segment = [...pane.querySelectorAll('[data-segment]')].sort((a, b) => Number(a.dataset.segment) - Number(b.dataset.segment)).filter(isUnder);
  const here = segment.find((each) => each.getBoundingClientRect().top <= top + 0.5) ?? segment[0];
  if (here) {
    const list = here.querySelector('[data-list]');
    const isRows = list && !here.querySelector('[data-across]');
    const row = isRows ? rows.filter((each) => list.contains(each)).find((each) => each.getBoundingClientRect().height > 0 && isUnder(each)) : null;
    read.first_part = here.dataset.part;
    read.above = round(top - (row ?? here).getBoundingClientRect().top + Number(row?.dataset.gap ?? 0) * unit);
    if (row) read.first = keyOf(row);
  }
  return read;
});
const question = root.querySelector('[data-question]');
return {
  phase: root.dataset.phase, section: root.dataset.section, address: root.dataset.address || null, panes,
  question: question ? text(question.querySelector('p') ?? question) : null,
  focus: document.activeElement?.closest('[data-pane]')?.dataset.screen ?? null,
};
"""


def read(browser: Browser) -> Reading | None:
    """What the page in a browser shows, or none where it is no app that can be driven."""
    came = browser.run(SCRIPT)
    if not isinstance(came, dict):
        return None
    panes = tuple(_pane(each) for each in came["panes"])
    return Reading(
        came["phase"] or "",
        came["section"] or "",
        came["address"],
        panes,
        came["question"],
        came["focus"],
    )


def _pane(came: dict[str, Any]) -> ReadPane:
    return ReadPane(
        came["place"],
        came["screen"],
        came["x"],
        came["width"],
        came["title"],
        came["back"],
        tuple(map(_row, came["chosen"])),
        tuple(map(_row, came["shown"])),
        None if came["first"] is None else _row(came["first"]),
        came["first_part"],
        came["above"],
        came["rows"],
        came["fields"],
    )


def _row(came: dict[str, str]) -> ReadRow:
    return ReadRow(came["list"], _key(came["key"]))


def _key(text: str) -> Scalar | None:
    """A key as its element has it: JSON, or a text as it stands."""
    try:
        found: Any = json.loads(text)
    except ValueError:
        return text
    return found if isinstance(found, str | int | float | bool) else text
