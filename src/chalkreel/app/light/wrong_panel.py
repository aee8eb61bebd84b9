"""What is wrong with the circuit, one at a time, with its cure shown before it is taken."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from chalkreel.app.parts.plain import PlainLabel

if TYPE_CHECKING:
    from chalkreel.answers.lighting import Solved
    from chalkreel.core.light.finding import Finding

SIGNS = {"bad": "✗ ", "warn": "△ "}


class WrongPanel(QScrollArea):
    """The finding in hand, its cure and what that gives; arrows go to the next.

    Signals
    -------
    looked(int): finding number in hand. previewed(bool): the cure is shown in the drawing, or no longer.
    taken(): the cure is to be done.
    """

    looked = Signal(int)
    previewed = Signal(bool)
    taken = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("What is wrong")
        self.number = 0
        self._count = 0
        self.title, self.words, self.cure = PlainLabel(""), PlainLabel(""), PlainLabel("")
        self.title.setStyleSheet("font-weight: 600; font-size: 15px;")
        for label in (self.title, self.words, self.cure):
            label.setWordWrap(True)
        self.show_cured, self.take, self.next = QPushButton("Show it cured"), QPushButton("Do it"), QPushButton("Next")
        self.show_cured.setCheckable(True)
        self.take.setObjectName("primary")
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(12, 8, 12, 8)
        row = QHBoxLayout()
        for button in (self.take, self.show_cured, self.next):
            row.addWidget(button)
        row.addStretch(1)
        # The buttons stand where they are seen in the smallest window, too.
        column.addWidget(self.title)
        column.addLayout(row)
        column.addWidget(self.words)
        column.addWidget(self.cure)
        column.addStretch(1)
        self.setWidget(body)
        self.show_cured.toggled.connect(self.previewed)
        self.take.clicked.connect(self.taken)
        self.next.clicked.connect(lambda: self.look((self.number + 1) % max(1, self._count)))

    def look(self, number: int) -> None:
        """Take another finding in hand."""
        self.number = number
        self.show_cured.setChecked(False)
        self.looked.emit(number)

    def show_findings(
        self, found: tuple[Finding, ...], cured: tuple[Solved | None, ...], gives: tuple[str, ...], none: str
    ) -> None:
        """Replace what is shown; without findings `none` says what was checked."""
        self._count = len(found)
        self.number = min(self.number, max(0, len(found) - 1))
        for button in (self.take, self.show_cured):
            button.setVisible(bool(found))
        self.next.setVisible(len(found) > 1)
        if not found:
            self._write("", "", none, "")
            return
        one = found[self.number]
        solved = cured[self.number] if self.number < len(cured) else None
        self.next.setText(f"Next, {self.number + 1} of {len(found)}")
        # One that was tried and does not cure is none.
        tried = self.number < len(cured)
        can = one.cure is not None and (solved is not None or not tried)
        for button in (self.take, self.show_cured):
            button.setVisible(can)
            button.setEnabled(solved is not None)
        said = gives[self.number] if self.number < len(gives) else ""
        cure = f"{_cure(one)} {said}".strip() if can or one.cure is None else ""
        self._write(one.weight, f"{SIGNS[one.weight]}{one.title}", one.words, cure)

    def _write(self, state: str, title: str, words: str, cure: str) -> None:
        self.title.setText(title)
        self.title.setVisible(bool(title))
        self.words.setText(words)
        self.cure.setText(cure)
        self.cure.setVisible(bool(cure))
        if self.title.property("state") != state:
            self.title.setProperty("state", state)
            self.title.style().unpolish(self.title)
            self.title.style().polish(self.title)


def _cure(one: Finding) -> str:
    return f"Cure: {one.cure_words[0].lower()}{one.cure_words[1:]}" if one.cure_words else ""
