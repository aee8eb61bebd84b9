"""Lanes on a calendar: one an assembly, work as blocks on bench evenings, waiting left empty."""

from __future__ import annotations

from datetime import timedelta
from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QMouseEvent, QPainter, QPaintEvent, QPen

from chalkreel.app import theme
from chalkreel.app.finish.model import Block, Lanes
from chalkreel.app.parts.key_choices import Choice, KeyChoices
from chalkreel.app.parts.plain import tip

GUTTER, HEAD, LANE = 92.0, 34.0, 34.0


class LaneCalendar(KeyChoices):
    """Paints lanes.

    Signals
    -------
    step_chosen(str): a block was clicked.
    """

    step_chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Calendar of steps by assembly")
        self.setMouseTracking(True)
        self._lanes = Lanes((), None, 0, ())
        self._chosen = ""
        self._places: list[tuple[QRectF, Block]] = []

    def show_lanes(self, lanes: Lanes, chosen: str) -> None:
        """Replace what is shown."""
        self._lanes, self._chosen = lanes, chosen
        self.setFixedHeight(int(HEAD + LANE * max(1, len(lanes.names)) + 8))
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t = theme.current()
        painter.fillRect(self.rect(), QColor(t.board))
        lanes = self._lanes
        if lanes.first is None:
            painter.setPen(QColor(t.quiet))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter, "No schedule: give zones and bench evenings below."
            )
            return
        day = (self.width() - GUTTER - 12) / lanes.days
        self._draw_calendar(painter, lanes, day)
        self._places = []
        for block in lanes.blocks:
            top = HEAD + block.lane * LANE + 5
            width = max(3.0, (block.end_day - block.start_day) * day)
            place = QRectF(GUTTER + block.start_day * day, top, width, LANE - 10)
            chosen = block.step_id == self._chosen
            painter.fillRect(place.adjusted(0, 0, -1, 0), QColor(t.yellow if chosen else t.sky))
            self._places.append((place, block))
        self.draw_focus(painter)

    def choices(self) -> tuple[Choice, ...]:
        blocks = sorted(self._places, key=lambda pair: pair[1].start_day)
        return tuple((block.title, place, partial(self.step_chosen.emit, block.step_id)) for place, block in blocks)

    def _draw_calendar(self, painter: QPainter, lanes: Lanes, day: float) -> None:
        assert lanes.first is not None
        t = theme.current()
        for number, name in enumerate(lanes.names):
            y = HEAD + number * LANE
            if number % 2 == 0:
                painter.fillRect(QRectF(GUTTER, y, self.width() - GUTTER - 12, LANE), QColor(t.panel))
            painter.setFont(theme.font(13, QFont.Weight.DemiBold))
            painter.setPen(QColor(t.text))
            painter.drawText(QRectF(10, y, GUTTER - 14, LANE), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(theme.font(11))
        last_label = -99.0
        for number in range(lanes.days + 1):
            date = lanes.first + timedelta(days=number)
            x = GUTTER + number * day
            monday = date.weekday() == 0
            if monday or number == 0:
                painter.setPen(QPen(QColor(t.edge), 1))
                painter.drawLine(QPointF(x, HEAD - 6), QPointF(x, HEAD + LANE * len(lanes.names)))
                if x - last_label > 60 and x < self.width() - 60:
                    painter.setPen(QColor(t.quiet))
                    painter.drawText(QRectF(x + 3, 8, 90, 18), f"{date:%a} {date.day} {date:%b}")
                    last_label = x

    def mousePressEvent(self, event: QMouseEvent) -> None:
        hit = self._hit(event)
        if hit is not None:
            self.step_chosen.emit(hit.step_id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        hit = self._hit(event)
        self.setToolTip(tip(hit.title if hit else ""))

    def _hit(self, event: QMouseEvent) -> Block | None:
        return next((b for place, b in self._places if place.adjusted(-1, 0, 1, 0).contains(event.position())), None)
