"""Placing a click on the corner, line or edge that it was meant for, to a fraction of a pixel.

References: Förstner & Gülch 1987 (corner point from the structure tensor); Steger 1998 (lines and edges across
their normal).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.media.picture import Picture

# Half the window looked at, in stored pixels, and how far a click may be moved.
REACH_PX = 7
FURTHEST_PX = 4.0
# Grey levels (of 255) below which there is nothing to hold on to, and when both directions count.
FAINT = 6.0
CORNER_SHARE = 0.18
STEP_PX = 0.1
PEAK_PX = 1.6

Grey = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Snapped:
    """A place in stored pixels and what it lies on."""

    x_px: float
    y_px: float
    kind: Literal["corner", "line", "edge"]


def snap(picture: Picture, x_px: float, y_px: float) -> Snapped | None:
    """The nearest corner, line or edge, or None where nothing is near or the rim of the picture is."""
    left, top = round(x_px - 0.5) - REACH_PX, round(y_px - 0.5) - REACH_PX
    size = 2 * REACH_PX + 1
    if left < 1 or top < 1 or left + size >= picture.width or top + size >= picture.height:
        return None
    # Only what is looked at is brought to 8 bits: a whole still of 24 million pixels would take a tenth of a second.
    crop = Picture(picture.pixels[top : top + size, left : left + size]).display()
    window = cv2.cvtColor(crop, cv2.COLOR_RGB2GRAY)
    grey = np.asarray(cv2.GaussianBlur(window.astype(np.float64), (0, 0), 0.9), np.float64)
    gx, gy = (np.asarray(cv2.Sobel(grey, cv2.CV_64F, dx, 1 - dx, scale=1 / 8), np.float64) for dx in (1, 0))
    tensor = np.array([[np.mean(gx * gx), np.mean(gx * gy)], [np.mean(gx * gy), np.mean(gy * gy)]])
    weak, strong = np.linalg.eigvalsh(tensor)
    if strong < (FAINT / 4) ** 2:
        return None
    if weak > CORNER_SHARE * strong:
        corner = _corner(gx, gy, x_px - 0.5 - left, y_px - 0.5 - top)
        if corner is not None:
            return Snapped(corner[0] + left + 0.5, corner[1] + top + 0.5, "corner")
    normal = np.linalg.eigh(tensor)[1][:, 1]
    return _across(grey, normal, (x_px - 0.5 - left, y_px - 0.5 - top), (left + 0.5, top + 0.5))


def _corner(gx: Grey, gy: Grey, x: float, y: float) -> tuple[float, float] | None:
    """The point to which all gradients are square (Förstner), unless it is far from the click."""
    rows, columns = np.mgrid[: gx.shape[0], : gx.shape[1]]
    near = np.exp(-((columns - x) ** 2 + (rows - y) ** 2) / (2 * 3.0**2))
    a, b, c = (float(np.sum(near * part)) for part in (gx * gx, gx * gy, gy * gy))
    right = [
        float(np.sum(near * (gx * gx * columns + gx * gy * rows))),
        float(np.sum(near * (gx * gy * columns + gy * gy * rows))),
    ]
    found = np.linalg.solve(np.array([[a, b], [b, c]]) + 1e-9 * np.eye(2), np.array(right))
    if float(np.hypot(found[0] - x, found[1] - y)) > FURTHEST_PX:
        return None
    return float(found[0]), float(found[1])


def _across(grey: Grey, normal: Grey, at: tuple[float, float], corner: tuple[float, float]) -> Snapped | None:
    """The steepest place along the normal through the click, or the crest of a thin line there."""
    way = np.arange(-FURTHEST_PX - 1, FURTHEST_PX + 1 + STEP_PX / 2, STEP_PX)
    xs = (at[0] + way * normal[0]).astype(np.float32)[None]
    ys = (at[1] + way * normal[1]).astype(np.float32)[None]
    profile = cv2.remap(grey, xs, ys, cv2.INTER_CUBIC)[0].astype(np.float64)
    inner = np.abs(way) <= FURTHEST_PX
    slope = np.gradient(profile, STEP_PX)
    steepest = int(np.argmax(np.where(inner, np.abs(slope), 0)))
    if abs(slope[steepest]) * 3.0 < FAINT:
        return None
    crest = _crest(profile, way, inner)
    if crest is None:
        place = _middle(way, slope**2, steepest)
    else:
        place = _middle(way, (profile - (profile[0] + profile[-1]) / 2) ** 2, crest)
    x, y = at[0] + place * normal[0] + corner[0], at[1] + place * normal[1] + corner[1]
    return Snapped(float(x), float(y), "edge" if crest is None else "line")


def _middle(way: Grey, weight: Grey, peak: int) -> float:
    """The centre of gravity of a peak: interpolation alone would pull it to the pixels' own grid."""
    near = weight * (np.abs(way - way[peak]) <= PEAK_PX)
    return float(way @ near / near.sum())


def _crest(profile: Grey, way: Grey, inner: npt.NDArray[np.bool_]) -> int | None:
    """Where the profile has a peak or a trough that falls off to both sides."""
    ground = (profile[0] + profile[-1]) / 2
    step = abs(profile[0] - profile[-1])
    away = np.where(inner, np.abs(profile - ground), 0.0)
    top = int(np.argmax(away))
    on_rim = top in (int(np.argmax(inner)), len(way) - 1 - int(np.argmax(inner[::-1])))
    return top if away[top] > max(1.5 * step, FAINT) and not on_rim else None
