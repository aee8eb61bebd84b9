"""Where a picture of a plane lies in the solved model now, by landmarks whose places on the picture were kept.

What a picture was made from is gone with the next solve: the world's origin and scale move with every mark. Least
squares of a similarity in closed form (Umeyama 1991).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError

LEAST_ANCHORS = 3
# Anchors whose second extent is less than this share of their first lie on one line.
LEAST_WIDTH = 1e-3


@dataclass(frozen=True, eq=False)
class Anchored:
    """The picture's upper left corner (3,) in mm of the miniature, unit vectors right and down, and mm to a pixel."""

    corner: Array
    right: Array
    down: Array
    mm_per_px: float

    def on_picture(self, points: Array) -> tuple[Array, Array]:
        """Places (N, 2) in pixels of points (N, 3), seen straight from above, and how far off the plane each lies, in
        pixels too.
        """
        away = (points - self.corner) / self.mm_per_px
        off = np.abs(away @ np.cross(self.right, self.down))
        return np.stack([away @ self.right, away @ self.down], axis=1), off


def anchored(points: Array, places_px: Array) -> Anchored:
    """The picture's place from landmarks (N, 3) in mm and where each is on it (N, 2) in pixels, y down.

    Raises
    ------
    RefusedError
        Fewer than three, or all on one line.
    """
    if len(points) < LEAST_ANCHORS:
        raise RefusedError("Fewer than three landmarks of its plane are solved.")
    flat = np.column_stack([places_px, np.zeros(len(places_px))])
    here, there = flat.mean(axis=0), points.mean(axis=0)
    ways, extent, turned = np.linalg.svd((points - there).T @ (flat - here))
    if extent[1] < LEAST_WIDTH * extent[0]:
        raise RefusedError("The landmarks of its plane lie on one line.")
    # A picture is never seen from behind: the third way follows from the other two.
    signs = np.array([1.0, 1.0, np.sign(np.linalg.det(ways) * np.linalg.det(turned))])
    rotation = ways * signs @ turned
    mm_per_px = float(extent @ signs / np.sum((flat - here) ** 2))
    return Anchored(there - mm_per_px * rotation @ here, rotation[:, 0], rotation[:, 1], mm_per_px)
