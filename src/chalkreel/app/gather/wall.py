"""The contact wall: stills pinned by side and version; bare places are drawn as empty frames."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QKeySequence, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.app.gather.model import Wall, wall
from chalkreel.app.parts.accessible import Thing
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.core.measure.sides import spoken
from chalkreel.document.entities import Still
from chalkreel.document.gallery import picture_name
from chalkreel.edits.describing import placed, put_in_new_version

HEAD, ROW_TITLE, CELL_H = 26, 22, 96
# Several stills of one side stand below each other.
STACK = CELL_H + 4
DRAG_PX = 6
# Where stills are dropped to make a version of them.
BAND = 30


def still_words(still: Still) -> str:
    """A still's number, what it is a picture of, and how far it is trusted."""
    return f"{still.number}  {still.still_kind.replace('photo of the ', '')} · trust {still.trust}"


class ContactWall(QWidget):
    """All stills at a glance.

    Signals
    -------
    add_asked(): an empty frame was clicked.
    chosen_changed(): other stills are chosen together.
    """

    add_asked = Signal()
    chosen_changed = Signal()

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self.setAccessibleName("Contact wall of stills by side and version")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._session, self._images = session, images
        self._wall: Wall = wall(session.build)
        self._frames: list[tuple[QRectF, Still | None]] = []
        self._cells: list[tuple[QRectF, str, str]] = []
        self._new_version = QRectF()
        self._chosen: set[str] = set()
        self._press: QPointF | None = None
        self._drop: QPointF | None = None
        images.thumbnail_ready.connect(self.update)

    def chosen(self) -> set[str]:
        """The stills that are chosen together: those clicked with Ctrl or Shift, or the session's still."""
        present = {s.id for s in self._session.build.all(Still)}
        together = self._chosen & present
        return together if self._session.still_id in together else {self._session.still_id} & present

    def refresh(self) -> None:
        """Follow the build."""
        self._wall = wall(self._session.build)
        deepest = [max((len(cell) for cell in row.cells), default=1) for row in self._wall.rows]
        height = HEAD + sum(ROW_TITLE + CELL_H + STACK * max(0, n - 1) + 8 for n in deepest)
        self.setMinimumHeight(height + BAND + 6)
        self.update()

    def things(self) -> tuple[Thing, ...]:
        return tuple((self._words(still, place), place) for place, still in self._frames)

    def _words(self, still: Still | None, place: QRectF) -> str:
        """A frame in words: the still, or whose place is bare."""
        cell = self._cell_at(place.center())
        versions = {row.version_id: row.name for row in self._wall.rows}
        where = f"{spoken(cell[1])}, {versions.get(cell[2], '')}" if cell is not None else "squared up"
        return f"{still_words(still)}: {where}" if still is not None else f"no still: {where}"

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
            painter.drawText(
                QRectF(10 + column * width, 4, width, HEAD - 4), Qt.AlignmentFlag.AlignCenter, spoken(side)
            )
        self._frames, self._cells = [], []
        top = float(HEAD)
        for row in self._wall.rows:
            deep = CELL_H + STACK * max(0, max(len(cell) for cell in row.cells) - 1)
            painter.setFont(theme.font(13, QFont.Weight.DemiBold))
            painter.setPen(QColor(t.text))
            painter.drawText(QRectF(14, top, self.width() - 28, ROW_TITLE), row.name)
            top += ROW_TITLE
            for column, cell in enumerate(row.cells):
                place = QRectF(10 + column * width + 4, top, width - 8, CELL_H)
                if not row.squared:
                    area = QRectF(place.topLeft(), QSizeF(width - 8, deep))
                    self._cells.append((area, sides[column], row.version_id))
                self._draw_cell(painter, place, cell, empty=not row.squared)
            top += deep + 8
        self._new_version = QRectF(14, top, self.width() - 28, BAND)
        self._draw_drop(painter)

    def _draw_cell(self, painter: QPainter, place: QRectF, cell: tuple[Still, ...], empty: bool) -> None:
        t = theme.current()
        if not cell and empty:
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
        image = self._images.thumbnail(picture_name(still), still.pixel_aspect)
        frame = place.adjusted(2, 2, -2, -20)
        painter.fillRect(frame, QColor(theme.JUDGING_GREY))
        if image is not None:
            size = image.size().scaled(frame.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
            target = QRectF(0, 0, size.width(), size.height())
            target.moveCenter(frame.center())
            painter.drawImage(target, image)
        chosen = still.id in self.chosen()
        painter.setPen(QPen(QColor(t.yellow if chosen else t.edge), 2.5 if chosen else 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)
        painter.setFont(theme.font(11, QFont.Weight.DemiBold if chosen else QFont.Weight.Normal))
        painter.setPen(QColor(t.yellow if chosen else t.text))
        words = still_words(still)
        caption = QRectF(place.left() + 2, place.bottom() - 18, place.width() - 4, 16)
        painter.drawText(
            caption, painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(caption.width()))
        )
        self._frames.append((place, still))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        hit = next((pair for pair in reversed(self._frames) if pair[0].contains(event.position())), None)
        more = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        if hit is None:
            self._chosen.clear()
        elif hit[1] is None:
            self.add_asked.emit()
        else:
            # A frame of those chosen is taken hold of with all of them.
            if more:
                self._choose(self.chosen() ^ {hit[1].id}, hit[1].id)
            elif hit[1].id in self._chosen:
                self._session.choose_still(hit[1].id)
            else:
                self._choose({hit[1].id})
            self._press = event.position()
        self.update()

    def _choose(self, still_ids: set[str], first: str = "") -> None:
        """Choose stills together; the session's still becomes `first`, or one of them."""
        self._chosen = still_ids
        if first not in still_ids:
            first = self._session.still_id if self._session.still_id in still_ids else next(iter(still_ids), "")
        self._session.choose_still(first)
        self.chosen_changed.emit()
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._press is not None and (event.position() - self._press).manhattanLength() > DRAG_PX:
            self._drop = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drop, self._press, self._drop = self._drop, None, None
        self.unsetCursor()
        if drop is not None:
            self._let_go(drop, add=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        self.update()

    def _let_go(self, point: QPointF, add: bool) -> None:
        """Say of all chosen stills that they show a side of a version, as one change."""
        session, cell = self._session, self._cell_at(point)
        if cell is not None:
            session.commit(*placed(session.build, self.chosen(), cell[1], cell[2], add))
        elif self._new_version.contains(point):
            session.commit(*put_in_new_version(session.build, self.chosen()))

    def _cell_at(self, point: QPointF) -> tuple[QRectF, str, str] | None:
        return next((cell for cell in self._cells if cell[0].contains(point)), None)

    def _draw_drop(self, painter: QPainter) -> None:
        """Where the frames that are dragged would go."""
        if self._drop is None:
            return
        t, cell = theme.current(), self._cell_at(self._drop)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        over = self._new_version.contains(self._drop)
        painter.setPen(QPen(QColor(t.yellow if over else t.edge), 2 if over else 1.2, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(self._new_version, 4, 4)
        painter.setPen(QColor(t.yellow if over else t.quiet))
        painter.drawText(self._new_version, Qt.AlignmentFlag.AlignCenter, "a new version of the subject")
        if cell is not None:
            painter.setPen(QPen(QColor(t.yellow), 2, Qt.PenStyle.DashLine))
            painter.drawRoundedRect(cell[0], 4, 4)
            count = len(self.chosen())
            side = spoken(cell[1])
            words = side if count == 1 else f"{count} stills: {side}"
            painter.drawText(self._drop + QPointF(14, 4), f"{words}  (with Shift: {side} too)")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.SelectAll):
            self._choose({s.id for s in self._session.build.all(Still) if s.squared is None})
            return
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1}.get(
            Qt.Key(event.key())
        )
        if step is None:
            super().keyPressEvent(event)
        else:
            self._session.step_still(step)
