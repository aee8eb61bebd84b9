"""The wiring diagram, drawn with polarity: plus wires bold with +, minus wires thin with −."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.core.light.wiring import Symbol, Wire, Wiring

GLOW = {
    "white": "#f4f4f4",
    "warm white": "#f2e2bd",
    "blue": "#8fc4f2",
    "green": "#8ed7a8",
    "yellow": "#f2d06b",
    "orange": "#f2ae6b",
    "red": "#f2917f",
}


class WiringDiagram(QWidget):
    """Paints a Wiring, scaled to fit."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(260)
        self.setAccessibleName("Wiring diagram")
        self._wiring: Wiring | None = None

    def show_wiring(self, wiring: Wiring | None) -> None:
        """Replace the drawing."""
        self._wiring = wiring
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t = theme.current()
        painter.fillRect(self.rect(), QColor(t.board))
        wiring = self._wiring
        if wiring is None or len(wiring.symbols) <= 2:
            painter.setPen(QColor(t.quiet))
            painter.setFont(theme.font(15, QFont.Weight.DemiBold))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter, "No lamp yet: add one below, or leave the model unlit."
            )
            return
        scale = min(self.width() / wiring.width, self.height() / wiring.height, 1.7)
        painter.translate((self.width() - wiring.width * scale) / 2, (self.height() - wiring.height * scale) / 2)
        painter.scale(scale, scale)
        for wire in wiring.wires:
            self._draw_wire(painter, wire)
        for symbol in wiring.symbols:
            self._draw_symbol(painter, symbol)

    def _draw_wire(self, painter: QPainter, wire: Wire) -> None:
        t = theme.current()
        colour = {"plus": t.coral, "minus": t.sky}.get(wire.polarity, t.text)
        painter.setPen(QPen(QColor(colour), 2.4 if wire.polarity == "plus" else 1.6))
        painter.drawLine(QPointF(wire.x0, wire.y0), QPointF(wire.x1, wire.y1))
        long_enough = abs(wire.x1 - wire.x0) > 40
        if wire.polarity != "between" and long_enough:
            painter.setFont(theme.font(14, QFont.Weight.Bold))
            sign = "+" if wire.polarity == "plus" else "−"
            painter.drawText(QPointF(wire.x0 + 10, wire.y0 - 5), sign)

    def _draw_symbol(self, painter: QPainter, symbol: Symbol) -> None:
        t = theme.current()
        at = QPointF(symbol.x, symbol.y)
        painter.setPen(QPen(QColor(t.text if symbol.lit else t.coral), 1.6))
        painter.setBrush(QColor(t.board))
        if symbol.kind == "supply":
            painter.drawLine(at + QPointF(-18, -16), at + QPointF(18, -16))
            painter.drawLine(at + QPointF(-9, 16), at + QPointF(9, 16))
            for y in (-5.0, 5.0):
                painter.drawLine(at + QPointF(-14 if y < 0 else -9, y), at + QPointF(14 if y < 0 else 9, y))
            _write(painter, symbol.label, at + QPointF(24, -14))
        elif symbol.kind == "switch":
            painter.drawLine(at + QPointF(-14, 0), at + QPointF(11, -12))
            painter.drawEllipse(at + QPointF(-14, 0), 2.5, 2.5)
            painter.drawEllipse(at + QPointF(14, 0), 2.5, 2.5)
            _write(painter, symbol.label, at + QPointF(-18, 8))
        elif symbol.kind == "resistor":
            painter.drawRect(QRectF(at.x() - 6, at.y() - 16, 12, 32))
            _write(painter, symbol.label, at + QPointF(11, -14))
        else:
            self._draw_led(painter, symbol, at)

    def _draw_led(self, painter: QPainter, symbol: Symbol, at: QPointF) -> None:
        painter.setBrush(QColor(GLOW.get(symbol.colour, "#f4f4f4") if symbol.lit else theme.current().board))
        painter.drawPolygon(QPolygonF([at + QPointF(-11, -11), at + QPointF(11, -11), at + QPointF(0, 9)]))
        painter.drawLine(at + QPointF(-11, 10), at + QPointF(11, 10))
        if symbol.lit:
            for dy in (-3.0, 4.0):
                painter.drawLine(at + QPointF(-12, dy), at + QPointF(-20, dy - 7))
        _write(painter, f"{symbol.label}\n{symbol.colour}" if symbol.label else "", at + QPointF(16, -12))


def _write(painter: QPainter, words: str, at: QPointF) -> None:
    painter.setFont(theme.font(11))
    for number, line in enumerate(words.split("\n")):
        painter.drawText(at + QPointF(0, 11 + 14 * number), line)
