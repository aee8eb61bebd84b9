"""The faces as a camera sees them, painted in software: face by face into a depth buffer, plain or with textures.

The inverse of the depth is linear over the picture, and a flat texture comes onto it by a homography.
References: Catmull, *A Subdivision Algorithm for Computer Display of Curved Surfaces*, 1974 (depth buffer);
Hartley & Zisserman, *Multiple View Geometry*, 2nd ed., §8.1 (planes); Sutherland & Hodgman, 1974 (clipping).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array, Flags
from chalkreel.core.faces.face import LEAST_CORNERS, Index
from chalkreel.core.faces.orthographic import GROUND
from chalkreel.core.faces.sight import Pixels
from chalkreel.core.faces.skin import Skin
from chalkreel.core.faces.texture import Texture
from chalkreel.core.measure.camera import Camera

# Nothing nearer to the eye than this, mm of the miniature, is painted.
NEAREST_MM = 1.0
# Nor a face whose plane goes by the eye this closely: it is seen edge on.
EDGE_ON_MM = 1e-6
# A plain face is as light as it is square to the eye; the inside of the skin is dark.
DARKEST, LIGHTEST, INSIDE, LINE = 84, 206, 56, 30
# OpenCV's fixed point: sixteenths of a pixel; and how far off the picture corners are kept.
SIXTEENTHS, FARTHEST_PX = 4, 1e5
# A place is hidden if a face is nearer by more than this share.
BEFORE = 0.006


@dataclass(frozen=True, eq=False)
class Turned:
    """Pixels (H, W, 3), the inverse of the depth (H, W) in 1/mm, and the face (H, W); 0 and −1 where nothing is."""

    camera: Camera
    pixels: Pixels
    inverse: npt.NDArray[np.float32]
    face: npt.NDArray[np.int16]

    def places(self, points: Array) -> tuple[Array, Flags]:
        """Pixels (N, 2) of points (N, 3), and whether they are on the picture with no face before them."""
        seen = points @ self.camera.rotation.T + self.camera.translation
        at = self.camera.project(points)
        height, width = self.face.shape
        inside = np.all((at >= 0) & (at < (width, height)), axis=1)
        x, y = np.where(inside[:, None], at, 0.0).astype(int).T
        with np.errstate(divide="ignore"):
            return at, inside & (self.inverse[y, x] <= (1.0 + BEFORE) / seen[:, 2])


def turned(skin: Skin, camera: Camera, textures: Sequence[Texture] = ()) -> Turned:
    """Paint all faces; `textures`, where there are any, one a face. The camera has square pixels and no bend."""
    width, height = camera.size_px
    picture = Turned(
        camera, np.full((height, width, 3), GROUND, np.uint8), np.zeros((height, width), np.float32),
        np.full((height, width), -1, np.int16),
    )  # fmt: skip
    onto = _homographies(textures, camera)
    for seen in _seen(skin, camera):
        n = seen.number
        textured = textures and seen.outside
        laid = partial(_laid, textures[n].pixels, onto[n], seen.box) if textured else None
        _paint(picture, seen, laid)
    return picture


@dataclass(frozen=True, eq=False, slots=True)
class _Seen:
    """A face in the picture: its outline (N, 2) in sixteenths of a pixel from the corner of its box, and its shade.

    `plane` is the slope of its inverse depth across and down, and its value at the box's first pixel; `depths` are its
    least and most; `outside` says that it is seen from outside.
    """

    number: int
    box: tuple[slice, slice]
    polygon: npt.NDArray[np.int32]
    plane: tuple[float, float, float]
    depths: tuple[float, float]
    shade: int
    outside: bool


def _seen(skin: Skin, camera: Camera) -> Iterator[_Seen]:
    """All faces that the picture may show; computed together, since there may be hundreds."""
    if not skin.faces:
        return
    counts = [len(face.corners) for face in skin.faces]
    local = np.concatenate([face.corners for face in skin.faces]) @ camera.rotation.T + camera.translation
    normals = np.stack([face.normal for face in skin.faces]) @ camera.rotation.T
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]])
    gaps = np.einsum("fk,fk->f", normals, local[starts])
    if np.any(local[:, 2] <= NEAREST_MM):
        pieces = [_before_eye(piece) for piece in np.split(local, starts[1:])]
        kept = np.array([len(piece) >= LEAST_CORNERS for piece in pieces])
        if not kept.any():
            return
        numbers = np.flatnonzero(kept)
        local = np.concatenate([pieces[n] for n in numbers])
        counts = [len(pieces[n]) for n in numbers]
        starts = np.concatenate([[0], np.cumsum(counts)[:-1]])
    else:
        numbers = np.arange(len(counts))
    yield from _boxed(camera, numbers, local, starts, normals[numbers], gaps[numbers])


def _boxed(camera: Camera, numbers: Index, local: Array, starts: Index, normals: Array, gaps: Array) -> Iterator[_Seen]:
    width, height = camera.size_px
    axis = np.array([width / 2, height / 2]) + camera.offset_px
    flat = np.clip(camera.focal_px * local[:, :2] / local[:, 2:] + axis, -FARTHEST_PX, FARTHEST_PX)
    inverse = 1.0 / local[:, 2]
    low = np.clip(np.floor(np.minimum.reduceat(flat, starts)), 0, (width, height)).astype(int)
    high = np.clip(np.ceil(np.maximum.reduceat(flat, starts)) + 1, 0, (width, height)).astype(int)
    sizes = np.diff([*starts, len(local)])
    middles = np.add.reduceat(local, starts) / sizes[:, None]
    square = np.abs(gaps) / np.linalg.norm(middles, axis=1)
    shades = np.rint(DARKEST + (LIGHTEST - DARKEST) * np.minimum(1.0, square)).astype(int)
    polygons = np.rint((flat - np.repeat(low, sizes, axis=0) - 0.5) * (1 << SIXTEENTHS)).astype(np.int32)
    with np.errstate(divide="ignore", invalid="ignore"):
        planes = normals / gaps[:, None] / np.array([camera.focal_px, camera.focal_px, 1.0])
        firsts = planes[:, 2] + np.einsum("fk,fk->f", planes[:, :2], low + 0.5 - axis)
    shown = np.all(high > low, axis=1) & (np.abs(gaps) > EDGE_ON_MM)
    least, most = np.minimum.reduceat(inverse, starts), np.maximum.reduceat(inverse, starts)
    ends = starts + sizes
    # What is seen from outside first, and of that the nearest: most of the rest lies behind it.
    for n in sorted(np.flatnonzero(shown), key=lambda n: (gaps[n] > 0, -most[n])):
        (x0, y0), (x1, y1) = low[n].tolist(), high[n].tolist()
        yield _Seen(
            int(numbers[n]), np.s_[y0:y1, x0:x1], polygons[starts[n] : ends[n]],
            (float(planes[n, 0]), float(planes[n, 1]), float(firsts[n])), (float(least[n]), float(most[n])),
            int(shades[n]), bool(gaps[n] < 0),
        )  # fmt: skip


def _paint(picture: Turned, seen: _Seen, laid: Callable[[], Pixels] | None) -> None:
    held = picture.inverse[seen.box]
    if held.min() >= seen.depths[1]:
        return
    height, width = held.shape
    mask = np.zeros((height, width), np.uint8)
    cv2.fillPoly(mask, [seen.polygon], 255, shift=SIXTEENTHS)
    across, down, first = seen.plane
    inverse = np.add.outer(
        np.arange(height, dtype=np.float32) * np.float32(down) + np.float32(first),
        np.arange(width, dtype=np.float32) * np.float32(across),
    )
    # A face seen edge on would be anywhere a pixel beside its outline.
    np.clip(inverse, *seen.depths, out=inverse)
    nearer = cv2.bitwise_and(mask, cv2.compare(inverse, held, cv2.CMP_GT))
    if not cv2.countNonZero(nearer):
        return
    if laid is not None:
        patch = laid()
    else:
        patch = np.full((height, width, 3), seen.shade if seen.outside else INSIDE, np.uint8)
        cv2.polylines(patch, [seen.polygon], True, (LINE, LINE, LINE), 1, cv2.LINE_AA, SIXTEENTHS)
    cv2.copyTo(patch, nearer, picture.pixels[seen.box])
    cv2.copyTo(inverse, nearer, held)
    np.putmask(picture.face[seen.box], nearer > 0, np.int16(seen.number))


def _before_eye(local: Array) -> Array:
    """A polygon (N, 3) in camera axes without what is nearer than the nearest, (M, 3)."""
    deep = local[:, 2] - NEAREST_MM
    found = []
    for here, after, a, b in zip(local, np.roll(local, -1, axis=0), deep, np.roll(deep, -1), strict=True):
        if a > 0:
            found.append(here)
        if (a > 0) != (b > 0):
            found.append(here + a / (a - b) * (after - here))
    return np.array(found).reshape(-1, 3)


def _homographies(textures: Sequence[Texture], camera: Camera) -> Array:
    """(F, 3, 3) from pixels of textures to pixels of the picture, counted in middles on the textures' side."""
    if not textures:
        return np.zeros((0, 3, 3))
    (width, height), (right, down) = camera.size_px, camera.offset_px
    eye = camera.rotation @ np.stack([texture.to_world for texture in textures])
    eye[:, :, 2] += camera.translation
    lens = np.array([[camera.focal_px, 0, width / 2 + right], [0, camera.focal_px, height / 2 + down], [0, 0, 1.0]])
    return np.asarray(lens @ eye @ np.array([[1.0, 0, 0.5], [0, 1.0, 0.5], [0, 0, 1.0]]))


def _laid(pixels: Pixels, homography: Array, box: tuple[slice, slice]) -> Pixels:
    """A texture as the camera sees it, over a box of the picture."""
    rows, columns = box
    moved = homography.copy()
    # OpenCV counts in middles of pixels.
    moved[0] -= (columns.start + 0.5) * homography[2]
    moved[1] -= (rows.start + 0.5) * homography[2]
    size = (columns.stop - columns.start, rows.stop - rows.start)
    found = cv2.warpPerspective(pixels, moved, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(found, np.uint8)
