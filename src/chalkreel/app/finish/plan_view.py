"""The plan as lanes over evenings: work as blocks, curing as time that passes, windows as wedges that close."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from functools import partial
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QScrollBar, QVBoxLayout, QWidget

from chalkreel.app import theme
from chalkreel.app.finish.plan_model import EMPTY, Block, EveningColumn, PlanPicture
from chalkreel.app.parts.key_choices import Choice, KeyChoices
from chalkreel.app.parts.plain import tip

GUTTER, HEAD, LANE, BLOCK = 96.0, 42.0, 46.0, 20.0
# A press that moves less than this is a click.
DRAG_PX = 8


class PlanView(QWidget):
    """The lanes with a bar to go through the weeks.

    Signals
    -------
    step_chosen(str): a block was clicked. step_dragged(str, object): it was dropped at an hour (a datetime).
    """

    step_chosen = Signal(str)
    step_dragged = Signal(str, object)

    def __init__(self) -> None:
        super().__init__()
        self.lanes = PlanLanes()
        self.bar = QScrollBar(Qt.Orientation.Horizontal)
        self.bar.setAccessibleName("Weeks of the plan")
        self.bar.valueChanged.connect(self.lanes.scroll_to)
        self.lanes.scrolled.connect(self._fit_bar)
        self.lanes.step_chosen.connect(self.step_chosen)
        self.lanes.step_dragged.connect(self.step_dragged)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.lanes)
        column.addWidget(self.bar)

    def show_plan(self, picture: PlanPicture, chosen: str, now: datetime | None) -> None:
        """Replace what is shown."""
        self.lanes.show_plan(picture, chosen, now)
        self._fit_bar()

    def _fit_bar(self) -> None:
        beyond = self.lanes.beyond
        self.bar.setVisible(beyond > 0)
        self.bar.setRange(0, beyond)
        self.bar.setPageStep(max(1, self.lanes.width() - int(GUTTER)))
        self.bar.setSingleStep(60)
        self.bar.setValue(self.lanes.offset)


class PlanLanes(KeyChoices):
    """Paints the plan from an offset on.

    Signals
    -------
    step_chosen(str), step_dragged(str, object): as of the view. scrolled(): offset or room changed.
    """

    step_chosen = Signal(str)
    step_dragged = Signal(str, object)
    scrolled = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Plan of steps by assembly and evening")
        self.setMouseTracking(True)
        self.offset = 0
        self.surfaces_at: Callable[[str, datetime], str] = lambda _lane, _hour: ""
        self._picture, self._chosen, self._now = EMPTY, "", None
        self._pressed: tuple[Block, QPointF] | None = None
        self._held_at: QPointF | None = None

    _now: datetime | None

    @property
    def beyond(self) -> int:
        """How many px of the plan do not fit."""
        return max(0, round(self._picture.width + GUTTER + 16 - self.width()))

    def show_plan(self, picture: PlanPicture, chosen: str, now: datetime | None) -> None:
        """Replace what is shown; a step chosen elsewhere is brought into view."""
        moved = chosen != self._chosen or picture is not self._picture
        self._picture, self._chosen, self._now = picture, chosen, now
        lanes = len(picture.lanes) + 1
        self.setFixedHeight(int(HEAD + LANE * lanes + 6) if picture.columns else 120)
        block = next((b for b in picture.blocks if b.step.id == chosen), None)
        if moved and block is not None:
            self._bring(block)
        self.scroll_to(self.offset)

    def scroll_to(self, offset: int) -> None:
        """Show the plan from an offset on."""
        self.offset = min(max(0, offset), self.beyond)
        self.update()

    def _bring(self, block: Block) -> None:
        room = self.width() - GUTTER - 40
        if not self.offset <= block.left <= self.offset + room:
            self.offset = min(max(0, round(block.left - room / 3)), self.beyond)
            self.scrolled.emit()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self.scroll_to(self.offset)
        self.scrolled.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if not self.beyond:
            super().wheelEvent(event)
            return
        turned = event.angleDelta()
        self.scroll_to(self.offset - round((turned.x() or turned.y()) / 2))
        self.scrolled.emit()

    # --- painting ---

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t, picture = theme.current(), self._picture
        painter.fillRect(self.rect(), QColor(t.board))
        if not picture.columns:
            painter.setPen(QColor(t.quiet))
            painter.setFont(theme.font(13))
            words = "Nothing is planned yet: give zones and bench evenings, and the plan stands here."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
            return
        painter.save()
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        painter.translate(GUTTER - self.offset, 0)
        self._draw_evenings(painter)
        self._draw_curing(painter)
        self._draw_windows(painter)
        self._draw_blocks(painter)
        self._draw_cups(painter)
        self._draw_now(painter)
        painter.restore()
        self._draw_names(painter)
        self.draw_focus(painter)

    def _seen(self, left: float, right: float) -> bool:
        """Whether something from x to x lies in what is shown."""
        return right >= self.offset and left <= self.offset + self.width()

    def _top(self, lane: int) -> float:
        return HEAD + LANE * lane

    def _draw_evenings(self, painter: QPainter) -> None:
        t, bottom = theme.current(), self._top(len(self._picture.lanes) + 1)
        for column in self._picture.columns:
            if not self._seen(column.left, column.right):
                continue
            painter.fillRect(QRectF(column.left, 0, column.right - column.left, bottom), QColor(t.panel))
            painter.setPen(QColor(t.text))
            painter.setFont(theme.font(12, QFont.Weight.DemiBold))
            painter.drawText(QPointF(column.left + 5, 17), _day(column, column.right - column.left > 92))
            painter.setPen(QColor(t.quiet))
            painter.setFont(theme.font(11))
            painter.drawText(QPointF(column.left + 5, 33), f"{column.start:%H:%M}")
        painter.setFont(theme.font(10))
        for a, b in pairwise(self._picture.columns):
            days = (b.start.date() - a.start.date()).days
            if days:
                painter.drawText(QRectF(a.right, 20, b.left - a.right, 16), Qt.AlignmentFlag.AlignCenter, f"{days} d")
        painter.setPen(QPen(QColor(t.edge), 1))
        for lane in range(len(self._picture.lanes) + 1):
            painter.drawLine(QPointF(0, self._top(lane)), QPointF(self._picture.width, self._top(lane)))

    def _draw_curing(self, painter: QPainter) -> None:
        """Hatching thins from wet to cured."""
        t = theme.current()
        for hatch in self._picture.hatches:
            if not self._seen(hatch.left, hatch.right):
                continue
            top = self._top(hatch.lane) + 8
            shown = QRectF(self.offset, top, self.width(), BLOCK)
            wet, curing = (
                QRectF(left, top, right - left, BLOCK).intersected(shown)
                for left, right in ((hatch.left, hatch.touch), (hatch.touch, hatch.right))
            )
            _hatched(painter, wet, 4, QColor(t.quiet))
            _hatched(painter, curing, 9, QColor(t.edge))

    def _draw_windows(self, painter: QPainter) -> None:
        t = theme.current()
        for wedge in self._picture.wedges:
            if wedge.right - wedge.left < 2 or not self._seen(wedge.left, wedge.right):
                continue
            top = self._top(wedge.lane) + 8
            fill = QColor(t.yellow)
            fill.setAlpha(90 if wedge.tight else 40)
            painter.setPen(QPen(QColor(t.yellow), 1))
            painter.setBrush(fill)
            painter.drawPolygon(
                QPolygonF([QPointF(wedge.left, top), QPointF(wedge.left, top + BLOCK),
                           QPointF(wedge.right, top + BLOCK / 2)])
            )  # fmt: skip
            painter.drawLine(QPointF(wedge.right, top), QPointF(wedge.right, top + BLOCK))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _draw_blocks(self, painter: QPainter) -> None:
        t = theme.current()
        for block in self._picture.blocks:
            if not self._seen(block.left, block.right + block.room):
                continue
            place = self._place(block)
            chosen = block.step.id == self._chosen
            colour = QColor(t.coral if block.broken else t.yellow if chosen else t.text)
            style = Qt.PenStyle.DashLine if block.broken else Qt.PenStyle.SolidLine
            painter.setPen(QPen(colour, 2 if chosen or block.broken else 1.2, style))
            painter.setBrush(colour if block.step.spray and not block.broken else QColor(t.board))
            painter.drawRoundedRect(place, 3, 3)
            painter.setFont(theme.font(10, QFont.Weight.DemiBold if chosen else QFont.Weight.Normal))
            words = painter.fontMetrics().elidedText(
                ("✗ " if block.broken else "") + block.label, Qt.TextElideMode.ElideRight, int(block.room)
            )
            painter.setPen(colour if chosen or block.broken else QColor(t.quiet))
            if block.room > 16 or chosen:
                painter.drawText(QPointF(place.left(), place.bottom() + 13), words)

    def _draw_cups(self, painter: QPainter) -> None:
        t, top = theme.current(), self._top(len(self._picture.lanes))
        cups = self._picture.cups
        # A plan without spraying has no cup.
        ends = [*(cup.left for cup in cups[1:]), self._picture.width][: len(cups)]
        for cup, after in zip(cups, ends, strict=True):
            fill = QColor(t.sky)
            fill.setAlpha(90)
            painter.setPen(QPen(QColor(t.sky), 1))
            painter.setBrush(fill)
            painter.drawRoundedRect(QRectF(cup.left, top + 8, max(3.0, cup.right - cup.left), 12), 3, 3)
            painter.setFont(theme.font(10))
            room = int(after - cup.left - 4)
            if room > 16 and self._seen(cup.left, after):
                words = painter.fontMetrics().elidedText(cup.words, Qt.TextElideMode.ElideRight, room)
                painter.drawText(QPointF(cup.left, top + 34), words)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _draw_now(self, painter: QPainter) -> None:
        columns = self._picture.columns
        if self._now is None or self._now < columns[0].start:
            return
        x = self._picture.x(self._now)
        painter.setPen(QPen(QColor(theme.current().sky), 2))
        painter.drawLine(QPointF(x, HEAD - 4), QPointF(x, self.height()))

    def _draw_names(self, painter: QPainter) -> None:
        t = theme.current()
        painter.fillRect(QRectF(0, 0, GUTTER - 4, self.height()), QColor(t.board))
        names = (*self._picture.lanes, "Airbrush")
        for lane, name in enumerate(names):
            painter.setFont(theme.font(12, QFont.Weight.DemiBold))
            painter.setPen(QColor(t.text))
            words = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(GUTTER) - 14)
            painter.drawText(QPointF(6, self._top(lane) + 22), words)
        if self._held_at is not None:
            at = self._picture.at(self._held_at.x() - GUTTER + self.offset)
            painter.setPen(QColor(t.yellow))
            painter.drawText(QPointF(6, 17), f"{at:%a %H:%M}" if at else "")

    def _place(self, block: Block) -> QRectF:
        width = max(4.0, block.right - block.left - 1)
        return QRectF(block.left, self._top(block.lane) + 8, width, BLOCK)

    # --- mouse and keys ---

    def _tell(self) -> None:
        blocks = sorted(self._picture.blocks, key=lambda b: b.left)
        if blocks:
            self._bring(blocks[min(self._at, len(blocks) - 1)])
        super()._tell()

    def choices(self) -> tuple[Choice, ...]:
        blocks = sorted(self._picture.blocks, key=lambda b: b.left)
        across = GUTTER - self.offset
        return tuple(
            (b.step.title, self._place(b).translated(across, 0), partial(self.step_chosen.emit, b.step.id))
            for b in blocks
        )  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent) -> None:
        block = self._hit(event.position())
        self._pressed = (block, event.position()) if block is not None else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None and abs(event.position().x() - self._pressed[1].x()) > DRAG_PX:
            self._held_at = event.position()
            self.update()
            return
        block = self._hit(event.position())
        self.setToolTip(tip(block.step.title if block else self._surface_words(event.position())))

    def _surface_words(self, at: QPointF) -> str:
        """What the zones of the lane under the pointer are like at the hour under it."""
        lane = int((at.y() - HEAD) // LANE)
        hour = self._picture.at(at.x() - GUTTER + self.offset)
        if at.x() < GUTTER or at.y() < HEAD or lane >= len(self._picture.lanes) or hour is None:
            return ""
        return self.surfaces_at(self._picture.lanes[lane], hour)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed = self._pressed, None
        held, self._held_at = self._held_at, None
        self.update()
        if pressed is None:
            return
        at = self._picture.at(event.position().x() - GUTTER + self.offset)
        if held is not None and at is not None:
            self.step_dragged.emit(pressed[0].step.id, at)
        else:
            self.step_chosen.emit(pressed[0].step.id)

    def _hit(self, at: QPointF) -> Block | None:
        if at.x() < GUTTER:
            return None
        inside = QPointF(at.x() - GUTTER + self.offset, at.y())
        found = [b for b in self._picture.blocks if self._place(b).adjusted(-2, -4, 2, 16).contains(inside)]
        return min(found, key=lambda b: abs(self._place(b).center().x() - inside.x()), default=None)


def _day(column: EveningColumn, roomy: bool) -> str:
    start = column.start
    return f"{start:%a} {start.day} {start:%b}" if roomy else f"{start:%a} {start.day}"


def _hatched(painter: QPainter, area: QRectF, step: int, colour: QColor) -> None:
    """Slanted lines that fill an area."""
    if area.width() < 2:
        return
    painter.save()
    painter.setClipRect(area, Qt.ClipOperation.IntersectClip)
    painter.setPen(QPen(colour, 1))
    # From a fixed raster, so that the lines stand still when the plan is scrolled.
    x = (area.left() - area.height()) // step * step
    while x < area.right():
        painter.drawLine(QPointF(x, area.bottom()), QPointF(x + area.height(), area.top()))
        x += step
    painter.restore()
