"""Which page of a stage is in front: a row of buttons."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QButtonGroup, QComboBox, QHBoxLayout, QPushButton, QWidget

from chalkreel.app.parts.room import Room


class PageSwitch(QWidget):
    """One button a page; more widgets may be added at the right of `row`.

    Signals
    -------
    changed(): another page was chosen.
    """

    changed = Signal()

    def __init__(self, pages: tuple[str, ...]) -> None:
        super().__init__()
        self.page = pages[0]
        self._room: Room = "usual"
        self.buttons = {page: QPushButton(page) for page in pages}
        group = QButtonGroup(self)
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(5)
        for page, button in self.buttons.items():
            button.setObjectName("tool")
            button.setCheckable(True)
            group.addButton(button)
            self.row.addWidget(button)
            button.clicked.connect(lambda _, page=page: self.show_page(page))
        # Where there is little room the pages are one list instead of a row.
        self.list = QComboBox()
        self.list.addItems(list(pages))
        self.list.setAccessibleName("Page")
        self.list.activated.connect(lambda _: self.show_page(self.list.currentText()))
        self.list.hide()
        self.row.addWidget(self.list)
        self.row.addStretch(1)
        self.buttons[self.page].setChecked(True)

    def set_room(self, room: Room) -> None:
        """One list or a row of buttons; a row that finds no room is a list as well."""
        self._room = room
        self._fold()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fold()

    def _fold(self) -> None:
        # Behind the buttons, the list and the stretch stands what others have added.
        items = (self.row.itemAt(n) for n in range(len(self.buttons) + 2, self.row.count()))
        beside = sum(item.sizeHint().width() + self.row.spacing() for item in items if item is not None)
        wanted = sum(button.sizeHint().width() + self.row.spacing() for button in self.buttons.values())
        close = self._room == "close" or wanted + beside > self.width()
        self.list.setVisible(close)
        for button in self.buttons.values():
            button.setVisible(not close)

    def show_page(self, page: str) -> None:
        """Bring a page to the front."""
        self.page = page
        self.list.setCurrentText(page)
        self.buttons[page].setChecked(True)
        self.changed.emit()
