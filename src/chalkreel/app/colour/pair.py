"""The target and the mix side by side on neutral grey, with every still's vote beneath."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from chalkreel.app import theme
from chalkreel.app.colour.model import lab_words
from chalkreel.build.answers.colours import SurfaceRow

EDGE_INK = "#101010"


class ColourPair(QWidget):
    """Two large patches that touch, so that a difference shows as an edge; nothing tinted around them."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(150)
        self.setAccessibleName("Target and mix on neutral grey")
        self._row: SurfaceRow | None = None
        self._stale = False

    def show_row(self, row: SurfaceRow | None, stale: bool) -> None:
        """Replace what is shown."""
        self._row, self._stale = row, stale
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.JUDGING_GREY))
        row = self._row
        painter.setPen(QColor(EDGE_INK))
        if row is None or row.swatch is None or row.colour is None:
            painter.setFont(theme.font(14, QFont.Weight.DemiBold))
            words = row.problem if row else "Drag a neutral (N), then patches (P), to find a surface’s colour."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        votes = [v for v in row.votes if v.swatch is not None and v.vote is not None]
        side = min(self.height() - 58.0, (self.width() - 44 - 84.0 * len(votes)) / 2)
        left, top = 18.0, 32.0
        self._patch(painter, QRectF(left, top, side, side), row.swatch)
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        painter.setPen(QColor(EDGE_INK))
        painter.drawText(QRectF(left, 8, side, 20), Qt.AlignmentFlag.AlignLeft, "target")
        painter.drawText(QRectF(left, top + side + 2, 2 * side, 20), lab_words(row.colour.lab))
        if row.best is not None:
            self._patch(painter, QRectF(left + side, top, side, side), row.best[1])
            painter.setPen(QColor(EDGE_INK))
            painter.drawText(QRectF(left + side, 8, side, 20), Qt.AlignmentFlag.AlignRight, "mix")
            painter.drawText(
                QRectF(left + side, top + side + 2, side, 20),
                Qt.AlignmentFlag.AlignRight,
                f"ΔE00 {row.best[0].delta_e:.1f}" + (" (old)" if self._stale else ""),
            )
        x = left + 2 * side + 26
        painter.drawText(QRectF(x, 8, self.width() - x, 20), "what each still says, light taken out")
        for number, vote in enumerate(votes):
            place = QRectF(x + 84 * number, top, 70, min(70.0, side))
            self._patch(painter, place, vote.swatch or (0, 0, 0))
            painter.setFont(theme.font(11))
            painter.setPen(QColor(EDGE_INK))
            apart = row.colour.apart[number] if number < len(row.colour.apart) else 0.0
            painter.drawText(
                QRectF(place.left(), place.bottom() + 2, 84, 34), f"still {vote.still_number}\nΔE00 {apart:.1f}"
            )

    @staticmethod
    def _patch(painter: QPainter, place: QRectF, colour: tuple[int, int, int]) -> None:
        painter.setPen(QPen(Qt.PenStyle.NoPen))
        painter.fillRect(place, QColor(*colour))
