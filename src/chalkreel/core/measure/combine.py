"""One size from several readings of it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chalkreel.core.errors import RefusedError
from chalkreel.core.interval import NORMAL_95


@dataclass(frozen=True)
class Size:
    """A length with its 1 σ, both in mm."""

    mm: float
    sigma_mm: float

    @property
    def half_width_mm(self) -> float:
        """Half of the 95 % interval."""
        return NORMAL_95 * self.sigma_mm

    def scaled(self, factor: float) -> Size:
        """The same length on another link of the scale chain."""
        return Size(self.mm * factor, self.sigma_mm * factor)


def combine_sizes(sizes: tuple[Size, ...]) -> tuple[Size, float]:
    """Weighted mean by inverse variance, and the Birge ratio (1 when the readings agree).

    Where the readings scatter more than their errors allow, the σ is widened by that ratio.

    Raises
    ------
    RefusedError
        No reading.
    """
    if not sizes:
        raise RefusedError("This size has not been marked on any still yet.")
    values = np.array([s.mm for s in sizes])
    weights = 1.0 / np.array([s.sigma_mm for s in sizes]) ** 2
    mean = float(weights @ values / weights.sum())
    birge = 1.0
    if len(sizes) > 1:
        birge = max(1.0, math.sqrt(float(weights @ (values - mean) ** 2) / (len(sizes) - 1)))
    return Size(mean, birge / math.sqrt(float(weights.sum()))), birge
