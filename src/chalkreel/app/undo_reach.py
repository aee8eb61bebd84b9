"""Lets undo reach the build wherever the focus is: a field keeps the keys only for typing that is not taken yet."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget


class UndoReach(QObject):
    """Watches the field that has the keys; no other widget's events pass through it."""

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        app.focusChanged.connect(self._follow)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() != QEvent.Type.ShortcutOverride or not isinstance(watched, QLineEdit):
            return False
        assert isinstance(event, QKeyEvent)
        if event.matches(QKeySequence.StandardKey.Undo):
            return not (watched.isModified() and watched.isUndoAvailable())
        if event.matches(QKeySequence.StandardKey.Redo):
            return not (watched.isModified() and watched.isRedoAvailable())
        return False

    def _follow(self, left: QWidget | None, entered: QWidget | None) -> None:
        if isinstance(left, QLineEdit):
            left.removeEventFilter(self)
        if isinstance(entered, QLineEdit):
            entered.installEventFilter(self)
