"""How the lamp that fades first loses its light over the hours, with the three events on the curve."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme

LEFT, RIGHT, HEAD, FOOT = 44.0, 30.0, 26.0, 26.0


class FadeCurve(QWidget):
    """Paints light (a share of the fresh light) over hours; events are (hours, sign and words)."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(250, 140)
        self.setAccessibleName("Light left over the hours")
        self._points: tuple[tuple[float, float], ...] = ()
        self._events: tuple[tuple[float, str], ...] = ()
        self._either: tuple[tuple[tuple[float, float], ...], ...] = ()
        self._empty = ""

    def show_curve(
        self,
        points: tuple[tuple[float, float], ...],
        events: tuple[tuple[float, str], ...],
        either: tuple[tuple[tuple[float, float], ...], ...] = (),
        empty: str = "",
    ) -> None:
        """Replace the curve and what tolerances make of it to either side; with none, `empty` says why."""
        self._points, self._events, self._either, self._empty = points, events, either, empty
        self.setAccessibleDescription("; ".join(words for _, words in events) or empty)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter, t = QPainter(self), theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.panel))
        painter.setFont(theme.font(11))
        painter.setPen(QColor(t.quiet))
        area = QRectF(LEFT, HEAD, self.width() - LEFT - RIGHT, self.height() - HEAD - FOOT)
        if len(self._points) < 2 or area.width() < 40:
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._empty)
            return
        painter.drawText(QPointF(8, 16), "light of the lamp that fades first, %, and its ±")
        last = self._points[-1][0]
        for share in (0.0, 0.5, 1.0):
            y = area.bottom() - share * area.height()
            painter.setPen(QPen(QColor(t.edge), 1))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            painter.setPen(QColor(t.quiet))
            painter.drawText(QRectF(0, y - 8, LEFT - 6, 16), Qt.AlignmentFlag.AlignRight, f"{100 * share:.0f}")
        for part in range(5):
            x = area.left() + area.width() * part / 4
            words = f"{last * part / 4:.0f}{' h' if part == 4 else ''}"
            align = Qt.AlignmentFlag.AlignRight if part == 4 else Qt.AlignmentFlag.AlignHCenter
            painter.drawText(QRectF(x - 40 - (20 if part == 4 else 0), area.bottom() + 5, 80, 16), align, words)
        self._draw_band(painter, area, last)
        painter.setPen(QPen(QColor(t.text), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF([self._at(area, last, h, light) for h, light in self._points]))
        self._draw_events(painter, area, last)

    def _draw_band(self, painter: QPainter, area: QRectF, last: float) -> None:
        """Between the curves with everything off to one side and to the other."""
        if len(self._either) != 2:
            return
        low, high = self._either
        if not low or not high:
            return
        # Where the cells are used up sooner, nothing is sure from there on.
        low = (*low, (low[-1][0], 0.0), (high[-1][0], 0.0))
        fill = QColor(theme.current().text)
        fill.setAlpha(40)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(fill)
        painter.drawPolygon(QPolygonF([self._at(area, last, h, light) for h, light in (*low, *reversed(high))]))

    def _draw_events(self, painter: QPainter, area: QRectF, last: float) -> None:
        t = theme.current()
        painter.setFont(theme.font(11, QFont.Weight.DemiBold))
        for row, (hours, words) in enumerate(self._events):
            if hours > last:
                continue
            at = self._at(area, last, hours, self._light(hours))
            painter.setPen(QPen(QColor(t.text), 1.2))
            painter.setBrush(QColor(t.yellow if row == 0 else t.coral))
            painter.drawEllipse(at, 4, 4)
            width = painter.fontMetrics().horizontalAdvance(words)
            x = min(at.x() + 7, area.right() - width)
            painter.drawText(QPointF(x, max(at.y() - 7 - 14 * (row % 2), HEAD + 10)), words)

    def _light(self, hours: float) -> float:
        for (h0, l0), (h1, l1) in zip(self._points, self._points[1:], strict=False):
            if h0 <= hours <= h1:
                return l0 + (l1 - l0) * (hours - h0) / max(h1 - h0, 1e-9)
        return self._points[-1][1]

    @staticmethod
    def _at(area: QRectF, last: float, hours: float, light: float) -> QPointF:
        return QPointF(
            area.left() + area.width() * hours / max(last, 1e-9), area.bottom() - min(light, 1.0) * area.height()
        )
