"""One colour from a patch of a still, with its spread, its faults, and what was left out and why."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Final

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture, linear

MaskArray = npt.NDArray[np.uint8]
FEWEST_PIXELS = 9
# Encoded values beyond these hold no colour any more.
CLIP_HIGH, NOISE_FLOOR = 0.985, 0.03
MOST_PIXELS = 130_000
# Spread and gradient are read off so many pixels at most.
MOST_COUNTED = 8_000
# Pixels within this factor of the flat mid-tone always count, whatever the noise.
NEVER_LEFT_OUT: Final = 0.04
# Codes of the mask.
OUTSIDE, USED, CLIPPED, DARK, HIGHLIGHT, SHADOW = range(6)
_LUMINANCE: Final = np.array([0.2126, 0.7152, 0.0722], np.float32)


@dataclass(frozen=True)
class Region:
    """A polygon in stored pixels, or with `brush_px` the path of a brush of that radius."""

    points: tuple[tuple[float, float], ...]
    brush_px: float = 0.0


@dataclass(frozen=True, eq=False)
class Sample:
    """Robust mean in linear sRGB and the covariance (3, 3) of the logarithms of the pixels that count.

    `corner` and `mask` show, at every `step`-th pixel, which ones were used and why others were not.
    `gradient` is by what factor the light changes across the patch.
    """

    rgb: tuple[float, float, float]
    covariance: Array
    clipped_share: float
    dark_share: float
    highlight_share: float
    shadow_share: float
    gradient: float
    pixels: int
    place: tuple[float, float]
    corner: tuple[int, int]
    step: int
    mask: MaskArray

    @property
    def left_out_share(self) -> float:
        """Share of highlights and shadow among the pixels that hold a colour."""
        return self.highlight_share + self.shadow_share


def box(x_px: float, y_px: float, width_px: float, height_px: float) -> Region:
    """An upright rectangle."""
    right, bottom = x_px + width_px, y_px + height_px
    return Region(((x_px, y_px), (right, y_px), (right, bottom), (x_px, bottom)))


def sample_region(picture: Picture, region: Region) -> Sample:
    """Mean colour of a region in linear light: the flat mid-tone, without highlights and shadow.

    The mid-tone is the half-sample mode of log luminance (Bickel & Frühwirth 2006); pixels beyond 2.5 robust σ
    of it (median absolute deviation within the denser half) are highlights above and shadow below.

    Raises
    ------
    RefusedError
        The region lies outside the still or holds fewer than nine pixels.
    """
    block, mask, corner, step = _cut(picture, region)
    inside = mask > 0
    encoded = block[inside]
    if len(encoded) < FEWEST_PIXELS:
        raise RefusedError("This patch is too small. Cover at least three by three pixels of the still.")
    code = _coded(encoded, float(np.iinfo(block.dtype).max))
    lost = np.bincount(code, minlength=6) / len(code)
    # Where next to nothing holds a colour, what there is must do; the shares say so.
    if (code == USED).sum() < FEWEST_PIXELS:
        code[code == DARK] = USED
    if (code == USED).sum() < FEWEST_PIXELS:
        code[:] = USED
    values = np.take(_linear_table(block.dtype.str), encoded)
    log_light = np.log(values @ _LUMINANCE + 1e-4)
    _leave_out(code, log_light)
    kept = code == USED
    used = values[kept]
    # A product with ones sums each column at once; numpy's own sum down short rows is ten times slower.
    mean = np.ones(len(used), np.float32) @ used / len(used)
    shown: MaskArray = np.zeros_like(mask)
    shown[inside] = code
    shares = np.bincount(code, minlength=6) / len(code)
    few = np.flatnonzero(shown == USED)[:: max(1, len(used) // MOST_COUNTED)]
    rows, columns = np.divmod(few, shown.shape[1])
    logs = np.log(np.maximum(used[:: max(1, len(used) // MOST_COUNTED)], 1e-4)).astype(np.float64)
    return Sample(
        rgb=(float(mean[0]), float(mean[1]), float(mean[2])),
        covariance=np.asarray(np.cov(logs.T)) if len(logs) > 1 else np.zeros((3, 3)),
        clipped_share=float(lost[CLIPPED]), dark_share=float(lost[DARK]),
        highlight_share=float(shares[HIGHLIGHT]), shadow_share=float(shares[SHADOW]),
        gradient=_gradient(rows, columns, log_light[kept][:: max(1, len(used) // MOST_COUNTED)]), pixels=len(used),
        place=((corner[0] + step * float(columns.mean())) / picture.width,
               (corner[1] + step * float(rows.mean())) / picture.height),
        corner=corner, step=step, mask=shown,
    )  # fmt: skip


def _cut(
    picture: Picture, region: Region
) -> tuple[npt.NDArray[np.uint8] | npt.NDArray[np.uint16], MaskArray, tuple[int, int], int]:
    """The pixels round a region, which of them lie in it, the corner, and the stride at which pixels were taken."""
    points = np.array(region.points, float)
    if len(points) < (1 if region.brush_px else 3) or not np.isfinite(points).all():
        raise RefusedError("This patch is too small. Cover at least three by three pixels of the still.")
    reach = region.brush_px
    low, high = np.floor(points.min(axis=0) - reach), np.ceil(points.max(axis=0) + reach)
    left, top = (max(0, int(v)) for v in np.clip(low, -1e6, 1e6))
    right, bottom = min(picture.width, int(min(high[0], 1e6))), min(picture.height, int(min(high[1], 1e6)))
    if right - left < 1 or bottom - top < 1:
        raise RefusedError("This patch lies outside the still. Cover at least three by three pixels of it.")
    step = int(np.ceil(np.sqrt((right - left) * (bottom - top) / MOST_PIXELS)))
    block = picture.pixels[top:bottom:step, left:right:step]
    mask = np.zeros(block.shape[:2], np.uint8)
    # Pixel centres lie half a pixel in; sixteenths of a pixel keep small patches true.
    local = np.rint((((points - (left, top)) / step) - 0.5) * 16).astype(np.int32)
    if reach:
        thick = max(1, round(2 * reach / step))
        cv2.polylines(mask, [local.reshape(-1, 1, 2)], False, 1, thick, cv2.LINE_8, 4)
        if len(local) == 1:
            cv2.circle(mask, tuple(int(v) for v in local[0]), round(16 * reach / step), 1, -1, cv2.LINE_8, 4)
    else:
        cv2.fillPoly(mask, [local.reshape(-1, 1, 2)], 1, cv2.LINE_8, 4)
    return block, mask, (left, top), step


def _coded(encoded: npt.NDArray[np.uint8] | npt.NDArray[np.uint16], top: float) -> MaskArray:
    """Which pixels (N, 3) are clipped, which drown in noise."""
    highest = np.maximum(np.maximum(encoded[:, 0], encoded[:, 1]), encoded[:, 2])
    code = np.full(len(encoded), USED, np.uint8)
    code[highest >= CLIP_HIGH * top] = CLIPPED
    code[highest <= NOISE_FLOOR * top] = DARK
    return code


@cache
def _linear_table(kind: str) -> npt.NDArray[np.float32]:
    """Linear light of every encoded value of 8 or 16 bits."""
    codes = np.arange(np.iinfo(np.dtype(kind)).max + 1, dtype=np.dtype(kind))
    return linear(codes).astype(np.float32)


def _leave_out(code: MaskArray, log_light: npt.NDArray[np.float32]) -> None:
    """Mark highlights and shadow among the used pixels."""
    used = np.flatnonzero(code == USED)
    ordered = np.sort(log_light[used[:: max(1, len(used) // (8 * MOST_COUNTED))]])
    middle, spread = _mode(ordered)
    apart = log_light[used] - middle
    reach = max(2.5 * spread, NEVER_LEFT_OUT)
    if (np.abs(apart) <= reach).sum() < FEWEST_PIXELS:
        return
    code[used[apart > reach]] = HIGHLIGHT
    code[used[apart < -reach]] = SHADOW


def _mode(ordered: npt.NDArray[np.float32]) -> tuple[float, float]:
    """Half-sample mode and a robust σ about it, of sorted values."""
    low, high = 0, len(ordered)
    while high - low > 8:
        half = (high - low + 1) // 2
        widths = ordered[low + half - 1 : high] - ordered[low : high - half + 1]
        narrow = np.flatnonzero(widths <= widths.min() + 1e-7)
        low += int(narrow[len(narrow) // 2])
        high = low + half
    middle = float(ordered[low:high].mean())
    # The nearer half of all pixels gives the scale; an outer part that is another thing does not widen it.
    distance = np.abs(ordered - middle)
    return middle, 1.4826 * float(np.quantile(distance, 0.4)) / 0.78


def _gradient(rows: npt.NDArray[np.int64], columns: npt.NDArray[np.int64], log_light: npt.NDArray[np.float32]) -> float:
    """Factor by which a plane through the log luminance changes across the patch."""
    x, y = columns.astype(float), rows.astype(float)
    system = np.stack([np.ones_like(x), x - x.mean(), y - y.mean()], axis=1)
    slope = np.linalg.lstsq(system, log_light.astype(float), rcond=None)[0]
    span = abs(slope[1]) * float(np.ptp(x)) + abs(slope[2]) * float(np.ptp(y))
    return float(np.exp(span))
