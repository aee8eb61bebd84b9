"""A plane of the subject resampled flat, from one still or several, at so many mm to a pixel.

Reference: Hartley & Zisserman, 2nd ed., §8.1 (plane to picture); resampling by cubic convolution (Keys 1981).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.plane import apply_homography, homographies

Pixels = npt.NDArray[np.uint8]
MARGIN = 0.06
MOST_PX = 4000
LEAST_POINTS = 3


@dataclass(frozen=True, eq=False)
class Panel:
    """A rectangle in space: upper left corner, unit vectors right and down, size; all mm of the miniature."""

    corner: Array
    right: Array
    down: Array
    width_mm: float
    height_mm: float

    def places(self, mm_per_px: float) -> Array:
        """The place (H, W, 3) of every pixel's middle.

        Raises
        ------
        RefusedError
            More than 4,000 pixels on a side.
        """
        width, height = (max(1, round(v / mm_per_px)) for v in (self.width_mm, self.height_mm))
        if max(width, height) > MOST_PX:
            raise RefusedError(f"That would be {width} × {height} pixels. Choose more millimetres to a pixel.")
        x, y = np.meshgrid((np.arange(width) + 0.5) * mm_per_px, (np.arange(height) + 0.5) * mm_per_px)
        return np.asarray(self.corner + x[..., None] * self.right + y[..., None] * self.down)


def flat_through(points: Array, seen_from: Array) -> Panel:
    """The best plane through points (N, 3), upright as seen from a place (3,), with a margin round them.

    Raises
    ------
    RefusedError
        Fewer than three points, or all on one line.
    """
    if len(points) < LEAST_POINTS:
        raise RefusedError("A plane needs three landmarks or more.")
    middle = points.mean(axis=0)
    _, spread, ways = np.linalg.svd(points - middle)
    if spread[1] < 1e-3 * spread[0]:
        raise RefusedError("These landmarks lie on one line: a plane needs one more beside it.")
    normal = ways[2] * (np.sign(ways[2] @ (seen_from - middle)) or 1.0)
    upright = abs(normal[2]) < 0.8
    up = np.array([0.0, 0.0, 1.0]) if upright else np.array([0.0, -1.0, 0.0])
    up = up - (up @ normal) * normal
    up = up / np.linalg.norm(up)
    right = np.cross(up, normal)
    across, high = (points - middle) @ right, (points - middle) @ up
    width, height = float(np.ptp(across)), float(np.ptp(high))
    margin = MARGIN * max(width, height)
    corner = middle + (across.min() - margin) * right + (high.max() + margin) * up
    return Panel(corner, right, -up, width + 2 * margin, height + 2 * margin)


def sharpness(flat: Panel, camera: Camera) -> float:
    """Stored pixels for a mm in the middle of a flat, along its shorter-seen way; 0 from behind or out of sight."""
    middle = flat.corner + flat.right * flat.width_mm / 2 + flat.down * flat.height_mm / 2
    outward = np.cross(flat.down, flat.right)
    if float((camera.position - middle) @ outward) <= 0:
        return 0.0
    seen = camera.project(np.stack([middle, middle + flat.right, middle + flat.down]))
    inside = np.all((seen[0] > 0) & (seen[0] < np.array(camera.size_px)))
    steps = np.linalg.norm(seen[1:] - seen[0], axis=1)
    return float(steps.min()) if inside and np.all(np.isfinite(steps)) else 0.0


def flatten(pixels: Pixels, camera: Camera, flat: Panel, mm_per_px: float) -> tuple[Pixels, npt.NDArray[np.bool_]]:
    """A still (H, W, 3) resampled onto a flat, and where it shows anything."""
    places = flat.places(mm_per_px)
    seen = camera.project(places.reshape(-1, 3)).reshape(*places.shape[:2], 2)
    inside = np.all((seen > 0) & (seen < np.array(camera.size_px)), axis=-1)
    return _sampled(pixels, seen), inside


def blended(stills: Sequence[tuple[Pixels, Camera]], flat: Panel, mm_per_px: float) -> Pixels:
    """Several stills on one flat, each weighted by how sharply it shows it, brought to the first one's colours.

    Raises
    ------
    RefusedError
        No still shows the flat from its outer side.
    """
    total: Array | None = None
    weights: Array | None = None
    first: Array | None = None
    for pixels, camera in sorted(stills, key=lambda s: -sharpness(flat, s[1])):
        sharp = sharpness(flat, camera)
        if sharp <= 0:
            continue
        image, inside = flatten(pixels, camera, flat, mm_per_px)
        picture = image.astype(np.float64)
        if first is None:
            first = picture[inside].mean(axis=0) if inside.any() else None
        elif inside.any():
            picture = picture * (first / np.maximum(picture[inside].mean(axis=0), 1.0))
        weight = (inside * sharp**2)[..., None]
        total = np.asarray(picture * weight if total is None else total + picture * weight)
        weights = np.asarray(weight if weights is None else weights + weight)
    if total is None or weights is None or first is None:
        raise RefusedError("No still shows this plane from outside. Mark its landmarks on one that does.")
    return np.clip(total / np.maximum(weights, 1e-9), 0, 255).astype(np.uint8)


def flatten_corners(pixels: Pixels, corners: Array, width_mm: float, height_mm: float, mm_per_px: float) -> Pixels:
    """A still resampled onto a rectangle given by its corners (4, 2) in stored pixels, the first two along its width.

    Raises
    ------
    RefusedError
        More than 4,000 pixels on a side, or corners that make no rectangle.
    """
    flat = Panel(np.zeros(3), np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), width_mm, height_mm)
    places = flat.places(mm_per_px)
    rectangle = np.array([[0.0, 0], [width_mm, 0], [width_mm, height_mm], [0, height_mm]])
    matrix = homographies(rectangle[None], corners[None])
    if not np.all(np.isfinite(matrix)):
        raise RefusedError("These corners make no rectangle in any view. Click them in order round the shape.")
    seen = apply_homography(matrix, places[..., :2].reshape(1, -1, 2))[0]
    return _sampled(pixels, seen.reshape(*places.shape[:2], 2))


def _sampled(pixels: Pixels, seen: Array) -> Pixels:
    at = np.nan_to_num(seen - 0.5, nan=-1e4).astype(np.float32)
    found = cv2.remap(
        np.ascontiguousarray(pixels), at[..., 0], at[..., 1], cv2.INTER_CUBIC, borderValue=(119, 119, 119)
    )
    return np.asarray(found, np.uint8)
