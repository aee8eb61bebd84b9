"""What the dry surfaces of a shelf scatter into the eye, told by its darkest readings.

A meter sees the surface and what comes out of the film together. Where a paint sends next to nothing back from inside,
what is left is the surface: no paint's is larger than its darkest reading, and blacks and vivid paints come close.
"""

from __future__ import annotations

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.kubelka_munk import reflectance_of
from chalkreel.core.colour.surface_terms import seen

# Masstones of blacks have a K/S of 20 to 60; of several paints and bands the darkest lies at the upper end. What that
# sends out is taken off.
DARK_RATIO = 60.0
# The least reading of a spectrum is taken over so many bands together: one band alone may be noise.
BANDS_TOGETHER = 3
STEP = 0.0005


def fitted_surface(masstones: Array, usual: float) -> float:
    """The surface of paints (N, 36) of one sheen by their metered masstones; `usual` where none of them is dark."""
    windows = np.lib.stride_tricks.sliding_window_view(masstones, BANDS_TOGETHER, axis=1)
    from_inside = float(seen(reflectance_of(np.array(DARK_RATIO)), 0.0))
    least = max(0.0, float(windows.mean(axis=2).min()) - from_inside)
    return min(usual, round(least / STEP) * STEP)
