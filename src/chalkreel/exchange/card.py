"""The drawdown card as a PDF to print, paint on and photograph."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from reportlab.lib.pagesizes import A4, landscape
from reportlab.pdfgen.canvas import Canvas

from chalkreel.core.colour.drawdown import (
    FIELD_MM,
    HEIGHT_MM,
    MARK_IDS,
    MARK_MM,
    WIDTH_MM,
    fields,
    mark_cells,
    mark_corners,
)
from chalkreel.exchange.fonts import register_fonts

MM: Final = 72.0 / 25.4
LEFT_MM, TOP_MM = 20.0, 15.0
HOW: Final = (
    "Paint each field evenly until it hides; only the right upper one, black below, gets one coat. Dry for a day.",
    "Mix the tints by counting drops, white first. Photograph the whole card flat, in shade or by a window,",
    "without flash, so that the paper comes out light grey and not burnt out. Keep the paper beside the fields clean.",
    "Heed the paint’s own label: ventilation, gloves, no flames near solvents.",
)


def write_card(path: Path, paint: str) -> None:
    """One card for one paint."""
    register_fonts()
    page_width, page_height = landscape(A4)
    canvas = Canvas(str(path), pagesize=(page_width, page_height))

    def at(x_mm: float, y_mm: float) -> tuple[float, float]:
        return (LEFT_MM + x_mm) * MM, page_height - (TOP_MM + y_mm) * MM

    for mark in MARK_IDS:
        x_mm, y_mm = mark_corners()[mark]
        cell = MARK_MM / 6
        for row, line in enumerate(mark_cells(mark)):
            for column, black in enumerate(line):
                if black:
                    x, y = at(x_mm + column * cell, y_mm + (row + 1) * cell)
                    canvas.rect(x, y, cell * MM, cell * MM, stroke=0, fill=1)
    for field in fields():
        x, y = at(field.x_mm, field.y_mm + FIELD_MM[1])
        canvas.setLineWidth(0.4)
        canvas.rect(x, y, FIELD_MM[0] * MM, FIELD_MM[1] * MM, stroke=1, fill=int(field.black))
        canvas.setFont("Book", 8)
        canvas.drawString(x, y + FIELD_MM[1] * MM + 4, field.name)
    canvas.setFont("Book-Bold", 11)
    canvas.drawString(*at(35.0, 20.0), f"Drawdown card: {paint}")
    canvas.setFont("Book", 8)
    for number, words in enumerate(HOW):
        canvas.drawString(*at(6.0, HEIGHT_MM + 10.0 + 5.0 * number), words)
    canvas.setLineWidth(0.2)
    canvas.rect(*at(0.0, HEIGHT_MM), WIDTH_MM * MM, HEIGHT_MM * MM, stroke=1, fill=0)
    canvas.save()
