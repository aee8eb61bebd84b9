"""A painted part whose things are chosen by keys as well as by clicks, and told in words to whoever cannot see them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFocusEvent, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.app.parts.accessible import Thing, announce

# A thing: what it is in words, where it is painted, and what choosing it does.
Choice = tuple[str, QRectF, Callable[[], object]]
STEPS = {
    Qt.Key.Key_Left: -1,
    Qt.Key.Key_Up: -1,
    Qt.Key.Key_Right: 1,
    Qt.Key.Key_Down: 1,
}


class KeyChoices(QWidget):
    """Arrows walk the things, Enter chooses the one that is framed."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._at = 0

    def choices(self) -> tuple[Choice, ...]:
        """All things, in the order in which arrows walk them."""
        raise NotImplementedError

    def things(self) -> tuple[Thing, ...]:
        return tuple((words, place) for words, place, _ in self.choices())

    def draw_focus(self, painter: QPainter, colour: str = "") -> None:
        """Frame the thing that the keys are on; for the end of a paint."""
        found = self.choices()
        if self.hasFocus() and found:
            painter.setPen(QPen(QColor(colour or theme.current().yellow), 2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(found[min(self._at, len(found) - 1)][1].adjusted(-3, -3, 3, 3), 4, 4)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._tell()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        found, key = self.choices(), Qt.Key(event.key())
        if found and key in STEPS:
            self._at = (min(self._at, len(found) - 1) + STEPS[key]) % len(found)
            self._tell()
        elif found and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            found[min(self._at, len(found) - 1)][2]()
        else:
            super().keyPressEvent(event)

    def _tell(self) -> None:
        found = self.choices()
        if found:
            at = min(self._at, len(found) - 1)
            announce(self, f"{found[at][0]}, {at + 1} of {len(found)}", at)
        self.update()
