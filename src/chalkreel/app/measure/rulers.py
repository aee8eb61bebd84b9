"""How well the rulers of a still agree, as a small plot: each ruler against all the others."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from chalkreel.answers.sizes import PlaneRow
from chalkreel.app import theme
from chalkreel.app.measure.model import plane_words
from chalkreel.core.interval import NORMAL_95

ROW = 34


class RulersPlot(QWidget):
    """One line a ruler: a dot at its deviation, a bar over its 95 % interval, the numbers in words."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Agreement of the rulers")
        self._planes: tuple[PlaneRow, ...] = ()
        self._names: tuple[str, ...] = ()

    def show_planes(self, planes: tuple[PlaneRow, ...], names: tuple[str, ...]) -> None:
        """Replace what is shown; each plane comes with its name."""
        self._planes, self._names = planes, names
        self.setFixedHeight(sum(44 + ROW * len(plane.agreement) for plane in planes))
        self.setAccessibleDescription("; ".join(f"{n}: {plane_words(p)}" for p, n in zip(planes, names, strict=True)))
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t = theme.current()
        painter.fillRect(self.rect(), QColor(t.panel))
        reach = max((abs(a.deviation or 0) + 2 * a.sigma for p in self._planes for a in p.agreement), default=0.01)
        top = 6.0
        for plane, name in zip(self._planes, self._names, strict=True):
            painter.setFont(theme.font(12, QFont.Weight.DemiBold))
            painter.setPen(QColor(t.text))
            head = QRectF(10, top, self.width() - 20, 32)
            words = f"{name}: each ruler against the others" if len(plane.agreement) > 1 else name
            painter.drawText(head, int(Qt.TextFlag.TextWordWrap), words)
            top += 20 if painter.fontMetrics().horizontalAdvance(words) < head.width() else 36
            for row in plane.agreement:
                self._draw_row(
                    painter, QRectF(10, top, self.width() - 20, ROW), row.name, row.deviation, row.sigma, reach
                )
                top += ROW
            top += 6

    def _draw_row(
        self, painter: QPainter, place: QRectF, name: str, deviation: float | None, sigma: float, reach: float
    ) -> None:
        t = theme.current()
        painter.setFont(theme.font(11))
        painter.setPen(QColor(t.quiet))
        if deviation is None:
            painter.drawText(place, f"{name}: ± {100 * NORMAL_95 * sigma:.1f} % of itself")
            return
        painter.drawText(place, name)
        words = f"{100 * deviation:+.1f} % ± {100 * NORMAL_95 * sigma:.1f}"
        painter.drawText(place, Qt.AlignmentFlag.AlignRight, words)
        middle, y, scale = place.center().x(), place.top() + 23, place.width() / 2 / reach
        painter.setPen(QPen(QColor(t.edge), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(middle, y - 7), QPointF(middle, y + 7))
        agrees = abs(deviation) <= NORMAL_95 * sigma
        colour = QColor(t.mint if agrees else t.coral)
        painter.setPen(QPen(colour, 2.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        x = middle + deviation * scale
        half = NORMAL_95 * sigma * scale
        left, right = max(place.left(), x - half), min(place.right(), x + half)
        painter.drawLine(QPointF(left, y), QPointF(right, y))
        painter.setBrush(colour)
        painter.drawEllipse(QPointF(x, y), 3.5, 3.5)
