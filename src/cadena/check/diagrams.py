"""What opens what, as text that a README can show: Mermaid, DOT (Graphviz) and SVG."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final
from xml.sax.saxutils import escape, quoteattr

from cadena.model.app import App, Link, Screen
from cadena.model.find import by_id
from cadena.model.in_words import kind_words
from cadena.model.problem import Problem
from cadena.model.screen_parts import label_of
from cadena.model.search import nearest_first
from cadena.words.plain_text import xml_text

WIDE, HIGH, GAP = 170, 52, 180
LINES: Final = {"modal": "5 4", "popover": "2 3", "replace": "9 3 2 3"}
"""How the line of a link is broken, by how it opens: never by colour alone."""


def diagram_of(app: App, form: str, section: str | None = None) -> str:
    """The screens of an app, or of one section, with what leads from one to another.

    Raises:
        Problem: for a section that is not there.
    """
    if section is not None and by_id(app.sections, section) is None:
        known = ", ".join(each.id for each in app.sections)
        raise Problem("--section", "", f'"{section}" came', f"one of {known}")
    levels = _levels(app, section)
    links = [each for each in app.links if {each.trigger.screen, each.to} <= levels.keys()]
    if form == "dot":
        return _dot(app, levels, links)
    return _svg(app, levels, links) if form == "svg" else _mermaid(app, levels, links)


def _levels(app: App, section: str | None) -> dict[str, int]:
    """How many links each screen is away from a root; what nothing leads to stands first."""
    roots = [each.root for each in app.sections if section in (None, each.id)]
    found: dict[str, int] = {}

    def beyond(name: str) -> Iterator[str]:
        for link in app.links:
            if link.trigger.screen == name and by_id(app.screens, link.to) is not None:
                found.setdefault(link.to, found[name] + 1)
                yield link.to

    there = [each for each in dict.fromkeys(roots) if by_id(app.screens, each) is not None]
    found.update(dict.fromkeys(there, 0))
    for _ in nearest_first(there, beyond, lambda name: name):
        pass
    if section is None:
        found.update({each.id: 0 for each in app.screens if each.id not in found})
    return found


def _screen(app: App, name: str) -> Screen:
    return next(each for each in app.screens if each.id == name)


def _title(app: App, name: str) -> str:
    screen = _screen(app, name)
    plain = re.sub(r"\{[^}]*\}", "…", screen.title).strip()
    return plain if plain not in ("", "…") else name


def _takes(app: App, name: str) -> str:
    return ", ".join(f"{each.name}: {each.type}" for each in _screen(app, name).parameters)


def _link_words(app: App, link: Link) -> str:
    """What a link starts on, and how it opens."""
    screen = by_id(app.screens, link.trigger.screen)
    what = label_of(screen, link.trigger) if screen is not None else link.trigger.part
    kind = "" if link.when is None else f" · {kind_words(link.when)}"
    return f"{what} · {link.how}{kind}"


def _mermaid(app: App, levels: dict[str, int], links: list[Link]) -> str:
    names = {name: f"s{number}" for number, name in enumerate(levels)}
    lines = ["flowchart LR"]
    for name, short in names.items():
        takes = _takes(app, name)
        text = _title(app, name) + (f"<br/>{takes}" if takes else "")
        lines.append(f"  {short}[{_quoted(text)}]")
    for link in links:
        arrow = "-.->" if link.how in ("modal", "popover") else "-->"
        said = _quoted(_link_words(app, link))
        lines.append(f"  {names[link.trigger.screen]} {arrow}|{said}| {names[link.to]}")
    for number, section in enumerate(app.sections):
        if section.root in names:
            lines.append(f"  r{number}(({_quoted(section.title)})) --- {names[section.root]}")
    return "\n".join(lines) + "\n"


def _quoted(text: str) -> str:
    """A text as Mermaid takes any: in quotes, with what it would read as its own as entities."""
    kept = "".join(c if c.isalnum() or c in " .,:·…<br/>-–" else f"#{ord(c)};" for c in text)
    return f'"{kept}"'


def _dot(app: App, levels: dict[str, int], links: list[Link]) -> str:
    def quoted(text: str) -> str:
        kept = text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", " ")
        return f'"{kept}"'

    styles = {"modal": "dashed", "popover": "dotted", "replace": "bold"}
    lines = [
        "digraph app {",
        "  rankdir=LR;",
        '  node [shape=box, style=rounded, fontname="sans"];',
    ]
    for name in levels:
        takes = _takes(app, name)
        label = quoted(_title(app, name))[:-1] + (f"\\n{quoted(takes)[1:]}" if takes else '"')
        lines.append(f"  {quoted(name)} [label={label}];")
    for link in links:
        style = styles.get(link.how, "solid")
        label = quoted(_link_words(app, link))
        lines.append(
            f"  {quoted(link.trigger.screen)} -> {quoted(link.to)} [label={label}, style={style}];"
        )
    return "\n".join([*lines, "}"]) + "\n"


def _svg(app: App, levels: dict[str, int], links: list[Link]) -> str:
    """Cards in a column for each step in, and a way for all that leads from one to another."""
    rows: dict[int, int] = {}
    places: dict[str, tuple[int, int]] = {}
    for name, level in sorted(levels.items(), key=lambda each: each[1]):
        row = rows.get(level, 0)
        rows[level] = row + 1
        places[name] = 20 + level * (WIDE + GAP), 24 + row * (HIGH + 60)
    together: dict[tuple[str, str], list[Link]] = {}
    for link in links:
        together.setdefault((link.trigger.screen, link.to), []).append(link)
    body: list[str] = []
    for number, ((start, end), some) in enumerate(together.items()):
        body += _way(
            places[start], places[end], number, [_link_words(app, e) for e in some], some[0].how
        )
    for name, (x, y) in places.items():
        middle = x + WIDE / 2
        body.append(f'<rect x="{x}" y="{y}" width="{WIDE}" height="{HIGH}" rx="10"/>')
        body.append(f'<text x="{middle:g}" y="{y + 22}">{_shown(_title(app, name))}</text>')
        takes = _shown(_takes(app, name))
        body.append(f'<text class="small" x="{middle:g}" y="{y + 40}">{takes}</text>')
    wide = 20 + (max(levels.values(), default=0) + 1) * (WIDE + GAP)
    high = 24 + max(rows.values(), default=1) * (HIGH + 60)
    label = quoteattr(xml_text(f"What opens what in {app.name}"))
    return (
        f'<svg class="opens" xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}" '
        f'width="{wide}" height="{high}" role="img" aria-label={label}>\n<style>{STYLE}</style>\n'
        '<defs><marker id="end" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="6" '
        'markerHeight="6" orient="auto"><path class="end" d="M0 0 8 4 0 8z"/></marker></defs>\n'
        + "\n".join(body)
        + "\n</svg>\n"
    )


def _shown(text: str) -> str:
    return escape(xml_text(text))


def _way(
    start: tuple[int, int], end: tuple[int, int], number: int, said: list[str], how: str
) -> Iterator[str]:
    """The way from a card to another, with what it starts on: over the gap between columns, or
    round the right side where both stand in one column."""
    (x, y), (to_x, to_y) = start, end
    shift = (number % 5 - 2) * 6
    y, to_y = y + HIGH // 2 + shift, to_y + HIGH // 2 + shift
    if to_x == x:
        out = x + WIDE + 36 + (number % 4) * 14
        way = f"M{x + WIDE} {y} C{out} {y} {out} {to_y} {x + WIDE} {to_y}"
        at = x + WIDE + (out - x - WIDE) * 0.75 + 4, (y + to_y) / 2 + 1.5 * shift
    elif to_x > x:
        bend = (to_x - x - WIDE) / 2
        way = f"M{x + WIDE} {y} C{x + WIDE + bend} {y} {to_x - bend} {to_y} {to_x} {to_y}"
        at = x + WIDE + 8, y - 5
        if abs(to_y - y) > HIGH:
            at = x + WIDE + bend + 8, (y + to_y) / 2
    else:
        bend = (x - to_x - WIDE) / 2
        way = f"M{x} {y} C{x - bend} {y} {to_x + WIDE + bend} {to_y} {to_x + WIDE} {to_y}"
        at = to_x + WIDE + bend + 4, (y + to_y) / 2 - 6
    dash = f' stroke-dasharray="{LINES[how]}"' if how in LINES else ""
    yield f'<path class="way" d="{way}"{dash} marker-end="url(#end)"/>'
    for line, text in enumerate(said):
        where = f'x="{at[0]:g}" y="{at[1] + 13 * line:g}"'
        yield f'<text class="small words" {where}>{_shown(text)}</text>'


STYLE: Final = (
    ".opens rect{fill:#fff;stroke:#2c3e48;stroke-width:1.5}"
    ".opens text{font:600 14px sans-serif;text-anchor:middle;fill:#1f2a30}"
    ".opens .small{font:11px sans-serif;fill:#4a555b}"
    ".opens .words{text-anchor:start;paint-order:stroke;stroke:#fff;stroke-width:4px}"
    ".opens .way{fill:none;stroke:#a8731c;stroke-width:1.8}.opens .end{fill:#a8731c}"
    "@media(prefers-color-scheme:dark){.opens rect{fill:#222c31;stroke:#b9c4c9}"
    ".opens text{fill:#eef2f3}.opens .small{fill:#c3cdd1}.opens .words{stroke:#151c20}"
    ".opens .way{stroke:#dfa94a}.opens .end{fill:#dfa94a}}"
)
