"""Two-constant Kubelka–Munk mixing of opaque films.

References: Kubelka & Munk, *Z. techn. Physik* 12 (1931), 593; Duncan, *Proc. Phys. Soc.* 52 (1940), 390 (mixtures).
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


def reflectance_of(ratio: Array) -> Array:
    """Reflectance of an opaque film from K/S (...), each 0..1."""
    # 1 + q − √(q² + 2q), written so that a large q loses no digits.
    return np.asarray(1.0 / (1.0 + ratio + np.sqrt(ratio * (ratio + 2.0))))


def ratio_of(reflectance: Array) -> Array:
    """K/S of an opaque film from its reflectance (...), each within (0, 1]."""
    return np.asarray((1.0 - reflectance) ** 2 / (2.0 * reflectance))


def mix_reflectance(drops: Array, absorption: Array, scattering: Array) -> Array:
    """Reflectance (..., 36) of mixes: drops (..., P) of paints with K and S (P, 36)."""
    return reflectance_of((drops @ absorption) / (drops @ scattering))
