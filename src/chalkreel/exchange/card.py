"""The drawdown card as a PDF to print, paint on and photograph."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from chalkreel.core.colour.drawdown import fields
from chalkreel.core.colour.marked_sheet import CARD
from chalkreel.exchange.marked_sheet import MarkedSheets

HOW: Final = (
    "Paint each field evenly until it hides; only the right upper one, black below, gets one coat. Dry for a day.",
    "Mix the tints by counting drops, white first. Photograph the whole card flat, in shade or by a window,",
    "without flash, so that the paper comes out light grey and not burnt out. Keep the paper beside the fields clean.",
    "Heed the paint’s own label: ventilation, gloves, no flames near solvents.",
)


def write_card(path: Path, paint: str) -> None:
    """One card for one paint."""
    sheets = MarkedSheets(path)
    sheets.begin(CARD, f"Drawdown card: {paint}", HOW)
    for field in fields():
        sheets.box(field.box, 0.4, field.black)
        sheets.words(field.name, field.box.x_mm, field.box.y_mm - 1.4, 8.0)
    sheets.canvas.save()
