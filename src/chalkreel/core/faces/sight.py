"""What one still shows of a flat part of the skin: which of its pixels, how well, and what stands before it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.faces.face import Face
from chalkreel.core.faces.frame import Frame
from chalkreel.core.faces.raster import front
from chalkreel.core.faces.skin import Skin
from chalkreel.core.measure.camera import Camera

Pixels = npt.NDArray[np.uint8]
Box = tuple[slice, slice]
# A still that sees a face flatter than this (cosine) gives no picture of it.
LEAST_SQUARE = 0.17
# Depth buffers of stills: their longer side, how much nearer another face must be, and how far from what hides a
# spot is not trusted.
BUFFER_PX, NEARER, EDGE_PX = 900, 0.006, 5
# Every so many pixels a camera is computed; between them places are interpolated.
STEP_PX = 12
# The best still wins where stills differ in sharpness: weights go with this power of it.
POWER = 4.0


@dataclass(frozen=True, eq=False)
class Seen:
    """A still: its camera, and what fetches its pixels (H, W, 3) with their halves: a reel of them fills the memory."""

    key: str
    camera: Camera
    levels: Callable[[], tuple[Pixels, ...]]


class Sight:
    """A still with what stands before what on it."""

    def __init__(self, skin: Skin, still: Seen) -> None:
        self.still = still
        self._nearest, self._scale = _buffer(skin, still.camera)

    def patch(self, face: Face, frame: Frame, box: Box, levels: tuple[Pixels, ...]) -> tuple[Pixels, Array] | None:
        """Pixels (h, w, 3) of a face over a box of a frame, and weights (h, w); None where it shows nothing of it."""
        still = self.still
        middle = face.corners.mean(axis=0)
        if face.normal @ (still.camera.position - middle) <= 0:
            return None
        grid, places = _on_plane(face, frame, box)
        seen = still.camera.project(places.reshape(-1, 3)).reshape((*places.shape[:2], 2))
        inside = np.all((seen > 1) & (seen < np.array(still.camera.size_px) - 1), axis=-1)
        if not inside.any():
            return None
        away = still.camera.position - places
        distance = np.linalg.norm(away, axis=-1)
        square = (away @ face.normal) / distance
        sharp = still.camera.focal_px / distance * np.clip(square - LEAST_SQUARE, 0, None)
        full = _enlarged(np.nan_to_num(seen, nan=-1e4), grid)
        weight = _enlarged(np.where(inside, sharp, 0.0), grid) ** POWER
        weight *= self._unhidden(_enlarged(distance, grid), full)
        weight *= np.all((full > 1) & (full < np.array(still.camera.size_px, np.float32) - 1), axis=-1)
        if not weight.any():
            return None
        density = float(np.median(still.camera.focal_px / distance[inside]))
        return _sampled(levels, full, density * frame.mm_per_px), weight

    def _unhidden(self, distance: Array, seen: Array) -> Array:
        """1 where nothing nearer stands before a place on a still, 0 where something does, or close to its edge."""
        # The buffer holds the least distance about each pixel: what is close to an edge counts as hidden.
        at = cv2.remap(
            self._nearest, seen[..., 0] * self._scale[0] - 0.5, seen[..., 1] * self._scale[1] - 0.5,
            cv2.INTER_NEAREST, borderMode=cv2.BORDER_REPLICATE,
        )  # fmt: skip
        return np.asarray(at > distance * (1 - NEARER), np.float32)


@dataclass(frozen=True, eq=False)
class _Grid:
    """Pixels (their middles, from a box's corner) at which cameras are computed, and the box's size."""

    x: Array
    y: Array
    height: int
    width: int

    @staticmethod
    def over(height: int, width: int) -> _Grid:
        across, down = (max(2, -(-side // STEP_PX) + 1) for side in (width, height))
        return _Grid(np.linspace(0.5, width - 0.5, across), np.linspace(0.5, height - 0.5, down), height, width)


def _on_plane(face: Face, frame: Frame, box: Box) -> tuple[_Grid, Array]:
    """Where to compute a camera over a box, and the places (n, m, 3) on the face's plane there."""
    rows, columns = box
    grid = _Grid.over(rows.stop - rows.start, columns.stop - columns.start)
    x = frame.left_mm + (columns.start + grid.x) * frame.mm_per_px
    y = frame.top_mm + (rows.start + grid.y) * frame.mm_per_px
    flat = x[None, :, None] * frame.right + y[:, None, None] * frame.down
    middle = face.corners.mean(axis=0)
    depth = ((middle - flat) @ face.normal) / (frame.out @ face.normal)
    return grid, flat + depth[..., None] * frame.out


def _enlarged(values: Array, grid: _Grid) -> Array:
    """Values (n, m, …) at a grid's nodes, interpolated to all pixels (h, w, …) as float32."""
    across = np.interp(np.arange(grid.width) + 0.5, grid.x, np.arange(len(grid.x)))
    down = np.interp(np.arange(grid.height) + 0.5, grid.y, np.arange(len(grid.y)))
    x, y = np.meshgrid(across.astype(np.float32), down.astype(np.float32))
    return np.asarray(cv2.remap(values.astype(np.float32), x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))


def _buffer(skin: Skin, camera: Camera) -> tuple[npt.NDArray[np.float32], tuple[float, float]]:
    """The distance (h, w) of the nearest face about each pixel of a small picture of a still, and its scale."""
    width, height = camera.size_px
    shrink = BUFFER_PX / max(width * camera.pixel_aspect, height)
    scale = (shrink * camera.pixel_aspect, shrink)
    size = max(1, round(width * scale[0])), max(1, round(height * scale[1]))
    triangles = skin.triangles.reshape(-1, 3)
    local = triangles @ camera.rotation.T + camera.translation
    with np.errstate(divide="ignore"):
        # The inverse of the depth is linear over the picture; the depth itself is not.
        inverse = np.where(local[:, 2] > 0, 1.0 / local[:, 2], np.nan)
    places = np.column_stack([camera.project(triangles) * scale, -inverse]).reshape(-1, 3, 3)
    depth = front(places, skin.owner, size)[0]
    x, y = np.meshgrid((np.arange(size[0]) + 0.5) / scale[0], (np.arange(size[1]) + 0.5) / scale[1])
    centred = camera.to_centred(np.stack([x.ravel(), y.ravel()], axis=1)) - np.array(camera.offset_px)
    slant = np.sqrt(1.0 + np.sum((centred / camera.focal_px) ** 2, axis=1)).reshape(size[1], size[0])
    with np.errstate(divide="ignore"):
        nearest = np.where(np.isfinite(depth), -1.0 / depth * slant, np.inf).astype(np.float32)
    return cv2.erode(nearest, np.ones((EDGE_PX, EDGE_PX), np.uint8)), scale  # type: ignore[return-value]


def _sampled(levels: tuple[Pixels, ...], seen: Array, finer: float) -> Pixels:
    """A still at places (h, w, 2) in stored pixels; from one of its halves where it is so many times finer."""
    level = int(np.clip(np.floor(np.log2(max(finer, 1.0))), 0, len(levels) - 1))
    pixels = levels[level]
    scale = np.array([pixels.shape[1] / levels[0].shape[1], pixels.shape[0] / levels[0].shape[0]], np.float32)
    at = seen.astype(np.float32) * scale - np.float32(0.5)
    found = cv2.remap(pixels, at[..., 0], at[..., 1], cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(found, np.uint8)
