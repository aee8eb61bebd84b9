"""Tonight: the evening by the clock at arm's length, mixes and airbrush, timers, hands off."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from chalkreel.answers.tonight import Tonight, Work
from chalkreel.answers.tonight_words import evening_words, how_words, timer_words, until_words
from chalkreel.app import theme
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.core.lengths import LengthUnit

USUAL_PX, LARGE_PX = 13, 19


class WorkFrame(QFrame):
    """A stretch of work; a click or Enter chooses its step.

    Signals
    -------
    chosen(str): the step's id.
    """

    chosen = Signal(str)

    def __init__(self, step_id: str, words: str) -> None:
        super().__init__()
        self.setObjectName("work")
        self.setAccessibleName(words)
        self._step_id = step_id
        if step_id:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def mousePressEvent(self, _: QMouseEvent) -> None:
        self._choose()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._choose()
        else:
            super().keyPressEvent(event)

    def _choose(self) -> None:
        if self._step_id:
            self.chosen.emit(self._step_id)


class TonightPage(QScrollArea):
    """The sheet; a step is chosen by a click.

    Signals
    -------
    step_chosen(str).
    """

    step_chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Tonight's sheet")
        self.large = QPushButton("Large type")
        self.large.setCheckable(True)
        self.large.toggled.connect(lambda _: self._write())
        self._sheet: Tonight | None = None
        self._chosen = ""
        self._unit: LengthUnit = "mm"

    def show_sheet(self, sheet: Tonight | None, chosen: str, unit: LengthUnit) -> None:
        """Replace what is shown."""
        if (sheet, chosen, unit) != (self._sheet, self._chosen, self._unit) or self.widget() is None:
            self._sheet, self._chosen, self._unit = sheet, chosen, unit
            self._write()

    @property
    def _px(self) -> int:
        return LARGE_PX if self.large.isChecked() else USUAL_PX

    def _write(self) -> None:
        at = self.verticalScrollBar().value()
        body = QWidget()
        body.setObjectName("board")
        body.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 6, 6)
        sheet = self._sheet
        if sheet is None:
            column.addWidget(self._line("Nothing is planned: give zones and bench evenings.", "quiet"))
        else:
            column.addWidget(self._title(sheet))
            row = QHBoxLayout()
            row.setSpacing(14)
            row.addWidget(self._clock(sheet), 3)
            row.addWidget(self._beside(sheet), 2)
            column.addLayout(row)
        column.addStretch(1)
        self.setWidget(body)
        self.verticalScrollBar().setValue(at)

    def _title(self, sheet: Tonight) -> QWidget:
        label = PlainLabel(evening_words(sheet.window))
        label.setFont(theme.font(self._px + 6, QFont.Weight.Bold))
        return label

    def _clock(self, sheet: Tonight) -> QWidget:
        part, column = _column()
        column.addWidget(self._head("What to do, by the clock"))
        for work in sheet.work:
            column.addWidget(self._work(work))
            if work.end in sheet.stops:
                column.addWidget(self._line(f"■ {work.end:%H:%M}: a good place to stop, no window is open", "good"))
        column.addWidget(self._head("Half an hour less"))
        column.addWidget(self._line(sheet.less))
        column.addWidget(self._head("Half an hour more"))
        column.addWidget(self._line(sheet.more))
        column.addStretch(1)
        return part

    def _work(self, work: Work) -> QWidget:
        frame = WorkFrame(work.step.id if work.step else "", work.words)
        frame.chosen.connect(self.step_chosen)
        t = theme.current()
        edge = t.yellow if work.step is not None and work.step.id == self._chosen else t.edge
        frame.setStyleSheet(f"QFrame#work {{ border: 1px solid {edge}; border-radius: 4px; }}")
        row = QHBoxLayout(frame)
        row.setContentsMargins(8, 5, 8, 5)
        row.addWidget(self._bold(f"{work.start:%H:%M}"), 0, Qt.AlignmentFlag.AlignTop)
        words = QVBoxLayout()
        words.setSpacing(1)
        if work.step is None:
            words.addWidget(self._line(f"{work.words}, {how_words(work, self._unit)}", "quiet"))
        else:
            words.addWidget(self._bold(work.words))
            words.addWidget(self._line(how_words(work, self._unit), "quiet"))
        row.addLayout(words, 1)
        return frame

    def _bold(self, words: str) -> PlainLabel:
        label = self._line(words)
        label.setFont(theme.font(self._px, QFont.Weight.DemiBold))
        label.setWordWrap(":" not in words[:3])
        return label

    def _beside(self, sheet: Tonight) -> QWidget:
        part, column = _column()
        for mix in sheet.mixes:
            column.addWidget(self._head(f"Mix {mix.colour}: {mix.millilitres:.1f} ml for all its zones"))
            for name, drops in mix.drops:
                column.addWidget(self._line(f"{drops} drops {name}"))
            if mix.short:
                column.addWidget(self._line(f"△ the shelf is short of {', '.join(mix.short)}", "warn"))
        column.addWidget(self._head("Windows"))
        for timer in sheet.timers:
            column.addWidget(self._line(timer_words(timer)))
        if not sheet.timers:
            column.addWidget(self._line("None that cannot wait for the next evening.", "quiet"))
        column.addWidget(self._head("Hands off"))
        for hands_off in sheet.hands_off:
            column.addWidget(
                self._line(f"✗ {hands_off.words}, until {until_words(hands_off.until, sheet.window)}", "bad")
            )
        if not sheet.hands_off:
            column.addWidget(self._line("Nothing is wet tonight.", "quiet"))
        for title, lines, state in (
            ("Lay out", sheet.laid_out, "plain"),
            ("Learned before", tuple(f"{r.words}" for r in sheet.lessons), "warn"),
            ("Take care", (*sheet.cautions, "Labels and safety data sheets decide.") if sheet.cautions else (), "warn"),
        ):
            if lines:
                column.addWidget(self._head(title))
                joined = (", ".join(lines),) if title == "Lay out" else lines
                for words in joined:
                    column.addWidget(self._line(words, state))
        column.addStretch(1)
        return part

    def _head(self, words: str) -> PlainLabel:
        label = PlainLabel(words)
        label.setFont(theme.font(self._px - 1, QFont.Weight.DemiBold))
        label.setWordWrap(True)
        label.setStyleSheet(f"color: {theme.current().quiet}; padding-top: 6px;")
        return label

    def _line(self, words: str, state: str = "plain") -> PlainLabel:
        label = PlainLabel(words)
        label.setFont(theme.font(self._px))
        label.setWordWrap(True)
        label.setStyleSheet(f"color: {theme.current().state(state)};")
        return label


def _column() -> tuple[QWidget, QVBoxLayout]:
    part = QWidget()
    column = QVBoxLayout(part)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(4)
    return part, column
