"""Choosing single pictures out of a file that holds many."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from chalkreel.app.parts.flow import FlowLayout
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.document.entities import Still


class Picker(QWidget):
    """A preview, steps through the file, and the button that keeps what is shown. Hidden while no file is open.

    Signals
    -------
    shown(bool): a file was opened, or closed.
    """

    shown = Signal(bool)

    def __init__(self, session: Session, what: str, steps: tuple[int, ...]) -> None:
        super().__init__()
        self._session = session
        self.picture, self.words = PlainLabel(), PlainLabel()
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.picture.setAccessibleName(what.capitalize())
        self.words.setWordWrap(True)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName(what.capitalize())
        self.keep, self.close_button = QPushButton(f"Put this {what} on the reel"), QPushButton("Close the file")
        self.keep.setObjectName("primary")
        self.steps = QHBoxLayout()
        for by in steps:
            button = QPushButton(f"{by:+d}".replace("-", "−"))
            button.setAccessibleName(f"{by:+d} {what}s")
            button.clicked.connect(lambda _, by=by: self.step(by))
            self.steps.addWidget(button)
        self.steps.addWidget(self.slider, 1)
        self.choices = QWidget()
        self.flow = FlowLayout(self.choices)
        self._lay_out()
        self.slider.valueChanged.connect(self.read)
        self.keep.clicked.connect(self.keep_shown)
        self.close_button.clicked.connect(self.close_file)
        self.hide()

    def step(self, by: int) -> None:
        """So many on or back."""
        self.slider.setValue(self.slider.value() + by)

    def read(self) -> None:
        """Fetch what the slider stands at."""
        raise NotImplementedError

    def keep_shown(self) -> None:
        """Put what is shown on the reel."""
        raise NotImplementedError

    def close_file(self) -> None:
        """Let the file go."""
        raise NotImplementedError

    def put_on_reel(self, still: object) -> None:
        """Take a still that was made of what was shown, and go to it."""
        assert isinstance(still, Still)
        if self._session.commit(f"still {still.number}", {still.id: still}):
            self._session.choose_still(still.id)

    def open_at_first(self, count: int) -> None:
        """Show the first of so many."""
        self.slider.blockSignals(True)
        self.slider.setRange(0, max(0, count - 1))
        self.slider.setValue(0)
        self.slider.blockSignals(False)
        self.open_up(True)
        self.read()

    def open_up(self, on: bool) -> None:
        """Show or hide the picker."""
        self.setVisible(on)
        self.shown.emit(on)

    def show_image(self, image: QImage, size: QSize, words: str) -> None:
        """The preview at a size, and what it is."""
        ratio = self.devicePixelRatioF()
        shown = image.scaled(
            size * ratio, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
        shown.setDevicePixelRatio(ratio)
        self.picture.setPixmap(QPixmap.fromImage(shown))
        self.words.setText(words)

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.picture)
        column.addWidget(self.words)
        column.addLayout(self.steps)
        column.addWidget(self.choices)
        last = QHBoxLayout()
        last.addStretch(1)
        last.addWidget(self.close_button)
        last.addWidget(self.keep)
        column.addLayout(last)
