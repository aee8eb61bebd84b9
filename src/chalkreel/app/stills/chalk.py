"""Strokes drawn over a still: slightly soft chalk with a dark halo."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QPainter, QPainterPath, QPen

from chalkreel.app import theme
from chalkreel.app.stills.strokes import Stroke

# Half a cross's size, and how far labels that nobody asked for stay from all else, so that the picture is seen.
CROSS_PX, SPARE_PX = 6.0, 22.0
ToScreen = Callable[[float, float], QPointF]


def draw(painter: QPainter, stroke: Stroke, to_screen: ToScreen) -> None:
    """Draw one stroke; its label comes later so that no line crosses it."""
    points = [to_screen(x, y) for x, y in stroke.points]
    path = QPainterPath(points[0])
    for point in points[1:]:
        path.lineTo(point)
    if stroke.closed:
        path.closeSubpath()
    style = Qt.PenStyle.DashLine if stroke.dashed else Qt.PenStyle.SolidLine
    width = 2.6 if stroke.strong else 1.8
    _stroke(painter, path, stroke.colour, width, style)
    if stroke.crosses:
        for point in points:
            _cross(painter, point, stroke.colour, 7.0 if stroke.strong else 5.5)


def draw_labels(painter: QPainter, strokes: tuple[Stroke, ...], to_screen: ToScreen) -> None:
    """Write labels where they cover no other; the strong ones first. What finds no room stays unwritten."""
    taken: list[QRectF] = []
    crosses_taken = False
    font = theme.font(12, QFont.Weight.DemiBold)
    metrics = QFontMetricsF(font)
    for stroke in sorted((s for s in strokes if s.label), key=lambda s: (s.spare, not s.strong)):
        if stroke.spare and not crosses_taken:
            places = (to_screen(x, y) for s in strokes if s.crosses for x, y in s.points)
            taken += [QRectF(p.x() - CROSS_PX, p.y() - CROSS_PX, 2 * CROSS_PX, 2 * CROSS_PX) for p in places]
            crosses_taken = True
        size = QRectF(0, 0, metrics.horizontalAdvance(stroke.label) + 4, metrics.height())
        clear = SPARE_PX if stroke.spare else 0.0
        points = [to_screen(x, y) for x, y in stroke.points]
        place = _free_place(points, size, taken, QRectF(painter.viewport()), clear)
        if place is not None:
            taken.append(place)
            text = QPainterPath()
            text.addText(place.left(), place.top() + metrics.ascent(), font, stroke.label)
            painter.strokePath(text, _pen("halo", 255, 3.5, Qt.PenStyle.SolidLine))
            painter.fillPath(text, theme.chalk(stroke.colour))


def _free_place(points: list[QPointF], size: QRectF, taken: list[QRectF], area: QRectF, clear: float) -> QRectF | None:
    middle = QPointF(sum(p.x() for p in points) / len(points), sum(p.y() for p in points) / len(points))
    left, right = min(points, key=QPointF.x), max(points, key=QPointF.x)
    w, h = size.width(), size.height()
    corners = [
        QPointF(middle.x() - w / 2, middle.y() - h - 5),
        QPointF(middle.x() - w / 2, middle.y() + 6),
        QPointF(right.x() + 9, right.y() - h / 2),
        QPointF(left.x() - w - 9, left.y() - h / 2),
        QPointF(right.x() + 9, right.y() - 1.6 * h),
        QPointF(left.x() - w - 9, left.y() + 0.6 * h),
    ]
    for corner in corners:
        place = size.translated(corner)
        wide = place.adjusted(-clear, -clear, clear, clear)
        own = points if clear else ()
        if area.contains(place) and not any(
            other.intersects(wide) and not any(other.contains(p) for p in own) for other in taken
        ):
            return place
    return None


def draw_cross(painter: QPainter, at: QPointF, colour: str, size: float = 9.0) -> None:
    """The cross of the active mark."""
    _cross(painter, at, colour, size)


def draw_ring(painter: QPainter, at: QPointF, colour: str, size: float = 5.0) -> None:
    """The place that a click would be moved to."""
    path = QPainterPath()
    path.addEllipse(at, size, size)
    _stroke(painter, path, colour, 1.6, Qt.PenStyle.SolidLine)


def draw_refusal(painter: QPainter, at: QPointF, size: float = 7.0) -> None:
    """The mark of a click that was refused."""
    path = QPainterPath()
    for sign in (-1.0, 1.0):
        path.moveTo(at.x() - size, at.y() - sign * size)
        path.lineTo(at.x() + size, at.y() + sign * size)
    _stroke(painter, path, "coral", 2.4, Qt.PenStyle.SolidLine)


def _cross(painter: QPainter, at: QPointF, colour: str, size: float) -> None:
    path = QPainterPath()
    for dx, dy in ((size, 0.0), (0.0, size)):
        path.moveTo(at.x() - dx, at.y() - dy)
        path.lineTo(at.x() + dx, at.y() + dy)
    _stroke(painter, path, colour, 1.6, Qt.PenStyle.SolidLine)


def _stroke(painter: QPainter, path: QPainterPath, colour: str, width: float, style: Qt.PenStyle) -> None:
    painter.strokePath(path, _pen("halo", 190, width + 2.6, style))
    painter.strokePath(path, _pen(colour, 70, width + 1.6, style))
    painter.strokePath(path, _pen(colour, 255, width, style))


@cache
def _pen(name: str, alpha: int, width: float, style: Qt.PenStyle) -> QPen:
    """A chalk's pen; there are a few dozen, and a still with many marks asks for a thousand in one paint."""
    colour = theme.chalk(name)
    colour.setAlpha(alpha)
    return QPen(colour, width, style, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
