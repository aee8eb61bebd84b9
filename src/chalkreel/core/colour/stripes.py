"""The stripes sheet: a dozen paints, each drawn once over paper and a printed black bar; and a photograph of it read.

One thin coat over both tells how strongly a paint covers and colours, its end, gone over until it hides, what it looks
like. The first stripe is the shelf's white: it tells how thick the thin coats of this sheet are.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.marked_sheet import STRIPES, Box, SheetPhotograph
from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture

ROWS, COLUMNS = 6, 2
# The white's own, and those of the paints.
PAINTS: Final = ROWS * COLUMNS - 1
# Sheets are told apart by one more mark, whose number is this and the sheet's.
FIRST_PAGE_MARK, MOST_SHEETS = 29, 70
PAGE_MARK: Final = Box(88.0, 6.0, 14.0, 14.0)
# A stripe's height, and its three parts: one thin coat over paper and over the bar, and paint that hides at its end.
STRIPE_MM: Final = 9.0
THIN_MM, HIDING_MM = 24.0, 20.0
LEFT_MM, COLUMN_MM, TOP_MM, ROW_MM = 24.0, 80.0, 28.0, 14.0
BAR_RIM_MM: Final = 0.7
# Bare: as light as the paper over it, as dark as the bar over that (L*).
BARE_PAPER, BARE_BAR = 91.0, 33.0
# A thin coat of white over paper is as light as this, and no more coloured (chroma).
THIN_WHITE, GREY = 84.0, 5.0
_RIM_MM: Final = (5.0, 2.5)


@dataclass(frozen=True)
class StripePlace:
    """Where a stripe lies on its sheet: row 0 is the white's, 1 to 11 are paints'."""

    row: int

    @property
    def box(self) -> Box:
        """All of it."""
        column, row = divmod(self.row, ROWS)
        left, top = LEFT_MM + column * COLUMN_MM, TOP_MM + row * ROW_MM
        return Box(left, top, 2.0 * THIN_MM + HIDING_MM, STRIPE_MM)

    @property
    def parts(self) -> tuple[Box, Box, Box]:
        """Thin over paper, thin over the bar, hiding."""
        left, top = self.box.x_mm, self.box.y_mm
        return (Box(left, top, THIN_MM, STRIPE_MM), Box(left + THIN_MM, top, THIN_MM, STRIPE_MM),
                Box(left + 2.0 * THIN_MM, top, HIDING_MM, STRIPE_MM))  # fmt: skip

    @property
    def bar(self) -> Box:
        """The printed black below its middle part."""
        part = self.parts[1]
        return Box(part.x_mm, part.y_mm - BAR_RIM_MM, part.width_mm, part.height_mm + 2.0 * BAR_RIM_MM)

    @property
    def paper(self) -> tuple[Box, Box]:
        """Bare paper left and right of it."""
        left, right = self.box.x_mm, self.box.x_mm + self.box.width_mm
        return Box(left - 5.0, self.box.y_mm, 3.5, STRIPE_MM), Box(right + 1.5, self.box.y_mm, 3.5, STRIPE_MM)


@dataclass(frozen=True, eq=False)
class StripeReading:
    """L*a*b* (3,) of a stripe's thin coat over paper and over the printed black, and of its hiding end."""

    over_paper: Array
    over_black: Array
    hiding: Array

    @property
    def bare(self) -> bool:
        """Nothing is to be seen on it: no paint, or a clear one."""
        return bool(self.over_paper[0] > BARE_PAPER and self.over_black[0] < BARE_BAR)

    @property
    def hides(self) -> bool:
        """Whether its end was painted: it does not look like paper, or the thin coat is of a white."""
        like_paper = self.hiding[0] > BARE_PAPER and np.hypot(*self.hiding[1:]) < GREY
        of_white = self.over_paper[0] > THIN_WHITE and np.hypot(*self.over_paper[1:]) < GREY
        return bool(of_white or not like_paper)


@dataclass(frozen=True, eq=False)
class SheetReading:
    """The stripes of a sheet by row, the sheet's number, and what is wrong with the photograph."""

    sheet: int
    stripes: dict[int, StripeReading]
    problems: tuple[str, ...]


def page_mark(sheet: int) -> int:
    """The number of the mark that tells a sheet, counted from 1."""
    return FIRST_PAGE_MARK + sheet


def read_stripes(picture: Picture) -> SheetReading:
    """Find a stripes sheet in a photograph and read all of its stripes, the bare ones too.

    Raises
    ------
    RefusedError
        Fewer than four corner marks are to be seen, or not which sheet it is.
    """
    photograph = SheetPhotograph(picture)
    plane = photograph.plane(STRIPES)
    sheets = [n - FIRST_PAGE_MARK for n in photograph.marks if 0 < n - FIRST_PAGE_MARK <= MOST_SHEETS]
    if len(sheets) != 1:
        raise RefusedError("The mark in the middle of the upper edge, which tells the sheet, is not to be seen.")
    stripes, problems = {}, []
    for row in range(PAINTS + 1):
        stripe, name = StripePlace(row), f"stripe {row}" if row else "the white’s stripe"
        parts = [photograph.read(plane, part.inset(*_RIM_MM), stripe.paper, name) for part in stripe.parts]
        stripes[row] = StripeReading(*(part.lab for part in parts))
        problems += [words for part in parts for words in part.problems if not stripes[row].bare]
    return SheetReading(sheets[0], stripes, tuple(dict.fromkeys(problems)))
