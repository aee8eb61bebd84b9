"""Linear light of pixels, and gains that bring several stills to one light."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import encode_srgb
from chalkreel.core.media.picture import linear as linear_light

Pixels = npt.NDArray[np.uint8]
Light = npt.NDArray[np.float32]
# Ratios are taken of light with so much added, so that shadows do not rule; and of so many spots at least.
FLOOR, LEAST_SPOTS = 0.01, 20


def linear(pixels: Pixels) -> Light:
    """sRGB-encoded pixels (…, 3) as linear light (IEC 61966-2-1)."""
    return np.asarray(_TABLE[pixels])


def encoded(light: Light) -> Pixels:
    """Linear light as sRGB-encoded pixels, clipped."""
    return np.asarray(np.rint(255 * encode_srgb(light.astype(np.float64))).astype(np.uint8))


class Overlaps:
    """What pairs of stills show of the same spots, gathered patch by patch."""

    def __init__(self, count: int) -> None:
        self._ratios, self._sizes = np.zeros((count, count, 3)), np.zeros((count, count))

    def add(self, shown: list[tuple[int, Light, npt.NDArray[np.bool_]]]) -> None:
        """Stills by number with the light (h, w, 3) that they show of one patch, and where (h, w)."""
        for n, (k, light, here) in enumerate(shown):
            for m, other, there in shown[n + 1 :]:
                both = here & there
                size = float(np.count_nonzero(both))
                if size >= LEAST_SPOTS:
                    logs = np.log(other[both] + FLOOR) - np.log(light[both] + FLOOR)
                    self._ratios[k, m] += size * np.median(logs, axis=0)
                    self._sizes[k, m] += size

    def gains(self) -> Array:
        """Gains (K, 3), by least squares of the log ratios; stills that share nothing keep their light."""
        count = len(self._sizes)
        # A weak pull to 1 settles what ratios leave open.
        rows, values = list(np.eye(count) * 1e-2), [np.zeros(3)] * count
        for k, m in zip(*np.nonzero(self._sizes), strict=True):
            row, strength = np.zeros(count), np.sqrt(self._sizes[k, m])
            row[k], row[m] = strength, -strength
            rows.append(row)
            values.append(strength * self._ratios[k, m] / self._sizes[k, m])
        return np.asarray(np.exp(np.linalg.lstsq(np.array(rows), np.array(values), rcond=None)[0]))


_TABLE = linear_light(np.arange(256, dtype=np.uint8)).astype(np.float32)
