"""One colour from a patch of a still, with its spread and its faults."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture, linear

Array = npt.NDArray[np.float64]
FEWEST_PIXELS = 9
CLIP_HIGH, CLIP_LOW = 0.985, 0.004
MOST_PIXELS = 250_000


@dataclass(frozen=True)
class Patch:
    """A rectangle in stored pixels."""

    x_px: float
    y_px: float
    width_px: float
    height_px: float


@dataclass(frozen=True)
class Sample:
    """Robust mean in linear sRGB, its σ over the patch, shares of clipped pixels and pixels left out."""

    rgb: tuple[float, float, float]
    spread: tuple[float, float, float]
    clipped_share: float
    left_out_share: float
    pixels: int


def sample_patch(picture: Picture, patch: Patch) -> Sample:
    """Mean colour of a patch in linear light; pixels far from the patch's median are left out.

    The mean runs over pixels within 2.5 robust σ of the median in luminance (median absolute
    deviation; Rousseeuw & Croux 1993), so that glints, chips and panel lines do not count.

    Raises
    ------
    RefusedError
        The patch lies outside the still or is smaller than nine pixels.
    """
    block = _block(picture, patch)
    values = linear(block).reshape(-1, 3)
    encoded = block.reshape(-1, 3) / float(np.iinfo(block.dtype).max)
    clipped = (encoded >= CLIP_HIGH).any(axis=1) | (encoded <= CLIP_LOW).all(axis=1)
    usable = values[~clipped] if (~clipped).sum() >= FEWEST_PIXELS else values
    light = usable @ np.array([0.2126, 0.7152, 0.0722])
    middle = np.median(light)
    spread = 1.4826 * np.median(np.abs(light - middle)) + 1e-4
    kept = usable[np.abs(light - middle) <= 2.5 * spread]
    mean, sigma = kept.mean(axis=0), kept.std(axis=0)
    return Sample(
        rgb=(float(mean[0]), float(mean[1]), float(mean[2])),
        spread=(float(sigma[0]), float(sigma[1]), float(sigma[2])),
        clipped_share=float(clipped.mean()),
        left_out_share=1.0 - len(kept) / len(usable),
        pixels=len(kept),
    )


def _block(picture: Picture, patch: Patch) -> npt.NDArray[np.uint8] | npt.NDArray[np.uint16]:
    left, top = max(0, round(patch.x_px)), max(0, round(patch.y_px))
    right = min(picture.width, round(patch.x_px + patch.width_px))
    bottom = min(picture.height, round(patch.y_px + patch.height_px))
    if right <= left or bottom <= top or (right - left) * (bottom - top) < FEWEST_PIXELS:
        raise RefusedError("This patch is too small. Drag over at least three by three pixels of the still.")
    step = max(1, int(np.sqrt((right - left) * (bottom - top) / MOST_PIXELS)))
    return picture.pixels[top:bottom:step, left:right:step]
