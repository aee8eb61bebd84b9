"""A still that is panned and zoomed; each still is found again as it was left."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QNativeGestureEvent, QPainter, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.viewport import Viewport, fitted
from chalkreel.document.entities import Still

WHEEL_FACTOR = 1.0015
# Screen pixels that an arrow key pans, and a notch of a wheel across.
PAN_PX, NOTCH_PX = 60.0, 0.5
LEAST_OF_FIT = 0.5


class PictureView(QWidget):
    """Shows a still: the session's, unless `still` says otherwise."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self._session, self._images = session, images
        # Stills that are shown whole have no entry: they follow the size of the view.
        self._ports: dict[str, Viewport] = {}
        images.levels_ready.connect(lambda _: self.update())

    @property
    def still(self) -> Still | None:
        """The still that is shown."""
        return self._session.still

    @property
    def port(self) -> Viewport:
        """Which part of the still shows."""
        return self._ports.get(self._key) or self._fit_port()

    @property
    def zoom(self) -> float:
        """Screen pixels for one stored pixel's height."""
        return self.port.zoom

    def to_screen(self, x: float, y: float) -> QPointF:
        """Where a stored pixel is on the widget."""
        return QPointF(*self.port.to_screen(x, y))

    def to_still(self, point: QPointF) -> tuple[float, float]:
        """Which stored pixel a point of the widget shows."""
        return self.port.to_still(point.x(), point.y())

    def fit(self) -> None:
        """Show the whole still."""
        self._ports.pop(self._key, None)
        self.update()

    def zoom_by(self, factor: float, around: QPointF | None = None) -> None:
        """Zoom about a point of the widget, or its middle."""
        around = around or QPointF(self.rect().center())
        least = self._fit_port().zoom * LEAST_OF_FIT
        self._show(self.port.zoomed(factor, around.x(), around.y(), least))

    def zoom_key(self, key: Qt.Key) -> bool:
        """Zoom in, out, or show the whole still by a key; False where it is none of these."""
        if key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom_by(1.25)
        elif key == Qt.Key.Key_Minus:
            self.zoom_by(0.8)
        elif key == Qt.Key.Key_0:
            self.fit()
        else:
            return False
        return True

    def pan(self, dx: float, dy: float) -> None:
        """Shift the still by so many screen pixels."""
        self._show(self.port.moved(dx, dy))

    def reveal(self, x: float, y: float) -> None:
        """Bring a stored pixel into view, where it is not."""
        port = self.port
        followed = port.revealing(x, y, self.width(), self.height())
        if self._key in self._ports and followed != port:
            self._show(followed)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.update()

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QNativeGestureEvent):
            if event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
                self.zoom_by(1.0 + event.value(), event.position())
            return True
        return super().event(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """A wheel zooms; two fingers, a wheel across and Shift pan."""
        turn, fingers = event.angleDelta(), event.pixelDelta()
        held = event.modifiers()
        touch = event.phase() != Qt.ScrollPhase.NoScrollPhase or turn.isNull()
        if touch and not held & Qt.KeyboardModifier.ControlModifier:
            moved = QPointF(fingers) if not fingers.isNull() else QPointF(turn) * NOTCH_PX
            self.pan(moved.x(), moved.y())
        elif held & Qt.KeyboardModifier.ShiftModifier or (turn.x() and not turn.y()):
            # Qt turns a wheel across by itself where Shift is held on some systems, and does not on others.
            self.pan((turn.x() or turn.y()) * NOTCH_PX, 0.0)
        else:
            self.zoom_by(WHEEL_FACTOR ** (turn.y() or fingers.y()), event.position())
        event.accept()

    def draw_picture(self, painter: QPainter) -> tuple[QImage, ...]:
        """Paint the still and return its levels, or say why there is none."""
        painter.fillRect(self.rect(), QColor(theme.JUDGING_GREY))
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        still = self.still
        levels = self._images.levels(still) if still else ()
        if levels:
            self._draw_level(painter, levels)
            return levels
        painter.setFont(theme.font(15))
        painter.setPen(theme.chalk("white"))
        words = "Opening the still…" if still else "No still on the reel yet. Add one in Gather."
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
        return ()

    def _draw_level(self, painter: QPainter, levels: tuple[QImage, ...]) -> None:
        # The smallest level that is still at least as fine as the screen.
        level, port = 0, self.port
        sharp = port.zoom * max(1.0, port.aspect) * self.devicePixelRatioF()
        while level + 1 < len(levels) and sharp * 2 ** (level + 1) <= 1.0:
            level += 1
        image, size = levels[level], self._size()
        left, top = self.to_still(QPointF(0, 0))
        right, bottom = self.to_still(QPointF(self.width(), self.height()))
        left, top = max(0.0, left), max(0.0, top)
        right, bottom = min(float(size.width()), right), min(float(size.height()), bottom)
        if right <= left or bottom <= top:
            return
        sx, sy = image.width() / size.width(), image.height() / size.height()
        target = QRectF(self.to_screen(left, top), self.to_screen(right, bottom))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, port.zoom < 6)
        painter.drawImage(target, image, QRectF(left * sx, top * sy, (right - left) * sx, (bottom - top) * sy))

    @property
    def _key(self) -> str:
        return self.still.id if self.still is not None else ""

    def _show(self, port: Viewport) -> None:
        self._ports[self._key] = port
        self.update()

    def _fit_port(self) -> Viewport:
        size, still = self._size(), self.still
        aspect = still.pixel_aspect if still else 1.0
        return fitted((size.width(), size.height()), aspect, self.width(), self.height())

    def _size(self) -> QSize:
        still = self.still
        return QSize(still.width_px, still.height_px) if still else QSize(1, 1)
