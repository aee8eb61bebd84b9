"""Colours as people write or measure them: L*a*b* in words, #rrggbb, a metered reflectance."""

from __future__ import annotations

import re
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import RGB_TO_XYZ, as_lab, lab_of_xyz, xyz_of_lab
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.spectra import white_xyz, xyz_of_reflectance
from chalkreel.core.colour.still_light import BRADFORD
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.core.media.picture import linear

# White under D50 (ICC.1:2022, its profile connection space).
D50: Final = np.array([0.9642, 1.0, 0.8249])


def checked_lab(lab: Lab) -> Lab:
    """A colour that a surface can have.

    Raises
    ------
    RefusedError
        It cannot.
    """
    smooth_spectrum(np.array(lab))
    return lab


def lab_of_words(text: str) -> Lab:
    """A surface's colour from 'L a b' or '#rrggbb'; 'D50' behind L a b says under which light they hold.

    Raises
    ------
    RefusedError
        It cannot be read, or no surface can have it.
    """
    words = [word.strip(",") for word in re.split(r"[;\s]+", text.strip())]
    if len(words) == 1 and words[0].startswith("#"):
        return checked_lab(lab_of_code(words[0]))
    light = words.pop().upper() if words[-1].upper() in ("D50", "D65") else "D65"
    if len(words) == 1:
        words = words[0].split(",")
    if len(words) != 3:
        raise RefusedError("Give a colour as L* a* b*, like 62.5 4 38, or as #rrggbb.")
    lightness, a, b = (parse_number(word) for word in words)
    if not (0 < lightness <= 100 and abs(a) <= 128 and abs(b) <= 128):
        raise RefusedError("L* lies between 0 and 100, a* and b* between −128 and 128.")
    return checked_lab(from_d50((lightness, a, b)) if light == "D50" else (lightness, a, b))


def from_d50(lab: Lab) -> Lab:
    """L*a*b* under D65 of a colour given under D50, as print and profiles have it (Bradford; Lam 1985)."""
    xyz = xyz_of_lab(np.array(lab)) / white_xyz() * D50
    cones = BRADFORD @ xyz * (BRADFORD @ white_xyz()) / (BRADFORD @ D50)
    return as_lab(lab_of_xyz(np.linalg.solve(BRADFORD, cones)))


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
