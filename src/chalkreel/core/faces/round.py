"""Round parts of the skin: the disc within a rim, and the wall between two rims, as flat faces side by side."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.face import Face, face_of

# So many sides make a rim: each lies within half a percent of the radius of it.
RIM_SIDES = 32
# Two rims nearer than this, as a share of the larger radius, in every place are the same rim.
LEAST_APART = 0.01


@dataclass(frozen=True, eq=False)
class Rim:
    """A circle in space: centre (3,) and radius in mm, unit normal (3,)."""

    centre: Array
    normal: Array
    radius_mm: float


def disc(key: str, rim: Rim, seen_from: Array) -> Face:
    """The disc within a rim, of the circle's own area; outside is where `seen_from` (3,) lies."""
    even = math.sqrt(2 * math.pi / (RIM_SIDES * math.sin(2 * math.pi / RIM_SIDES)))
    return face_of(key, _round(rim, rim.normal, even), seen_from)


def wall(key: str, first: Rim, second: Rim) -> tuple[Face, ...]:
    """The wall of a cylinder or cone between two rims, or the ring between two in one plane.

    Its outside looks away from the axis; a ring's looks the way of the first rim's normal. The area is the round
    wall's own.

    Raises
    ------
    RefusedError
        Both are the same rim.
    """
    apart = math.hypot(float(np.linalg.norm(second.centre - first.centre)), second.radius_mm - first.radius_mm)
    if apart < LEAST_APART * max(first.radius_mm, second.radius_mm):
        raise RefusedError("Both rims lie in the same place: a wall needs two.")
    even = math.pi / (RIM_SIDES * math.sin(math.pi / RIM_SIDES))
    axis = first.normal
    a, b = _round(first, axis, even), _round(second, axis, even)
    slope = (second.centre - first.centre) @ axis
    faces = []
    for n in range(RIM_SIDES):
        corners = np.stack([a[n], a[n - 1], b[n - 1], b[n]])
        middle = corners.mean(axis=0)
        share = (middle - first.centre) @ axis / slope if slope else 0.0
        outwards = middle - (first.centre + share * (second.centre - first.centre))
        # A steep cone's wall looks away from its axis, a flat ring's along it.
        flat = abs(slope) < LEAST_APART * max(first.radius_mm, second.radius_mm)
        faces.append(face_of(key, corners, middle + (axis if flat else outwards)))
    return tuple(faces)


def _round(rim: Rim, axis: Array, even: float) -> Array:
    """Corners (RIM_SIDES, 3) round a rim, begun in the same direction for every rim of one axis."""
    start = np.eye(3)[int(np.argmin(np.abs(axis)))]
    normal = rim.normal * (np.sign(rim.normal @ axis) or 1.0)
    right = np.cross(np.cross(normal, start), normal)
    right = right / np.linalg.norm(right)
    up = np.cross(normal, right)
    turns = 2 * np.pi * np.arange(RIM_SIDES) / RIM_SIDES
    ways = np.outer(np.cos(turns), right) + np.outer(np.sin(turns), up)
    return np.asarray(rim.centre + even * rim.radius_mm * ways)
