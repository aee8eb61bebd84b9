"""Strokes drawn over a still: slightly soft chalk with a dark halo."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPainterPath, QPen

from chalkreel.app import theme
from chalkreel.app.stills.strokes import Stroke

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


def draw_label(painter: QPainter, stroke: Stroke, to_screen: ToScreen, taken: list[QRectF]) -> None:
    """Write the label beside the stroke's middle, moved down until it covers no other."""
    if not stroke.label:
        return
    points = [to_screen(x, y) for x, y in stroke.points]
    middle = QPointF(sum(p.x() for p in points) / len(points), sum(p.y() for p in points) / len(points))
    font = theme.font(13, QFont.Weight.DemiBold)
    metrics = QFontMetricsF(font)
    box = QRectF(
        middle.x() + 8, middle.y() - metrics.height() - 4, metrics.horizontalAdvance(stroke.label), metrics.height()
    )
    edges = QRectF(painter.viewport()).adjusted(4, 4, -4, -4)
    box.moveLeft(max(edges.left(), min(box.left(), edges.right() - box.width())))
    for _ in range(12):
        clash = next((other for other in taken if other.intersects(box)), None)
        if clash is None:
            break
        box.moveTop(clash.bottom() + 1)
    taken.append(box)
    text = QPainterPath()
    text.addText(box.left(), box.top() + metrics.ascent(), font, stroke.label)
    painter.strokePath(text, _pen(theme.chalk("halo"), 3.5, Qt.PenStyle.SolidLine))
    painter.fillPath(text, theme.chalk(stroke.colour))


def draw_cross(painter: QPainter, at: QPointF, colour: str, size: float = 9.0) -> None:
    """The cross of the active mark."""
    _cross(painter, at, colour, size)


def _cross(painter: QPainter, at: QPointF, colour: str, size: float) -> None:
    path = QPainterPath()
    for dx, dy in ((size, 0.0), (0.0, size)):
        path.moveTo(at.x() - dx, at.y() - dy)
        path.lineTo(at.x() + dx, at.y() + dy)
    _stroke(painter, path, colour, 1.6, Qt.PenStyle.SolidLine)


def _stroke(painter: QPainter, path: QPainterPath, colour: str, width: float, style: Qt.PenStyle) -> None:
    halo = theme.chalk("halo")
    halo.setAlpha(190)
    painter.strokePath(path, _pen(halo, width + 2.6, style))
    soft = theme.chalk(colour)
    soft.setAlpha(70)
    painter.strokePath(path, _pen(soft, width + 1.6, style))
    painter.strokePath(path, _pen(theme.chalk(colour), width, style))


def _pen(colour: QColor, width: float, style: Qt.PenStyle) -> QPen:
    return QPen(colour, width, style, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
