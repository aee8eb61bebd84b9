"""Taking the light out of a still with a patch that is known to be neutral.

Chromatic adaptation in cone space (Bradford; Lam 1985, as in CIE 160:2004 and ICC.1): the patch's
chromaticity is carried to D65, its luminance to its known reflectance where that is known.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from chalkreel.core.colour.cielab import RGB_TO_XYZ, lab_of_xyz
from chalkreel.core.colour.sampling import Sample
from chalkreel.core.colour.spectra import white_xyz
from chalkreel.core.errors import RefusedError

Array = npt.NDArray[np.float64]
_BRADFORD: Final = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])

# What a neutral on another facet leaves unknown: lightness by shading, hue by coloured bounce (1 σ).
SHADING_SIGMA_L: Final = 5.0
BOUNCE_SIGMA_AB: Final = 1.6


@dataclass(frozen=True)
class StillLight:
    """Matrix (3, 3) from the still's XYZ to XYZ under D65."""

    matrix: Array


@dataclass(frozen=True)
class Vote:
    """A still's opinion of a surface: L*a*b* (D65/2°) with σ of lightness and of each chromatic axis."""

    lab: tuple[float, float, float]
    sigma_l: float
    sigma_ab: float


def light_from_neutral(sample: Sample, reflectance: float | None) -> StillLight:
    """The still's light from a neutral patch; without a reflectance the exposure is left as it is.

    Raises
    ------
    RefusedError
        The patch is black, largely clipped, or its reflectance impossible.
    """
    xyz = RGB_TO_XYZ @ np.array(sample.rgb)
    if sample.clipped_share > 0.3 or xyz[1] < 0.003:
        raise RefusedError(
            "This neutral patch is clipped or black. Choose one that is neither white-out nor in deep shadow."
        )
    if reflectance is not None and not 0.01 <= reflectance <= 1.0:
        raise RefusedError("A neutral's reflectance lies between 1 % and 100 %.")
    level = reflectance if reflectance is not None else float(xyz[1])
    gains = (_BRADFORD @ white_xyz()) * level / (_BRADFORD @ xyz)
    return StillLight(np.linalg.inv(_BRADFORD) @ np.diag(gains) @ _BRADFORD)


def vote(sample: Sample, light: StillLight) -> Vote:
    """A surface's colour as this still tells it, with the light taken out."""
    xyz = light.matrix @ RGB_TO_XYZ @ np.array(sample.rgb)
    lab = lab_of_xyz(np.maximum(xyz, 1e-6))
    around = np.array(sample.rgb) + np.diag(sample.spread) / np.sqrt(max(1.0, sample.pixels / 25))
    moved = lab_of_xyz(np.maximum(around @ (light.matrix @ RGB_TO_XYZ).T, 1e-6)) - lab
    noise = np.sqrt((moved**2).sum(axis=0))
    return Vote(
        (float(lab[0]), float(lab[1]), float(lab[2])),
        float(np.hypot(noise[0], SHADING_SIGMA_L)),
        float(np.hypot(max(noise[1], noise[2]), BOUNCE_SIGMA_AB)),
    )
