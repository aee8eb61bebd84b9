"""Words of the user's shown as they are: never as markup, which could open files that a name speaks of."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QSizePolicy


class PlainLabel(QLabel):
    """A label that takes its words as plain text; `state` colours them."""

    def __init__(self, words: str = "", state: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(words)
        if state:
            self.set_state(state)

    def set_state(self, state: str) -> None:
        """Colour the words as a state: good, warn, bad, quiet or plain."""
        if self.property("state") != state:
            self.setProperty("state", state)
            self.style().unpolish(self)
            self.style().polish(self)


class ElidedLabel(PlainLabel):
    """A line that ends in dots where it does not fit, and takes whatever width there is."""

    def __init__(self, words: str = "", state: str = "") -> None:
        super().__init__(words, state)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        words = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        self.style().drawItemText(
            painter, self.rect(), int(self.alignment()), self.palette(), self.isEnabled(), words, self.foregroundRole()
        )


def tip(words: str) -> str:
    """A tool tip's text, which the toolkit would else take for markup where it looks like it."""
    return f"<span>{escape(words)}</span>" if words else ""
