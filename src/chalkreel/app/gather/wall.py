"""The contact wall: stills pinned by side and version; bare places are drawn as empty frames."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.app.gather.model import Wall, wall
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.document.entities import Still

HEAD, ROW_TITLE, CELL_H = 26, 22, 96
# Several stills of one side stand below each other.
STACK = CELL_H + 4


class ContactWall(QWidget):
    """All stills at a glance.

    Signals
    -------
    add_asked(): an empty frame was clicked.
    """

    add_asked = Signal()

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self.setAccessibleName("Contact wall of stills by side and version")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._session, self._images = session, images
        self._wall: Wall = wall(session.build)
        self._frames: list[tuple[QRectF, Still | None]] = []
        images.thumbnail_ready.connect(self.update)

    def refresh(self) -> None:
        """Follow the build."""
        self._wall = wall(self._session.build)
        deepest = [max((len(cell) for cell in row.cells), default=1) for row in self._wall.rows]
        height = HEAD + sum(ROW_TITLE + CELL_H + STACK * max(0, n - 1) + 8 for n in deepest)
        self.setMinimumHeight(height + 6)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        t = theme.current()
        painter.fillRect(self.rect(), QColor(t.board))
        sides = self._wall.sides
        width = (self.width() - 20) / len(sides)
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        painter.setPen(QColor(t.quiet))
        for column, side in enumerate(sides):
            painter.drawText(QRectF(10 + column * width, 4, width, HEAD - 4), Qt.AlignmentFlag.AlignCenter, side)
        self._frames = []
        top = float(HEAD)
        for row in self._wall.rows:
            painter.setFont(theme.font(13, QFont.Weight.DemiBold))
            painter.setPen(QColor(t.text))
            painter.drawText(QRectF(14, top, self.width() - 28, ROW_TITLE), row.name)
            top += ROW_TITLE
            for column, cell in enumerate(row.cells):
                self._draw_cell(painter, QRectF(10 + column * width + 4, top, width - 8, CELL_H), cell)
            top += CELL_H + STACK * max(0, max(len(cell) for cell in row.cells) - 1) + 8

    def _draw_cell(self, painter: QPainter, place: QRectF, cell: tuple[Still, ...]) -> None:
        t = theme.current()
        if not cell:
            painter.setPen(QPen(QColor(t.edge), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(place.adjusted(2, 2, -2, -20))
            painter.setFont(theme.font(12))
            painter.setPen(QColor(t.quiet))
            painter.drawText(place.adjusted(2, 2, -2, -20), Qt.AlignmentFlag.AlignCenter, "no still")
            self._frames.append((place, None))
        for number, still in enumerate(cell):
            self._draw_still(painter, place.translated(0, STACK * number), still)

    def _draw_still(self, painter: QPainter, place: QRectF, still: Still) -> None:
        t = theme.current()
        image = self._images.thumbnail(still.blob, still.pixel_aspect)
        frame = place.adjusted(2, 2, -2, -20)
        painter.fillRect(frame, QColor(theme.JUDGING_GREY))
        if image is not None:
            size = image.size().scaled(frame.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
            target = QRectF(0, 0, size.width(), size.height())
            target.moveCenter(frame.center())
            painter.drawImage(target, image)
        chosen = still.id == self._session.still_id
        painter.setPen(QPen(QColor(t.yellow if chosen else t.edge), 2.5 if chosen else 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)
        painter.setFont(theme.font(11, QFont.Weight.DemiBold if chosen else QFont.Weight.Normal))
        painter.setPen(QColor(t.yellow if chosen else t.text))
        words = f"{still.number}  {still.still_kind.replace('photo of the ', '')} · trust {still.trust}"
        caption = QRectF(place.left() + 2, place.bottom() - 18, place.width() - 4, 16)
        painter.drawText(
            caption, painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(caption.width()))
        )
        self._frames.append((place, still))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        hit = next((pair for pair in reversed(self._frames) if pair[0].contains(event.position())), None)
        if hit is not None and hit[1] is not None:
            self._session.choose_still(hit[1].id)
        elif hit is not None:
            self.add_asked.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1}.get(
            Qt.Key(event.key())
        )
        if step is None:
            super().keyPressEvent(event)
        else:
            self._session.step_still(step)
