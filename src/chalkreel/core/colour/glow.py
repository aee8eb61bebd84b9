"""The colour of a lamp from the halo round its overexposed core.

The core is clipped and holds no colour; the halo is core light spread by lens and film, laid over the background.
Along the halo each channel grows in proportion to the lamp's own, so the slopes of the channels against each other
are the lamp's colour, whatever the background: the first principal axis, what lies furthest off it left out twice.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array, Flags
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


# The halo is read in so many rings, each in so many sectors: an edge behind the lamp spoils few of them.
RINGS, SECTORS = 8, 12
# Nothing is known better than this, in u′v′: film and lens colour every halo a little.
LEAST_SIGMA: Final = 0.002
# A halo whose outer half lies so far from its inner half is not of one colour: film halation, or a second lamp.
TWO_COLOURS: Final = 0.014
# A correction by another lamp is taken to be right to a half of what it moves (1 σ): that held where each channel had a
# gain of its own, drawn at random.
HALF_TRUSTED: Final = 0.5
# A box round a lamp in stored pixels: left, top, right, bottom.
Frame = tuple[int, int, int, int]


@dataclass(frozen=True)
class Glow:
    """Chromaticity and its σ (u′v′), the nearest LED, and the tint that would bring it nearer still.

    `turning` says that the halo changes its colour outwards, as on film that glows red behind bright spots; what is
    read then is the inner half, and σ is as wide as the change. `moved` is how far a lamp of known colour on the same
    still has moved it (u′v′).
    """

    x: float
    y: float
    sigma: float
    led: LedColour
    tint: str
    turning: bool = False
    moved: float = 0.0


@dataclass(frozen=True)
class KnownLamp:
    """A lamp of known colour on the still: where it is framed, and what it is."""

    frame: Frame
    led: LedColour


def glow_of(picture: Picture, frame: Frame, known: KnownLamp | None = None) -> Glow:
    """The lamp's colour from a rectangle round it in stored pixels, reaching well into the dark.

    From ring to ring the light falls by the lamp's own colour, whatever lies behind it; of the sectors the median
    counts, and the jackknife over the rings tells how surely. What film, lens and grade do to a lamp of known colour
    they are taken to do to this one: each channel is brought back by as much, and σ grows with how far that moves it.
    Where the known lamp's halo turns its colour nothing is brought back, and σ takes in how far off that lamp is read.

    Raises
    ------
    RefusedError
        No bright core with a halo that fades in a rectangle.
    """
    falls = _falls(picture, *frame)
    if known is None:
        return _read(falls)
    plain, shown = _read(falls), _falls(picture, *known.frame)
    sure = _read(shown)
    if sure.turning:
        # Halation is no gain: it adds red of its own. How far it moves the known lamp says how little this is worth.
        off = _apart((sure.x, sure.y), _as_shown(LED_XY[known.led]))
        return replace(plain, sigma=math.hypot(plain.sigma, off), turning=True)
    gains = _shown_rgb(LED_XY[known.led]) / _axis(shown)
    found = _read(falls * gains / gains.mean())
    moved = _apart((plain.x, plain.y), (found.x, found.y))
    return replace(found, sigma=math.hypot(found.sigma, sure.sigma, moved * HALF_TRUSTED), moved=moved)


def _read(falls: Array) -> Glow:
    """What falls from ring to ring (K, 3) say."""
    inner, outer = _axis(falls[: len(falls) // 2 + 1]), _axis(falls[len(falls) // 2 :])
    apart = _apart(_shown_xy(inner), _shown_xy(outer))
    turning = apart > TWO_COLOURS
    axis = inner if turning else _axis(falls)
    x, y = _shown_xy(axis)
    left_out = [_uv(_shown_xy(_axis(np.delete(falls, k, axis=0)))) for k in range(len(falls))]
    spread = np.array(left_out) - np.mean(left_out, axis=0)
    jackknife = float(np.sqrt((len(falls) - 1) / len(falls) * (spread**2).sum()))
    sigma = max(LEAST_SIGMA, jackknife, apart / 2 if turning else 0.0)
    led = min(LED_XY, key=lambda name: _apart((x, y), _as_shown(LED_XY[name])))
    return Glow(x, y, sigma, led, tint_for(led, (x, y)), turning)


def _falls(picture: Picture, left: int, top: int, right: int, bottom: int) -> Array:
    """How much the channels fall from ring to ring (K, 3), median of sectors."""
    left, top = max(0, left), max(0, top)
    block = picture.pixels[top : min(bottom, picture.height), left : min(right, picture.width)]
    if min(block.shape[:2]) < 5:
        raise RefusedError("Draw the frame wider: the whole glow and some of the dark round it.")
    encoded: Array = (block / float(np.iinfo(block.dtype).max)).max(axis=2)
    light = linear(block)
    level = light.sum(axis=2)
    ground, top_level = float(np.quantile(level, 0.15)), float(level.max())
    rows, columns = np.nonzero(encoded >= 0.97 * encoded.max())
    middle = np.median(rows), np.median(columns)
    down, across = np.mgrid[: block.shape[0], : block.shape[1]]
    far = np.hypot(down - middle[0], across - middle[1])
    usable: Flags = np.less(encoded, CLIP_HIGH)
    halo = usable & (level > ground + 0.08 * (top_level - ground))
    if halo.sum() < FEWEST_HALO or top_level < 2.0 * ground + 0.1 or encoded.max() < BRIGHT_CORE:
        raise RefusedError("No glow stands out here. Frame a lamp that is lit, with the dark round it.")
    core = float(np.quantile(far[~usable], 0.98)) if (~usable).any() else 0.0
    edge = float(np.quantile(far[halo], 0.95))
    rings = np.linspace(core + 0.5, max(1.3 * edge, core + RINGS), RINGS + 1)
    sector = ((np.arctan2(down - middle[0], across - middle[1]) + np.pi) / (2 * np.pi) * SECTORS).astype(int) % SECTORS
    ring = np.digitize(far, rings) - 1
    falls = _ring_falls(light, usable & (ring >= 0) & (ring < RINGS), ring * SECTORS + sector)
    if len(falls) < 3:
        raise RefusedError("The halo is too narrow to be read. Take a larger or less blown-out picture of the lamp.")
    return falls


def _ring_falls(light: Array, usable: Flags, cell: npt.NDArray[np.int_]) -> Array:
    """The median over sectors of the falls between neighbouring rings, where at least half of the sectors tell."""
    count = np.bincount(cell[usable], minlength=RINGS * SECTORS).reshape(RINGS, SECTORS)
    total = [
        np.bincount(cell[usable], light[..., c][usable], minlength=RINGS * SECTORS).reshape(RINGS, SECTORS)
        for c in range(3)
    ]
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.stack(total, axis=2) / count[..., None]
    falls: Array = mean[:-1] - mean[1:]
    told: Flags = np.asarray(np.isfinite(falls).all(axis=2))
    kept = [np.median(falls[k][told[k]], axis=0) for k in range(RINGS - 1) if told[k].sum() >= SECTORS // 2]
    return np.array([fall for fall in kept if fall.sum() > 0]).reshape(-1, 3)


def _axis(falls: Array) -> Array:
    """The direction (3,) from the origin along which falls (K, 3) lie."""
    axis = np.linalg.svd(falls, full_matrices=False)[2][0]
    towards: Array = np.maximum(axis * np.sign(axis.sum() or 1.0), 1e-4)
    return towards


def _shown_xy(slope: Array) -> tuple[float, float]:
    return _xy(RGB_TO_XYZ @ slope)


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


def _as_shown(xy: tuple[float, float]) -> tuple[float, float]:
    """Chromaticity as a picture can show it: no channel goes below zero."""
    return _xy(RGB_TO_XYZ @ _shown_rgb(xy))


def _shown_rgb(xy: tuple[float, float]) -> Array:
    """Linear light (3,) of a chromaticity, no channel below zero."""
    rgb: Array = np.maximum(XYZ_TO_RGB @ np.array([xy[0] / xy[1], 1.0, (1 - sum(xy)) / xy[1]]), 0.0)
    return rgb


def _xy(xyz: Array) -> tuple[float, float]:
    total = float(xyz.sum())
    return float(xyz[0]) / total, float(xyz[1]) / total


def _uv(xy: tuple[float, float]) -> tuple[float, float]:
    under = -2 * xy[0] + 12 * xy[1] + 3
    return 4 * xy[0] / under, 9 * xy[1] / under


def _apart(one: tuple[float, float], other: tuple[float, float]) -> float:
    (u1, v1), (u2, v2) = _uv(one), _uv(other)
    return float(np.hypot(u1 - u2, v1 - v2))
