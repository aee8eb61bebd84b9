"""The page shown while no build is open: begin one, open one, or look at the demo."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from chalkreel.app import theme
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.document.format import SUFFIX, build_path


class StartPage(QWidget):
    """Three ways to begin.

    Signals
    -------
    new_asked(Path), open_asked(Path): a build is wanted there.
    demo_asked(): the demo is wanted.
    """

    new_asked = Signal(Path)
    open_asked = Signal(Path)
    demo_asked = Signal()

    def __init__(self, refusal: str) -> None:
        super().__init__()
        self.setWindowTitle("Chalk Reel")
        self.resize(640, 420)
        column = QVBoxLayout(self)
        column.setContentsMargins(60, 40, 60, 40)
        column.setSpacing(12)
        title = PlainLabel("Chalk Reel")
        title.setFont(theme.font(28, QFont.Weight.Bold))
        words = PlainLabel(
            "From reference stills to a finished replica: sizes with honest errors, drops of paint, "
            "a conversion list, lights that light, and an order that will not ruin the model."
        )
        words.setWordWrap(True)
        column.addStretch(1)
        column.addWidget(title)
        column.addWidget(words)
        if refusal:
            told = PlainLabel(f"✗ {refusal}", "bad")
            told.setWordWrap(True)
            column.addWidget(told)
        self.new, self.open, self.demo = (
            QPushButton(w) for w in ("Begin a build…", "Open a build…", "Look at the demo build")
        )
        self.new.setObjectName("primary")
        for button, act in ((self.new, self._ask_new), (self.open, self._ask_open), (self.demo, self.demo_asked.emit)):
            button.clicked.connect(act)
            column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(2)

    def _ask_new(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "New build", f"build{SUFFIX}", f"Builds (*{SUFFIX})")
        if name:
            self.new_asked.emit(build_path(name))

    def _ask_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a build", "", f"Builds (*{SUFFIX})")
        if name:
            self.open_asked.emit(Path(name))
