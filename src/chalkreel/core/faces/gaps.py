"""How a picture shows what no still has seen: hatched, so that nobody takes it for paint."""

from __future__ import annotations

import numpy as np

from chalkreel.core.arrays import Flags
from chalkreel.core.faces.sight import Pixels

HATCH_SHARE, HATCH, PAPER = 0.35, (214, 92, 78), 255


def hatch(pixels: Pixels, gap: Flags, step_px: float) -> None:
    """Hatch the pixels (H, W, 3) where `gap` (H, W) is, every so many pixels along a row, in place."""
    rows, columns = np.nonzero(gap)
    lines = ((rows + columns) % step_px) < HATCH_SHARE * step_px
    pixels[rows, columns, :3] = np.where(lines[:, None], np.array(HATCH, np.uint8), np.uint8(PAPER))
