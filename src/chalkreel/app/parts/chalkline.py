"""The seven stages as stations on a drawn chalk line, each with the number of its open matters."""

from __future__ import annotations

import math
from typing import Final

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QHBoxLayout, QWidget

from chalkreel.answers.stages import STAGES, StageName
from chalkreel.app import theme
from chalkreel.app.parts.room import Room
from chalkreel.app.session import Session

LINE_Y = 24.0
HEIGHT: Final[dict[Room, int]] = {"close": 34, "usual": 68, "wide": 68}


class Station(QAbstractButton):
    """One stage: a ring on the line, its name below, its open matters above right."""

    def __init__(self, stage: StageName, number: int) -> None:
        super().__init__()
        self.stage, self.count, self.narrow = stage, 0, False
        self.setCheckable(True)
        self.setText(stage)
        self.setToolTip(f"{stage} (Alt+{number})")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.tell(0)

    def tell(self, count: int) -> None:
        """Show how many matters are open."""
        self.count = count
        self.setAccessibleName(f"{self.stage}, {count} open" if count else self.stage)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(70, 34) if self.narrow else QSize(96, 68)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        (self._paint_close if self.narrow else self._paint_usual)(painter)

    def _paint_close(self, painter: QPainter) -> None:
        """The name alone, with its count: one line."""
        t, chosen = theme.current(), self.isChecked()
        painter.setFont(theme.font(13, QFont.Weight.Bold if chosen else QFont.Weight.DemiBold))
        painter.setPen(QColor(t.yellow if chosen else t.text))
        words = QRectF(0, 4, self.width(), 24)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, self.stage)
        half = painter.fontMetrics().horizontalAdvance(self.stage) / 2
        if chosen:
            painter.fillRect(QRectF(self.width() / 2 - half, 28, 2 * half, 2.5), QColor(t.yellow))
        if self.count:
            painter.setFont(theme.font(11, QFont.Weight.DemiBold))
            painter.setPen(QColor(t.coral))
            painter.drawText(QPointF(self.width() / 2 + half + 4, 15), str(self.count))
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.yellow), 1.5))
            painter.drawRoundedRect(words.adjusted(2, 0, -2, 0), 4, 4)

    def _paint_usual(self, painter: QPainter) -> None:
        t = theme.current()
        centre = QPointF(self.width() / 2, LINE_Y)
        chosen = self.isChecked()
        painter.setPen(QPen(QColor(t.yellow if chosen else t.text), 2))
        painter.setBrush(QColor(t.yellow if chosen else t.panel))
        painter.drawEllipse(centre, 7, 7)
        painter.setFont(theme.font(14, QFont.Weight.Bold if chosen else QFont.Weight.DemiBold))
        painter.setPen(QColor(t.yellow if chosen else t.text))
        words = QRectF(0, LINE_Y + 13, self.width(), 22)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, self.stage)
        if self.count:
            painter.setFont(theme.font(12, QFont.Weight.DemiBold))
            painter.setPen(QColor(t.coral))
            painter.drawText(QPointF(centre.x() + 11, LINE_Y - 8), str(self.count))
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.yellow), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(words.adjusted(4, 0, -4, 0), 4, 4)


class ChalkLine(QWidget):
    """The line and its stations."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("chalkline")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(HEIGHT["usual"])
        self.setAccessibleName("Stages")
        self._session = session
        self.stations = [Station(stage, number) for number, stage in enumerate(STAGES, start=1)]
        group = QButtonGroup(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 0, 8, 0)
        row.setSpacing(0)
        for station in self.stations:
            group.addButton(station)
            row.addWidget(station, 1)
            station.clicked.connect(lambda _, stage=station.stage: session.choose_stage(stage))
        session.stage_changed.connect(self._refresh)
        session.answers_changed.connect(self._refresh)
        self._refresh()

    def set_room(self, room: Room) -> None:
        """One line of names, or stations on a line."""
        self.setFixedHeight(HEIGHT[room])
        for station in self.stations:
            station.narrow = room == "close"
            station.updateGeometry()
            station.update()
        self.update()

    def _refresh(self) -> None:
        answers = self._session.answers
        for station in self.stations:
            station.setChecked(station.stage == self._session.stage)
            station.tell(len(answers.matters(station.stage)) if answers else 0)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.current().panel))
        if self.stations[0].narrow:
            return
        xs = [s.x() + s.width() / 2 for s in self.stations]
        path = QPainterPath(QPointF(xs[0], LINE_Y))
        # A hand-drawn line is not quite straight.
        steps = int((xs[-1] - xs[0]) / 6)
        for step in range(1, steps + 1):
            x = xs[0] + (xs[-1] - xs[0]) * step / steps
            path.lineTo(x, LINE_Y + 0.7 * math.sin(x / 37) + 0.4 * math.sin(x / 11))
        painter.setPen(QPen(QColor(theme.current().quiet), 1.6))
        painter.drawPath(path)
