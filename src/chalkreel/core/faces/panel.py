"""A face as a panel lying before one: its own right and up, its outline, and how far a place is from its edges."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.faces.face import Face

# A face that leans less than this (cosine of its normal with the vertical) stands upright.
UPRIGHT = 0.8
# Cosine of how far the longest side may lean.
NEARLY = 0.866


@dataclass(frozen=True, eq=False)
class FacePanel:
    """Unit vectors right and up (3,) in the face's plane, its lower left corner (3,), and its outline (N, 2) in mm."""

    right: Array
    up: Array
    corner: Array
    outline: Array

    def flat(self, places: Array) -> Array:
        """Places (N, 3) on the face as (N, 2), from the lower left corner of what it spans."""
        return np.asarray((places - self.corner) @ np.stack([self.right, self.up], axis=1))

    def to_edges(self, x: float, y: float) -> dict[str, float]:
        """How far it is straight left, right, down and up to the outline; nothing where there is none that way."""
        found = {}
        for words, along, at, across in (("left", 0, (x, y), -1), ("right", 0, (x, y), 1),
                                         ("down", 1, (y, x), -1), ("up", 1, (y, x), 1)):  # fmt: skip
            here, other = at
            crossings = _crossings(self.outline, along, other)
            gaps = (crossings - here) * across
            ahead = gaps[gaps >= 0]
            if len(ahead):
                found[words] = float(ahead.min())
        return found

    def edge_names(self) -> dict[str, str]:
        """What the edges left, right, down and up are called on the subject: "bow", "foot"…"""
        ways = {"left": -self.right, "right": self.right, "down": -self.up, "up": self.up}
        return {words: _side(way) for words, way in ways.items()}


def panel_of(face: Face) -> FacePanel:
    """The panel of a face as seen from outside, upright; one that lies flat with the bow to the left.

    Its longest side is level, or plumb, where it is nearly so: modellers measure along edges, and what is level in the
    world may hardly be known.
    """
    upright = abs(face.normal[2]) < UPRIGHT
    up = np.array([0.0, 0.0, 1.0]) if upright else np.array([0.0, -np.sign(face.normal[2]), 0.0])
    up = up - (up @ face.normal) * face.normal
    up = up / np.linalg.norm(up)
    up = _along_longest(face, up, np.cross(up, face.normal))
    right = np.cross(up, face.normal)
    x, y = face.corners @ right, face.corners @ up
    middle = face.corners.mean(axis=0)
    corner = middle + (x.min() - middle @ right) * right + (y.min() - middle @ up) * up
    return FacePanel(right, up, corner, np.stack([x - x.min(), y - y.min()], axis=1))


def _along_longest(face: Face, up: Array, right: Array) -> Array:
    """The upward direction turned so that the face's longest side is level or plumb, where it is within 30° of it."""
    sides = np.roll(face.corners, -1, axis=0) - face.corners
    side = sides[int(np.argmax(np.linalg.norm(sides, axis=1)))]
    side = side / np.linalg.norm(side)
    if abs(side @ right) > NEARLY:
        return np.asarray(np.cross(face.normal, side * np.sign(side @ right)))
    if abs(side @ up) > NEARLY:
        return np.asarray(side * np.sign(side @ up))
    return up


def _crossings(outline: Array, along: int, at: float) -> Array:
    """Where a polygon (N, 2) crosses the line on which the other coordinate is `at`, along one axis."""
    a, b = outline, np.roll(outline, -1, axis=0)
    across = 1 - along
    low, high = np.minimum(a[:, across], b[:, across]), np.maximum(a[:, across], b[:, across])
    meets = (low <= at) & (at <= high) & (high > low)
    share = (at - a[meets, across]) / (b[meets, across] - a[meets, across])
    return np.asarray(a[meets, along] + share * (b[meets, along] - a[meets, along]))


def _side(way: Array) -> str:
    k = int(np.argmax(np.abs(way)))
    return (("bow", "aft"), ("port", "starboard"), ("top", "foot"))[k][0 if way[k] > 0 else 1]
