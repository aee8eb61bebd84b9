"""Whether two pictures are nearly the same: what a burst of frames, or one print scanned twice, puts on a reel."""

from __future__ import annotations

import cv2
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.media.picture import Picture

SIDE = 32
# Correlation of the fine structure of two small pictures. Frames of a still shot, or copies in other sizes and
# tones, have 0.98 and more; a camera that moved by a twentieth of the picture has 0.9 and less.
ALIKE = 0.97
# A picture with less contrast than this (standard deviation, of 1) has no structure to compare.
LEAST_CONTRAST = 0.01


def signature(picture: Picture) -> Array:
    """A small grey picture (32, 32) of mean 0 and norm 1, or all 0 where it is blank."""
    stride = max(1, min(picture.height, picture.width) // (4 * SIDE))
    thin = picture.pixels[::stride, ::stride]
    grey = thin.astype(np.float32).mean(axis=2) / float(np.iinfo(thin.dtype).max)
    small = cv2.resize(grey, (SIDE, SIDE), interpolation=cv2.INTER_AREA).astype(np.float64)
    small -= small.mean()
    norm = float(np.linalg.norm(small))
    return np.asarray(small / norm if norm >= LEAST_CONTRAST * SIDE else np.zeros_like(small))


def alike(signatures: Array) -> list[tuple[int, ...]]:
    """Groups of two and more pictures nearly the same, by their place in signatures (N, 32, 32)."""
    if len(signatures) < 2:
        return []
    flat = signatures.reshape(len(signatures), -1)
    same = flat @ flat.T >= ALIKE
    groups, seen = [], set[int]()
    for n in range(len(flat)):
        group = tuple(int(m) for m in np.flatnonzero(same[n]) if m >= n and m not in seen)
        if n not in seen and len(group) > 1:
            groups.append(group)
            seen.update(group)
    return groups
