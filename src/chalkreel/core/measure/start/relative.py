"""A first pair of views: their relative pose from marks that both show, for a guessed focal length.

Reference: Nistér, "An Efficient Solution to the Five-Point Relative Pose Problem", 2004.
"""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.start.estimate import Estimate, ideal, plain_camera, triangulated

LEAST_SHARED = 6
TOLERANCE_PX = 4.0


def first_pair(scene: Scene, first: str, second: str, focals: tuple[float, float]) -> Estimate | None:
    """Two cameras one unit apart, the first at the origin, and what both see. None where no pose suits the marks."""
    views = {view.key: view for view in scene.views}
    marks = scene.marks
    names = [name for name in marks[first] if name in marks[second]]
    if len(names) < LEAST_SHARED:
        return None
    seen = [
        ideal(views[key], (marks[key][n] for n in names), focal)
        for key, focal in zip((first, second), focals, strict=True)
    ]
    cv2.setRNGSeed(1)
    try:
        essential, _ = cv2.findEssentialMat(
            seen[0], seen[1], np.eye(3), method=cv2.RANSAC, prob=0.999, threshold=TOLERANCE_PX / min(focals)
        )
        if essential is None or essential.shape != (3, 3):
            return None
        _, turn, shift, _ = cv2.recoverPose(essential, seen[0], seen[1], np.eye(3))
    except cv2.error:
        return None
    cameras = {
        first: plain_camera(views[first], focals[0]),
        second: replace(
            plain_camera(views[second], focals[1]),
            rotation=np.asarray(turn, np.float64),
            translation=np.asarray(shift[:, 0], np.float64),
        ),
    }
    points = triangulated(scene, cameras)
    return Estimate(cameras, points) if len(points) >= LEAST_SHARED else None
