"""What a painted part says while there is nothing to paint."""

from __future__ import annotations

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QColor, QPainter

from chalkreel.app import theme


def draw_empty(painter: QPainter, room: QRect, words: str) -> None:
    """A sentence in the middle of the room: what to do first."""
    painter.setPen(QColor(theme.current().quiet))
    painter.setFont(theme.font(14))
    painter.drawText(room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
