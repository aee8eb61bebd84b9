"""Two-constant Kubelka–Munk: opaque films, mixtures, films of finite thickness.

References: Kubelka & Munk, *Z. techn. Physik* 12 (1931), 593; Duncan, *Proc. Phys. Soc.* 52 (1940), 390
(mixtures); Kubelka, *J. Opt. Soc. Am.* 38 (1948), 448 (finite films). All reflectances here are *internal*: what the
film sends up inside it, before its surface has its say (`surface_terms`).
"""

from __future__ import annotations

import numpy as np

from chalkreel.core.arrays import Array

# What a printer's black reflects.
PRINTED_BLACK = 0.05


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


def film_over(ground: Array, absorption: Array, scattering: Array, thickness: float) -> Array:
    """Reflectance (36,) of a film with K and S (36,) per unit of thickness, over a ground (36,)."""
    scattering = np.maximum(scattering, 1e-9)
    a = 1.0 + absorption / scattering
    b = np.sqrt(np.maximum(a * a - 1.0, 1e-12))
    coth = 1.0 / np.tanh(np.clip(b * scattering * thickness, 1e-9, 300.0))
    return np.asarray((1.0 - ground * (a - b * coth)) / (a - ground + b * coth))
