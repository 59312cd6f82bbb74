"""The report: one page about an app, for people who will never install Cadena."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from html import escape
from typing import Final, NamedTuple

from cadena.check.diagrams import diagram_of
from cadena.check.finding import Finding
from cadena.check.proof_in_words import answer_of, in_columns, totals, what_of
from cadena.model.app import App
from cadena.model.naming import many
from cadena.model.windows import windows_of
from cadena.runs.keep.marks_in_words import TABLES, pieces_in
from cadena.runs.keep.marks_in_words import totals as kept_totals
from cadena.runs.keep.run import SIGNS, WORST, Matrix
from cadena.runs.prove.causes import events_of
from cadena.runs.prove.moves_in_words import moves_in_words
from cadena.runs.prove.prove import Proof
from cadena.runs.window_plane import GAP, plane_of

MAP_MOST: Final = (1600.0, 1300.0)
MAP_SCALE: Final = 0.35


class Shown(NamedTuple):
    """A screen in a window: a picture as SVG, and how it is come to, in words."""

    screen: str
    window: str
    width: float
    svg: str
    way: str


class Told(NamedTuple):
    """All that a report tells, as it was measured."""

    app: App
    findings: tuple[Finding, ...]
    matrix: Matrix
    proof: Proof
    shown: tuple[Shown, ...]
    images: Mapping[str, str]
    colours: Mapping[str, tuple[str, str]]


def page(told: Told) -> str:
    """The whole report as HTML: no script, nothing from elsewhere, light and dark."""
    name = escape(told.app.name or "An app")
    light = "".join(f"--{role}:{both[0]};" for role, both in told.colours.items())
    dark = "".join(f"--{role}:{both[1]};" for role, both in told.colours.items())
    images = "".join(
        f'<image id="{key}" width="1" height="1" preserveAspectRatio="none" href="{data}"/>'
        for key, data in told.images.items()
    )
    parts = [
        f"<section id=opens><h2>What opens what</h2>{diagram_of(told.app, 'svg')}</section>",
        f"<section id=windows><h2>Windows</h2>{_window_map(told.app)}</section>",
        f"<section id=screens><h2>Screens</h2>{''.join(_screens(told))}</section>",
        f"<section id=keeps><h2>What survives</h2>{''.join(_keep_chapter(told.matrix))}</section>",
        f"<section id=proven><h2>What is proven</h2>{''.join(_proven(told))}</section>",
        f"<section id=findings><h2>Findings</h2>{''.join(_findings(told.findings))}</section>",
    ]
    return (
        '<!doctype html>\n<html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width, initial-scale=1">'
        f"<title>{name}</title><style>:root{{{light}}}"
        f"@media(prefers-color-scheme:dark){{:root{{{dark}}}}}{STYLE}</style></head>\n"
        f'<body><svg width="0" height="0" aria-hidden="true"><defs>{images}</defs></svg>'
        f"<header><h1>{name}</h1><p>{_summary(told)}</p>{NAVIGATION}</header>\n"
        f"<main>{''.join(parts)}</main></body></html>\n"
    )


def _summary(told: Told) -> str:
    app = told.app
    breaks = sum(each.weight == "breaks" for each in told.findings)
    found = f"{many(len(told.findings), 'finding')}, {breaks} of which break it"
    return escape(
        f"{many(len(app.screens), 'screen')}, {many(len(app.links), 'link')}, "
        f"{many(len(app.sections), 'section')}. "
        f"Proven: {totals(told.proof)}. Kept: {kept_totals(told.matrix)}. {found}."
    )


def _screens(told: Told) -> Iterator[str]:
    by_screen: dict[str, list[Shown]] = {}
    for picture in told.shown:
        by_screen.setdefault(picture.screen, []).append(picture)
    for screen in told.app.screens:
        some = by_screen.get(screen.id)
        if not some:
            yield f"<h3>{escape(screen.id)}</h3><p>Nothing leads to it.</p>"
            continue
        yield f"<h3>{escape(screen.id)}</h3><div class=strip>"
        for picture in some:
            label = escape(f"{picture.screen} at {picture.window}", quote=True)
            wide = min(420.0, max(120.0, picture.width * 0.42))
            yield (
                f'<figure style="width:{wide:g}px"><div role="img" aria-label="{label}">'
                f"{picture.svg}</div><figcaption>{escape(picture.window)}"
                f"<br><small>{escape(picture.way)}</small></figcaption></figure>"
            )
        yield "</div>"


def _window_map(app: App) -> str:
    """The plane of all windows with a region for each arrangement, and the named windows."""
    plane = plane_of(app.arrangements)
    wide, high = (side * MAP_SCALE for side in MAP_MOST)
    shapes: list[str] = []
    names: list[str] = []
    for number, region in enumerate(plane.regions):
        for cell in region.cells:
            corners = plane.outline(cell, MAP_MOST)
            if corners:
                at = " ".join(f"{x * MAP_SCALE:g},{high - y * MAP_SCALE:g}" for x, y in corners)
                shapes.append(f'<polygon class="r{number % 4}" points="{at}"/>')
    for rule in plane.used:
        size = plane.size_in(rule)
        title = "no rule: one pane" if rule == GAP else app.arrangements[rule].title
        if size is not None:
            said = escape(title or app.arrangements[rule].id)
            x = min(size[0], MAP_MOST[0] - 200) * MAP_SCALE + 5
            names.append(
                f'<text class="of" x="{x:g}" y="{14 + 13 * (len(names) % 5)}">{said}</text>'
            )
    for window in windows_of(app):
        x, y = window.width * MAP_SCALE, high - window.height * MAP_SCALE
        said = escape(f"{window.name} {window.width:g} × {window.height:g}")
        names.append(f'<circle cx="{x:g}" cy="{y:g}" r="4"/>')
        names.append(f'<text x="{x + 7:g}" y="{y + 4:g}">{said}</text>')
    return (
        f'<svg class="map" viewBox="0 0 {wide:g} {high:g}" role="img" '
        f'aria-label="Windows by width and height, and how the app is arranged in each">'
        f"{''.join(shapes)}{''.join(names)}</svg>"
    )


def _keep_chapter(matrix: Matrix) -> Iterator[str]:
    for title, columns in TABLES:
        pieces = pieces_in(matrix, columns)
        if not pieces:
            continue
        heads = "".join(f"<th scope=col>{escape(each.name)}</th>" for each in columns)
        yield f"<div class=wide><table><caption>{title}</caption><tr><td></td>{heads}</tr>"
        for piece in pieces:
            cells = []
            for column in columns:
                run = matrix.get((piece, column.name))
                mark = run.mark if run is not None else "nothing to keep here"
                kind = "bad" if run is not None and run.is_broken else "good"
                sign = SIGNS[mark].strip()
                cells.append(f'<td class={kind}><abbr title="{mark}">{sign}</abbr></td>')
            yield f"<tr><th scope=row>{escape(piece.name)}</th>{''.join(cells)}</tr>"
        yield "</table></div>"
    legend = ", ".join(f"{SIGNS[each]} {each}" for each in WORST if SIGNS[each].strip())
    yield f"<p><small>{escape(legend)}</small></p>"


def _proven(told: Told) -> Iterator[str]:
    proof = told.proof
    titles = {each.id: each.title or each.id for each in told.app.arrangements}
    heads = "".join(
        f"<th scope=col>{escape(titles.get(each, 'one pane'))}</th>" for each in proof.columns
    )
    yield f"<div class=wide><table><tr><td></td>{heads}</tr>"
    for proven in proof.claims:
        cells = "".join(
            "<td class=bad>✕</td>"
            if proven.of(column) == "broken"
            else f"<td class=good>✓{'' if proof.whole else f' {proof.depth}'}</td>"
            for column in proof.columns
        )
        yield f"<tr><th scope=row>{escape(proven.claim.words)}</th>{cells}</tr>"
    yield "</table></div>"
    for proven in proof.broken:
        yield f"<h3>{escape(proven.claim.words)}: {escape(answer_of(proof, proven))}</h3><ul>"
        for cause in proven.causes:
            steps = ", ".join(moves_in_words(events_of(cause.walk)))
            said = f"{cause.where}: {what_of(cause)}, {in_columns(proof, cause)}"
            yield f"<li>{escape(said)}<br><small>{escape(steps)}</small></li>"
        yield "</ul>"


def _findings(findings: tuple[Finding, ...]) -> Iterator[str]:
    if not findings:
        yield "<p>None.</p>"
        return
    yield "<ul>"
    for finding in findings:
        yield (
            f"<li><b>{escape(finding.code)}</b> ({finding.weight}) at {escape(finding.where)}: "
            f"{escape(finding.what)}<br><small>{escape(finding.why)}. "
            f"To mend: {escape(finding.mend)}.</small></li>"
        )
    yield "</ul>"


NAVIGATION: Final = (
    "<nav><a href=#opens>What opens what</a> <a href=#windows>Windows</a> "
    "<a href=#screens>Screens</a> <a href=#keeps>What survives</a> "
    "<a href=#proven>What is proven</a> <a href=#findings>Findings</a></nav>"
)
STYLE: Final = (
    "*{box-sizing:border-box}body{margin:0;font:16px/1.5 Inter,sans-serif;background:var(--paper);"
    "color:var(--ink);color-scheme:light dark}header,main{max-width:76rem;margin:auto;"
    "padding:1rem 1.25rem}h1{margin:.3rem 0}h2{margin:2.2rem 0 .6rem}h3{margin:1.2rem 0 .4rem}"
    "a{color:var(--screen_link)}nav{display:flex;flex-wrap:wrap;gap:.9rem}"
    "small,figcaption{color:var(--soft)}svg{max-width:100%;height:auto}"
    ".strip{display:flex;gap:1rem;overflow-x:auto;align-items:flex-start;padding:.3rem}"
    "figure{margin:0;flex:none}figure svg{display:block;width:100%;border:3px solid var(--frame);"
    "border-radius:6px}figcaption{font-size:.85rem}.wide{overflow-x:auto}"
    "table{border-collapse:collapse;font-size:.85rem;margin:.5rem 0}caption{text-align:left;"
    "font-weight:600;padding:.4rem 0}th[scope=row]{text-align:left;font-weight:400;"
    "white-space:nowrap;padding-right:1rem}th[scope=col]{font-weight:600;padding:.2rem .5rem;"
    "max-width:7rem}td{text-align:center;border:1px solid var(--hairline);padding:.15rem .5rem}"
    ".good{color:var(--holds_ink)}.bad{background:var(--broken_wash);color:var(--broken_ink);"
    "font-weight:700}abbr{text-decoration:none}.map{border:1px solid var(--hairline)}"
    ".map{max-width:44rem;width:100%}.map text{font-size:10px;fill:var(--ink)}"
    ".map .of{font-weight:600;fill:var(--soft)}"
    ".map circle{fill:var(--brass)}.r0{fill:var(--region1)}.r1{fill:var(--region2)}"
    ".r2{fill:var(--region3)}.r3{fill:var(--card)}"
    "@media print{nav{display:none}.strip{flex-wrap:wrap;overflow:visible}"
    "h3,figure,tr{break-inside:avoid}}"
)
