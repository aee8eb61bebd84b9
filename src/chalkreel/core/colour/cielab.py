"""CIE L*a*b* and sRGB (CIE 015:2018; IEC 61966-2-1)."""

from __future__ import annotations

from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.kinds import Lab, Swatch
from chalkreel.core.colour.spectra import Illuminant, white_xyz

RGB_TO_XYZ: Final = np.array(
    [[0.4123908, 0.3575843, 0.1804808], [0.2126390, 0.7151687, 0.0721923], [0.0193308, 0.1191948, 0.9505322]]
)
XYZ_TO_RGB: Final = np.linalg.inv(RGB_TO_XYZ)
_EPSILON: Final = (6 / 29) ** 3


def lab_of_xyz(xyz: Array, illuminant: Illuminant = "D65") -> Array:
    """L*a*b* (..., 3) of XYZ (..., 3) relative to an illuminant's white, Y = 1 for white."""
    ratio = np.asarray(xyz) / white_xyz(illuminant)
    f = np.where(ratio > _EPSILON, np.cbrt(np.maximum(ratio, 0.0)), ratio / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


def xyz_of_lab(lab: Array) -> Array:
    """XYZ (..., 3) of L*a*b* (..., 3), D65."""
    lab = np.asarray(lab)
    fy = (lab[..., 0] + 16) / 116
    f = np.stack([fy + lab[..., 1] / 500, fy, fy - lab[..., 2] / 200], axis=-1)
    ratio = np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29))
    return np.asarray(ratio * white_xyz())


def encode_srgb(linear: Array) -> Array:
    """Linear light to sRGB-encoded values, clipped to 0..1."""
    v = np.clip(linear, 0.0, 1.0)
    return np.asarray(np.where(v <= 0.0031308, 12.92 * v, 1.055 * v ** (1 / 2.4) - 0.055))


def as_lab(values: Array) -> Lab:
    """One colour (3,) as plain numbers."""
    light, a, b = (float(v) for v in values)
    return light, a, b


def in_srgb(lab: Array | Lab) -> bool:
    """Whether a usual screen can show one L*a*b* value, to half a unit of it."""
    linear = xyz_of_lab(np.asarray(lab)) @ XYZ_TO_RGB.T
    shown = lab_of_xyz(np.clip(linear, 0.0, 1.0) @ RGB_TO_XYZ.T)
    return bool(np.linalg.norm(shown - np.asarray(lab)) < 0.5)


def rgb8_of_lab(lab: Array | Lab) -> Swatch:
    """The 8-bit sRGB colour nearest to one L*a*b* value."""
    r, g, b = np.rint(255 * encode_srgb(xyz_of_lab(np.asarray(lab)) @ XYZ_TO_RGB.T)).astype(int)
    return int(r), int(g), int(b)
