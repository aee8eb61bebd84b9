"""A drawing at true proportion, panned and zoomed: paper white, in the layers' own lines."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QImage,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.app.parts.accessible import Thing
from chalkreel.core.draft.labels import placed
from chalkreel.core.draft.sheet import CHECK_BARS, LineLayer, Plate, Sheet, Words

PAPER, INK, WARNING = "#f2f2f2", "#202020", "#a02020"
LINES: dict[LineLayer, tuple[str, float, Qt.PenStyle]] = {
    "cut": (INK, 1.6, Qt.PenStyle.SolidLine),
    "outline": (INK, 1.5, Qt.PenStyle.SolidLine),
    "score": ("#a02020", 1.2, Qt.PenStyle.DashLine),
    "mask": ("#204080", 1.4, Qt.PenStyle.DashDotLine),
    "dimension": ("#686868", 0.9, Qt.PenStyle.SolidLine),
    "register": ("#207040", 0.9, Qt.PenStyle.SolidLine),
}
# Height of a letter over the size of its font.
LETTER_SHARE = 0.74
SMALLEST_TEXT_PX = 9.0
# A press that moved less than this is a click.
CLICK_PX = 4.0
EDGE_PX = 3.0


class SheetView(QWidget):
    """Shows a sheet, or says why there is none.

    Signals
    -------
    clicked(float, float): a place of the sheet, in mm.
    """

    clicked = Signal(float, float)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setMinimumSize(300, 200)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._sheet: Sheet | None = None
        self._placed_for: tuple[Sheet, float] | None = None
        self._placed: tuple[Words, ...] = ()
        self._hint = ""
        self._zoom, self._offset, self._fitted = 1.0, QPointF(), True
        self._pan_from: QPointF | None = None
        self._pressed = QPointF()
        self._plate: tuple[Plate, QImage] | None = None

    def show_sheet(self, sheet: Sheet | None, hint: str = "") -> None:
        """Replace what is shown; a hint beside a sheet says what is not on it."""
        self._sheet, self._hint = sheet, hint
        self.setAccessibleDescription(". ".join(words for words in (sheet.name if sheet else "", hint) if words))
        self._fit()

    def to_screen(self, x: float, y: float) -> QPointF:
        """Where a place in mm is on the widget."""
        return QPointF(x * self._zoom, -y * self._zoom) + self._offset

    def things(self) -> tuple[Thing, ...]:
        """The sheet's words: they name what is drawn and how large it is."""
        found = []
        for text in self._labels(self._sheet) if self._sheet is not None else ():
            height = text.height * self._zoom / LETTER_SHARE
            width = QFontMetricsF(theme.font(round(height))).horizontalAdvance(text.words)
            at = self._start(text, width) - QPointF(0, height)
            found.append((text.words, QRectF(at, QSizeF(width, height))))
        return tuple(found)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(PAPER if self._sheet else theme.current().panel))
        if self._sheet is None:
            painter.setPen(QColor(theme.current().quiet))
            painter.setFont(theme.font(13))
            painter.drawText(
                self.rect().adjusted(40, 40, -40, -40),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                self._hint,
            )
            return
        self._draw(painter, self._sheet)
        self._draw_scale(painter, *CHECK_BARS[self._sheet.unit])
        if self._hint:
            painter.setPen(QColor(WARNING))
            painter.setFont(theme.font(13))
            painter.drawText(self.rect().adjusted(10, 8, -10, -8), Qt.TextFlag.TextWordWrap, self._hint)

    def _draw(self, painter: QPainter, sheet: Sheet) -> None:
        if sheet.plate is not None:
            plate = sheet.plate
            x, y = plate.corner
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            place = QRectF(self.to_screen(x, y + plate.height), self.to_screen(x + plate.width, y))
            painter.drawImage(place, self._image(plate))
        for path in sheet.paths:
            colour, width, style = LINES[path.layer]
            painter.setPen(QPen(QColor(colour), width, style))
            line = QPainterPath(self.to_screen(*path.points[0]))
            for point in path.points[1:]:
                line.lineTo(self.to_screen(*point))
            if path.closed:
                line.closeSubpath()
            painter.drawPath(line)
        for ring in sheet.rings:
            colour, width, style = LINES[ring.layer]
            painter.setPen(QPen(QColor(colour), width, style))
            painter.drawEllipse(self.to_screen(*ring.centre), ring.radius * self._zoom, ring.radius * self._zoom)
        painter.setPen(QColor(INK))
        for text in self._labels(sheet):
            size = text.height * self._zoom / LETTER_SHARE
            painter.setFont(theme.font(round(size)))
            width = painter.fontMetrics().horizontalAdvance(text.words)
            at = self._start(text, width)
            # Words stand clear of lines.
            box = QRectF(at.x() - 1, at.y() - painter.fontMetrics().ascent() * 0.85, width + 2, size)
            painter.fillRect(box, QColor(PAPER))
            painter.drawText(at, text.words)

    def _start(self, text: Words, width: float) -> QPointF:
        """Where words begin; while all is shown they do not run out over the edge."""
        at = self.to_screen(*text.at) - QPointF(width / 2 if text.centred else 0, 0)
        if self._fitted:
            at.setX(max(EDGE_PX, min(at.x(), self.width() - width - EDGE_PX)))
        return at

    def _image(self, plate: Plate) -> QImage:
        if self._plate is None or self._plate[0] is not plate:
            self._plate = (plate, QImage.fromData(plate.png))
        return self._plate[1]

    def _labels(self, sheet: Sheet) -> tuple[Words, ...]:
        """The sheet's words, large enough to read on the screen and moved clear of each other where that takes room."""
        if self._placed_for != (sheet, self._zoom):
            least = SMALLEST_TEXT_PX * LETTER_SHARE / self._zoom
            grown = (replace(w, height=max(least, w.height)) for w in sheet.words)
            self._placed_for, self._placed = (sheet, self._zoom), placed(grown)
        return self._placed

    def _draw_scale(self, painter: QPainter, length: float, words: str) -> None:
        painter.setPen(QPen(QColor(INK), 2))
        y = self.height() - 14
        painter.drawLine(QPointF(14, y), QPointF(14 + length * self._zoom, y))
        painter.setFont(theme.font(11))
        painter.drawText(QPointF(14, y - 5), f"{words} on the replica")

    def _fit(self) -> None:
        if self._fitted and self._sheet is not None:
            x0, y0, x1, y1 = self._sheet.bounds()
            self._zoom = max(
                0.01, min((self.width() - 50) / max(x1 - x0, 1.0), (self.height() - 70) / max(y1 - y0, 1.0))
            )
            middle = QRectF(self.rect()).center() - QPointF(0, 10)
            self._offset = middle - QPointF((x0 + x1) / 2 * self._zoom, -(y0 + y1) / 2 * self._zoom)
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = 1.0015 ** event.angleDelta().y()
        self._offset = event.position() - (event.position() - self._offset) * factor
        self._zoom, self._fitted = self._zoom * factor, False
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pan_from, self._pressed = event.position() - self._offset, event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pan_from is not None:
            self._offset, self._fitted = event.position() - self._pan_from, False
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pan_from = None
        if self._sheet is not None and (event.position() - self._pressed).manhattanLength() < CLICK_PX:
            at = event.position() - self._offset
            self.clicked.emit(at.x() / self._zoom, -at.y() / self._zoom)

    def mouseDoubleClickEvent(self, _: QMouseEvent) -> None:
        self._fitted = True
        self._fit()
