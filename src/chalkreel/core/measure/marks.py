"""Points clicked on a still, and how surely they were placed."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Mark:
    """A point in stored pixels (first pixel's centre at 0.5, 0.5; y down) with its click error (1 σ)."""

    x_px: float
    y_px: float
    sigma_px: float = 0.7


@dataclass(frozen=True)
class Segment:
    """Two marks."""

    a: Mark
    b: Mark


def click_sigma_px(zoom: float) -> float:
    """Click error (1 σ) in stored pixels at a zoom of so many screen pixels to a stored one.

    The hand is good for about 0.8 screen pixel; blur of the picture itself leaves 0.35 pixel
    however far one zooms in.
    """
    return math.hypot(0.35, 0.8 / max(zoom, 1e-3))
