"""The F1 sheet: all keys at once, over the window."""

from __future__ import annotations

from itertools import groupby

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.app.commands import COMMANDS, STILL_KEYS

LINE = 22


class KeySheet(QWidget):
    """Covers the window until any key or click."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("All keys")
        self.hide()

    def show_over(self) -> None:
        """Cover the parent."""
        parent = self.parentWidget()
        assert parent is not None
        self.setGeometry(parent.rect())
        self.raise_()
        self.show()
        self.setFocus()

    def keyPressEvent(self, _: QKeyEvent) -> None:
        self.hide()

    def mousePressEvent(self, _: QMouseEvent) -> None:
        self.hide()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        t = theme.current()
        ground = QColor(t.board)
        ground.setAlpha(245)
        painter.fillRect(self.rect(), ground)
        painter.setFont(theme.font(18, QFont.Weight.Bold))
        painter.setPen(QColor(t.text))
        painter.drawText(48, 52, "Keys")
        painter.setFont(theme.font(12))
        painter.setPen(QColor(t.quiet))
        painter.drawText(110, 52, "any key closes this sheet")
        groups = [(name, [(c.key, c.words) for c in cs if c.key]) for name, cs in groupby(COMMANDS, lambda c: c.group)]
        groups.append(("On a still", list(STILL_KEYS)))
        x, y = 48, 92
        for name, rows in groups:
            if y + LINE * (len(rows) + 1) > self.height() - 20:
                x, y = x + max(360, (self.width() - 96) // 3), 92
            y = self._group(painter, name, rows, x, y) + 14

    @staticmethod
    def _group(painter: QPainter, name: str, rows: list[tuple[str, str]], x: int, y: int) -> int:
        t = theme.current()
        painter.setFont(theme.font(13, QFont.Weight.Bold))
        painter.setPen(QColor(t.yellow))
        painter.drawText(x, y, name)
        for key, words in rows:
            y += LINE
            painter.setFont(theme.font(12, QFont.Weight.DemiBold))
            painter.setPen(QColor(t.text))
            painter.drawText(x, y, key)
            painter.setFont(theme.font(12))
            painter.drawText(x + 104, y, words)
        return y + LINE
