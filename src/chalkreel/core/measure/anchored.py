"""Where a picture of a plane lies in the solved model now, by landmarks whose places on the picture were kept.

What a picture was made from is gone with the next solve: the world's origin and scale move with every mark.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.similarity import similarity

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

    def in_space(self, places: Array) -> Array:
        """Points (N, 3) in mm of places (N, 2) in pixels."""
        return np.asarray(self.corner + self.mm_per_px * places @ np.stack([self.right, self.down]))


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
    if any(_on_one_line(some) for some in (points, places_px)):
        raise RefusedError("The landmarks of its plane lie on one line.")
    # It mirrors nothing: a picture is never seen from behind.
    lay = similarity(flat, points)
    return Anchored(lay.shift, lay.turn[:, 0], lay.turn[:, 1], lay.size)


def _on_one_line(points: Array) -> bool:
    extent = np.linalg.svd(points - points.mean(axis=0), compute_uv=False)
    return bool(extent[1] < LEAST_WIDTH * extent[0])
