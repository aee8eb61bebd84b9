"""The chalk over a still, drawn once and laid over the picture until it changes: hundreds of strokes take a while."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QWidget

from chalkreel.app.stills import chalk
from chalkreel.app.stills.strokes import Stroke
from chalkreel.app.stills.viewport import Viewport


class ChalkLayer:
    """Strokes as an image of the view's size."""

    def __init__(self) -> None:
        self._key: object = None
        self._image = QImage()

    def draw(self, painter: QPainter, view: QWidget, strokes: tuple[Stroke, ...], port: Viewport) -> None:
        """Lay the strokes over what is painted already."""
        key = (strokes, port, view.size(), view.devicePixelRatioF())
        if key != self._key:
            self._key, self._image = key, _drawn(view, strokes, port)
        painter.drawImage(QPointF(0, 0), self._image)


def _drawn(view: QWidget, strokes: tuple[Stroke, ...], port: Viewport) -> QImage:
    ratio = view.devicePixelRatioF()
    image = QImage(view.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    # Thousands of points are placed: what places them is looked up once.
    across, down, left, top = port.across, port.zoom, port.left, port.top

    def to_screen(x: float, y: float) -> QPointF:
        return QPointF(x * across + left, y * down + top)

    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for stroke in strokes:
        chalk.draw(painter, stroke, to_screen)
    chalk.draw_labels(painter, strokes, to_screen)
    painter.end()
    return image
