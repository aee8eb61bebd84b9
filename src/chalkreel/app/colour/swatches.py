"""Painting colours under judgement: patches that touch, on neutral grey, nothing tinted beside them."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.app.parts.screen_colour import on_screen
from chalkreel.core.colour.kinds import Swatch

INK = "#101010"


def begin(widget: QWidget) -> QPainter:
    """A painter on the judging grey, with dark ink."""
    painter = QPainter(widget)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(widget.rect(), QColor(theme.JUDGING_GREY))
    painter.setPen(QColor(INK))
    painter.setFont(theme.font(12))
    return painter


def patch(painter: QPainter, place: QRectF, colour: Swatch | None) -> None:
    """One patch; an empty one is a dashed frame."""
    if colour is not None:
        painter.fillRect(place, on_screen(colour))
        return
    painter.setPen(QPen(QColor(INK), 1.2, Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(place)


def words(
    painter: QPainter, place: QRectF, text: str, size: int = 12, bold: bool = False,
    align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft,
) -> None:  # fmt: skip
    """Dark ink on the grey."""
    painter.setPen(QColor(INK))
    painter.setFont(theme.font(size, QFont.Weight.DemiBold if bold else QFont.Weight.Normal))
    painter.drawText(place, align | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, text)


def line(painter: QPainter, a: QPointF, b: QPointF, width: float = 1.0, dashed: bool = False) -> None:
    """A thin dark line."""
    painter.setPen(QPen(QColor(INK), width, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine))
    painter.drawLine(a, b)
