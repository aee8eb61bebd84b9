"""Colours as people write or measure them: checked L*a*b*, #rrggbb, a metered reflectance."""

from __future__ import annotations

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import RGB_TO_XYZ, as_lab, lab_of_xyz
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.spectra import xyz_of_reflectance
from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import linear


def checked_lab(lab: Lab) -> Lab:
    """A colour that a surface can have.

    Raises
    ------
    RefusedError
        It cannot.
    """
    smooth_spectrum(np.array(lab))
    return lab


def lab_of_code(code: str) -> Lab:
    """L*a*b* of a colour written as #rrggbb.

    Raises
    ------
    RefusedError
        It is not written so.
    """
    try:
        rgb = np.frombuffer(bytes.fromhex(code.removeprefix("#")), np.uint8)
    except ValueError:
        rgb = np.zeros(0, np.uint8)
    if rgb.size != 3:
        raise RefusedError("Write the colour as #rrggbb, six digits or letters a to f.")
    return as_lab(lab_of_xyz(np.maximum(linear(rgb) @ RGB_TO_XYZ.T, 1e-5)))


def lab_of_reflectance(reflectance: Array) -> Lab:
    """L*a*b* under D65 of a metered reflectance (36,)."""
    return as_lab(lab_of_xyz(xyz_of_reflectance(reflectance)))
