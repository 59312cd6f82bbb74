"""Painting the window map: regions, breakpoints, named windows, arcs, and the live window."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final, NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QFont, QFontMetricsF, QPainter, QPainterPath, QPen, QPolygonF

from cadena.desktop.painting.faces import elided, font_of
from cadena.desktop.painting.theme import colour, px
from cadena.engine.layout.panes import areas_in, body_area
from cadena.engine.session import Window, sized
from cadena.model.app import Arrangement, NamedWindow
from cadena.model.edits.arrangements import words_of
from cadena.runs.window_plane import GAP, Breakpoint, Plane, Region

MIDDLE: Final = int(Qt.AlignmentFlag.AlignCenter)
GLYPH: Final = (64.0, 44.0)
DOT: Final = 5.0
PILL: Final = (46.0, 20.0)
SAMPLES: Final = 48


class Frame(NamedTuple):
    """Where the plane lies in the widget: px of its corners, and the dp that are shown."""

    rect: QRectF
    most: tuple[float, float]

    def to_view(self, width: float, height: float) -> QPointF:
        """A size in dp as a point of the widget."""
        x = self.rect.x() + width / self.most[0] * self.rect.width()
        y = self.rect.bottom() - height / self.most[1] * self.rect.height()
        return QPointF(x, y)

    def to_size(self, at: QPointF) -> tuple[float, float]:
        """A point of the widget as a size in dp."""
        width = (at.x() - self.rect.x()) / self.rect.width() * self.most[0]
        height = (self.rect.bottom() - at.y()) / self.rect.height() * self.most[1]
        return max(1.0, width), max(1.0, height)


class Dot(NamedTuple):
    """A named window as it lies, turned, or folded."""

    name: str
    size: tuple[float, float]
    of: str
    way: str = ""


def dots_of(windows: Sequence[NamedWindow]) -> list[Dot]:
    """Each window, and what turning and folding make of it."""
    found = []
    for window in windows:
        found.append(Dot(window.name, (window.width, window.height), window.name))
        if window.width != window.height:
            turned = (window.height, window.width)
            found.append(Dot(f"{window.name} turned", turned, window.name, "turn"))
        if window.fold is not None:
            found.append(
                Dot(f"{window.name} folded", (window.fold, window.height), window.name, "fold")
            )
    return found


def paint_regions(painter: QPainter, frame: Frame, plane: Plane, chosen: int | None) -> None:
    """Each region in a tint by how many panes it has; gaps are hatched."""
    regions = plane.regions
    for region in regions:
        path = outline_of(frame, plane, region)
        if region.arrangement == GAP:
            painter.fillPath(path, colour("broken_wash"))
            painter.fillPath(path, QBrush(colour("broken"), Qt.BrushStyle.BDiagPattern))
            continue
        panes = plane.rules[region.arrangement].panes
        painter.fillPath(path, colour(f"region{min(panes, 3)}"))
    for region in regions:
        if region.arrangement == chosen and region.arrangement != GAP:
            painter.setPen(QPen(colour("brass"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(outline_of(frame, plane, region).simplified())


def outline_of(frame: Frame, plane: Plane, region: Region) -> QPainterPath:
    path = QPainterPath()
    for cell in region.cells:
        corners = plane.outline(cell, frame.most)
        if corners:
            path.addPolygon(QPolygonF([frame.to_view(*each) for each in [*corners, corners[0]]]))
    return path


def paint_words(
    painter: QPainter, frame: Frame, plane: Plane, region: Region, taken: list[QRectF]
) -> None:
    """A glyph of a region, its name and what it is in words, where there is room in it."""
    path = outline_of(frame, plane, region)
    room = path.boundingRect()
    if room.width() < 40 or room.height() < 34:
        return
    is_gap = region.arrangement == GAP
    title = "no rule" if is_gap else plane.rules[region.arrangement].title
    title = title or plane.rules[region.arrangement].id
    about = "one pane is shown" if is_gap else words_of(plane.rules[region.arrangement])
    lines = [(title, QFont.Weight.DemiBold, "broken_ink" if is_gap else "ink")]
    lines += [(each, QFont.Weight.Normal, "soft") for each in about.split(", ")]
    wide = min(room.width() - 10, 150.0)
    tall = GLYPH[1] + 12 + 15 * len(lines)
    at = _room_for(path, room, (wide, tall), taken)
    taken.append(QRectF(at.x(), at.y(), wide, tall))
    y = at.y() + 6
    if not is_gap and room.width() > GLYPH[0] + 8:
        window = sized(*frame.to_size(room.center()))
        corner = at + QPointF((wide - GLYPH[0]) / 2, 6)
        paint_glyph(painter, plane.rules[region.arrangement], window, corner)
        y += GLYPH[1] + 4
    for text, weight, role in lines:
        if y + 15 > room.bottom():
            break
        painter.setFont(font_of(px(11), weight))
        painter.setPen(colour(role))
        rect = QRectF(at.x(), y, wide, 15)
        painter.drawText(rect, MIDDLE, elided(text, px(11), weight, int(wide)))
        y += 15


def _room_for(
    path: QPainterPath, room: QRectF, size: tuple[float, float], taken: Sequence[QRectF]
) -> QPointF:
    """A place for words inside a region: on as little else as may be, and near its top."""
    best, least = QPointF(room.x() + (room.width() - size[0]) / 2, room.y() + 8), float("inf")
    down = 8.0
    while down + size[1] <= max(room.height(), size[1] + 8):
        for across in (0.5, 0.25, 0.75, 0.0, 1.0):
            x = room.x() + 5 + (room.width() - size[0] - 10) * across
            rect = QRectF(x, room.y() + down, *size)
            if not (path.contains(rect.center()) and path.contains(rect.topLeft())):
                continue
            both = (rect.intersected(each) for each in taken)
            covered = sum(each.width() * each.height() for each in both if not each.isEmpty())
            if covered + down * 0.2 + abs(across - 0.5) * 20 < least:
                least = covered + down * 0.2 + abs(across - 0.5) * 20
                best = rect.topLeft()
        down += 16.0
    return best


def paint_glyph(painter: QPainter, rule: Arrangement, window: Window, at: QPointF) -> None:
    """An arrangement in small, as in a window: where its bar sits, how it shares the width."""
    painter.setPen(QPen(colour("ink"), 1.5))
    painter.setBrush(colour("card"))
    rect = QRectF(at.x(), at.y(), *GLYPH)
    painter.drawRoundedRect(rect, 4, 4)
    across = GLYPH[0] / window.width
    body = body_area(rule, window)
    bars = {
        "bottom": QRectF(0, GLYPH[1] - 8, GLYPH[0], 8),
        "top": QRectF(0, 0, GLYPH[0], 8),
        "rail": QRectF(0, 0, 7, GLYPH[1]),
        "wide rail": QRectF(0, 0, 14, GLYPH[1]),
        "button": QRectF(GLYPH[0] - 13, 4, 8, 6),
    }
    painter.setPen(Qt.PenStyle.NoPen)
    bar = bars.get(rule.bar)
    begin = body.x * across if bar is None or rule.bar not in ("rail", "wide rail") else bar.width()
    areas = areas_in(rule, window, rule.panes)
    wide = GLYPH[0] - begin
    top = 8.0 if rule.bar == "top" else 0.0
    tall = GLYPH[1] - (8 if rule.bar in ("top", "bottom") else 0)
    for number, area in enumerate(areas):
        part = (
            (area.x - body.x) / max(1.0, body.width) * wide,
            (area.y - body.y) / max(1.0, body.height) * tall,
            area.width / max(1.0, body.width) * wide,
            area.height / max(1.0, body.height) * tall,
        )
        shade = "region2" if number == 0 and rule.panes > 1 else "region1"
        if number == 2:
            shade = "region3"
        room = QRectF(*part).translated(at.x() + begin, at.y() + top)
        inner = room.adjusted(2, 2, -1, -2)
        painter.setBrush(colour(shade))
        painter.drawRoundedRect(inner, 2, 2)
        if rule.panes == 1 and rule.detail_first != "no":
            painter.setBrush(colour("quiet"))
            painter.drawRect(QRectF(inner.x() + 4, inner.y() + 4, inner.width() - 8, 9))
        if rule.over and rule.panes == 1:
            painter.setBrush(colour("quiet"))
            painter.drawRect(QRectF(inner.x(), inner.y(), inner.width() * 0.45, inner.height()))
    if bar is not None:
        painter.setBrush(colour("soft"))
        painter.drawRoundedRect(bar.translated(at), 2, 2)


def paint_breakpoint(
    painter: QPainter, frame: Frame, each: Breakpoint, chosen: bool
) -> QRectF | None:
    """A line where a breakpoint acts, and a pill to hold it by; the place of the pill."""
    role = "brass" if chosen else "soft"
    painter.setPen(QPen(colour(role), 2.5 if chosen else 1.6))
    for span in each.spans:
        end = min(span.end, max(frame.most))
        if each.axis == "width":
            painter.drawLine(
                frame.to_view(each.at, span.start), frame.to_view(each.at, min(end, frame.most[1]))
            )
        elif each.axis == "height":
            painter.drawLine(
                frame.to_view(span.start, each.at), frame.to_view(min(end, frame.most[0]), each.at)
            )
        else:
            last = min(end, *frame.most)
            painter.drawLine(frame.to_view(span.start, span.start), frame.to_view(last, last))
    pill = pill_of(frame, each)
    if pill is None:
        return None
    painter.setPen(QPen(colour("brass"), 2) if chosen else Qt.PenStyle.NoPen)
    painter.setBrush(colour("brass_wash" if chosen else "slate"))
    painter.drawRoundedRect(pill, 10, 10)
    painter.setFont(font_of(px(12), QFont.Weight.DemiBold))
    painter.setPen(colour("ink" if chosen else "on_slate"))
    painter.drawText(pill, MIDDLE, f"{each.at:g}")
    return pill


def pill_of(frame: Frame, each: Breakpoint) -> QRectF | None:
    """Where the pill of a breakpoint lies: above the plane for widths, right of it for heights."""
    if each.axis == "width" and each.at <= frame.most[0]:
        at = frame.to_view(each.at, frame.most[1])
        return QRectF(at.x() - PILL[0] / 2, at.y() - PILL[1] - 1, *PILL)
    if each.axis == "height" and each.at <= frame.most[1]:
        at = frame.to_view(frame.most[0], each.at)
        return QRectF(at.x() + 2, at.y() - PILL[1] / 2, *PILL)
    return None


def paint_axes(painter: QPainter, frame: Frame) -> None:
    """Sizes along the edges, in dp."""
    painter.setFont(font_of(px(11), QFont.Weight.Normal))
    painter.setPen(colour("soft"))
    step = 200 if max(frame.most) <= 2000 else 500 if max(frame.most) <= 5000 else 2000
    for size in range(0, int(frame.most[0]) + 1, step):
        at = frame.to_view(size, 0)
        painter.drawLine(at, at + QPointF(0, 4))
        painter.drawText(QRectF(at.x() - 30, at.y() + 5, 60, 16), MIDDLE, str(size))
    for size in range(step, int(frame.most[1]) + 1, step):
        at = frame.to_view(0, size)
        right = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        painter.drawText(QRectF(at.x() - 46, at.y() - 8, 40, 16), right, str(size))
    painter.drawText(
        QRectF(frame.rect.x(), frame.rect.bottom() + 20, frame.rect.width(), 16),
        MIDDLE,
        "window width, dp",
    )
    painter.save()
    painter.translate(frame.rect.x() - 50, frame.rect.center().y())
    painter.rotate(-90)
    painter.drawText(QRectF(-80, -8, 160, 16), MIDDLE, "window height, dp")
    painter.restore()


def arc_of(frame: Frame, start: tuple[float, float], end: tuple[float, float]) -> QPainterPath:
    """The way from one size to another, bent so that ways there and back do not meet."""
    one, other = frame.to_view(*start), frame.to_view(*end)
    path = QPainterPath(one)
    middle, along = (one + other) / 2, other - one
    bend = QPointF(along.y(), -along.x()) * 0.22
    path.quadTo(middle + bend, other)
    return path


def crossing(
    frame: Frame, plane: Plane, path: QPainterPath, folded: Plane | None
) -> QPointF | None:
    """Where an arc comes to the arrangement it ends in, or none where it stays in one."""
    if folded is not None and any(each.when.fold for each in plane.rules):
        begun = plane.at(*frame.to_size(path.pointAtPercent(0)))
        ended = folded.at(*frame.to_size(path.pointAtPercent(1)))
        return path.pointAtPercent(0.5) if begun != ended else None
    found = [plane.at(*frame.to_size(path.pointAtPercent(n / SAMPLES))) for n in range(SAMPLES + 1)]
    if found[0] == found[-1]:
        return None
    last = max(n for n in range(SAMPLES) if found[n] != found[-1])
    return path.pointAtPercent((last + 0.5) / SAMPLES)


def paint_windows(
    painter: QPainter,
    frame: Frame,
    planes: tuple[Plane, Plane],
    dots: Sequence[Dot],
    chosen: str,
    words: Sequence[QRectF] = (),
) -> list[QRectF]:
    """Named windows, the arcs of turning and folding, and a mark where an arc crosses over.

    Args:
        words: where something is said already; no name lies on it where there is another place.
    """
    flat, folded = planes
    lines: list[QRectF] = []
    sizes = {each.name: each.size for each in dots if not each.way}
    for dot in dots:
        if dot.way:
            lit = dot.of == chosen
            path = arc_of(frame, sizes[dot.of], dot.size)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            pen = QPen(colour("brass" if lit else "ink"), 2 if lit else 1.2, Qt.PenStyle.DotLine)
            painter.setPen(pen)
            painter.drawPath(path)
            for step in range(0, SAMPLES + 1, 3):
                on = path.pointAtPercent(step / SAMPLES)
                lines.append(QRectF(on.x() - 3, on.y() - 3, 6, 6))
            at = crossing(frame, flat, path, folded if dot.way == "fold" else None)
            if at is not None:
                _paint_crossing(painter, at)
    placed: list[QRectF] = []
    for dot in dots:
        at = frame.to_view(*dot.size)
        placed.append(QRectF(at.x() - DOT, at.y() - DOT, 2 * DOT, 2 * DOT))
        painter.setPen(QPen(colour("brass" if dot.of == chosen else "ink"), 2))
        painter.setBrush(colour("card") if dot.way else colour("ink"))
        painter.drawEllipse(at, DOT, DOT)
    for breakpoint in flat.breakpoints:
        if breakpoint.axis == "width" and breakpoint.at <= frame.most[0]:
            x = frame.to_view(breakpoint.at, 0).x()
            lines.append(QRectF(x - 2, frame.rect.y(), 4, frame.rect.height()))
    for dot in dots:
        _paint_name(painter, frame, dot, placed, (lines, words), dot.name == chosen)
    return placed


def _paint_crossing(painter: QPainter, at: QPointF) -> None:
    """A small diamond: here the arrangement changes."""
    shape = QPolygonF([at + QPointF(*by) for by in ((0, -6), (6, 0), (0, 6), (-6, 0))])
    painter.setPen(QPen(colour("ink"), 1.4))
    painter.setBrush(colour("card"))
    painter.drawPolygon(shape)


def _paint_name(
    painter: QPainter,
    frame: Frame,
    dot: Dot,
    placed: list[QRectF],
    others: tuple[Sequence[QRectF], Sequence[QRectF]],
    chosen: bool,
) -> None:
    """A window's name, where it covers least: other names and dots before all, then lines and
    words; one that had to go far is led to."""
    weight = QFont.Weight.Bold if chosen else QFont.Weight.Medium
    font = font_of(px(11), weight)
    painter.setFont(font)
    wide = painter.fontMetrics().horizontalAdvance(dot.name) + 4.0
    at = frame.to_view(*dot.size)
    inside = frame.rect.adjusted(2, 2, 50, -2)
    lines, words = others
    best, least = QRectF(at.x() + 8, at.y() - 8, wide, 16), float("inf")
    for rect, far in _around(at, wide):
        if not inside.contains(rect):
            continue
        cost = far + 40 * _covered(rect, placed) + 3 * _covered(rect, lines)
        cost += 4 * _covered(rect, words)
        if cost < least:
            best, least = rect, cost
    placed.append(best)
    nearest = QPointF(
        min(max(at.x(), best.left()), best.right()), min(max(at.y(), best.top()), best.bottom())
    )
    away = nearest - at
    if abs(away.x()) + abs(away.y()) > 14:
        painter.setPen(QPen(colour("soft"), 0.8))
        painter.drawLine(at + away * 0.3, nearest)
    painter.setPen(colour("ink"))
    painter.drawText(best, MIDDLE, dot.name)


def _around(at: QPointF, wide: float) -> Iterator[tuple[QRectF, float]]:
    """Places for words around a point, with how far each is, nearest first."""
    for ring in range(6):
        out = 9.0 * ring
        for x, y in (
            (at.x() + 8 + out, at.y() - 8),
            (at.x() - wide - 8 - out, at.y() - 8),
            (at.x() + 4 + out, at.y() - 23 - out),
            (at.x() + 4 + out, at.y() + 7 + out),
            (at.x() - wide - 4 - out, at.y() + 7 + out),
            (at.x() - wide - 4 - out, at.y() - 23 - out),
            (at.x() - wide / 2, at.y() - 25 - out),
            (at.x() - wide / 2, at.y() + 9 + out),
        ):
            yield QRectF(x, y, wide, 16), 40.0 * ring


def _covered(rect: QRectF, others: Sequence[QRectF]) -> float:
    """How much of others a place covers, in px squared."""
    both = (rect.intersected(each) for each in others if each.intersects(rect))
    return sum(each.width() * each.height() for each in both)


def live_label(frame: Frame, size: tuple[float, float], held: bool) -> tuple[str, QRectF]:
    """What stands beside the live point, and where."""
    at = live_point(frame, size)
    said = f"{size[0]:g} × {size[1]:g}" + ("" if held else " · on the Bench")
    metrics = QFontMetricsF(font_of(px(12), QFont.Weight.Bold))
    wide = metrics.horizontalAdvance(said) + 12.0
    x = at.x() + 16 if at.x() + 16 + wide < frame.rect.right() + 40 else at.x() - 16 - wide
    return said, QRectF(x, at.y() - 11, wide, 22)


def live_point(frame: Frame, size: tuple[float, float]) -> QPointF:
    return frame.to_view(min(size[0], frame.most[0]), min(size[1], frame.most[1]))


def live_rect(frame: Frame, size: tuple[float, float], held: bool) -> QRectF:
    """All that the live point and what stands beside it take."""
    at = live_point(frame, size)
    label = live_label(frame, size, held)[1]
    return label.united(QRectF(at.x() - 14, at.y() - 14, 28, 28)).adjusted(-3, -3, 3, 3)


def paint_live(painter: QPainter, frame: Frame, size: tuple[float, float], held: bool) -> None:
    """The window on the Bench, as a point to drag."""
    at = live_point(frame, size)
    painter.setPen(QPen(colour("brass"), 3))
    painter.setBrush(colour("brass_wash"))
    painter.drawEllipse(at, 11, 11)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("brass"))
    painter.drawEllipse(at, 4, 4)
    said, rect = live_label(frame, size, held)
    painter.setFont(font_of(px(12), QFont.Weight.Bold))
    painter.setPen(QPen(colour("brass"), 1))
    painter.setBrush(colour("brass_wash"))
    painter.drawRoundedRect(rect, 8, 8)
    painter.setPen(colour("ink"))
    painter.drawText(rect, MIDDLE, said)
