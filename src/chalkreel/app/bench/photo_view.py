"""A photograph of the replica to be clicked on, and the still beside it that shows which landmark is meant."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from chalkreel.app import theme
from chalkreel.app.parts.accessible import Thing, announce, spot
from chalkreel.app.session import Session
from chalkreel.app.stills import chalk
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.loupe import draw_loupe
from chalkreel.app.stills.picture_view import PictureView
from chalkreel.app.stills.view import ARROWS, ENTER, NUDGE_PX
from chalkreel.document.bench_entities import ReplicaPhoto
from chalkreel.document.entities import Still

GRAB_PX, DRAG_PX = 9.0, 3.0
FAR_NUDGE = 16.0
Spots = Mapping[str, tuple[float, float]]


class SpotView(PictureView):
    """A picture with landmarks on it by id: firm ones, expected ones dotted, one of them wanted.

    Signals
    -------
    chosen(str): a landmark's spot was clicked, or walked to.
    """

    chosen = Signal(str)

    def __init__(self, session: Session, images: Images, name: str) -> None:
        super().__init__(session, images)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(name)
        self.setMinimumSize(200, 140)
        self.shown: Still | None = None
        self.spots: Spots = {}
        self.ghosts: Spots = {}
        self.wanted = ""
        self._names: Mapping[str, str] = {}
        self._last: QPointF | None = None
        self._pressed: QPointF | None = None
        self.empty = ""

    @property
    def still(self) -> Still | None:
        return self.shown

    def show_spots(self, spots: Spots, ghosts: Spots, wanted: str, names: Mapping[str, str]) -> None:
        """Replace what is drawn."""
        self.spots, self.ghosts, self.wanted, self._names = spots, ghosts, wanted, names
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.shown is None:
            painter.fillRect(self.rect(), QColor(theme.JUDGING_GREY))
            painter.setPen(theme.chalk("white"))
            painter.setFont(theme.font(15))
            painter.drawText(self.rect().adjusted(20, 0, -20, 0), int(Qt.AlignmentFlag.AlignCenter
                             | Qt.TextFlag.TextWordWrap), self.empty)  # fmt: skip
            return
        levels = self.draw_picture(painter)
        if not levels:
            return
        for key, (x, y) in self.ghosts.items():
            painter.setPen(QPen(theme.chalk("sky"), 1.4, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(self.to_screen(x, y), 6.0, 6.0)
            if key == self.wanted:
                chalk.draw_ring(painter, self.to_screen(x, y), "yellow", 9.0)
        for key, (x, y) in self.spots.items():
            at = self.to_screen(x, y)
            chalk.draw_cross(painter, at, "yellow" if key == self.wanted else "white", 6.0)
            if key == self.wanted:
                chalk.draw_ring(painter, at, "yellow", 11.0)
        self._label_wanted(painter)
        self.paint_over(painter, levels[0])

    def things(self) -> tuple[Thing, ...]:
        expected = {key: at for key, at in self.ghosts.items() if key not in self.spots}
        places = [(self._names.get(key, ""), self.to_screen(*at)) for key, at in self.spots.items()]
        places += [(f"{self._names.get(key, '')}, expected", self.to_screen(*at)) for key, at in expected.items()]
        return tuple(spot(words, at, GRAB_PX) for words, at in places)

    def paint_over(self, painter: QPainter, image: object) -> None:
        """What a view draws over its spots."""

    def _label_wanted(self, painter: QPainter) -> None:
        place = self.spots.get(self.wanted) or self.ghosts.get(self.wanted)
        if place is None:
            return
        at, words = self.to_screen(*place), self._names.get(self.wanted, "")
        painter.setFont(theme.font(12))
        width = painter.fontMetrics().horizontalAdvance(words) + 12
        left = min(max(at.x() - width / 2, 4.0), self.width() - width - 4.0)
        top = at.y() - 36 if at.y() > 48 else at.y() + 14
        box = QRectF(left, top, width, 20)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.chalk("halo"))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(theme.chalk("yellow"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def near(self, at: QPointF) -> str:
        """The landmark whose spot is close to a place of the screen."""
        best, least = "", GRAB_PX
        for key, place in {**self.ghosts, **self.spots}.items():
            gap = self.to_screen(*place) - at
            distance = (gap.x() ** 2 + gap.y() ** 2) ** 0.5
            if distance <= least:
                best, least = key, distance
        return best

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = self._last = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._last is not None and event.buttons():
            self.pan(event.position().x() - self._last.x(), event.position().y() - self._last.y())
            self._last = event.position()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed, self._last = self._pressed, None, None
        if pressed is not None and (event.position() - pressed).manhattanLength() <= DRAG_PX:
            self.clicked_at(event.position(), event)

    def clicked_at(self, at: QPointF, _: QMouseEvent) -> None:
        """A click that was no drag."""
        near = self.near(at)
        if near:
            self.chosen.emit(near)


class PhotoView(SpotView):
    """The photograph: a click puts the wanted landmark there, a mark is dragged, arrows and Enter do the same.

    Signals
    -------
    placed(str, float, float): a landmark was put at a stored pixel.
    """

    placed = Signal(str, float, float)

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__(session, images, "Photograph of the replica")
        self._cursor: tuple[float, float] | None = None
        self._held = ""

    def show_photo(self, photo: ReplicaPhoto | None) -> None:
        """Another photograph."""
        before = self.shown.id if self.shown is not None else ""
        self.shown = as_still(photo) if photo is not None else None
        if (photo.id if photo is not None else "") != before:
            self._cursor, self._held = None, ""
        self.update()

    def leaveEvent(self, _: object) -> None:
        self._cursor = None
        self.update()

    def paint_over(self, painter: QPainter, image: object) -> None:
        if self._cursor is None or (not self.wanted and not self._held):
            return
        at = self.to_screen(*self._cursor)
        chalk.draw_cross(painter, at, "white")
        draw_loupe(painter, image, 1.0, self._cursor, QRectF(self.rect()), at)  # type: ignore[arg-type]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        near = self.near(event.position())
        self._held = near if near in self.spots and event.button() == Qt.MouseButton.LeftButton else ""

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if (self._held and event.buttons()) or not event.buttons():
            self._cursor = self.to_still(event.position())
        else:
            super().mouseMoveEvent(event)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self._held = self._held, ""
        if held and self._pressed is not None:
            moved = (event.position() - self._pressed).manhattanLength() > DRAG_PX
            self._pressed = self._last = None
            if moved:
                self.placed.emit(held, *self.to_still(event.position()))
            else:
                self.chosen.emit(held)
            return
        super().mouseReleaseEvent(event)

    def clicked_at(self, at: QPointF, _: QMouseEvent) -> None:
        if self.wanted:
            self.placed.emit(self.wanted, *self.to_still(at))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in ARROWS and self.shown is not None:
            step = FAR_NUDGE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else NUDGE_PX
            x, y = self._cursor or self._start()
            self._cursor = (x + ARROWS[key][0] * step, y + ARROWS[key][1] * step)
            self.reveal(*self._cursor)
            announce(self, f"{self._names.get(self.wanted, '')} at {self._cursor[0]:.2f}, {self._cursor[1]:.2f} px")
            self.update()
        elif key in ENTER and self.wanted and self.shown is not None:
            self.placed.emit(self.wanted, *(self._cursor or self._start()))
        elif not self.zoom_key(key):
            super().keyPressEvent(event)

    def _start(self) -> tuple[float, float]:
        """Where the cursor begins: on the wanted spot, where it is or is expected, else in the middle."""
        assert self.shown is not None
        middle = (self.shown.width_px / 2, self.shown.height_px / 2)
        return self.spots.get(self.wanted) or self.ghosts.get(self.wanted) or middle


def as_still(photo: ReplicaPhoto) -> Still:
    """A photograph as what views of stills show."""
    return Still(
        id=photo.id, title=photo.title, blob=photo.blob, width_px=photo.width_px, height_px=photo.height_px,
        number=photo.number,
    )  # fmt: skip
