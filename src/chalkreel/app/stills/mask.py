"""Which pixels of a patch do not count, drawn over the still."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtGui import QColor, QImage

from chalkreel.app import theme

# Chalk by code of the mask: not in the patch, used, clipped, too dark, highlight, shadow.
CODES = ("", "", "coral", "lilac", "yellow", "sky")
WORDS = {"coral": "clipped", "lilac": "too dark", "yellow": "highlight", "sky": "shadow"}
COVER = 190


@dataclass(frozen=True)
class Mask:
    """Codes row by row, one byte each; the first is at this pixel, the next `step` pixels on."""

    codes: bytes
    columns: int
    rows: int
    left_px: int
    top_px: int
    step: int


def mask_image(mask: Mask) -> QImage:
    """The mask as an image, one pixel a code."""
    image = QImage(mask.codes, mask.columns, mask.rows, mask.columns, QImage.Format.Format_Indexed8)
    table = []
    for name in CODES:
        colour = theme.chalk(name) if name else QColor(0, 0, 0, 0)
        if name:
            colour.setAlpha(COVER)
        table.append(colour.rgba())
    image.setColorTable(table)
    return image.copy()
