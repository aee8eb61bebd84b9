"""Where on a picture of the faces one still takes over from another."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array

# Patches are found on a picture no longer than this; smaller ones than this share of it are not told.
LONGEST_PX, LEAST_SHARE = 900, 0.0015
# Their outlines are kept within so many pixels of it.
WITHIN_PX = 1.2


@dataclass(frozen=True, eq=False)
class Patch:
    """What is mostly from one still: its outline (N, 2) and the middle of its widest part (2,), in pixels."""

    still: int
    outline: Array
    middle: Array


def patches(still: npt.NDArray[np.int16]) -> tuple[Patch, ...]:
    """The patches of a picture's stills (H, W), −1 where there is none."""
    step = max(1, -(-max(still.shape) // LONGEST_PX))
    small = still[::step, ::step]
    least = LEAST_SHARE * small.size
    found = []
    for number in np.unique(small[small >= 0]):
        # A border of nothing, so that a patch at the picture's own edge has a middle too.
        mask = np.pad((small == number).astype(np.uint8), 1)
        rings = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0]
        for ring in rings:
            if cv2.contourArea(ring) < least:
                continue
            alone = np.zeros_like(mask)
            cv2.drawContours(alone, [ring], -1, 1, cv2.FILLED)
            y, x = np.unravel_index(int(np.argmax(cv2.distanceTransform(alone & mask, cv2.DIST_L2, 3))), mask.shape)
            kept = cv2.approxPolyDP(ring, WITHIN_PX, True)[:, 0]
            found.append(Patch(int(number), step * (kept - 0.5), step * (np.array([x, y]) - 0.5)))
    return tuple(found)
