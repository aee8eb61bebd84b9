"""The colour of a lamp from the halo round its overexposed core.

The core is clipped and holds no colour; the halo is core light spread by lens and film, laid over the background.
Along the halo each channel grows in proportion to the lamp's own, so the slopes of the channels against each other
are the lamp's colour, whatever the background: the first principal axis, what lies furthest off it left out twice.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import RGB_TO_XYZ, XYZ_TO_RGB
from chalkreel.core.colour.sampling import CLIP_HIGH
from chalkreel.core.errors import RefusedError
from chalkreel.core.light.kinds import LedColour
from chalkreel.core.media.picture import Picture, linear

FEWEST_HALO: Final = 30
# A lamp is among the brightest things a picture can show (encoded).
BRIGHT_CORE: Final = 0.85
# Chromaticity x, y of usual indicator LEDs: whites from their correlated colour temperature (6500 K, 3000 K on the
# Planckian locus), colours from their dominant wavelength on the spectrum locus, drawn in for their width.
LED_XY: Final[dict[LedColour, tuple[float, float]]] = {
    "white": (0.313, 0.324), "warm white": (0.437, 0.404), "blue": (0.135, 0.060), "green": (0.180, 0.700),
    "yellow": (0.550, 0.445), "orange": (0.620, 0.378), "red": (0.695, 0.303),
}  # fmt: skip


@dataclass(frozen=True)
class Glow:
    """Chromaticity and its σ, the nearest LED, and the tint that would bring it nearer still."""

    x: float
    y: float
    sigma: float
    led: LedColour
    tint: str


def glow_of(picture: Picture, left: int, top: int, right: int, bottom: int) -> Glow:
    """The lamp's colour from a rectangle round it in stored pixels, reaching well into the dark.

    Raises
    ------
    RefusedError
        No bright core with a halo that fades in the rectangle.
    """
    left, top = max(0, left), max(0, top)
    block = picture.pixels[top : min(bottom, picture.height), left : min(right, picture.width)]
    if min(block.shape[:2]) < 5:
        raise RefusedError("Draw the frame wider: the whole glow and some of the dark round it.")
    encoded = block.reshape(-1, 3) / float(np.iinfo(block.dtype).max)
    light = linear(block).reshape(-1, 3)
    brightest = encoded.max(axis=1)
    level = light.sum(axis=1)
    ground = float(np.quantile(level, 0.15))
    top_level = float(level.max())
    halo = (brightest < CLIP_HIGH) & (level > ground + 0.08 * (top_level - ground))
    if halo.sum() < FEWEST_HALO or top_level < 2.0 * ground + 0.1 or brightest.max() < BRIGHT_CORE:
        raise RefusedError("No glow stands out here. Frame a lamp that is lit, with the dark round it.")
    slope, spread = _slopes(light[halo])
    x, y = _xy(RGB_TO_XYZ @ slope)
    ways = [_xy(RGB_TO_XYZ @ np.maximum(slope + move, 1e-4)) for move in np.diag(spread)]
    sigma = float(np.sqrt(sum((a - x) ** 2 + (b - y) ** 2 for a, b in ways)))
    led = min(LED_XY, key=lambda name: _apart((x, y), _as_shown(LED_XY[name])))
    return Glow(x, y, sigma, led, tint_for(led, (x, y)))


def tint_for(led: LedColour, xy: tuple[float, float]) -> str:
    """What clear paint over a lamp of this colour would bring it nearer, or nothing where the eye is content."""
    u, v = np.array(_uv(xy)) - np.array(_uv(_as_shown(LED_XY[led])))
    if np.hypot(u, v) < 0.012:
        return ""
    names = ("red", "orange", "yellow", "green", "blue green", "blue", "violet", "pink")
    # Directions in u′v′ from white towards these hues.
    turns = (0.0, 35.0, 75.0, 150.0, 195.0, 262.0, 300.0, 330.0)
    angle = float(np.degrees(np.arctan2(v, u))) % 360
    near = min(range(len(turns)), key=lambda i: abs((angle - turns[i] + 180) % 360 - 180))
    return f"a clear {names[near]} over it brings it nearer"


def _slopes(light: Array) -> tuple[Array, Array]:
    """How the channels (3,) grow together along the halo, and one σ of each."""
    kept = light
    for _ in range(2):
        _, off = _along(kept)
        distance = np.sqrt((off**2).sum(axis=1))
        kept = kept[distance <= np.quantile(distance, 0.8)]
    direction, off = _along(kept)
    spread = ((kept - kept.mean(axis=0)) @ direction).std()
    # Neighbouring pixels share their noise: count them in groups of nine.
    sigma = off.std(axis=0) / (spread + 1e-9) / np.sqrt(max(1.0, len(kept) / 9))
    return np.maximum(direction, 1e-4), sigma


def _along(light: Array) -> tuple[Array, Array]:
    """The axis (3,) along which pixels (N, 3) lie, towards the bright, and how far each lies off it (N, 3)."""
    centred = light - light.mean(axis=0)
    axis = np.linalg.svd(centred, full_matrices=False)[2][0]
    axis = axis * np.sign(axis.sum() or 1.0)
    return axis, centred - np.outer(centred @ axis, axis)


def _as_shown(xy: tuple[float, float]) -> tuple[float, float]:
    """Chromaticity as a picture can show it: no channel goes below zero."""
    rgb = np.maximum(XYZ_TO_RGB @ np.array([xy[0] / xy[1], 1.0, (1 - sum(xy)) / xy[1]]), 0.0)
    return _xy(RGB_TO_XYZ @ rgb)


def _xy(xyz: Array) -> tuple[float, float]:
    total = float(xyz.sum())
    return float(xyz[0]) / total, float(xyz[1]) / total


def _uv(xy: tuple[float, float]) -> tuple[float, float]:
    under = -2 * xy[0] + 12 * xy[1] + 3
    return 4 * xy[0] / under, 9 * xy[1] / under


def _apart(one: tuple[float, float], other: tuple[float, float]) -> float:
    (u1, v1), (u2, v2) = _uv(one), _uv(other)
    return float(np.hypot(u1 - u2, v1 - v2))
