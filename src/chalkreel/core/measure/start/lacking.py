"""Why no start is possible, and what to mark: a sentence for the modeller."""

from __future__ import annotations

import itertools

import cv2
import numpy as np

from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.start.relative import LEAST_SHARED, TOLERANCE_PX

LONE = (
    "One still alone needs more: mark edges along two or three directions and pairs or parallels between its "
    "landmarks, or mark the same landmarks on a second still."
)
ONE_PLACE = (
    "The stills that share landmarks look as if taken from one place, or show one flat side: nothing tells near from "
    "far. Mark the same landmarks on a still taken from elsewhere."
)


def what_to_mark(scene: Scene) -> str:
    """What the marks lack."""
    marks = {key: mine for key, mine in scene.marks.items() if mine}
    if len(marks) < 2:
        return LONE
    if max(len(mine) for mine in marks.values()) < LEAST_SHARED:
        return f"Mark the same {LEAST_SHARED} landmarks or more on two stills taken from different places."
    shared = [
        [(first[n], second[n]) for n in first if n in second]
        for first, second in itertools.combinations(marks.values(), 2)
    ]
    enough = [both for both in shared if len(both) >= LEAST_SHARED]
    if enough and all(_one_homography(np.array(both)) for both in enough):
        return ONE_PLACE
    return "No two stills share enough landmarks. Mark the same six or more on two stills taken from different places."


def _one_homography(both: np.ndarray[tuple[int, ...], np.dtype[np.float64]]) -> bool:
    """Whether a flat picture turned in space explains one still's marks by the other's (N, 2, 2)."""
    cv2.setRNGSeed(1)
    turned, inside = cv2.findHomography(both[:, 0], both[:, 1], cv2.RANSAC, TOLERANCE_PX)
    return turned is not None and float(np.mean(inside)) > 0.9
