"""Lens bend of one still from edges that are straight in truth: the plumb-line method.

Reference: Brown, "Close-Range Camera Calibration", 1971 (straight lines must be straight).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.camera import centred, unbent
from chalkreel.core.measure.marks import Mark

LEAST_POINTS = 3
STEPS = 12
# Known no better (1 σ) than half of what any lens does, the bend is not known: weight is 1 / σ².
LEAST_WEIGHT = 4.0


@dataclass(frozen=True)
class Bend:
    """Radial coefficient for distances in pixels of the picture's height, k1 / f², with its 1 σ (per px²)."""

    per_px2: float
    sigma_per_px2: float

    def straightened(self, mark: Mark, size_px: tuple[int, int], pixel_aspect: float) -> Mark:
        """A mark as a lens without bend would have shown it."""
        place = centred(np.array([[mark.x_px, mark.y_px]]), size_px, pixel_aspect)
        x, y = straight(place, self.per_px2)[0]
        return Mark(float(x) / pixel_aspect + size_px[0] / 2, float(y) + size_px[1] / 2, mark.sigma_px)


def straight(places: Array, per_px2: float) -> Array:
    """Places (N, 2) in pixels about the middle, with the bend taken out."""
    # Any focal length will do: only k1 / f² counts.
    focal = 1000.0
    return unbent(places / focal, per_px2 * focal**2) * focal


def bend_from_lines(lines: tuple[tuple[Mark, ...], ...], size_px: tuple[int, int], pixel_aspect: float = 1.0) -> Bend:
    """The bend that makes marked lines straightest, in the least-squares sense.

    Raises
    ------
    RefusedError
        No line of three points or more, or lines that all run through the middle and say nothing.
    """
    used = [line for line in lines if len(line) >= LEAST_POINTS]
    if not used:
        raise RefusedError("Click three points or more along an edge that is straight in truth, best near the rim.")
    places = [centred(np.array([(m.x_px, m.y_px) for m in line]), size_px, pixel_aspect) for line in used]
    sigmas = [np.array([m.sigma_px for m in line]) for line in used]
    scale = 1.0 / (max(size_px) / 2) ** 2

    def off(share: float) -> Array:
        return np.concatenate([_off_line(straight(p, share * scale)) / s for p, s in zip(places, sigmas, strict=True)])

    share = 0.0
    for _ in range(STEPS):
        slope = (off(share + 1e-4) - off(share - 1e-4)) / 2e-4
        weight = float(slope @ slope)
        if weight < LEAST_WEIGHT:
            raise RefusedError("These lines run through the middle, where no lens bends. Mark edges near the rim.")
        share = float(np.clip(share - float(slope @ off(share)) / weight, -0.6, 0.6))
    return Bend(share * scale, scale / float(np.sqrt(weight)))


def _off_line(points: Array) -> Array:
    """Distances (N,) from the line that fits points (N, 2) best."""
    away = points - points.mean(axis=0)
    normal = np.linalg.svd(away)[2][1]
    # Either way round would do, but always the same: these are differentiated.
    return np.asarray(away @ (normal * np.sign(normal[int(np.argmax(np.abs(normal)))])))
