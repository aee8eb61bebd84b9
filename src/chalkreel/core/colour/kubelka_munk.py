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


def constants_from_masstone_and_tint(masstone: Array, tint: Array, white: Array, share: float) -> tuple[Array, Array]:
    """K and S of a paint relative to its white (S = 1 at every band), from two opaque swatches.

    `tint` is the reflectance of `share` of the paint with 1 − share of the white; all arrays (36,).
    """
    q_mass, q_tint, q_white = ratio_of(masstone), ratio_of(tint), ratio_of(white)
    scattering = (1 - share) * (q_tint - q_white) / (share * np.maximum(q_mass - q_tint, 1e-9))
    scattering = np.clip(scattering, 1e-4, 1e3)
    return np.asarray(q_mass * scattering), np.asarray(scattering)
