"""What all sheets to print, paint on and photograph have: corner marks, a frame, words below."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from reportlab.lib.pagesizes import A4, landscape
from reportlab.pdfgen.canvas import Canvas

from chalkreel.core.colour.marked_sheet import HEIGHT_MM, MARK_MM, WIDTH_MM, Box, SheetKind, mark_cells
from chalkreel.exchange.fonts import register_fonts

MM: Final = 72.0 / 25.4
LEFT_MM, TOP_MM = 20.0, 15.0


class MarkedSheets:
    """A PDF of such sheets, A4 landscape; all places are mm from a sheet's upper left corner."""

    def __init__(self, path: Path) -> None:
        register_fonts()
        self._wide, self._high = landscape(A4)
        self.canvas = Canvas(str(path), pagesize=(self._wide, self._high))

    def begin(self, kind: SheetKind, title: str, how: tuple[str, ...]) -> None:
        """A sheet with its corner marks, its title, and what to do with it below."""
        for mark, place in kind.mark_corners().items():
            self.mark(mark, place)
        self.words(title, 24.0, 12.0, 11.0, "Book-Bold")
        for number, line in enumerate(how):
            self.words(line, 6.0, HEIGHT_MM + 10.0 + 5.0 * number, 8.0)
        self.box(Box(0.0, 0.0, WIDTH_MM, HEIGHT_MM), 0.2)

    def mark(self, mark: int, place: tuple[float, float]) -> None:
        """A mark with its upper left corner at a place."""
        cell = MARK_MM / 6
        for row, line in enumerate(mark_cells(mark)):
            for column, black in enumerate(line):
                if black:
                    self._rect(Box(place[0] + column * cell, place[1] + row * cell, cell, cell), stroke=0, fill=1)

    def box(self, box: Box, line: float, black: bool = False) -> None:
        """A rectangle in a line so many points wide."""
        self.canvas.setLineWidth(line)
        self._rect(box, stroke=1, fill=int(black))

    def words(self, words: str, x_mm: float, y_mm: float, size: float, font: str = "Book") -> None:
        """Words that stand on a line."""
        self.canvas.setFont(font, size)
        self.canvas.drawString(*self._at(x_mm, y_mm), words)

    def _rect(self, box: Box, stroke: int, fill: int) -> None:
        x, y = self._at(box.x_mm, box.y_mm + box.height_mm)
        self.canvas.rect(x, y, box.width_mm * MM, box.height_mm * MM, stroke=stroke, fill=fill)

    def _at(self, x_mm: float, y_mm: float) -> tuple[float, float]:
        return (LEFT_MM + x_mm) * MM, self._high - (TOP_MM + y_mm) * MM
