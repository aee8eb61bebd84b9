"""Strip, rod and sheet as sold, and what rounding to it costs."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations_with_replacement
from typing import Final, Literal

from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import INCH_MM, LengthUnit

StockForm = Literal["sheet", "strip", "rod"]

# Thicknesses and widths that are commonly sold.
METRIC: Final[dict[StockForm, tuple[float, ...]]] = {
    "sheet": (0.13, 0.25, 0.38, 0.5, 0.75, 1.0, 1.5, 2.0),
    "strip": (0.25, 0.4, 0.5, 0.75, 1.0, 1.2, 1.5, 2.0, 2.5, 3.2, 4.0, 4.8, 6.3),
    "rod": (0.3, 0.5, 0.64, 0.75, 0.88, 1.0, 1.2, 1.6, 2.0, 2.4, 3.2, 4.0, 4.8, 6.3),
}
INCH: Final[dict[StockForm, tuple[float, ...]]] = {
    "sheet": (0.005, 0.010, 0.015, 0.020, 0.030, 0.040, 0.060, 0.080),
    "strip": (0.010, 0.015, 0.020, 0.030, 0.040, 0.060, 0.080, 0.100, 0.125, 0.156, 0.188, 0.250),
    "rod": (0.010, 0.020, 0.025, 0.030, 0.035, 0.040, 0.047, 0.062, 0.080, 0.094, 0.125, 0.156, 0.188, 0.250),
}
LARGEST_STOCK_MM: Final = 6.8


@dataclass(frozen=True)
class StockChoice:
    """One piece or a lamination of sheets, in sizes of a unit; `error_mm` is stock less wanted on the model."""

    form: StockForm
    unit: LengthUnit
    pieces: tuple[float, ...]
    error_mm: float
    error_story_mm: float

    @property
    def words(self) -> str:
        """'strip 1.5 mm', 'sheet 0.5 + 0.25 mm' or 'rod 0.062 in'."""
        digits, sign = ("g", "mm") if self.unit == "mm" else (".3f", "in")
        return f"{self.form} {' + '.join(f'{p:{digits}}' for p in self.pieces)} {sign}"


def nearest_stock(
    wanted_mm: float, ratio: float, unit: LengthUnit = "mm", form: StockForm | None = None
) -> StockChoice | None:
    """The stock nearest to a size on the model; laminations of two or three sheets beat a worse single piece.

    Returns None where the size is beyond stock and must be cut to length. `ratio` is 48 for 1:48.

    Raises
    ------
    RefusedError
        The size is not positive.
    """
    if wanted_mm <= 0:
        raise RefusedError("A size to cut must be more than zero.")
    if wanted_mm > LARGEST_STOCK_MM:
        return None
    sold, unit_mm = (METRIC, 1.0) if unit == "mm" else (INCH, INCH_MM)
    options: list[tuple[StockForm, tuple[float, ...]]] = [(f, (s,)) for f in sold for s in sold[f] if form in (None, f)]
    if form in (None, "sheet"):
        for count in (2, 3):
            options += [("sheet", combo) for combo in combinations_with_replacement(sold["sheet"], count)]
    # Each further layer has to earn its glue joint: 0.04 mm.
    chosen, pieces = min(options, key=lambda o: abs(sum(o[1]) * unit_mm - wanted_mm) + 0.04 * (len(o[1]) - 1))
    error = sum(pieces) * unit_mm - wanted_mm
    return StockChoice(chosen, unit, tuple(sorted(pieces, reverse=True)), error, error * ratio)
