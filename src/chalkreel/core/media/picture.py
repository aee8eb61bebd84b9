"""A decoded still: sRGB-encoded pixels, read-only."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

import numpy as np
import numpy.typing as npt

Pixels = npt.NDArray[np.uint8] | npt.NDArray[np.uint16]


@dataclass(frozen=True)
class Picture:
    """Pixels (H, W, 3), sRGB-encoded, 8 or 16 bits a channel, upright, stored pixel shape."""

    pixels: Pixels

    @property
    def width(self) -> int:
        """Stored width in pixels."""
        return int(self.pixels.shape[1])

    @property
    def height(self) -> int:
        """Stored height in pixels."""
        return int(self.pixels.shape[0])

    @property
    def bits(self) -> int:
        """Bits a channel, 8 or 16."""
        return 16 if self.pixels.dtype == np.uint16 else 8

    def turned(self) -> Picture:
        """Left to right."""
        return Picture(cast(Pixels, np.ascontiguousarray(self.pixels[:, ::-1])))

    def display(self) -> npt.NDArray[np.uint8]:
        """The picture at 8 bits for showing, (H, W, 3), contiguous."""
        if self.pixels.dtype == np.uint16:
            return np.ascontiguousarray((self.pixels >> 8).astype(np.uint8))
        return np.ascontiguousarray(self.pixels, dtype=np.uint8)


def linear(encoded: Pixels) -> npt.NDArray[np.float64]:
    """sRGB-encoded pixels to linear light 0..1 (IEC 61966-2-1)."""
    v = encoded / float(np.iinfo(encoded.dtype).max)
    return np.asarray(np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4))
