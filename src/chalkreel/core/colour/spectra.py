"""The 36 bands from 380 to 730 nm, the standard observer and three illuminants.

The table holds CIE 1931 2° colour-matching functions and CIE D65, A and LED-B2, a warm white LED of 2998 K
(CIE 015:2018), sampled every 10 nm.
"""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from typing import Final, Literal

import numpy as np

from chalkreel.core.arrays import Array

Illuminant = Literal["D65", "A", "LED-B2"]
ILLUMINANTS: Final[tuple[Illuminant, ...]] = ("D65", "A", "LED-B2")
WAVELENGTHS_NM: Final = np.arange(380.0, 731.0, 10.0)
BANDS: Final = len(WAVELENGTHS_NM)


@cache
def _table() -> Array:
    text = files("chalkreel.core.colour").joinpath("data/cie_tables.csv").read_text("ascii")
    return np.loadtxt(text.splitlines(), delimiter=",", skiprows=1)


@cache
def tristimulus_weights(illuminant: Illuminant = "D65") -> Array:
    """Weights (36, 3) that take a reflectance to XYZ, Y = 1 for a perfect white."""
    table = _table()
    light = table[:, 4 + ILLUMINANTS.index(illuminant)]
    weighted = table[:, 1:4] * light[:, None]
    return np.asarray(weighted / weighted[:, 1].sum())


def xyz_of_reflectance(reflectance: Array, illuminant: Illuminant = "D65") -> Array:
    """XYZ (..., 3) of reflectances (..., 36) under an illuminant."""
    return np.asarray(reflectance @ tristimulus_weights(illuminant))


@cache
def white_xyz(illuminant: Illuminant = "D65") -> Array:
    """XYZ of the perfect white in these bands."""
    white = xyz_of_reflectance(np.ones(BANDS), illuminant)
    white.flags.writeable = False
    return white
