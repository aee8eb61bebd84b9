"""Keys that people expect of whatever has the focus.

Undo reaches the build from any field, which keeps it only for typing that is not taken yet; Return presses a button.
"""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QAbstractButton, QApplication, QLineEdit, QWidget

ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class FocusKeys(QObject):
    """Watches the field or button that has the keys; no other widget's events pass through it."""

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        app.focusChanged.connect(self._follow)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(watched, QLineEdit) and event.type() == QEvent.Type.ShortcutOverride:
            assert isinstance(event, QKeyEvent)
            return _undoes_nothing(watched, event)
        if isinstance(watched, QAbstractButton) and event.type() == QEvent.Type.KeyPress:
            assert isinstance(event, QKeyEvent)
            if event.key() in ENTER and event.modifiers() == Qt.KeyboardModifier.NoModifier:
                watched.click()
                return True
        return False

    def _follow(self, left: QWidget | None, entered: QWidget | None) -> None:
        if isinstance(left, (QLineEdit, QAbstractButton)):
            left.removeEventFilter(self)
        if isinstance(entered, (QLineEdit, QAbstractButton)):
            entered.installEventFilter(self)


def _undoes_nothing(field: QLineEdit, event: QKeyEvent) -> bool:
    """Whether undo or redo is pressed in a field that has nothing of its own to take back."""
    if event.matches(QKeySequence.StandardKey.Undo):
        return not (field.isModified() and field.isUndoAvailable())
    if event.matches(QKeySequence.StandardKey.Redo):
        return not (field.isModified() and field.isRedoAvailable())
    return False
