"""Edges of a photograph: its gradients after the contrast has been evened out place by place.

Bare plastic shows its edges faintly on the lit side and strongly on the dark one; what direction an edge runs in says
more than how strong it is.

Reference: Canny, "A Computational Approach to Edge Detection", 1986 (gradient of a smoothed picture).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array

Grey = npt.NDArray[np.uint8]
Plane = npt.NDArray[np.float32]
# Lines are looked for on a picture this long; they gain nothing from finer ones.
WORK_PX = 1024
SMOOTH_PX, AROUND_PX = 1.2, 18.0
# Contrast below this (of 255) is taken for grain and not raised.
GRAIN = 5.0


@dataclass(frozen=True, eq=False)
class Edges:
    """Gradients `x`, `y` (h, w) of the evened picture, which is `scale` times as large as the stored one.

    `strong` is the gradient that counts as an edge: three in four places have a weaker one.
    """

    x: Plane
    y: Plane
    scale: float
    strong: float

    def along(self, places: Array, ways: Array, offsets: Array) -> tuple[Array, Array]:
        """Gradients across lines at places (n, 2) of the work picture, moved by offsets (k,) along unit ways (n, 2).

        How strong it is along the way, and what share of the whole gradient that is: both (n, k).
        """
        at = (places[:, None] + offsets[:, None] * ways[:, None]).astype(np.float32) - np.float32(0.5)
        x, y = (
            cv2.remap(plane, at[..., 0], at[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
            for plane in (self.x, self.y)
        )
        across = np.abs(x * ways[:, None, 0] + y * ways[:, None, 1])
        return across, across / np.maximum(np.hypot(x, y), 1e-9)


def edges_of(grey: Grey) -> Edges:
    """The edges of a picture (H, W)."""
    scale = min(1.0, WORK_PX / max(grey.shape))
    size = max(1, round(grey.shape[1] * scale)), max(1, round(grey.shape[0] * scale))
    resized = cv2.resize(grey, size, interpolation=cv2.INTER_AREA).astype(np.float32)
    small = cv2.GaussianBlur(resized, (0, 0), SMOOTH_PX)
    mean = cv2.GaussianBlur(small, (0, 0), AROUND_PX)
    spread = np.sqrt(np.maximum(cv2.GaussianBlur(small * small, (0, 0), AROUND_PX) - mean * mean, 0.0))
    even = (small - mean) / (spread + GRAIN)
    x = cv2.Sobel(even, cv2.CV_32F, 1, 0, scale=0.125)
    y = cv2.Sobel(even, cv2.CV_32F, 0, 1, scale=0.125)
    return Edges(np.asarray(x), np.asarray(y), scale, float(np.percentile(np.hypot(x, y), 75)))
