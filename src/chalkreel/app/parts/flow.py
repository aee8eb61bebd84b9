"""Widgets in a row that wraps where it is not wide enough."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QWidget


class FlowLayout(QLayout):
    """Lays items out from the left, and begins another line where the next does not fit. Hidden ones take no room."""

    def __init__(self, parent: QWidget | None = None, gap: int = 4) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._gap = gap
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._arrange(QRect(0, 0, width, 0), place=False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._arrange(rect, place=True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        size = QSize()
        for item in self._items:
            size = size.expandedTo(item.minimumSize())
        return size

    def _arrange(self, rect: QRect, place: bool) -> int:
        shown = [(item, item.sizeHint()) for item in self._items if not item.isEmpty()]
        line = max((hint.height() for _, hint in shown), default=0)
        x, y = rect.x(), rect.y()
        for item, hint in shown:
            if x > rect.x() and x + hint.width() > rect.right() + 1:
                x, y = rect.x(), y + line + self._gap
            if place:
                item.setGeometry(QRect(QPoint(x, y + (line - hint.height()) // 2), hint))
            x += hint.width() + self._gap
        return y + line - rect.y()
