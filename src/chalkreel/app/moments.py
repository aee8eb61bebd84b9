"""The moments that a build can go back to, over the window: one line a change, the latest first."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QListWidget, QPushButton, QVBoxLayout, QWidget

from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.document.store import Moment

SIZE = (520, 420)


class Moments(QFrame):
    """Enter goes back to before the chosen change, Esc leaves everything as it is."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("over")
        self.setAccessibleName("Moments to go back to")
        self._session = session
        self._moments: tuple[Moment, ...] = ()
        self.list = QListWidget()
        self.list.setAccessibleName("Changes, the latest first")
        self.go, self.leave = QPushButton("Discard it and all after it"), QPushButton("Leave it all")
        self.go.setObjectName("primary")
        column, row = QVBoxLayout(self), QHBoxLayout()
        title = PlainLabel("Discard changes since…")
        title.setStyleSheet("font-weight: 600; font-size: 15px;")
        column.addWidget(title)
        column.addWidget(PlainLabel("What is discarded can be done again, step by step, until the next edit.", "quiet"))
        column.addWidget(self.list, 1)
        row.addWidget(self.go)
        row.addWidget(self.leave)
        row.addStretch(1)
        column.addLayout(row)
        self.go.clicked.connect(self._go)
        self.leave.clicked.connect(self.hide)
        self.list.itemActivated.connect(lambda _: self._go())
        self.hide()

    def show_over(self) -> None:
        """List the changes in the middle of the window."""
        parent = self.parentWidget()
        assert parent is not None
        self._moments = self._session.store.moments()
        self.list.clear()
        self.list.addItems([moment_words(moment) for moment in self._moments] or ["Nothing has been changed yet."])
        self.list.setCurrentRow(0)
        self.go.setEnabled(bool(self._moments))
        width, height = min(SIZE[0], parent.width() - 40), min(SIZE[1], parent.height() - 40)
        self.setGeometry((parent.width() - width) // 2, (parent.height() - height) // 2, width, height)
        self.raise_()
        self.show()
        self.list.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._go()
        else:
            super().keyPressEvent(event)

    def _go(self) -> None:
        row = self.list.currentRow()
        self.hide()
        if 0 <= row < len(self._moments):
            self._session.go_back_before(self._moments[row])


def moment_words(moment: Moment) -> str:
    """When and what, in the user's own time."""
    at = datetime.fromisoformat(moment.at).astimezone()
    return f"{at:%a} {at.day} {at:%b %H:%M:%S}   {moment.label}"
