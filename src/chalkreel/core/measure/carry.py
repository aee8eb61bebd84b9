"""Where a spot on one still lies on another, by way of a plane of the solved model."""

from __future__ import annotations

import itertools

import cv2
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.camera import Camera

# A plane seen at a flatter angle than this shows no colour worth a sample (cosine).
LEAST_FACING = 0.2
# Where no flat lies under a patch, its face is looked for among so many of the nearest landmarks.
NEAREST = 12
# Landmarks lie in one plane when they miss it by less than this share of its extent.
FLAT = 0.01


def carry(spot: Array, plane: Array, here: Camera, there: Camera) -> Array:
    """Stored pixels (N, 2) on the other still of points (N, 2) on this one that lie in the plane through (M, 3).

    Raises
    ------
    RefusedError
        The plane is no plane, is seen from behind or too flatly, or the spot lies outside the other picture.
    """
    middle = plane.mean(axis=0)
    _, sizes, axes = np.linalg.svd(plane - middle)
    if len(plane) < 3 or sizes[1] < 1e-3 * max(sizes[0], 1e-9):
        raise RefusedError("Three landmarks round the patch, not in a line, say where its surface lies.")
    normal = axes[2]
    rays = here.rays(spot)
    along = rays @ normal
    reach = ((middle - here.position) @ normal) / np.where(np.abs(along) > 1e-9, along, np.nan)
    points = here.position + reach[:, None] * rays
    if not np.isfinite(points).all() or (reach <= 0).any():
        raise RefusedError("The patch does not lie on the plane of its landmarks.")
    centre = points.mean(axis=0)
    seen_here = _facing(centre, normal, here)
    seen_there = _facing(centre, normal, there)
    if seen_here * seen_there <= 0 or abs(seen_there) < LEAST_FACING:
        raise RefusedError("The next still sees this face from behind or too flatly.")
    found = there.project(points)
    width, height = there.size_px
    if not np.isfinite(found).all() or (found < 0).any() or (found > (width, height)).any():
        raise RefusedError("This patch lies outside the other still.")
    return found


def face_under(points: Array, seen: Array, spot: Array) -> Array:
    """Those of the landmarks (N, 3), seen at (N, 2), that make the face under a spot (2,).

    Of all triangles of near landmarks round the spot, the one whose plane holds most other landmarks, then the
    smallest.

    Raises
    ------
    RefusedError
        No triangle of landmarks lies round the spot.
    """
    near = np.argsort(np.linalg.norm(seen - spot, axis=1), kind="stable")[:NEAREST]
    best: tuple[int, float, Array] | None = None
    for triple in itertools.combinations(near, 3):
        corners = seen[list(triple)]
        if not surrounds(corners, spot):
            continue
        a, b, c = points[list(triple)]
        normal = np.cross(b - a, c - a)
        area = float(np.linalg.norm(normal))
        if area < 1e-6:
            continue
        off = np.abs((points[near] - a) @ (normal / area)) < FLAT * np.sqrt(area)
        score = (-int(off.sum()), float(np.ptp(corners, axis=0).sum()))
        if best is None or score < best[:2]:
            best = (*score, points[near][off])
    if best is None:
        raise RefusedError("No landmarks lie round this patch. Mark three or more round it in Measure.")
    return best[2]


def surrounds(corners: Array, point: Array) -> bool:
    """Whether a point (2,) lies within the hull of the corners (N, 2)."""
    hull = cv2.convexHull(corners.astype(np.float32))
    return bool(cv2.pointPolygonTest(hull, (float(point[0]), float(point[1])), False) >= 0)


def _facing(point: Array, normal: Array, camera: Camera) -> float:
    way = camera.position - point
    return float(way @ normal / np.linalg.norm(way))
