"""The subject turned by hand: dragged, by keys, or seen as a still shows it."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QPointF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.app.parts.accessible import Thing, announce, spot
from chalkreel.app.stills import chalk
from chalkreel.app.stills.strokes import Stroke
from chalkreel.core.measure.sides import SIDES

if TYPE_CHECKING:
    from chalkreel.answers.all_round import Dot, EyeView, SeenMark, Subject
    from chalkreel.core.faces.orbit import Orbit
    from chalkreel.core.faces.texture import Texture
    from chalkreel.document.entities import Still

# Degrees for a pixel dragged and for an arrow key; what a notch of the wheel and a key zoom.
DRAG_DEG, KEY_DEG, WHEEL, KEY_ZOOM = 0.35, 5.0, 1.0015, 1.25
# A press that moves less is a click; a click this near a dot means it.
DRAG_PX, NEAR_PX = 4.0, 12.0
DOT_PX = 2.6
# While it turns the picture has no more pixels than this, so that it follows the hand; so long after the last turn it
# is asked for finely, with so many pixels to one, and no more than can be held.
MOST_TURNING, FINE_AFTER_MS, FINE, MOST_FINE = 350_000, 120, 2.0, 8_000_000
TURNS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
ZOOMS = {Qt.Key.Key_Plus: KEY_ZOOM, Qt.Key.Key_Equal: KEY_ZOOM, Qt.Key.Key_Minus: 1 / KEY_ZOOM}


class RoundView(QWidget):
    """Paints the subject from wherever the eye is.

    Signals
    -------
    turned(str): where it is seen from now, in words.
    chosen(str): a landmark or a face was clicked, by id; empty for the ground.
    still_asked(): the view of the still in front was asked for; taken_up(): it has the keys now.
    fine_asked(object): a function that paints the finer picture, to be run in a worker; its result is for `take_fine`.
    """

    turned = Signal(str)
    chosen = Signal(str)
    still_asked = Signal()
    taken_up = Signal()
    fine_asked = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Subject seen from anywhere")
        self.setMinimumSize(260, 160)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.dots_shown = True
        self._hint = ""
        self._subject: Subject | None = None
        self._laid: tuple[Texture, ...] = ()
        self._orbit: Orbit | None = None
        self._still: Still | None = None
        self._selected = ""
        self._view: EyeView | None = None
        self._scale = 1.0
        self._pressed: QPointF | None = None
        self._dragging = False
        self._pointer: QPointF | None = None
        self._fine = QTimer(self, singleShot=True, interval=FINE_AFTER_MS)
        self._fine.timeout.connect(self._ask_fine)

    def show_subject(self, subject: Subject | None, laid: tuple[Texture, ...], selected: str, hint: str = "") -> None:
        """Replace what is shown; the eye stays where it is."""
        same = subject is self._subject and laid is self._laid and hint == self._hint
        self._subject, self._laid, self._selected, self._hint = subject, laid, selected, hint
        if not same:
            self._leave_lost_still()
            self._look()
        self.update()

    def see_side(self, side: str) -> None:
        """Look straight at a side."""
        from chalkreel.core.faces.orbit import SIDE_AT, Orbit

        self._turn(lambda orbit: Orbit(*SIDE_AT[side], orbit.zoom))

    def see_as_on(self, still: Still) -> bool:
        """Look as a still does; False where it is not solved."""
        from chalkreel.answers.all_round import orbit_as_on

        orbit = orbit_as_on(self._subject, still) if self._subject is not None else None
        if orbit is None:
            return False
        self._orbit, self._still = orbit, still
        self._look()
        return True

    @property
    def as_on_still(self) -> bool:
        """Whether it is seen as a still shows it."""
        return self._still is not None

    @property
    def dots(self) -> tuple[Dot, ...]:
        """Landmarks in sight, in pixels of the picture."""
        return self._view.dots if self._view is not None and self.dots_shown else ()

    @property
    def marks(self) -> tuple[SeenMark, ...]:
        """Marks of wear in sight, in pixels of the picture."""
        return self._view.marks if self._view is not None and self.dots_shown else ()

    def things(self) -> tuple[Thing, ...]:
        places = [(dot.name, self.to_screen(dot.x, dot.y)) for dot in self.dots]
        places += [(mark.name, self.to_screen(*mark.ends[0])) for mark in self.marks]
        return tuple(spot(name, at, NEAR_PX) for name, at in places)

    def to_screen(self, x: float, y: float) -> QPointF:
        """Where a pixel of the picture is on the widget."""
        return QPointF(x, y) / self._scale

    def _turn(self, change: Callable[[Orbit], Orbit]) -> None:
        """Move the eye; it leaves a still's own place for the orbit."""
        from chalkreel.core.faces.orbit import Orbit

        self._orbit, self._still = change(self._orbit or Orbit()), None
        self._look()

    def _leave_lost_still(self) -> None:
        """A still that is tied in no longer has no view of its own; the eye stays in its direction."""
        from chalkreel.answers.all_round import orbit_as_on

        if self._still is not None and (self._subject is None or orbit_as_on(self._subject, self._still) is None):
            self._still = None

    def take_fine(self, found: object) -> None:
        """Show the finer picture, if the eye has not moved since."""
        coarse, scale, view = cast("tuple[EyeView, float, EyeView]", found)
        if coarse is self._view:
            self._view, self._scale = view, scale
            self.update()

    def _look(self) -> None:
        """Paint anew, coarsely where the widget is large; the finer picture follows."""
        self._scale = self._at_most(1.0, MOST_TURNING)
        self._view = self._painter(self._scale)() if self._subject is not None else None
        words = self._view.words if self._view is not None else self._hint
        if words != self.accessibleDescription():
            announce(self, words)
        self.turned.emit(words if self._view is not None else "")
        self.update()
        self._fine.start()

    def _ask_fine(self) -> None:
        coarse = self._view
        if coarse is not None:
            scale = self._at_most(max(FINE, self.devicePixelRatioF()), MOST_FINE)
            picture = self._painter(scale)
            self.fine_asked.emit(lambda: (coarse, scale, picture()))

    def _at_most(self, scale: float, pixels: int) -> float:
        """A scale that makes no more pixels than so many."""
        return min(scale, math.sqrt(pixels / max(1, self.width() * self.height())))

    def _painter(self, scale: float) -> Callable[[], EyeView]:
        """What paints the view from where the eye is now."""
        from chalkreel.answers.all_round import view_as_on, view_from
        from chalkreel.core.faces.orbit import Orbit

        assert self._subject is not None
        size = max(1, round(self.width() * scale)), max(1, round(self.height() * scale))
        if self._still is not None:
            return partial(view_as_on, self._subject, self._still, size, self._laid)
        return partial(view_from, self._subject, self._orbit or Orbit(), size, self._laid)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        view = self._view
        if view is None:
            painter.fillRect(self.rect(), QColor(theme.current().panel))
            painter.setPen(QColor(theme.current().quiet))
            painter.setFont(theme.font(13))
            box = self.rect().adjusted(40, 40, -40, -40)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._hint)
            return
        height, width = view.pixels.shape[:2]
        painter.drawImage(self.rect(), QImage(view.pixels.data, width, height, 3 * width, QImage.Format.Format_RGB888))
        near = self._dot_at(self._pointer)
        for dot in self.dots:
            chalk.draw_ring(painter, self.to_screen(dot.x, dot.y), "mint", DOT_PX)
        named = tuple(self._named(dot) for dot in self.dots if dot is near or dot.id == self._selected)
        named += tuple(Stroke(((dot.x, dot.y),), "coral", dot.lamp, strong=True) for dot in self.dots if dot.lamp)
        marks = tuple(
            Stroke(mark.ends, "yellow" if mark.id == self._selected else "lilac", mark.name) for mark in self.marks
        )
        around = tuple(
            Stroke(outline, "yellow", closed=True, crosses=False, strong=True)
            for outline in view.outlines_of(self._selected)
        )
        for stroke in (*around, *marks, *named):
            chalk.draw(painter, stroke, self.to_screen)
        chalk.draw_labels(painter, (*named, *marks), self.to_screen)

    def _named(self, dot: Dot) -> Stroke:
        colour = "yellow" if dot.id == self._selected else "mint"
        return Stroke(((dot.x, dot.y),), colour, dot.name, crosses=True, strong=True)

    def _dot_at(self, point: QPointF | None) -> Dot | None:
        if point is None:
            return None
        gaps = [((self.to_screen(dot.x, dot.y) - point).manhattanLength(), dot) for dot in self.dots]
        gap, dot = min(gaps, key=lambda pair: pair[0], default=(NEAR_PX + 1, None))
        return dot if gap <= NEAR_PX else None

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.taken_up.emit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._look()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed, self._dragging = event.position(), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._pressed is not None:
            gap = at - self._pressed
            if self._dragging or gap.manhattanLength() > DRAG_PX:
                self._dragging, self._pressed = True, at
                # The subject follows the hand.
                self._turn(lambda orbit: orbit.turned(-DRAG_DEG * gap.x(), DRAG_DEG * gap.y()))
        before, after = self._dot_at(self._pointer), self._dot_at(at)
        self._pointer = at
        if before is not after:
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None and not self._dragging and self._view is not None:
            dot, at = self._dot_at(event.position()), event.position() * self._scale
            self.chosen.emit(dot.id if dot is not None else self._view.face_at(int(at.x()), int(at.y())))
        self._pressed = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._turn(lambda orbit: orbit.zoomed(WHEEL ** event.angleDelta().y()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if Qt.Key.Key_1 <= key < Qt.Key.Key_1 + len(SIDES):
            self.see_side(SIDES[key - Qt.Key.Key_1])
        elif key in TURNS:
            across, up = TURNS[key]
            self._turn(lambda orbit: orbit.turned(KEY_DEG * across, KEY_DEG * up))
        elif key in ZOOMS:
            self._turn(lambda orbit: orbit.zoomed(ZOOMS[key]))
        elif key == Qt.Key.Key_0:
            self._turn(lambda orbit: orbit.zoomed(1 / orbit.zoom))
        elif key == Qt.Key.Key_V:
            self.still_asked.emit()
        else:
            super().keyPressEvent(event)
