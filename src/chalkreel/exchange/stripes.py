"""Stripes sheets as a PDF to print, paint on and photograph."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from chalkreel.core.colour.marked_sheet import STRIPES
from chalkreel.core.colour.stripes import COLUMNS, PAGE_MARK, PAINTS, ROWS, StripePlace, page_mark
from chalkreel.exchange.marked_sheet import MM, MarkedSheets

HOW: Final = (
    "One thin coat of each paint over its whole row, so thin that the black bar shows clearly through; then go over "
    "the end until it hides.",
    "Tape along a row and a straight card pulled once over it make all coats equally thick. The white’s row too: it "
    "tells how thick.",
    "Stir well. Let it dry for a day. Photograph the whole sheet flat, in shade or by a window, without flash, so that "
    "the paper comes out light grey.",
    "Heed each paint’s own label: ventilation, gloves, no flames near solvents.",
)
SIZE: Final = 7.5
SMALLEST: Final = 5.0
# What stands over the three parts of the first stripe of each column, and how far over it.
PARTS: Final = ("one thin coat", "the same coat", "until it hides")
HEAD_MM: Final = 4.6


@dataclass(frozen=True)
class StripesSheet:
    """A sheet's number and the names of its paints by row (1 to 11)."""

    sheet: int
    names: Mapping[int, str]


def write_stripes(path: Path, white: str, sheets: Iterable[StripesSheet]) -> None:
    """One page for each sheet; `white` is what the shelf calls its white."""
    pdf = MarkedSheets(path)
    for sheet in sheets:
        pdf.begin(STRIPES, f"Stripes sheet {sheet.sheet}", HOW)
        pdf.mark(page_mark(sheet.sheet), (PAGE_MARK.x_mm, PAGE_MARK.y_mm))
        for column in range(COLUMNS):
            for part, words in zip(StripePlace(column * ROWS).parts, PARTS, strict=True):
                pdf.words(words, part.x_mm, part.y_mm - HEAD_MM, SMALLEST)
        for row in range(PAINTS + 1):
            stripe = StripePlace(row)
            pdf.box(stripe.bar, 0.0, black=True)
            for part in (stripe.parts[0], stripe.parts[2]):
                pdf.box(part, 0.3)
            name = sheet.names.get(row, "") if row else white
            label = f"{row}  {name}" if row else f"White: {name}"
            pdf.words(label, stripe.box.x_mm, stripe.box.y_mm - 1.4, _fitting(pdf, label, stripe.box.width_mm))
        pdf.canvas.showPage()
    pdf.canvas.save()


def _fitting(pdf: MarkedSheets, label: str, room_mm: float) -> float:
    """The size at which a label is no longer than its stripe, or the smallest one."""
    wide = float(pdf.canvas.stringWidth(label, "Book", SIZE))
    return max(SMALLEST, min(SIZE, SIZE * room_mm * MM / max(wide, 1e-6)))
