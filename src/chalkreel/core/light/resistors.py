"""Resistors: preferred values (IEC 60063), what they burn and how hot they get in a closed plastic hull."""

from __future__ import annotations

import math
from typing import Final

import numpy as np

from chalkreel.core.errors import RefusedError
from chalkreel.core.light.kinds import Drawer

_E12: Final = (10, 12, 15, 18, 22, 27, 33, 39, 47, 56, 68, 82)
_E24: Final = tuple(sorted((*_E12, 11, 13, 16, 20, 24, 30, 36, 43, 51, 62, 75, 91)))
_E96: Final = tuple(round(10 ** (k / 96 + 2)) for k in range(96))
SERIES: Final[dict[Drawer, tuple[float, ...]]] = {
    "E12": tuple(v / 10 for v in _E12), "E24": tuple(v / 10 for v in _E24), "E96": tuple(v / 100 for v in _E96),
}  # fmt: skip
TOLERANCE: Final[dict[Drawer, float]] = {"E12": 0.05, "E24": 0.05, "E96": 0.01}  # as printed, 95 %
RATINGS_W: Final = (0.125, 0.25, 0.5, 1.0, 2.0, 5.0)
# At its full rating a resistor runs 80 K above the air (60 to 100); polystyrene softens from about 80 °C.
RISE_AT_RATING_K: Final = 80.0
HULL_C: Final = 50.0
SOFTENS_C: Final = 80.0


def ohm_words(ohm: float) -> str:
    """'680 Ω', '1.2 kΩ'."""
    return f"{ohm / 1000:g} kΩ" if ohm >= 1000 else f"{ohm:g} Ω"


def nearest_ohm(current_ma: dict[float, float], wanted_ma: float) -> float:
    """Of resistors and the current each gives, the one whose current is nearest by ratio."""
    return min(current_ma, key=lambda ohm: abs(math.log(max(current_ma[ohm], 1e-9) / wanted_ma)))


def around(ohm: float, drawer: Drawer, own: tuple[float, ...] = ()) -> tuple[float, ...]:
    """The three or so values of a series next to a resistance (from 1 Ω to 10 MΩ), or of one's own drawer."""
    ohm = min(max(ohm, 1.0), 1e7)
    if own:
        return tuple(sorted(own, key=lambda value: abs(math.log(value / ohm)))[:4])
    decade = 10.0 ** math.floor(math.log10(ohm))
    steps = sorted({round(v * decade * f, 6) for v in SERIES[drawer] for f in (0.1, 1.0, 10.0)})
    place = int(np.searchsorted(steps, ohm))
    return tuple(v for v in steps[max(0, place - 2) : place + 2] if v >= 1.0)


def rating_w(watt: float) -> float:
    """The standard power rating with at least twice the dissipated power.

    Raises
    ------
    RefusedError
        More heat than a resistor inside a model should make.
    """
    for rating in RATINGS_W:
        if rating >= 2 * watt * (1 - 1e-9):
            return rating
    raise RefusedError(f"A resistor would turn {watt:.1f} W into heat inside the model. Use less voltage or current.")


def hot_c(watt: float, rating: float) -> float:
    """About how hot it gets in a closed plastic hull, °C."""
    return HULL_C + RISE_AT_RATING_K * watt / rating
