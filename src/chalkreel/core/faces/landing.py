"""Where clicks on an ordinary still land on the skin, and how surely."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.faces.skin import Skin
from chalkreel.core.measure.camera import Camera

# A click and its neighbours this many pixels off give the slant of the face there.
STEP_PX = 0.5


@dataclass(frozen=True, eq=False)
class Landing:
    """A face by number, the place (3,) on it, and the covariance (3, 3) in mm² that the click's own error makes."""

    face: int
    place: Array
    covariance: Array


def landings(skin: Skin, camera: Camera, clicks: Array, sigma_px: Array) -> tuple[Landing | None, ...]:
    """For each click (N, 2) in stored pixels with its error (N,), 1 σ: the first face behind it; None for none."""
    ways = camera.rays(clicks)
    far, which = skin.first_hits(camera.position, ways)
    found: list[Landing | None] = []
    for click, way, reach, number, sigma in zip(clicks, ways, far, which, sigma_px, strict=True):
        if number < 0:
            found.append(None)
            continue
        face = skin.faces[int(number)]
        beside = camera.rays(click + STEP_PX * np.array([[1.0, 0], [0, 1.0]]))
        place = camera.position + reach * way
        # The neighbours meet the face's plane, even where they miss its outline.
        steps = ((place - camera.position) @ face.normal) / (beside @ face.normal)
        slant = (camera.position + steps[:, None] * beside - place) / STEP_PX
        found.append(Landing(int(number), place, sigma**2 * slant.T @ slant))
    return tuple(found)
