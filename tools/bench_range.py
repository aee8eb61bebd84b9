"""Writes the demo's made-up paints: K and S of each at the 36 bands, relative to the bench range's white.

The curves are drawn by hand after the general character of each pigment, not measured from any product.
Run: `python -m tools.bench_range`.
"""

from __future__ import annotations

import csv
from collections.abc import Mapping
from pathlib import Path

import numpy as np
import numpy.typing as npt

from chalkreel.core.colour.characterise import guessed
from chalkreel.core.colour.surface_terms import SURFACE

NM = np.arange(380.0, 731.0, 10.0)
Array = npt.NDArray[np.float64]


def rise(at: float, width: float) -> Array:
    """Smooth step up."""
    return np.asarray(1 / (1 + np.exp(-(NM - at) / width)))


def fall(at: float, width: float) -> Array:
    """Smooth step down."""
    return 1 - rise(at, width)


def bump(at: float, width: float) -> Array:
    """Smooth hill."""
    return np.asarray(np.exp(-0.5 * ((NM - at) / width) ** 2))


FLAT = np.ones_like(NM)
# Name: absorption, scattering (both relative to the white's scattering of 1).
PAINTS: dict[str, tuple[Array, Array]] = {
    "titanium white": (0.004 + 0.5 * fall(392, 6), FLAT),
    "lamp black": (3.4 * FLAT, 0.10 * FLAT),
    "bone black, warm": (2.2 + 0.5 * fall(520, 60), 0.12 + 0.02 * rise(600, 60)),
    "lemon yellow": (0.012 + 1.9 * fall(478, 11), 0.30 + 0.25 * rise(480, 25)),
    "deep yellow": (0.014 + 2.2 * fall(516, 12), 0.30 + 0.25 * rise(520, 25)),
    "yellow ochre": (0.06 + 1.3 * fall(530, 19) + 0.10 * bump(650, 40), 0.34 + 0.20 * rise(560, 40)),
    "raw sienna": (0.09 + 1.5 * fall(552, 24) + 0.08 * bump(660, 40), 0.24 + 0.16 * rise(570, 40)),
    "burnt umber": (0.62 + 1.6 * fall(575, 32), 0.14 + 0.08 * rise(600, 50)),
    "red oxide": (0.10 + 2.1 * fall(578, 13) + 0.12 * bump(690, 30), 0.30 + 0.25 * rise(590, 30)),
    "bright orange": (0.012 + 2.3 * fall(560, 11), 0.28 + 0.24 * rise(570, 25)),
    "warm red": (0.015 + 2.6 * fall(596, 10), 0.22 + 0.24 * rise(600, 25)),
    "quinacridone rose": (0.02 + 2.0 * bump(535, 42) + 0.25 * fall(420, 20), 0.07 + 0.06 * rise(600, 30)),
    "dioxazine violet": (0.5 + 3.2 * bump(565, 55) + 0.2 * bump(680, 40), 0.05 * FLAT),
    "ultramarine blue": (0.03 + 2.7 * bump(600, 52) + 0.3 * rise(690, 14), 0.08 + 0.10 * fall(500, 30)),
    "phthalo blue": (0.05 + 3.6 * bump(640, 62) + 0.5 * fall(400, 14), 0.05 + 0.05 * fall(500, 30)),
    "phthalo green": (0.06 + 3.2 * bump(650, 60) + 1.1 * fall(455, 18), 0.05 + 0.05 * bump(510, 40)),
    "chrome oxide green": (0.30 + 1.0 * fall(480, 24) + 0.9 * bump(620, 50), 0.30 + 0.16 * bump(545, 40)),
    "neutral grey": (0.42 * FLAT, 0.62 * FLAT),
}


# Clears, by the look of one coat over white.
CLEARS = {"clear red": (48.0, 62.0, 38.0), "clear amber": (78.0, 22.0, 60.0), "clear base": (93.0, 0.0, 3.0)}


def main() -> None:
    """Write the tables that the demo ships."""
    _write("bench_range.csv", PAINTS)
    gloss = SURFACE["gloss"]
    _write("clears.csv", {name: guessed(np.array(look), gloss).as_pair() for name, look in CLEARS.items()})


def _write(file: str, paints: Mapping[str, tuple[Array, Array]]) -> None:
    where = Path(__file__).parents[1] / "src/chalkreel/demo/data" / file
    with where.open("w", newline="", encoding="ascii") as stream:
        writer = csv.writer(stream, lineterminator="\n")
        writer.writerow(["paint", "constant", *(f"{nm:.0f}" for nm in NM)])
        for name, (absorption, scattering) in paints.items():
            writer.writerow([name, "K", *(f"{v:.5g}" for v in absorption)])
            writer.writerow([name, "S", *(f"{v:.5g}" for v in scattering)])


if __name__ == "__main__":
    main()
