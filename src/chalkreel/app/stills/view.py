"""One still, panned and zoomed, with chalk over it and a loupe."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QFont,
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
from chalkreel.app.session import Session
from chalkreel.app.stills import chalk
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.loupe import draw_loupe
from chalkreel.app.stills.mask import Mask, mask_image
from chalkreel.app.stills.strokes import Handle, Stroke
from chalkreel.app.stills.tools import Gathering, Points, ToolKind

NUDGE_PX = 0.25
GRAB_PX = 9.0
MOST_ZOOM = 40.0
ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


class StillView(QWidget):
    """Shows the session's still.

    Signals
    -------
    mark_moved(Handle): a mark was dragged or nudged to a new place and let go.
    mark_accepted(Handle): Enter was pressed on a mark that was walked to.
    mark_chosen(str): a mark of this entity was taken hold of; empty when the ground was clicked.
    tool_ended(): the tool has finished or was backed out of.
    """

    mark_moved = Signal(object)
    mark_accepted = Signal(object)
    mark_chosen = Signal(str)
    tool_ended = Signal()

    def __init__(self, session: Session, images: Images, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._images = session, images
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Still with chalk marks")
        self.setMinimumSize(320, 200)
        self._strokes: tuple[Stroke, ...] = ()
        self._handles: tuple[Handle, ...] = ()
        self._masks: tuple[Mask, ...] = ()
        self._zoom, self._offset, self._fitted = 1.0, QPointF(), True
        self._gathering: Gathering | None = None
        self._cursor: tuple[float, float] | None = None
        self._held: Handle | None = None
        self._active: Handle | None = None
        self._pan_from: QPointF | None = None
        self._drag_start: tuple[float, float] | None = None
        self.snap: Callable[[float, float], tuple[float, float]] | None = None
        # Nudges made in quick succession are one gesture.
        self._settle = QTimer(self, singleShot=True, interval=500)
        self._settle.timeout.connect(self._let_go)
        session.still_changed.connect(self._take_still)
        images.levels_ready.connect(lambda _: self._refit())

    def set_marks(self, strokes: tuple[Stroke, ...], handles: tuple[Handle, ...]) -> None:
        """Replace what is drawn and what can be taken hold of."""
        self._strokes, self._handles = strokes, handles
        if self._active is not None and not self._settle.isActive() and self._held is None:
            key = self._active.key
            self._active = next((h for h in handles if h.key == key), None)
        self.update()

    def set_masks(self, masks: tuple[Mask, ...]) -> None:
        """Replace what shows which pixels of patches do not count."""
        self._masks = masks
        self.update()

    def use_tool(self, kind: ToolKind, finished: Callable[[Points], object]) -> None:
        """Begin gathering points; any other tool is dropped."""
        self._gathering = Gathering(kind, finished)
        self._active, self._cursor = None, self._centre()
        self._session.prompted.emit(self._gathering.prompt)
        self.setFocus()
        self.update()

    def drop_tool(self) -> None:
        """Stop gathering."""
        if self._gathering is not None:
            self._gathering, self._drag_start = None, None
            self.tool_ended.emit()
            self.update()

    @property
    def active(self) -> Handle | None:
        """The mark that was taken hold of or walked to."""
        return self._active

    @property
    def zoom(self) -> float:
        """Screen pixels for one stored pixel's height."""
        return self._zoom

    def to_screen(self, x: float, y: float) -> QPointF:
        """Where a stored pixel is on the widget."""
        return QPointF(x * self._aspect * self._zoom, y * self._zoom) + self._offset

    def to_still(self, point: QPointF) -> tuple[float, float]:
        """Which stored pixel a point of the widget shows."""
        local = (point - self._offset) / self._zoom
        return local.x() / self._aspect, local.y()

    def fit(self) -> None:
        """Show the whole still."""
        self._fitted = True
        self._refit()

    def zoom_by(self, factor: float, around: QPointF | None = None) -> None:
        """Zoom about a point of the widget, or its middle."""
        around = around or QPointF(self.rect().center())
        zoom = min(MOST_ZOOM, max(self._fit_zoom() * 0.5, self._zoom * factor))
        self._offset = around - (around - self._offset) * (zoom / self._zoom)
        self._zoom, self._fitted = zoom, False
        self.update()

    @property
    def _aspect(self) -> float:
        still = self._session.still
        return still.pixel_aspect if still else 1.0

    def _size(self) -> QSize:
        still = self._session.still
        return QSize(still.width_px, still.height_px) if still else QSize(1, 1)

    def _centre(self) -> tuple[float, float]:
        return self.to_still(QPointF(self.rect().center()))

    def _fit_zoom(self) -> float:
        size = self._size()
        return min((self.width() - 24) / (size.width() * self._aspect), (self.height() - 24) / size.height())

    def _take_still(self) -> None:
        self._let_go()
        self._active = None
        if self._gathering is not None:
            self._gathering.points.clear()
            self._drag_start = None
        self.fit()

    def _refit(self) -> None:
        if self._fitted:
            size = self._size()
            self._zoom = max(1e-3, self._fit_zoom())
            self._offset = QPointF(
                (self.width() - size.width() * self._aspect * self._zoom) / 2,
                (self.height() - size.height() * self._zoom) / 2,
            )
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._refit()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme.JUDGING_GREY))
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        still = self._session.still
        levels = self._images.levels(still) if still else ()
        if not levels:
            self._say(painter, "Opening the still…" if still else "No still on the reel yet. Add one in Gather.")
            return
        self._draw_picture(painter, levels)
        for mask in self._masks:
            corner = self.to_screen(mask.left_px, mask.top_px)
            far = self.to_screen(mask.left_px + mask.step * mask.columns, mask.top_px + mask.step * mask.rows)
            painter.drawImage(QRectF(corner, far), mask_image(mask))
        self._draw_marks(painter)
        place = self._loupe_place()
        if place is not None:
            draw_loupe(painter, levels[0], self._aspect, place, QRectF(self.rect()), self.to_screen(*place))

    def _draw_picture(self, painter: QPainter, levels: tuple[QImage, ...]) -> None:
        # The smallest level that is still at least as fine as the screen.
        level = 0
        while level + 1 < len(levels) and self._zoom * 2 ** (level + 1) * max(1.0, self._aspect) <= 1.0:
            level += 1
        image = levels[level]
        size = self._size()
        left, top = self.to_still(QPointF(0, 0))
        right, bottom = self.to_still(QPointF(self.width(), self.height()))
        left, top = max(0.0, left), max(0.0, top)
        right, bottom = min(float(size.width()), right), min(float(size.height()), bottom)
        if right <= left or bottom <= top:
            return
        sx, sy = image.width() / size.width(), image.height() / size.height()
        target = QRectF(self.to_screen(left, top), self.to_screen(right, bottom))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self._zoom < 6)
        painter.drawImage(target, image, QRectF(left * sx, top * sy, (right - left) * sx, (bottom - top) * sy))

    def _draw_marks(self, painter: QPainter) -> None:
        # Thousands of points are placed in one paint: what places them is looked up once.
        across, zoom, left, top = self._aspect * self._zoom, self._zoom, self._offset.x(), self._offset.y()

        def to_screen(x: float, y: float) -> QPointF:
            return QPointF(x * across + left, y * zoom + top)

        for stroke in self._strokes:
            chalk.draw(painter, stroke, to_screen)
        gathered = self._gathered_stroke()
        if gathered is not None:
            chalk.draw(painter, gathered, to_screen)
        chalk.draw_labels(painter, self._strokes, to_screen)
        if self._active is not None:
            chalk.draw_cross(painter, self.to_screen(self._active.x_px, self._active.y_px), "white")
        elif self._gathering is not None and self._cursor is not None and not self._gathering.kind.drags:
            chalk.draw_cross(painter, self.to_screen(*self._cursor), "white")

    def _gathered_stroke(self) -> Stroke | None:
        if self._gathering is None or self._cursor is None:
            return None
        if self._gathering.kind.drags and self._drag_start is not None:
            if self._gathering.kind.paints:
                return Stroke((*self._gathering.points, self._cursor), "white", strong=True, crosses=False)
            (x0, y0), (x1, y1) = self._drag_start, self._cursor
            return Stroke(((x0, y0), (x1, y0), (x1, y1), (x0, y1)), "white", closed=True, dashed=True, crosses=False)
        if self._gathering.points:
            return Stroke((*self._gathering.points, self._cursor), "white", dashed=True)
        return None

    def _loupe_place(self) -> tuple[float, float] | None:
        if self._active is not None:
            return self._active.x_px, self._active.y_px
        if self._gathering is not None and not self._gathering.kind.drags:
            return self._cursor
        return None

    def _say(self, painter: QPainter, words: str) -> None:
        painter.setFont(theme.font(15, QFont.Weight.DemiBold))
        painter.setPen(theme.chalk("white"))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom_by(1.0015 ** event.angleDelta().y(), event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = self.to_still(event.position())
        if event.button() != Qt.MouseButton.LeftButton:
            self._pan_from = event.position() - self._offset
            return
        if self._gathering is not None:
            if self._gathering.kind.drags:
                self._drag_start = self._cursor = place
            else:
                self._cursor = place
                held = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                self._place_point(*place, free=held)
            return
        self._let_go()
        self._active = self._held = self._handle_near(event.position())
        self.mark_chosen.emit(self._active.entity_id if self._active else "")
        if self._held is None:
            self._pan_from = event.position() - self._offset
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pan_from is not None:
            self._offset, self._fitted = event.position() - self._pan_from, False
        elif self._held is not None:
            self._held = self._active = self._held.at(*self.to_still(event.position()))
        elif self._gathering is not None:
            self._cursor = self.to_still(event.position())
            if self._gathering.kind.paints and self._drag_start is not None:
                self._gathering.points.append(self._cursor)
        else:
            return
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pan_from = None
        if self._held is not None:
            held, self._held = self._held, None
            if held not in self._handles:
                self.mark_moved.emit(held)
        elif self._drag_start is not None and self._gathering is not None:
            start, self._drag_start = self._drag_start, None
            self._gathering.points = [start, *self._gathering.points] if self._gathering.kind.paints else [start]
            self._place_point(*self.to_still(event.position()))
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in ARROWS and (self._active is not None or self._gathering is not None):
            self._nudge(*ARROWS[key], 8.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0)
        elif self._may_place(key):
            assert self._cursor is not None
            self._place_point(*self._cursor)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self._gathering is not None and self._gathering.ready:
                self._finish_tool()
            elif self._active is not None and self._active in self._handles:
                self.mark_accepted.emit(self._active)
            else:
                self._let_go()
        elif key == Qt.Key.Key_Escape:
            self._back_out()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom_by(1.25)
        elif key == Qt.Key.Key_Minus:
            self.zoom_by(0.8)
        elif key == Qt.Key.Key_0:
            self.fit()
        elif key == Qt.Key.Key_Tab and self._handles:
            self._next_handle()
        else:
            super().keyPressEvent(event)

    def _may_place(self, key: Qt.Key) -> bool:
        """Enter places the next point, unless a tool of many points is told that it has enough."""
        enter = key in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        return enter and self._gathering is not None and self._cursor is not None and not self._gathering.ready

    def _finish_tool(self) -> None:
        """End the tool, then hand over what it gathered: that may be refused, or take up the next tool."""
        tool = self._gathering
        assert tool is not None
        self.drop_tool()
        tool.deliver()

    def walk_to(self, wanted: Callable[[Handle], bool]) -> None:
        """Make the next handle of those wanted the active one."""
        keys = [h for h in self._handles if wanted(h)]
        if keys:
            at = keys.index(self._active) + 1 if self._active in keys else 0
            self._let_go()
            self._active = keys[at % len(keys)]
            self.mark_chosen.emit(self._active.entity_id)
            self.setFocus()
            self.update()

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab walks the marks of the still first, then leaves."""
        if self._handles and self._gathering is None and forward and self._next_handle():
            return True
        self._active = None
        self.update()
        return super().focusNextPrevChild(forward)

    def _next_handle(self) -> bool:
        keys = [h.key for h in self._handles]
        at = keys.index(self._active.key) + 1 if self._active else 0
        if at >= len(keys):
            return False
        self._let_go()
        self._active = self._handles[at]
        self.mark_chosen.emit(self._active.entity_id)
        self.update()
        return True

    def _nudge(self, dx: int, dy: int, quarters: float) -> None:
        step = NUDGE_PX * quarters
        if self._gathering is not None and self._cursor is not None:
            self._cursor = (self._cursor[0] + dx * step, self._cursor[1] + dy * step)
        elif self._active is not None:
            self._active = self._active.at(self._active.x_px + dx * step, self._active.y_px + dy * step)
            self._settle.start()
        self.update()

    def _let_go(self) -> None:
        self._settle.stop()
        if self._active is not None and self._active not in self._handles and self._held is None:
            self.mark_moved.emit(self._active)

    def _back_out(self) -> None:
        if self._gathering is not None and not self._gathering.back():
            self.drop_tool()
        elif self._gathering is not None:
            self._session.prompted.emit(self._gathering.prompt)
        else:
            self._settle.stop()
            self._active = self._held = None
            self.mark_chosen.emit("")
        self.update()

    def _place_point(self, x: float, y: float, free: bool = True) -> None:
        assert self._gathering is not None
        if self.snap is not None and not free:
            x, y = self.snap(x, y)
        if self._gathering.place(x, y):
            self._finish_tool()
        else:
            self._session.prompted.emit(self._gathering.prompt)
        self.update()

    def _handle_near(self, point: QPointF) -> Handle | None:
        def distance(handle: Handle) -> float:
            gap = self.to_screen(handle.x_px, handle.y_px) - point
            return float((gap.x() ** 2 + gap.y() ** 2) ** 0.5)

        nearest = min(self._handles, key=distance, default=None)
        return nearest if nearest is not None and distance(nearest) <= GRAB_PX else None
