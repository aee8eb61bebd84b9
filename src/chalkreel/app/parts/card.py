"""The card: answers first and large, then what is missing, then a short form."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from chalkreel.app import theme
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.room import Room

WIDTH: Final[dict[Room, int]] = {"close": 270, "usual": 330, "wide": 430}
# Beside a picture that comes first.
BESIDE_PICTURE: Final = 300
# A longer note beside a figure would push it out of the card.
LONGEST_BESIDE = 22


class Card(QScrollArea):
    """A scrolling column: `answers` is rewritten with every answer, `form` below it stays."""

    def __init__(self, title: str) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName(title)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(16, 12, 12, 12)
        column.setSpacing(12)
        self.answers = AnswerColumn()
        self.form = QVBoxLayout()
        self.form.setSpacing(6)
        column.addWidget(self.answers)
        column.addLayout(self.form)
        column.addStretch(1)
        self.setWidget(body)


class AnswerColumn(QWidget):
    """Figures, sentences and buttons, one below the other; cleared and written anew.

    Signals
    -------
    headed(str): the first line of a new answer, for where the card is folded.
    """

    headed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(3)

    def clear(self, stale: bool = False) -> None:
        """Begin anew; `stale` greys everything that is written next."""
        self._stale, self._heading, self._headed = stale, "", False
        while (item := self._column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()

    def heading(self, words: str) -> None:
        """The title of a group."""
        if self._column.count():
            self.gap(8)
        self._heading = words
        self._label(words, 13, "quiet", QFont.Weight.DemiBold)

    def figure(self, name: str, value: str, plus_minus: str = "", note: str = "", state: str = "plain") -> None:
        """One answer: its name, a large figure with ±, and a verdict with its state's sign."""
        called = name or self._heading
        self._head(" ".join(part for part in (f"{called}:" if called else "", value, plus_minus) if part), note, state)
        if name:
            self._label(name, 12, "quiet")
        row = QHBoxLayout()
        row.setSpacing(7)
        row.addWidget(self._text(value, 20, "plain", QFont.Weight.Bold))
        if plus_minus:
            row.addWidget(self._text(plus_minus, 12, "quiet"), 0, Qt.AlignmentFlag.AlignBottom)
        row.addStretch(1)
        beside = note and len(note) <= LONGEST_BESIDE
        if beside:
            row.addWidget(self._text(f"{SIGNS.get(state, '')}{note}", 12, state), 0, Qt.AlignmentFlag.AlignBottom)
        self._row(row)
        if note and not beside:
            self._label(f"{SIGNS.get(state, '')}{note}", 12, state)

    def sentence(self, words: str, state: str = "plain") -> None:
        """A line of text with its state's sign."""
        self._head("", words, state)
        self._label(f"{SIGNS.get(state, '')}{words}", 13, state)

    def button(self, words: str, act: Callable[[], object], primary: bool = False) -> QPushButton:
        """A button for the next thing to do."""
        button = QPushButton(words)
        if primary:
            button.setObjectName("primary")
        button.clicked.connect(lambda _: act())
        self.gap(3)
        self._column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        return button

    def add(self, widget: QWidget) -> None:
        """Any widget."""
        self._column.addWidget(widget)

    def rule(self) -> None:
        """A thin line between groups."""
        line = QFrame()
        line.setFixedHeight(1)
        line.setObjectName("rule")
        self.gap(4)
        self._column.addWidget(line)

    def gap(self, height: int) -> None:
        """Empty space."""
        spacer = QWidget()
        spacer.setFixedHeight(height)
        self._column.addWidget(spacer)

    def _head(self, words: str, note: str, state: str) -> None:
        if not self._headed:
            self._headed = True
            told = f"{SIGNS.get(state, '')}{note}" if note else ""
            self.headed.emit("  ".join(part for part in (words, told) if part))

    def _label(self, words: str, size: int, state: str, weight: QFont.Weight = QFont.Weight.Normal) -> None:
        self._column.addWidget(self._text(words, size, state, weight, wrap=True))

    def _text(
        self, words: str, size: int, state: str, weight: QFont.Weight = QFont.Weight.Normal, wrap: bool = False
    ) -> QLabel:
        label = PlainLabel(words)
        label.setWordWrap(wrap)
        label.setFont(theme.font(size, weight))
        label.setProperty("state", "quiet" if self._stale else state)
        return label

    def _row(self, row: QHBoxLayout) -> None:
        holder = QWidget()
        row.setContentsMargins(0, 0, 0, 0)
        holder.setLayout(row)
        self._column.addWidget(holder)


# A state is never told by its colour alone.
SIGNS = {"good": "✓ ", "warn": "△ ", "bad": "✗ "}
