"""One still with chalk over it: marks are taken hold of, tools gather points, a loupe shows the place."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent

from chalkreel.app.parts.accessible import Thing, announce, spot
from chalkreel.app.session import Session
from chalkreel.app.stills import chalk
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.layer import ChalkLayer
from chalkreel.app.stills.loupe import draw_loupe
from chalkreel.app.stills.mask import Mask, mask_image
from chalkreel.app.stills.picture_view import PAN_PX, PictureView
from chalkreel.app.stills.strokes import Handle, Stroke
from chalkreel.app.stills.tools import Gathering, Meant, Points, ToolKind
from chalkreel.core.errors import RefusedError

NUDGE_PX = 0.25
GRAB_PX = 9.0
# A press that moves less is a click.
DRAG_PX = 3.0
SNAP_AFTER_MS = 25
ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}
ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


@dataclass
class Press:
    """A button held down: where, on which mark and how far from it, and whether it has become a drag."""

    at: QPointF
    last: QPointF
    handle: Handle | None = None
    off: tuple[float, float] = (0.0, 0.0)
    dragging: bool = False

    def moved(self, to: QPointF) -> bool:
        """Whether the pointer has gone far enough to drag."""
        gap = to - self.at
        self.dragging = self.dragging or gap.x() ** 2 + gap.y() ** 2 > DRAG_PX**2
        return self.dragging


class StillView(PictureView):
    """Shows the session's still.

    Signals
    -------
    mark_moved(Handle): a mark was dragged or nudged to a new place and let go.
    mark_accepted(Handle): Enter was pressed on a mark that was walked to.
    mark_chosen(str): a mark of this entity was taken hold of; empty when the ground was clicked.
    tool_ended(): the tool has finished or was backed out of.
    pointed(float, float): the pointer moved over a stored pixel.
    """

    mark_moved = Signal(object)
    mark_accepted = Signal(object)
    mark_chosen = Signal(str)
    tool_ended = Signal()
    pointed = Signal(float, float)

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__(session, images)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Still with chalk marks")
        self.setMinimumSize(240, 140)
        self._strokes: tuple[Stroke, ...] = ()
        self._handles: tuple[Handle, ...] = ()
        self._masks: tuple[Mask, ...] = ()
        self._layer = ChalkLayer()
        self._gathering: Gathering | None = None
        # So much of the top lies under what the tool asks; whether it was ended with Shift held down.
        self.covered_px, self.shifted = 0, False
        self._cursor: tuple[float, float] | None = None
        self._snapped_at: tuple[float, float] | None = None
        self._refused_at: tuple[float, float] | None = None
        self._active: Handle | None = None
        self._press: Press | None = None
        self._drag_start: tuple[float, float] | None = None
        self.snap: Callable[[float, float], tuple[float, float]] | None = None
        # Nudges made in quick succession are one gesture.
        self.describe: Callable[[Handle], str] = lambda _: "mark"
        self._settle = QTimer(self, singleShot=True, interval=500)
        self._settle.timeout.connect(self._let_go)
        self._look_for_snap = QTimer(self, singleShot=True, interval=SNAP_AFTER_MS)
        self._look_for_snap.timeout.connect(self._show_snap)
        session.still_changed.connect(self._take_still)

    def set_marks(self, strokes: tuple[Stroke, ...], handles: tuple[Handle, ...]) -> None:
        """Replace what is drawn and what can be taken hold of."""
        self._strokes, self._handles = strokes, handles
        if self._active is not None and not self._settle.isActive() and self._press is None:
            key = self._active.key
            self._active = next((h for h in handles if h.key == key), None)
        self.update()

    def set_masks(self, masks: tuple[Mask, ...]) -> None:
        """Replace what shows which pixels of patches do not count."""
        self._masks = masks
        self.update()

    def use_tool(self, kind: ToolKind, finished: Callable[[Points], object], meant: Meant | None = None) -> None:
        """Begin gathering points; any other tool is dropped."""
        self._gathering = Gathering(kind, finished, meant)
        self._active, self._snapped_at = None, None
        self._cursor = self.to_still(QPointF(self.rect().center()))
        self._session.prompted.emit(self._gathering.prompt)
        self.setFocus()
        self.update()

    def drop_tool(self) -> None:
        """Stop gathering."""
        if self._gathering is not None:
            self._gathering, self._drag_start, self._snapped_at = None, None, None
            self.tool_ended.emit()
            self.update()

    def refuse_at(self, x: float, y: float) -> None:
        """Show where a click was refused, until the next one."""
        self._refused_at = (x, y)
        self.update()

    @property
    def active(self) -> Handle | None:
        """The mark that was taken hold of or walked to."""
        return self._active

    @property
    def at_work(self) -> bool:
        """Whether a tool is in the hand."""
        return self._gathering is not None

    @property
    def snap_shown(self) -> tuple[float, float] | None:
        """The place that a click would be moved to, while it is shown."""
        return self._snapped_at

    def walk_to(self, wanted: Callable[[Handle], bool]) -> bool:
        """Make the next handle of those wanted the active one; False where there is none."""
        found = [h for h in self._handles if wanted(h)]
        if not found:
            return False
        at = found.index(self._active) + 1 if self._active in found else 0
        self._let_go()
        self._take_up(found[at % len(found)])
        self.setFocus()
        return True

    def things(self) -> tuple[Thing, ...]:
        return tuple(spot(self.describe(h), self.to_screen(h.x_px, h.y_px), GRAB_PX) for h in self._handles)

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab walks the marks of the still first, then leaves."""
        if self._handles and self._gathering is None and forward and self._next_handle():
            return True
        self._active = None
        self.update()
        return super().focusNextPrevChild(forward)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        levels = self.draw_picture(painter)
        if not levels:
            return
        for mask in self._masks:
            corner = self.to_screen(mask.left_px, mask.top_px)
            far = self.to_screen(mask.left_px + mask.step * mask.columns, mask.top_px + mask.step * mask.rows)
            painter.drawImage(QRectF(corner, far), mask_image(mask))
        self._layer.draw(painter, self, self._strokes, self.port)
        self._draw_at_work(painter)
        place = self._loupe_place()
        if place is not None:
            free = QRectF(self.rect()).adjusted(0, self.covered_px, 0, 0)
            draw_loupe(painter, levels[0], self.port.aspect, place, free, self.to_screen(*place))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at, self._refused_at = event.position(), None
        if event.button() != Qt.MouseButton.LeftButton:
            self._press = Press(at, at, dragging=True)
            return
        if self._gathering is not None:
            self._cursor = self.to_still(at)
            if self._gathering.kind.drags:
                self._drag_start = self._cursor
            else:
                free = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                self._place_point(*self._cursor, free=free)
            return
        self._let_go()
        held = self._handle_near(at)
        off = (0.0, 0.0)
        if held is not None:
            x, y = self.to_still(at)
            off = held.x_px - x, held.y_px - y
        self._press, self._active = Press(at, at, held, off), held
        self.mark_chosen.emit(held.entity_id if held else "")
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self.pointed.emit(*self.to_still(at))
        if self._press is not None:
            if self._press.moved(at):
                self._drag(self._press, at)
        elif self._gathering is not None:
            self._cursor, self._snapped_at = self.to_still(at), None
            if self._gathering.kind.paints and self._drag_start is not None:
                self._gathering.points.append(self._cursor)
            if self.snap is not None and not self._gathering.kind.drags:
                self._look_for_snap.start()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        press, self._press = self._press, None
        if press is not None and press.handle is not None:
            if press.dragging and self._active is not None and self._active not in self._handles:
                self.mark_moved.emit(self._active)
        elif self._drag_start is not None and self._gathering is not None:
            start, self._drag_start = self._drag_start, None
            self._gathering.points = [start, *self._gathering.points] if self._gathering.kind.paints else [start]
            self._place_point(*self.to_still(event.position()))
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in ARROWS:
            self._arrow(*ARROWS[key], fast=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif key in ENTER:
            self.shifted = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._enter()
        elif key == Qt.Key.Key_Escape:
            self._back_out()
        elif not self.zoom_key(key):
            super().keyPressEvent(event)

    def _draw_at_work(self, painter: QPainter) -> None:
        """What the hand is doing: points gathered so far, the active mark, where a click would snap to."""
        if self._refused_at is not None:
            chalk.draw_refusal(painter, self.to_screen(*self._refused_at))
        gathered = self._gathered_stroke()
        if gathered is not None:
            chalk.draw(painter, gathered, self.to_screen)
        if self._active is not None:
            chalk.draw_cross(painter, self.to_screen(self._active.x_px, self._active.y_px), "white")
        elif self._gathering is not None and self._cursor is not None and not self._gathering.kind.drags:
            chalk.draw_cross(painter, self.to_screen(*self._cursor), "white")
            if self._snapped_at is not None:
                chalk.draw_ring(painter, self.to_screen(*self._snapped_at), "yellow")

    def _gathered_stroke(self) -> Stroke | None:
        if self._gathering is None or self._cursor is None:
            return None
        if self._gathering.kind.drags and self._drag_start is not None:
            if self._gathering.kind.paints:
                return Stroke((*self._gathering.points, self._cursor), "white", strong=True, crosses=False)
            (x0, y0), (x1, y1) = self._drag_start, self._cursor
            return Stroke(((x0, y0), (x1, y0), (x1, y1), (x0, y1)), "white", closed=True, dashed=True, crosses=False)
        if self._gathering.offered:
            return Stroke(tuple(self._gathering.points), "yellow", closed=True, dashed=True, strong=True)
        if self._gathering.points:
            return Stroke((*self._gathering.points, self._cursor), "white", dashed=True)
        return None

    def _loupe_place(self) -> tuple[float, float] | None:
        if self._active is not None:
            return self._active.x_px, self._active.y_px
        if self._gathering is not None and not self._gathering.kind.drags:
            return self._cursor
        return None

    def _take_still(self) -> None:
        self._let_go()
        self._active = None
        if self._gathering is not None:
            self._gathering.points.clear()
            self._drag_start = None
        self.update()

    def _drag(self, press: Press, to: QPointF) -> None:
        if press.handle is not None:
            x, y = self.to_still(to)
            self._active = press.handle.at(x + press.off[0], y + press.off[1])
        else:
            self.pan(to.x() - press.last.x(), to.y() - press.last.y())
        press.last = to
        self.update()

    def _show_snap(self) -> None:
        if self._gathering is not None and self._cursor is not None and self.snap is not None:
            found = self.snap(*self._cursor)
            self._snapped_at = found if found != self._cursor else None
            self.update()

    def _enter(self) -> None:
        """Place a point, end a tool of many points, accept the mark that was walked to."""
        if self._gathering is not None and self._gathering.ready:
            self._finish_tool()
        elif self._gathering is not None and self._cursor is not None:
            self._place_point(*self._cursor)
        elif self._active is not None and self._active in self._handles:
            self.mark_accepted.emit(self._active)
        else:
            self._let_go()

    def _finish_tool(self) -> None:
        """End the tool, then hand over what it gathered: that may be refused, or take up the next tool."""
        tool = self._gathering
        assert tool is not None
        self.drop_tool()
        tool.deliver()

    def _next_handle(self) -> bool:
        keys = [h.key for h in self._handles]
        at = keys.index(self._active.key) + 1 if self._active is not None and self._active.key in keys else 0
        if at >= len(keys):
            return False
        self._let_go()
        self._take_up(self._handles[at])
        return True

    def _take_up(self, handle: Handle) -> None:
        self._active = handle
        self.reveal(handle.x_px, handle.y_px)
        self.mark_chosen.emit(handle.entity_id)
        self._announce(handle)
        self.update()

    def _announce(self, handle: Handle) -> None:
        still = self._session.still
        where = f"on still {still.number} at {handle.x_px:.2f}, {handle.y_px:.2f} px" if still else ""
        keys = [h.key for h in self._handles]
        announce(self, f"{self.describe(handle)} {where}", keys.index(handle.key) if handle.key in keys else -1)

    def _arrow(self, dx: int, dy: int, fast: bool) -> None:
        """Nudge the active mark or the tool's cursor, and keep it in view; pan where there is neither."""
        step = NUDGE_PX * (8.0 if fast else 1.0)
        if self._gathering is not None and self._cursor is not None:
            self._cursor = (self._cursor[0] + dx * step, self._cursor[1] + dy * step)
            self._snapped_at = None
            self.reveal(*self._cursor)
        elif self._active is not None:
            self._active = self._active.at(self._active.x_px + dx * step, self._active.y_px + dy * step)
            self.reveal(self._active.x_px, self._active.y_px)
            self._announce(self._active)
            self._settle.start()
        else:
            self.pan(-dx * PAN_PX, -dy * PAN_PX)
        self.update()

    def _let_go(self) -> None:
        self._settle.stop()
        if self._active is not None and self._active not in self._handles and self._press is None:
            self.mark_moved.emit(self._active)

    def _back_out(self) -> None:
        if self._gathering is not None and not self._gathering.back():
            self.drop_tool()
        elif self._gathering is not None:
            self._session.prompted.emit(self._gathering.prompt)
        else:
            self._settle.stop()
            self._active = self._press = None
            self.mark_chosen.emit("")
        self.update()

    def _place_point(self, x: float, y: float, free: bool = True) -> None:
        assert self._gathering is not None
        if self.snap is not None and not free:
            x, y = self.snap(x, y)
        self._snapped_at = None
        try:
            done = self._gathering.place(x, y)
        except RefusedError as refusal:
            self.refuse_at(x, y)
            self._session.refused.emit(str(refusal))
            return
        if done:
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
