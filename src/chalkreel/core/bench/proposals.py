"""Which landmark to click next on a photograph: the one that tells most of where it was taken from.

Reference: Fedorov, *Theory of Optimal Experiments*, 1972 (D-optimality, one point at a time).
"""

from __future__ import annotations

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.bench.resect import ANY_LENS, UNKNOWNS, Lens, linearised, prior
from chalkreel.core.measure.camera import Camera

# Before anything is clicked, how surely one knows where one stands: about as surely as by eye (radians, share of the
# distance).
TURN_BY_EYE, PLACE_BY_EYE = 0.3, 0.3
CLICK_PX = 0.7


def proposed(
    camera: Camera, points: Array, done: tuple[int, ...], count: int, lens: Lens = ANY_LENS
) -> tuple[int, ...]:
    """Rows of the next `count` landmarks to click, from places (N, 3) seen by a camera that is roughly right."""
    _, slopes, _ = linearised(camera, points)
    reach = float(np.linalg.norm(camera.position - points.mean(axis=0)))
    eye = np.array([TURN_BY_EYE] * 3 + [PLACE_BY_EYE * reach] * 3 + [np.inf, np.inf])
    normal = np.diag(1.0 / eye**2)
    pull = prior(camera, lens)[1]
    normal += pull.T @ pull
    slopes = np.nan_to_num(slopes) / CLICK_PX
    for row in done:
        normal += slopes[row].T @ slopes[row]
    chosen: list[int] = []
    for _ in range(min(count, len(points) - len(done))):
        inverse = np.linalg.solve(normal, np.eye(UNKNOWNS))
        told = np.linalg.det(np.eye(2) + slopes @ inverse @ slopes.transpose(0, 2, 1))
        told[[*done, *chosen]] = -1.0
        best = int(np.argmax(told))
        chosen.append(best)
        normal += slopes[best].T @ slopes[best]
    return tuple(chosen)
