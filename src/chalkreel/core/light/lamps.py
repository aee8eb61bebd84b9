"""Lamps as electrical parts: a junction behind a resistance, fitted to what the sheet or the bench tells.

V(I) = v + n Vt ln(I / I0) + (I - I0) Rs about a known point (I0, v): Shockley, The theory of p-n junctions in
semiconductors. The families' usual n and Rs stand in for what one point leaves open, with their own doubt.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.light.kinds import LedColour, Package

THERMAL_V: Final = 0.02569258  # kT/q at 25 °C
# Reading error of a sheet's curve or of a meter at the bench.
READING_V: Final = 0.01
# The junction's own leakage; it keeps a reversed lamp's equations solvable.
LEAKAGE_S: Final = 1e-12
REVERSE_LIMIT_V: Final = 5.0
# A lamp is seen in a dim room from here on; below it, it is dark.
VISIBLE_MA: Final = 0.02
# Half of the variance between lamps of a type lies between bags, half within one.
BAG_SHARE: Final = 0.5


@dataclass(frozen=True)
class Family:
    """What lamps of one chemistry share: emission coefficient n, series Ω, spread of V (1 σ); light goes as I^gamma."""

    volts: tuple[float, float]
    n: float
    n_sigma: float
    chip_ohm: float
    dome_ohm: float
    gamma: float
    spread_v: float


# Typical figures of the kinds; `volts` bounds what a sheet may sensibly say at 1 to 30 mA.
NITRIDE: Final = Family((2.3, 4.0), 2.2, 0.4, 12.0, 10.0, 0.9, 0.10)
NITRIDE_GREEN: Final = Family((2.2, 4.0), 2.8, 0.4, 14.0, 13.0, 0.8, 0.10)
PHOSPHIDE: Final = Family((1.4, 2.6), 1.8, 0.35, 6.0, 4.5, 1.05, 0.06)
GALLIUM_PHOSPHIDE: Final = Family((1.5, 2.7), 1.9, 0.3, 8.0, 7.0, 1.15, 0.06)
RS_SIGMA: Final = 0.75  # of ln Rs; the families' own lamps differ by ± 40 %, others by more
FAMILIES: Final[dict[LedColour, Family]] = {
    "white": NITRIDE, "warm white": NITRIDE, "blue": NITRIDE, "green": NITRIDE_GREEN, "leaf green": GALLIUM_PHOSPHIDE,
    "yellow": PHOSPHIDE, "orange": PHOSPHIDE, "red": PHOSPHIDE,
}  # fmt: skip


@dataclass(frozen=True)
class Strip:
    """A cuttable piece of strip: so many lamps in a row behind the piece's own resistor."""

    piece_mm: float
    lamps: int
    ohm: float


# 120 lamps a metre at 4.8 W/m a 5 m roll's usual make-up: three whites and 150 Ω a 50 mm piece, or each its own 150 Ω.
STRIPS: Final[dict[str, Strip]] = {"strip 12 V": Strip(50.0, 3, 150.0), "strip 5 V": Strip(16.7, 1, 150.0)}


@dataclass(frozen=True)
class Point:
    """V at so many mA, from the sheet or (of this very bag) read at the bench."""

    volts: float
    ma: float
    bench: bool = False


@dataclass(frozen=True)
class LampCurve:
    """A fitted lamp: `volts` at `ma`, emission coefficient `n`, series `ohm`, and how surely these are known.

    `covariance` (3, 3) is of (volts, n, ln ohm) common to the bag; `own_v` is what single lamps differ by (1 σ, V).
    """

    volts: float
    ma: float
    n: float
    ohm: float
    gamma: float
    covariance: tuple[tuple[float, float, float], ...]
    own_v: float

    @property
    def saturation_a(self) -> float:
        """Is of the junction, A."""
        junction = self.volts - self.ma / 1000 * self.ohm
        return float(self.ma / 1000 / np.expm1(junction / (self.n * THERMAL_V)))

    def volts_at(self, ma: float) -> float:
        """The voltage at a current."""
        amp = ma / 1000
        return float(self.n * THERMAL_V * np.log1p(amp / self.saturation_a) + amp * self.ohm)

    def stiffness_v(self, ma: float) -> float:
        """dV/d(ln I) at a current: what one lamp adds to its row's stiffness."""
        return self.n * THERMAL_V + ma / 1000 * self.ohm


@lru_cache(maxsize=256)
def fit(colour: LedColour, package: Package, points: tuple[Point, ...]) -> LampCurve:
    """The lamp that one, two or three points and its family tell of.

    Sheet points may all be off together by what lamps of one type differ; a reading at the bench is of this bag.

    Raises
    ------
    RefusedError
        No point, or voltages that no lamp of the colour has or that fall while the current rises.
    """
    family = FAMILIES[colour]
    _check(colour, family, points)
    ordered = sorted(points, key=lambda p: (p.bench, p.ma))
    last = ordered[-1]
    usual = np.log(family.dome_ohm if package in ("3 mm", "5 mm") else family.chip_ohm)
    volts = np.array([p.volts for p in ordered])
    amps = np.array([p.ma for p in ordered]) / 1000
    bag, own = family.spread_v * BAG_SHARE**0.5, family.spread_v * (1 - BAG_SHARE) ** 0.5
    sheet = np.array([not p.bench for p in ordered], float)
    noise = READING_V**2 * np.eye(len(ordered)) + bag**2 * np.outer(sheet, sheet)
    weight = np.linalg.inv(np.linalg.cholesky(noise))
    value = np.array([last.volts, family.n, usual])
    for _ in range(8):
        residual, slope = _against(value, amps, volts, last.ma / 1000, weight, family, float(usual))
        value = value - np.linalg.lstsq(slope, residual, rcond=None)[0]
    _, slope = _against(value, amps, volts, last.ma / 1000, weight, family, float(usual))
    covariance = np.linalg.inv(slope.T @ slope)
    rows = [tuple(float(x) for x in row) for row in covariance]
    curve = LampCurve(
        float(value[0]), last.ma, float(value[1]), float(np.exp(value[2])), family.gamma,
        tuple((r[0], r[1], r[2]) for r in rows), own,
    )  # fmt: skip
    if value[1] < 0.8 or curve.volts <= last.ma / 1000 * curve.ohm + 0.5:
        raise RefusedError("These points are not of one lamp: its voltage hardly rises with the current. Check them.")
    return curve


def _against(
    value: Array, amps: Array, volts: Array, reference: float, weight: Array, family: Family, usual: float
) -> tuple[Array, Array]:
    """Weighted residuals and their slope by (v, n, ln Rs), with the family's priors as two rows more."""
    ohm = np.exp(value[2])
    logs, extra = THERMAL_V * np.log(amps / reference), (amps - reference) * ohm
    off = weight @ (value[0] + value[1] * logs + extra - volts)
    slope = weight @ np.stack([np.ones_like(amps), logs, extra], axis=1)
    priors = np.array([(value[1] - family.n) / family.n_sigma, (value[2] - usual) / RS_SIGMA])
    tail = np.array([[0, 1 / family.n_sigma, 0], [0, 0, 1 / RS_SIGMA]])
    return np.concatenate([off, priors]), np.concatenate([slope, tail])


def _check(colour: LedColour, family: Family, points: tuple[Point, ...]) -> None:
    if not points:
        raise RefusedError("Give the lamp's voltage at one current, as its sheet says: 3.1 V at 20 mA.")
    low, high = family.volts
    for p in points:
        if not (np.isfinite(p.volts) and np.isfinite(p.ma) and 0.001 <= p.ma <= 1000):
            raise RefusedError("A lamp's current lies between 0.001 and 1000 mA.")
        if not low - (0.4 if p.ma < 5 else 0) <= p.volts <= high + (0.4 if p.ma > 30 else 0):
            other = " A “green” of about 2 V is leaf green." if colour == "green" and p.volts < low else ""
            raise RefusedError(
                f"{p.volts:g} V at {p.ma:g} mA is no {colour} lamp: these stand at {low:g} to {high:g} V.{other}"
            )
    for first, second in zip(sorted(points, key=lambda p: p.ma), sorted(points, key=lambda p: p.ma)[1:], strict=False):
        if first.bench == second.bench and second.ma > first.ma and second.volts <= first.volts:
            raise RefusedError(
                f"{second.volts:g} V at {second.ma:g} mA, but {first.volts:g} V at {first.ma:g} mA: a lamp's voltage "
                "rises with its current. One of the two was misread."
            )
