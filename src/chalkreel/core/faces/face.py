"""A face: a flat polygon in space, with its triangles, its area and how far its corners lie off one plane.

References: Newell's normal (Sutherland, Sproull & Schumacker, 1974); Meisters, "Polygons Have Ears", 1975.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError

Index = npt.NDArray[np.intp]
LEAST_CORNERS, MOST_CORNERS = 3, 200
# Corners spread less than this share of their length across it lie on one line.
LEAST_WIDTH = 1e-3


@dataclass(frozen=True, eq=False)
class Face:
    """Corners (N, 3) in mm, counter-clockwise as seen from outside; `normal` (3,) points outwards.

    `triangles` (N − 2, 3) index the corners. `off_mm` (N,) is how far each corner lies off the plane through their
    middle.
    """

    key: str
    corners: Array
    normal: Array
    triangles: Index
    area_mm2: float
    off_mm: Array


def face_of(key: str, corners: Array, seen_from: Array) -> Face:
    """A face through corners (N, 3) in order round it, either way; outside is where `seen_from` (3,) lies.

    Raises
    ------
    RefusedError
        Fewer than three corners, all on one line, or sides that cross.
    """
    if not LEAST_CORNERS <= len(corners) <= MOST_CORNERS:
        raise RefusedError("A face needs three corners or more.")
    middle = corners.mean(axis=0)
    spread, ways = np.linalg.svd(corners - middle)[1:]
    if spread[1] < LEAST_WIDTH * max(spread[0], 1e-12):
        raise RefusedError("These landmarks lie on one line: a face needs one more beside it.")
    normal = ways[2] * (np.sign(ways[2] @ (seen_from - middle)) or 1.0)
    right = ways[0]
    flat = (corners - middle) @ np.stack([right, np.cross(normal, right)], axis=1)
    if _crossing(flat):
        raise RefusedError("The sides of this face cross. Click its corners in order round it.")
    if _doubled_area(flat) < 0:
        corners, flat = corners[::-1], flat[::-1]
    triangles = _ears(flat)
    area = abs(_doubled_area(flat)) / 2
    return Face(key, corners, normal, triangles, area, (corners - middle) @ normal)


def mirrored(face: Face, key: str) -> Face:
    """Its twin across the mirror plane y = 0."""
    flip = np.array([1.0, -1.0, 1.0])
    count = len(face.corners)
    return Face(
        key, (face.corners * flip)[::-1], face.normal * flip, (count - 1 - face.triangles)[:, ::-1], face.area_mm2,
        face.off_mm[::-1],
    )  # fmt: skip


def _doubled_area(flat: Array) -> float:
    x, y = flat.T
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1))


def _crossing(flat: Array) -> bool:
    """Whether two sides of a polygon (N, 2) that are no neighbours meet."""
    count = len(flat)
    a, b = flat, np.roll(flat, -1, axis=0)
    turn = _turns(a[:, None], b[:, None], a[None]), _turns(a[:, None], b[:, None], b[None])
    apart = turn[0] * turn[1] < 0
    meet = apart & apart.T
    near = np.abs(np.subtract.outer(np.arange(count), np.arange(count)))
    return bool(np.any(meet & (near > 1) & (near < count - 1)))


def _turns(a: Array, b: Array, c: Array) -> Array:
    """Twice the signed area of triangles a b c."""
    ab, ac = b - a, c - a
    return np.asarray(ab[..., 0] * ac[..., 1] - ab[..., 1] * ac[..., 0])


def _ears(flat: Array) -> Index:
    """Triangles (N − 2, 3) of a counter-clockwise polygon (N, 2) without crossings."""
    left, found = list(range(len(flat))), []
    while len(left) > 3:
        ear = next((n for n in range(len(left)) if _is_ear(flat, left, n)), None)
        # Rounding may leave no ear among corners that are all but on one line: any corner will do.
        at = 0 if ear is None else ear
        found.append((left[at - 1], left[at], left[(at + 1) % len(left)]))
        del left[at]
    return np.array([*found, tuple(left)], np.intp)


def _is_ear(flat: Array, left: list[int], n: int) -> bool:
    a, b, c = (flat[left[(n + k) % len(left)]] for k in (-1, 0, 1))
    if float(_turns(a, b, c)) <= 0:
        return False
    others = flat[[i for i in left if i not in (left[n - 1], left[n], left[(n + 1) % len(left)])]]
    inside = (_turns(a, b, others) >= 0) & (_turns(b, c, others) >= 0) & (_turns(c, a, others) >= 0)
    return not bool(inside.any())
