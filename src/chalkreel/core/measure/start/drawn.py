"""The camera of a drawing: scaled orthography, found from each of the ways in which plans are drawn.

Reference: Hartley & Zisserman, 2nd ed., §6.3 (scaled orthographic projection), refined by Gauss–Newton.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.camera import Camera, centred, cross_matrix, rotation_of
from chalkreel.core.measure.scene import View

STEPS = 12
# A mark this far off (as a share of the drawing's width) pulls no more than one at half of that.
FAR_OFF = 0.02


def drawn_camera(view: View, stored: Array, places: Array) -> Camera | None:
    """The camera of a drawing from marks (N, 2) on known places (N, 3); None where none comes near them."""
    focal = view.known_focal_px
    assert focal is not None
    seen = centred(stored, view.size_px, view.pixel_aspect)
    reach = FAR_OFF * max(view.size_px)
    found = [_fitted(turn, seen, places, reach) for turn in _upright()]
    missed, turn, scale, shift = min(found, key=lambda fit: fit[0])
    if not np.isfinite(missed) or missed > reach or scale <= 0:
        return None
    depth = focal / scale
    translation = np.array([*(shift / scale), depth])
    return Camera(turn, translation, focal, 0.0, (0.0, 0.0), view.size_px, view.pixel_aspect)


def _upright() -> Iterator[Array]:
    """The 24 turns that look along an axis with another one upwards."""
    for order in itertools.permutations(range(3)):
        for signs in itertools.product((1.0, -1.0), repeat=3):
            turn = np.zeros((3, 3))
            turn[range(3), order] = signs
            if np.linalg.det(turn) > 0:
                yield turn


def _fitted(turn: Array, seen: Array, places: Array, reach: float) -> tuple[float, Array, float, Array]:
    """Median miss, turn, scale and shift after some Gauss–Newton steps."""
    middle = np.median(places, axis=0)
    away = places - middle
    flat = away @ turn[:2].T
    spread = float(np.sum(flat**2))
    if spread < 1e-9:
        return np.inf, turn, 0.0, np.zeros(2)
    scale = float(np.sum((seen - np.median(seen, axis=0)) * flat) / spread)
    shift = np.median(seen, axis=0)
    for _ in range(STEPS):
        local = away @ turn.T
        missed = scale * local[:, :2] + shift - seen
        weight = np.minimum(1.0, reach / np.maximum(np.linalg.norm(missed, axis=1), 1e-9))
        slopes = np.zeros((len(seen), 2, 6))
        slopes[:, :, :3] = scale * -cross_matrix(local)[:, :2]
        slopes[:, :, 3] = local[:, :2]
        slopes[:, 0, 4] = slopes[:, 1, 5] = 1.0
        rows = (slopes * weight[:, None, None]).reshape(-1, 6)
        step = np.linalg.lstsq(rows, -(missed * weight[:, None]).ravel(), rcond=1e-9)[0]
        turn = rotation_of(step[:3]) @ turn
        scale, shift = scale + float(step[3]), shift + step[4:]
    missed = scale * (away @ turn.T)[:, :2] + shift - seen
    # The middle lies on the axis of the shift, not at the world's origin.
    return float(np.median(np.linalg.norm(missed, axis=1))), turn, scale, shift - scale * (turn @ middle)[:2]
