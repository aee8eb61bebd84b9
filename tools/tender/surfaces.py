"""True reflectance spectra of the tender's painted surfaces and of the things around it.

They are drawn here by hand as smooth curves and are *not* mixes of the demo's bench range,
so that a recipe which matches them has really been found.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

WAVELENGTHS_NM = np.arange(380.0, 731.0, 10.0)

Spectrum = npt.NDArray[np.float64]


def _rise(at_nm: float, width_nm: float) -> Spectrum:
    return 1.0 / (1.0 + np.exp(-(WAVELENGTHS_NM - at_nm) / width_nm))


def _bump(at_nm: float, width_nm: float) -> Spectrum:
    return np.asarray(np.exp(-0.5 * ((WAVELENGTHS_NM - at_nm) / width_nm) ** 2))


SURFACES: dict[str, Spectrum] = {
    "hull": 0.30 + 0.13 * _rise(455, 35) + 0.05 * _rise(560, 45),
    "deck": 0.19 + 0.025 * _bump(500, 60) - 0.01 * _rise(640, 40),
    "skirt": 0.055 + 0.012 * _bump(460, 60),
    "band_series": 0.055 + 0.10 * _rise(500, 18) + 0.26 * _rise(552, 24),
    "band_special": 0.045 + 0.36 * _rise(596, 14),
    "dark": 0.035 + 0.0 * _rise(500, 20),
    "steel": 0.24 + 0.05 * _rise(520, 90),
    "glass": 0.02 + 0.01 * _bump(470, 40),
    "card": 0.28 + 0.0 * _rise(500, 20),
    "plastic": 0.30 + 0.03 * _rise(520, 60),
    "bench": 0.10 + 0.10 * _rise(540, 60) + 0.05 * _rise(620, 40),
    "wall": 0.20 + 0.02 * _rise(560, 60),
    "grime": 0.07 + 0.05 * _rise(560, 50),
}
