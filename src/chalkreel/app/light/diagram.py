"""The wiring, drawn with polarity: parts as they lie in the hand, + and − at every end."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from chalkreel.app import theme
from chalkreel.app.parts.empty import draw_empty
from chalkreel.app.parts.key_choices import Choice, KeyChoices
from chalkreel.core.light.drawing import Part, Place, Wiring

GLOW = {
    "white": "#f4f4f4", "warm white": "#f2e2bd", "blue": "#8fc4f2", "green": "#8ed7a8", "leaf green": "#b9d78e",
    "yellow": "#f2d06b", "orange": "#f2ae6b", "red": "#f2917f",
}  # fmt: skip
DRAG_PX = 8
EMPTY_WORDS = "No lamp yet: press Add lamp, or leave the model unlit, which is respectable."


class WiringDiagram(KeyChoices):
    """Paints a Wiring at its own size; a branch or lamp is chosen by click, arrows and Enter; a lamp is dragged.

    Signals
    -------
    chosen(int, int, int): branch number, strand and place (−1: the branch). moved(int, int, int, int): a lamp was
    dropped on another branch, or (−1) beside all of them.
    """

    chosen = Signal(int, int, int)
    moved = Signal(int, int, int, int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Wiring diagram")
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self._wiring: Wiring | None = None
        self._names: tuple[str, ...] = ()
        self.at: tuple[int, int, int] | None = None
        self._pressed: tuple[Place, QPointF] | None = None
        self._held: QPointF | None = None

    def show_wiring(self, wiring: Wiring | None, names: tuple[str, ...], at: tuple[int, int, int] | None) -> None:
        """Replace the drawing; `names` are the branches', `at` what is chosen."""
        self._wiring, self._names, self.at = wiring, names, at
        if wiring is None or not wiring.places:
            self.setFixedSize(560, 240)
        else:
            self.setFixedSize(round(wiring.width), round(wiring.height))
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t, wiring = theme.current(), self._wiring
        painter.fillRect(self.rect(), QColor(t.board))
        if wiring is None or not wiring.places:
            draw_empty(painter, self.rect(), EMPTY_WORDS)
            return
        self._draw_chosen(painter, wiring)
        for frame in wiring.frames:
            painter.setPen(QPen(QColor(t.edge), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(frame.x, frame.y, frame.width, frame.height), 6, 6)
            self._badge(painter, frame.x + frame.width - 6, frame.y + frame.height, frame.badge)
        for line in wiring.lines:
            colour = {"plus": t.coral, "minus": t.sky}.get(line.polarity, t.text)
            style = Qt.PenStyle.DashLine if line.broken else Qt.PenStyle.SolidLine
            painter.setPen(QPen(QColor(colour), 2.4 if line.polarity != "between" else 1.4, style))
            painter.drawLine(QPointF(line.x0, line.y0), QPointF(line.x1, line.y1))
        for part in wiring.parts:
            _draw_part(painter, part)
        self._draw_texts(painter, wiring)
        if self._held is not None:
            painter.setPen(QPen(QColor(t.yellow), 2, Qt.PenStyle.DashLine))
            painter.drawEllipse(self._held, 16, 16)
        self.draw_focus(painter)

    def _badge(self, painter: QPainter, right: float, top: float, words: str) -> None:
        t = theme.current()
        painter.setFont(theme.font(12, QFont.Weight.Bold))
        width = painter.fontMetrics().horizontalAdvance(words) + 12
        box = QRectF(right - width, top - 12, width, 20)
        painter.setPen(QPen(QColor(t.text), 1))
        painter.setBrush(QColor(t.panel))
        painter.drawRoundedRect(box, 5, 5)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _draw_chosen(self, painter: QPainter, wiring: Wiring) -> None:
        at = self.at
        if at is None:
            return
        for place in wiring.places:
            if (place.branch, place.strand, place.place) in (at, (at[0], -1, -1)):
                whole = place.strand < 0
                painter.setPen(QPen(QColor(theme.current().yellow), 1.2 if whole else 2))
                painter.setBrush(QColor(theme.current().panel) if whole else Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(QRectF(place.x, place.y, place.width, place.height), 6, 6)

    def _draw_texts(self, painter: QPainter, wiring: Wiring) -> None:
        t = theme.current()
        looks = {
            "name": (t.text, 12, QFont.Weight.DemiBold), "figure": (t.text, 13, QFont.Weight.Bold),
            "quiet": (t.quiet, 12, QFont.Weight.Normal), "bad": (t.coral, 13, QFont.Weight.Bold),
            "plus": (t.coral, 13, QFont.Weight.Bold), "minus": (t.sky, 13, QFont.Weight.Bold),
        }  # fmt: skip
        for text in wiring.texts:
            colour, size, weight = looks[text.role]
            painter.setFont(theme.font(size, weight))
            painter.setPen(QColor(colour))
            painter.drawText(QPointF(text.x, text.y), text.words)

    # --- mouse and keys ---

    def choices(self) -> tuple[Choice, ...]:
        if self._wiring is None:
            return ()
        return tuple(
            (
                self._words(p),
                QRectF(p.x, p.y, p.width, p.height),
                partial(self.chosen.emit, p.branch, p.strand, p.place),
            )
            for p in self._wiring.places
        )

    def _words(self, place: Place) -> str:
        name = self._names[place.branch] if place.branch < len(self._names) else ""
        return name if place.strand < 0 else f"{name}, lamp {place.place + 1} of strand {place.strand + 1}"

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = self._hit(event.position())
        self._pressed = (place, event.position()) if place is not None else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None or self._pressed[0].strand < 0:
            return
        if (event.position() - self._pressed[1]).manhattanLength() > DRAG_PX:
            self._held = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed = self._pressed, None
        held, self._held = self._held, None
        self.update()
        if pressed is None:
            return
        place = pressed[0]
        if held is None:
            self.chosen.emit(place.branch, place.strand, place.place)
            return
        over = self._hit(event.position(), lambda p: p.strand < 0)
        if over is None or over.branch != place.branch:
            self.moved.emit(place.branch, place.strand, place.place, over.branch if over is not None else -1)

    def _hit(self, at: QPointF, wanted: Callable[[Place], bool] = lambda _: True) -> Place | None:
        """The smallest place under the pointer: a lamp before its branch."""
        if self._wiring is None:
            return None
        under = [
            p for p in self._wiring.places if wanted(p) and QRectF(p.x, p.y, p.width, p.height).contains(at)
        ]  # fmt: skip
        return min(under, key=lambda p: p.width * p.height, default=None)


def _draw_part(painter: QPainter, part: Part) -> None:
    t = theme.current()
    at = QPointF(part.x, part.y)
    painter.setPen(QPen(QColor(t.text), 1.6))
    painter.setBrush(QColor(t.board))
    if part.kind == "cell":
        box = QRectF(part.x - 34, part.y - 13, 62, 26)
        painter.drawRoundedRect(box, 5, 5)
        painter.drawRect(QRectF(box.right(), part.y - 6, 5, 12))
        painter.setFont(theme.font(13, QFont.Weight.Bold))
        painter.setPen(QColor(t.sky))
        painter.drawText(QPointF(box.left() + 6, part.y + 5), "−")
        painter.setPen(QColor(t.coral))
        painter.drawText(QPointF(box.right() - 15, part.y + 5), "+")
    elif part.kind in ("plug", "module"):
        painter.drawRoundedRect(QRectF(part.x - 24, part.y - 15, 48, 30), 6, 6)
        painter.setFont(theme.font(11))
        words = "plug" if part.kind == "plug" else "step-up"
        painter.drawText(QRectF(part.x - 24, part.y - 15, 48, 30), Qt.AlignmentFlag.AlignCenter, words)
    elif part.kind == "switch":
        painter.drawLine(at + QPointF(-14, 0), at + QPointF(11, -11))
        painter.drawEllipse(at + QPointF(-14, 0), 2.5, 2.5)
        painter.drawEllipse(at + QPointF(14, 0), 2.5, 2.5)
    elif part.kind in ("resistor", "fuse"):
        painter.drawRoundedRect(QRectF(part.x - 8, part.y - 18, 16, 36), 4, 4)
        if part.kind == "resistor":
            for y in (-9, -2, 5):
                painter.drawLine(at + QPointF(-8, y), at + QPointF(8, y))
        else:
            painter.drawLine(at + QPointF(0, -18), at + QPointF(0, 18))
    elif part.kind == "driver":
        painter.drawRoundedRect(QRectF(part.x - 9, part.y - 10, 18, 20), 3, 3)
    else:
        _draw_lamp(painter, part, at)


def _draw_lamp(painter: QPainter, part: Part, at: QPointF) -> None:
    """A dome or a chip with its minus end dark; a turned one upside down."""
    t = theme.current()
    painter.save()
    painter.translate(at)
    if part.turned:
        painter.rotate(180)
    painter.setBrush(QColor(GLOW.get(part.colour, "#f4f4f4")) if part.lit else QColor(t.board))
    painter.setPen(QPen(QColor(t.text if part.lit else t.coral), 1.8))
    if part.kind == "dome":
        painter.drawRoundedRect(QRectF(-9, -15, 18, 30), 9, 9)
        painter.fillRect(QRectF(-12, 10, 24, 5), QColor(t.text if part.lit else t.coral))
    elif part.kind == "strip":
        painter.drawRect(QRectF(-9, -15, 18, 30))
        for y in (-9, 0, 9):
            painter.drawEllipse(QPointF(0, y), 3, 3)
    else:
        painter.drawRect(QRectF(-9, -14, 18, 28))
        painter.fillRect(QRectF(-9, 8, 18, 6), QColor(t.text if part.lit else t.coral))
    painter.restore()
    if part.ringed:
        painter.setPen(QPen(QColor(t.coral), 2, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, 26, 26)
        painter.setFont(theme.font(14, QFont.Weight.Bold))
        painter.drawText(at + QPointF(-24, 5), "✗")
