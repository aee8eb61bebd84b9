"""The runners of the kit, drawn as frames with what hangs on them."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QElapsedTimer, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QSizePolicy

from chalkreel.app import theme
from chalkreel.app.convert.box_model import Cell, Runner, part_of_number, runner_names, runners, sign
from chalkreel.app.parts.accessible import announce
from chalkreel.app.parts.empty import draw_empty
from chalkreel.app.parts.key_choices import Choice, KeyChoices
from chalkreel.core.convert.kinds import STATE_KEYS
from chalkreel.document.entities import KitPart
from chalkreel.document.snapshot import Build

EMPTY = "Type below what the sheet lists, for example A1–34, B1–22: the runners are drawn here."
# Figures that follow each other within this time are one number.
TOGETHER_MS = 1200


class RunnerView(KeyChoices):
    """Paints the box. A part is chosen by click, by arrows, or by its number; one letter then says how it is.

    Signals
    -------
    chosen(str): a part. told(str): the state said of the chosen part.
    """

    chosen = Signal(str)
    told = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Runners of the kit")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._build: Build | None = None
        self._runners: tuple[Runner, ...] = ()
        self.part_id = ""
        self.runner = ""
        self._typed, self._clock = "", QElapsedTimer()

    def show_box(self, build: Build, part_id: str) -> None:
        """Replace what is drawn; `part_id` is the chosen part."""
        self._build, self.part_id = build, part_id
        names = runner_names(build)
        if self.runner not in names:
            self.runner = names[0] if names else ""
        self._lay()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self._lay()

    def _lay(self) -> None:
        if self._build is not None:
            self._runners, height = runners(self._build, max(self.width() - 4.0, 300.0))
            self.setFixedHeight(max(220, round(height) + 6))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, t, shown = QPainter(self), theme.current(), QRectF(event.rect())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.board))
        if not self._runners:
            draw_empty(painter, self.rect(), EMPTY)
            return
        for runner in self._runners:
            self._draw_frame(painter, runner)
            for cell in runner.cells:
                if QRectF(*cell.box).adjusted(-4, -4, 4, 4).intersects(shown):
                    self._draw_cell(painter, cell)
        self.draw_focus(painter)

    def _draw_frame(self, painter: QPainter, runner: Runner) -> None:
        t = theme.current()
        box = QRectF(*runner.box).adjusted(1, 13, -1, -1)
        gone = runner.told.endswith("not in the box")
        painter.setPen(
            QPen(QColor(t.coral if gone else t.border), 1.2, Qt.PenStyle.DashLine if gone else Qt.PenStyle.SolidLine)
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box, 7, 7)
        painter.drawRoundedRect(box.adjusted(4, 4, -4, -4), 5, 5)
        painter.setFont(theme.font(14, QFont.Weight.Bold))
        name = runner.name or "–"
        tab = QRectF(box.left() + 10, box.top() - 12, max(28, painter.fontMetrics().horizontalAdvance(name) + 16), 24)
        painter.setBrush(QColor(t.panel))
        painter.setPen(QPen(QColor(t.yellow if runner.name == self.runner else t.border), 1.4))
        painter.drawRoundedRect(tab, 5, 5)
        painter.setPen(QColor(t.text))
        painter.drawText(tab, Qt.AlignmentFlag.AlignCenter, name)
        painter.setFont(theme.font(12))
        words = {"good": "✓ ", "warn": "△ ", "bad": "✗ "}[runner.state] + runner.told
        wide = painter.fontMetrics().horizontalAdvance(words)
        at = QRectF(tab.right() + 6, tab.top(), min(wide, box.right() - tab.right() - 16) + 4, 24)
        painter.fillRect(at, QColor(t.board))
        painter.setPen(QColor(t.state(runner.state)))
        fitted = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, round(at.width()))
        painter.drawText(at, Qt.AlignmentFlag.AlignVCenter, fitted)

    def _draw_cell(self, painter: QPainter, cell: Cell) -> None:
        t, box = theme.current(), QRectF(*cell.box)
        colour = {"present": t.text, "missing": t.coral}.get(cell.state, t.yellow)
        style = Qt.PenStyle.DashLine if cell.state == "missing" else Qt.PenStyle.SolidLine
        chosen = cell.part_id == self.part_id
        if chosen:
            painter.setPen(QPen(QColor(t.yellow), 2))
            painter.setBrush(QColor(t.chosen))
            painter.drawRoundedRect(box.adjusted(-3, -3, 3, 3), 5, 5)
        painter.setPen(QPen(QColor(colour), 1.3, style))
        painter.setBrush(QColor(t.panel))
        if cell.form == "slope":
            lean = box.width() / 4
            corners = (
                box.bottomLeft(),
                box.topLeft() + QPointF(lean, 0),
                box.topRight() - QPointF(4, 0),
                box.bottomRight(),
            )
            painter.drawPolygon(QPolygonF(list(corners)))
        elif cell.form == "round":
            side = box.height()
            painter.drawEllipse(QRectF(box.center().x() - side / 2, box.top(), side, side))
        else:
            painter.drawRoundedRect(box.adjusted(0, 5, 0, -5) if cell.form == "long" else box, 4, 4)
        painter.setFont(theme.font(12 if box.height() > 28 else 11))
        painter.setPen(QColor(colour))
        words = painter.fontMetrics().elidedText(
            sign(cell.state) + cell.words, Qt.TextElideMode.ElideRight, round(box.width())
        )
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    # --- mouse and keys ---

    def _cells(self) -> tuple[tuple[Runner, Cell], ...]:
        return tuple((runner, cell) for runner in self._runners for cell in runner.cells)

    def choices(self) -> tuple[Choice, ...]:
        return tuple(
            (f"{r.name}{c.words}, {c.state}", QRectF(*c.box), partial(self._choose, c.part_id))
            for r, c in self._cells()
        )

    def _choose(self, part_id: str) -> None:
        for number, (runner, cell) in enumerate(self._cells()):
            if cell.part_id == part_id:
                self._at, self.runner = number, runner.name
                break
        part = self._build.get(KitPart, part_id) if self._build is not None else None
        if part is not None:
            announce(self, f"{part.name}, {part.state}")
        self.chosen.emit(part_id)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for _, cell in self._cells():
            if QRectF(*cell.box).contains(event.position()):
                self._choose(cell.part_id)
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        text, shifted = event.text(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        plain = not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        if self._build is None or not plain:
            super().keyPressEvent(event)
        elif text.isdecimal():
            self._figure(text)
        elif event.key() in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp):
            self._turn(1 if event.key() == Qt.Key.Key_PageDown else -1)
        elif shifted and text.upper() in runner_names(self._build):
            self.runner, self._typed = text.upper(), ""
            self.update()
        elif not shifted and text.lower() in STATE_KEYS and self.part_id:
            # The next figure begins another number.
            self._typed = ""
            self.told.emit(STATE_KEYS[text.lower()])
        else:
            super().keyPressEvent(event)
            found = self.choices()
            if found and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down):
                found[min(self._at, len(found) - 1)][2]()

    def _figure(self, figure: str) -> None:
        """One more figure of a part's number on the runner in hand."""
        assert self._build is not None
        together = self._clock.isValid() and self._clock.elapsed() < TOGETHER_MS
        self._typed = (self._typed + figure if together else figure)[-3:]
        self._clock.restart()
        part_id = part_of_number(self._build, self.runner, int(self._typed))
        if part_id:
            self._choose(part_id)

    def _turn(self, by: int) -> None:
        assert self._build is not None
        names = runner_names(self._build)
        if names:
            self.runner = names[(names.index(self.runner) + by) % len(names)] if self.runner in names else names[0]
            self._typed = ""
            self.update()
