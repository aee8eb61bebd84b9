"""Lamps whose curves are not of our model's form: the emission coefficient changes with the current."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.light.kinds import LedColour
from chalkreel.core.light.lamps import Point

VT = 0.0257


@dataclass(frozen=True)
class HiddenLamp:
    """V = v20 + VT·(n_high·ln(I/20 mA) + (n_low − n_high)·knee) + Rs·(I − 20 mA); the knee lies at `knee_ma`."""

    colour: LedColour
    v20: float
    n_low: float
    n_high: float
    knee_ma: float
    ohm: float

    def volts(self, ma: float) -> float:
        def knee(i: float) -> float:
            # The logarithm that counts only below the knee, smoothly.
            return -np.log1p(self.knee_ma / i)

        bend = (self.n_low - self.n_high) * (knee(ma) - knee(20.0))
        slope = VT * (self.n_high * np.log(ma / 20.0) + bend)
        return float(self.v20 + slope + self.ohm * (ma - 20.0) / 1000)

    def point(self, ma: float, off_v: float = 0.0) -> Point:
        return Point(round(self.volts(ma) + off_v, 2), ma)

    def current_ma(self, volts: float, ohm: float) -> float:
        """The true current behind a resistor."""
        low, high = 1e-6, 500.0
        for _ in range(200):
            middle = (low * high) ** 0.5
            low, high = (middle, high) if self.volts(middle) + ohm * middle / 1000 < volts else (low, middle)
        return low


def usual_lamps(seed: int, count: int) -> list[HiddenLamp]:
    """Lamps of the shop: nitride and phosphide, near their families' figures."""
    rng = np.random.default_rng(seed)
    made = []
    for _ in range(count):
        if rng.random() < 0.5:
            n = rng.normal(2.2, 0.3)
            made.append(HiddenLamp("white", rng.uniform(2.95, 3.3), n * rng.uniform(0.8, 1.1), n, rng.uniform(0.1, 3),
                                   12 * rng.lognormal(0, 0.3)))  # fmt: skip
        else:
            n = rng.normal(1.8, 0.15)
            made.append(HiddenLamp("red", rng.uniform(1.85, 2.1), n * rng.uniform(0.85, 1.1), n, rng.uniform(0.1, 3),
                                   6 * rng.lognormal(0, 0.3)))  # fmt: skip
    return made


def strangers(seed: int, count: int) -> list[HiddenLamp]:
    """Lamps drawn without any family: n 1.5 to 3, Rs 4 to 25 Ω."""
    rng = np.random.default_rng(seed)
    return [
        HiddenLamp("white" if rng.random() < 0.5 else "red", 0.0, n, n, 1.0, rng.uniform(4, 25))
        for n in rng.uniform(1.5, 3.0, count)
    ]
