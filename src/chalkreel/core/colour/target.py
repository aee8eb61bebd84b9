"""What a mix is to look like: the object, the picture of it, or a colour of one's own, lightened for scale or not."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.colour.cielab import RGB_TO_XYZ, as_lab, lab_of_xyz, xyz_of_lab
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.spectra import white_xyz
from chalkreel.core.errors import RefusedError

MOST_LIGHTENING: Final = 0.3
# The veil of air is a little less bright than white paint.
AIR: Final = 0.85


@dataclass(frozen=True)
class Lightened:
    """The colour with air before it, and how far in ΔE00 that moves it."""

    lab: Lab
    moved: float


def picture_lab(rgb: tuple[tuple[float, float, float], ...]) -> Lab:
    """L*a*b* of the picture itself on a display with a D65 white: the median of its samples in linear sRGB.

    Raises
    ------
    RefusedError
        No sample.
    """
    if not rgb:
        raise RefusedError("No still shows this surface yet. Sample it on the still whose look you want.")
    lab = np.median(lab_of_xyz(np.maximum(np.array(rgb) @ RGB_TO_XYZ.T, 1e-6)), axis=0)
    return as_lab(lab)


def lightened(lab: Lab, share: float) -> Lightened:
    """Mix in a share (0..0.3) of white air, as distance does.

    Raises
    ------
    RefusedError
        A share outside 0..0.3.
    """
    if not 0.0 <= share <= MOST_LIGHTENING:
        raise RefusedError(f"Lighten by 0 to {100 * MOST_LIGHTENING:.0f} %.")
    xyz = (1.0 - share) * xyz_of_lab(np.array(lab)) + share * AIR * white_xyz()
    found = lab_of_xyz(xyz)
    return Lightened(as_lab(found), float(delta_e_2000(found, np.array(lab))))
