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
# What lies nearer to a face's plane than this share of its size is taken to lie on it; distances below the floor count
# alike when the plane is fitted.
NEAR_SHARE, PLANE_FLOOR_MM, PLANE_STEPS = 0.02, 0.3, 12


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


def face_of(key: str, corners: Array, seen_from: Array, others: Array | None = None) -> Face:
    """A face through corners (N, 3) in order round it, either way; outside is where `seen_from` (3,) lies.

    Its plane is the one that most corners and, of `others` (M, 3), those inside it lie on: corners of rounded edges are
    clicked a little behind it. They are moved onto it.

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
    if others is not None:
        middle, normal = _plane(corners, middle, normal, _inside(others, flat, middle, right, normal))
    off = (corners - middle) @ normal
    return Face(key, corners - off[:, None] * normal, normal, triangles, abs(_doubled_area(flat)) / 2, off)


def _inside(points: Array, flat: Array, middle: Array, right: Array, normal: Array) -> Array:
    """Of points (M, 3) those over a polygon (N, 2) and close to its plane."""
    away = points - middle
    places = away @ np.stack([right, np.cross(normal, right)], axis=1)
    near = np.abs(away @ normal) < NEAR_SHARE * np.sqrt(abs(_doubled_area(flat)))
    a, b = flat[:, None], np.roll(flat, -1, axis=0)[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        cross = a[..., 0] + (places[:, 1] - a[..., 1]) / (b[..., 1] - a[..., 1]) * (b[..., 0] - a[..., 0])
    crossed = ((a[..., 1] > places[:, 1]) != (b[..., 1] > places[:, 1])) & (places[:, 0] < cross)
    return np.asarray(points[near & (np.count_nonzero(crossed, axis=0) % 2 == 1)])


def _plane(corners: Array, middle: Array, normal: Array, inside: Array) -> tuple[Array, Array]:
    """A place on the plane and its normal, by least absolute distances (reweighted least squares)."""
    points = np.concatenate([corners, inside])
    for _ in range(PLANE_STEPS):
        weights = 1.0 / np.maximum(np.abs((points - middle) @ normal), PLANE_FLOOR_MM)
        middle = weights @ points / weights.sum()
        found = np.linalg.svd((points - middle) * np.sqrt(weights)[:, None])[2][2]
        normal = found * (np.sign(found @ normal) or 1.0)
    return middle, normal


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
