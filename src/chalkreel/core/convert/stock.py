"""Which stock comes nearest to a size, alone or laminated, and what rounding to it costs."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import combinations_with_replacement
from typing import Final

from chalkreel.core.convert.flat import GLUE_MM, SHEET_SIGMA_MM
from chalkreel.core.convert.kinds import StockForm
from chalkreel.core.errors import RefusedError
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.lengths import INCH_MM, LengthUnit

# Thicknesses and diameters that are commonly sold, for those who have told of no stock of their own: mm, or inches.
METRIC: Final[dict[StockForm, tuple[float, ...]]] = {
    "sheet": (0.13, 0.25, 0.38, 0.5, 0.75, 1.0, 1.5, 2.0),
    "strip": (0.25, 0.4, 0.5, 0.75, 1.0, 1.2, 1.5, 2.0, 2.5, 3.2, 4.0, 4.8, 6.35),
    "rod": (0.3, 0.5, 0.64, 0.75, 0.88, 1.0, 1.2, 1.6, 2.0, 2.4, 3.2, 4.0, 4.8, 6.35),
}
INCH: Final[dict[StockForm, tuple[float, ...]]] = {
    "sheet": (0.005, 0.010, 0.015, 0.020, 0.030, 0.040, 0.060, 0.080),
    "strip": (0.010, 0.015, 0.020, 0.030, 0.040, 0.060, 0.080, 0.100, 0.125, 0.156, 0.188, 0.250),
    "rod": (0.010, 0.020, 0.025, 0.030, 0.035, 0.040, 0.047, 0.062, 0.080, 0.094, 0.125, 0.156, 0.188, 0.250),
}
LARGEST_STOCK_MM: Final = 6.8
MOST_LAYERS: Final = 3
# So many thicknesses of sheet are tried together; a drawer of stock has fewer.
MOST_SIZES: Final = 24


@dataclass(frozen=True)
class StockChoice:
    """One piece or a lamination, in mm; `error_mm` is stock less wanted on the model, `doubt_mm` its 95 % ±."""

    form: StockForm
    unit: LengthUnit
    pieces_mm: tuple[float, ...]
    error_mm: float
    error_story_mm: float
    doubt_mm: float

    @property
    def words(self) -> str:
        """'strip 1.5 mm', 'sheet 0.5 + 0.25 mm' or 'rod 0.062 in'."""
        if self.unit == "mm":
            return f"{self.form} {' + '.join(f'{p:.3g}' for p in self.pieces_mm)} mm"
        return f"{self.form} {' + '.join(f'{p / INCH_MM:.3f}' for p in self.pieces_mm)} in"


@dataclass(frozen=True)
class CutLength:
    """A size beyond all thicknesses, cut to length from a piece by its key, of which so much is left, mm."""

    key: str
    left_mm: float


def cut_length(wanted_mm: float, there: Iterable[tuple[str, float]]) -> CutLength | None:
    """The piece of which least is left: of keys and lengths (mm); None where all are too short."""
    left = [CutLength(key, long - wanted_mm) for key, long in there if long >= wanted_mm]
    return min(left, key=lambda cut: cut.left_mm, default=None)


def sold(unit: LengthUnit) -> tuple[tuple[StockForm, float], ...]:
    """What is commonly sold in a unit, in mm."""
    table, unit_mm = (METRIC, 1.0) if unit == "mm" else (INCH, INCH_MM)
    return tuple((form, size * unit_mm) for form in table for size in table[form])


def nearest_stock(
    wanted_mm: float, ratio: float, owned: Iterable[tuple[StockForm, float]], unit: LengthUnit = "mm",
    form: StockForm | None = None,
) -> StockChoice | None:  # fmt: skip
    """The stock nearest to a size on the model, of what is there; sheets may be laminated.

    Fewer layers win wherever more would gain less than their own doubt. None where nothing is there, or where the size
    is beyond stock and must be cut to length. `ratio` is 48 for 1:48.

    Raises
    ------
    RefusedError
        The size is not positive.
    """
    if wanted_mm <= 0:
        raise RefusedError("A size to cut must be more than zero.")
    there = tuple(dict.fromkeys(one for one in owned if form in (None, one[0])))
    if wanted_mm > LARGEST_STOCK_MM or not there:
        return None
    sheets = [mm for kind, mm in there if kind == "sheet"][:MOST_SIZES]
    options: list[tuple[StockForm, tuple[float, ...]]] = [(kind, (mm,)) for kind, mm in there if kind != "tube"]
    for count in range(2, MOST_LAYERS + 1):
        options += [("sheet", layers) for layers in combinations_with_replacement(sheets, count)]
    if not options:
        return None
    best: tuple[StockForm, tuple[float, ...]] | None = None
    for option in sorted(options, key=lambda o: (len(o[1]), abs(lamination(o[1])[0] - wanted_mm))):
        thick, doubt = lamination(option[1])
        earns = doubt if best is not None and len(option[1]) > len(best[1]) else 0.0
        if best is None or abs(thick - wanted_mm) < abs(lamination(best[1])[0] - wanted_mm) - earns:
            best = option
    assert best is not None
    thick, doubt = lamination(best[1])
    error = thick - wanted_mm
    return StockChoice(best[0], unit, tuple(sorted(best[1], reverse=True)), error, error * ratio, doubt)


def lamination(layers_mm: tuple[float, ...]) -> tuple[float, float]:
    """How thick some layers are together with their glue, and half the 95 % interval of that, mm."""
    joints = len(layers_mm) - 1
    sigma = math.sqrt(len(layers_mm) * SHEET_SIGMA_MM**2 + joints * GLUE_MM**2 / 12)
    return sum(layers_mm) + joints * GLUE_MM / 2, NORMAL_95 * sigma
