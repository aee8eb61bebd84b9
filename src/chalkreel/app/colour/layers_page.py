"""The Layers page: a strip of swatches from primer to last varnish, the target running along above it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from chalkreel.answers.colours import SurfaceRow
from chalkreel.answers.stack import StackRow
from chalkreel.app.colour import swatches


class LayerStrip(QWidget):
    """One strip a zone. Each swatch is a layer's look; it touches the target so that a difference shows as an edge."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(200)
        self.setAccessibleName("The look after every layer; the card says the same in words")
        self._row: SurfaceRow | None = None

    def show_row(self, row: SurfaceRow | None) -> None:
        """Replace what is shown."""
        self._row = row
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = swatches.begin(self)
        row = self._row
        stacks = row.mixes.stacks if row else ()
        if row is None or not stacks:
            text = "No zone in Finish uses this surface yet, so nothing is known of its layers."
            if row is not None and row.best is None:
                text = row.problem or "No recipe yet."
            swatches.words(painter, QRectF(self.rect()).adjusted(20, 60, -20, 0), text, 14, True,
                           Qt.AlignmentFlag.AlignHCenter)  # fmt: skip
            return
        high = (self.height() - 12.0) / len(stacks)
        for number, stack in enumerate(stacks):
            self._draw_stack(painter, row, stack, QRectF(16, 8 + high * number, self.width() - 32, high - 8))

    def _draw_stack(self, painter: QPainter, row: SurfaceRow, stack: StackRow, place: QRectF) -> None:
        swatches.words(painter, QRectF(place.left(), place.top(), place.width(), 18), stack.zone, 13, True)
        if stack.problem:
            swatches.words(painter, place.adjusted(0, 24, 0, 0), stack.problem, 12)
            return
        wide = place.width() / len(stack.looks)
        top = place.top() + 22
        high = min(260.0, place.height() - 76)
        swatches.patch(painter, QRectF(place.left(), top, place.width(), 22), row.swatch)
        swatches.words(painter, QRectF(place.left() + 6, top + 2, 200, 18), "target", 11)
        for number, look in enumerate(stack.looks):
            box = QRectF(place.left() + wide * number, top + 22, wide, high - 22)
            swatches.patch(painter, box, look.swatch)
            if number:
                swatches.line(painter, QPointF(box.left(), box.bottom()), QPointF(box.left(), box.bottom() + 4))
            text = f"{look.name}\nΔE00 {look.to_target:.1f}"
            swatches.words(painter, QRectF(box.left() + 2, box.bottom() + 4, wide - 4, 54), text, 11,
                           number == len(stack.looks) - 1)  # fmt: skip
