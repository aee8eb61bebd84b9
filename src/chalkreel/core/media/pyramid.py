"""Ever smaller copies of a picture, so that showing it never costs more than the screen is large."""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt

SMALLEST_SIDE = 512
Level = npt.NDArray[np.uint8]


def halvings(pixels: Level) -> tuple[Level, ...]:
    """The picture (H, W, 3) and its successive halves by area averaging, until the long side is under 512."""
    levels = [pixels]
    while max(levels[-1].shape[:2]) > SMALLEST_SIDE:
        h, w = levels[-1].shape[:2]
        half = cv2.resize(levels[-1], (max(1, w // 2), max(1, h // 2)), interpolation=cv2.INTER_AREA)
        levels.append(np.ascontiguousarray(half, dtype=np.uint8))
    return tuple(levels)


def thumbnail(pixels: Level, width: int, height: int, pixel_aspect: float) -> Level:
    """The picture fitted into width × height in its corrected shape, (h, w, 3)."""
    h, w = pixels.shape[:2]
    scale = min(width / (w * pixel_aspect), height / h)
    size = (max(1, round(w * pixel_aspect * scale)), max(1, round(h * scale)))
    return np.ascontiguousarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
