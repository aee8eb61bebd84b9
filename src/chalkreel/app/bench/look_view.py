"""Still and photograph from one camera: a wiped edge, blinking, difference, both at once; arrows on what is off."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

from PySide6.QtCore import QEvent, QLineF, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFont, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.app.stills.picture_view import WHEEL_FACTOR
from chalkreel.app.stills.viewport import Viewport, fitted

Mode = Literal["Wipe", "Blink", "Difference", "Both"]
MODES: Final[tuple[Mode, ...]] = ("Wipe", "Blink", "Difference", "Both")
TIMES: Final = (1, 3, 10)
BLINK_MS, EDGE_STEP, EDGE_GRAB_PX = 400, 0.02, 14.0
BADGE_PX = 20.0
LEAST_ARROW_PX = 3.0


@dataclass(frozen=True)
class Tag:
    """A finding on the picture: its key, number, words and state, where it belongs and where it must go (pixels)."""

    key: str
    number: int
    words: str
    state: str
    at: tuple[float, float]
    to: tuple[float, float]


@dataclass(frozen=True, eq=False)
class Pictures:
    """Images of one size, and pieces of the model's lines."""

    still: QImage
    photo: QImage
    still_flat: QImage
    photo_flat: QImage
    gap: QImage
    lines: tuple[tuple[tuple[float, float], tuple[float, float]], ...]


class LookView(QWidget):
    """Shows two pictures in one place.

    Signals
    -------
    chosen(str): a finding was clicked. turned(): how it is looked at has changed.
    """

    chosen = Signal(str)
    turned = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(240, 160)
        self.setAccessibleName("Still and photograph from one camera")
        self.mode: Mode = "Wipe"
        self.times = 3
        self.with_lines, self.flat = True, False
        self.edge, self.shows_photo = 0.5, True
        self.words = ""
        self._pictures: Pictures | None = None
        self._tags: tuple[Tag, ...] = ()
        self._selected = ""
        self._names = ("", "")
        self._port: Viewport | None = None
        self._last: QPointF | None = None
        self._drags_edge = False
        self._places: dict[str, QRectF] = {}
        self._blink = QTimer(self, interval=BLINK_MS)
        self._blink.timeout.connect(self.swap)

    @property
    def port(self) -> Viewport:
        """Which part shows."""
        size = self._pictures.still.size() if self._pictures is not None else self.size()
        return self._port or fitted((size.width(), size.height()), 1.0, self.width(), self.height())

    def show_pictures(self, pictures: Pictures | None, names: tuple[str, str], words: str = "") -> None:
        """Other pictures, and what each is called; `words` where there are none."""
        if pictures is None or self._pictures is None or pictures.still.size() != self._pictures.still.size():
            self._port = None
        self._pictures, self._names, self.words = pictures, names, words
        self.update()

    def show_tags(self, tags: tuple[Tag, ...], selected: str) -> None:
        """Replace the findings."""
        self._tags, self._selected = tags, selected
        self.update()

    def look(self, mode: Mode) -> None:
        """Look in another way."""
        self.mode = mode
        self.shows_photo = True
        if mode == "Blink":
            self._blink.start()
        else:
            self._blink.stop()
        self.turned.emit()
        self.update()

    def swap(self) -> None:
        """The other picture."""
        self.shows_photo = not self.shows_photo
        self.update()

    def event(self, event: QEvent) -> bool:
        # Space goes to the next still elsewhere; here it shows the other picture.
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and event.key() == Qt.Key.Key_Space
        ):
            event.accept()
            return True
        return super().event(event)

    def hideEvent(self, _: object) -> None:
        self._blink.stop()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme.JUDGING_GREY))
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        pictures = self._pictures
        if pictures is None:
            painter.setPen(theme.chalk("white"))
            painter.setFont(theme.font(15))
            flags = int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap)
            painter.drawText(self.rect().adjusted(30, 0, -30, 0), flags, self.words)
            return
        still, photo = (pictures.still_flat, pictures.photo_flat) if self.flat else (pictures.still, pictures.photo)
        self._draw_mode(painter, still, photo, pictures)
        if self.with_lines:
            self._draw_lines(painter, pictures)
        self._draw_tags(painter)

    def _draw_mode(self, painter: QPainter, still: QImage, photo: QImage, pictures: Pictures) -> None:
        if self.mode == "Difference":
            self._draw(painter, pictures.gap)
            self._name(painter, "lighter or darker: where they differ", left=True)
        elif self.mode == "Both":
            self._draw(painter, still)
            painter.setOpacity(0.5)
            self._draw(painter, photo)
            painter.setOpacity(1.0)
            self._name(painter, f"{self._names[0]} and {self._names[1]}", left=True)
        elif self.mode == "Blink":
            self._draw(painter, photo if self.shows_photo else still)
            self._name(painter, self._names[1] if self.shows_photo else self._names[0], left=True)
        else:
            self._draw(painter, photo)
            edge = self._edge_x()
            painter.save()
            painter.setClipRect(QRectF(0, 0, edge, self.height()))
            self._draw(painter, still)
            painter.restore()
            self._draw_edge(painter, edge)
            self._name(painter, self._names[0], left=True)
            self._name(painter, self._names[1], left=False)

    def _draw(self, painter: QPainter, image: QImage) -> None:
        port = self.port
        size = image.size()
        target = QRectF(port.left, port.top, size.width() * port.zoom, size.height() * port.zoom)
        painter.drawImage(target, image, QRectF(image.rect()))

    def _draw_edge(self, painter: QPainter, x: float) -> None:
        painter.setPen(QPen(theme.chalk("halo"), 4))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        painter.setPen(QPen(theme.chalk("white"), 1.6))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        knob = QRectF(x - 12, self.height() * 0.78 - 20, 24, 40)
        painter.setBrush(theme.chalk("halo"))
        painter.drawRoundedRect(knob, 5, 5)
        for sign in (-1, 1):
            tip = QPointF(knob.center().x() + sign * 8, knob.center().y())
            for rise in (-5, 5):
                painter.drawLine(tip, QPointF(knob.center().x() + sign * 3, knob.center().y() + rise))

    def _draw_lines(self, painter: QPainter, pictures: Pictures) -> None:
        port = self.port
        pieces = [QLineF(QPointF(*port.to_screen(*a)), QPointF(*port.to_screen(*b))) for a, b in pictures.lines]
        for colour, width in (("halo", 2.6), ("sky", 1.2)):
            painter.setPen(QPen(theme.chalk(colour), width))
            painter.drawLines(pieces)

    def _draw_tags(self, painter: QPainter) -> None:
        self._places = {}
        taken: list[QRectF] = []
        for tag in self._tags:
            at = QPointF(*self.port.to_screen(*tag.at))
            colour = {"bad": "coral", "good": "mint"}.get(tag.state, "yellow")
            self._draw_arrow(painter, tag, at, colour)
            self._draw_label(painter, tag, at, colour, taken)

    def _draw_arrow(self, painter: QPainter, tag: Tag, at: QPointF, colour: str) -> None:
        far = QPointF(*self.port.to_screen(*tag.to)) - at
        tip = at + far * self.times
        length = (far.x() ** 2 + far.y() ** 2) ** 0.5 * self.times
        if length < LEAST_ARROW_PX:
            return
        way = (tip - at) / length
        across = QPointF(-way.y(), way.x())
        head = min(9.0, length)
        for name, width in (("halo", 5.0), (colour, 2.2)):
            painter.setPen(QPen(theme.chalk(name), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(at, tip)
            painter.drawLine(tip, tip - way * head + across * head * 0.6)
            painter.drawLine(tip, tip - way * head - across * head * 0.6)

    def _draw_label(self, painter: QPainter, tag: Tag, at: QPointF, colour: str, taken: list[QRectF]) -> None:
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        width = painter.fontMetrics().horizontalAdvance(tag.words) + BADGE_PX + 16
        left = min(max(at.x() - width / 2, 6.0), max(6.0, self.width() - width - 6))
        box = QRectF(left, at.y() - 64, width, 22)
        box.moveTop(min(max(box.top(), 6.0), self.height() - 60.0))
        while any(box.intersects(other) for other in taken):
            box.translate(0, 26)
        taken.append(box)
        self._places[tag.key] = box
        pen = QPen(theme.chalk(colour), 2.2 if tag.key == self._selected else 1.0)
        painter.setPen(pen)
        painter.drawLine(QPointF(min(max(at.x(), box.left() + 8), box.right() - 8),
                                 box.bottom() if box.center().y() < at.y() else box.top()), at)  # fmt: skip
        painter.setBrush(theme.chalk("halo"))
        painter.drawRoundedRect(box, 11, 11)
        badge = QRectF(box.left() + 1, box.top() + 1, BADGE_PX, BADGE_PX)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.chalk(colour))
        painter.drawEllipse(badge)
        painter.setPen(theme.chalk("halo"))
        painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, str(tag.number))
        painter.setPen(theme.chalk("white"))
        painter.drawText(box.adjusted(BADGE_PX + 6, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, tag.words)

    def _name(self, painter: QPainter, words: str, left: bool) -> None:
        painter.setFont(theme.font(12))
        width = painter.fontMetrics().horizontalAdvance(words) + 16
        x = 10.0 if left else self.width() - width - 10.0
        box = QRectF(x, self.height() - 32, width, 22)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.chalk("halo"))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(theme.chalk("white"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _edge_x(self) -> float:
        size = self._pictures.still.width() if self._pictures is not None else 1
        return self.port.left + self.edge * size * self.port.zoom

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self._last = at
        self._drags_edge = self.mode == "Wipe" and abs(at.x() - self._edge_x()) < EDGE_GRAB_PX
        if not self._drags_edge:
            key = next((k for k, box in self._places.items() if box.contains(at)), "")
            if key:
                self.chosen.emit(key)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._last is None:
            near = self.mode == "Wipe" and abs(at.x() - self._edge_x()) < EDGE_GRAB_PX
            self.setCursor(Qt.CursorShape.SplitHCursor if near else Qt.CursorShape.ArrowCursor)
            return
        if self._drags_edge and self._pictures is not None:
            self.move_edge((at.x() - self.port.left) / (self._pictures.still.width() * self.port.zoom) - self.edge)
        else:
            self._port = self.port.moved(at.x() - self._last.x(), at.y() - self._last.y())
            self.update()
        self._last = at

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        self._last, self._drags_edge = None, False

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom(WHEEL_FACTOR ** event.angleDelta().y(), event.position())
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, middle = Qt.Key(event.key()), QPointF(self.rect().center())
        if key == Qt.Key.Key_Space:
            self._swap_by_key()
        elif key == Qt.Key.Key_Left:
            self.move_edge(-EDGE_STEP)
        elif key == Qt.Key.Key_Right:
            self.move_edge(EDGE_STEP)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self._zoom(1.25, middle)
        elif key == Qt.Key.Key_Minus:
            self._zoom(0.8, middle)
        elif key == Qt.Key.Key_0:
            self._port = None
            self.update()
        else:
            super().keyPressEvent(event)

    def _swap_by_key(self) -> None:
        """The other picture, whatever the way of looking: it becomes blinking by hand."""
        if self.mode != "Blink":
            self.look("Blink")
        self._blink.stop()
        self.swap()

    def move_edge(self, by: float) -> None:
        """Wipe a little further."""
        self.edge = min(1.0, max(0.0, self.edge + by))
        self.update()

    def _zoom(self, factor: float, around: QPointF) -> None:
        whole = fitted((self.width(), self.height()), 1.0, self.width(), self.height())
        self._port = self.port.zoomed(factor, around.x(), around.y(), 0.2 * whole.zoom)
        self.update()
