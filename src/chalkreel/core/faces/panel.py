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
# A wall laid flat has two edges and two ends.
SHEET_EDGES = 4


@dataclass(frozen=True, eq=False)
class Lay:
    """How a flat piece lies on the panel: unit vectors right and up (3,) in its plane, and where (0, 0) is (3,)."""

    corner: Array
    right: Array
    up: Array

    def flat(self, places: Array) -> Array:
        """Places (N, 3) on the piece as (N, 2)."""
        return np.asarray((places - self.corner) @ np.stack([self.right, self.up], axis=1))


@dataclass(frozen=True, eq=False)
class FacePanel:
    """How its pieces lie, one for a flat face, and its outline (N, 2) in mm from the lower left of what it spans.

    `names` are what each stretch of a wall's outline is called, from its corner to the next, and `edges` number the
    edges that they belong to; a flat face has neither: its edges are called by the way to them.
    """

    lays: tuple[Lay, ...]
    outline: Array
    names: tuple[str, ...] = ()
    edges: tuple[int, ...] = ()

    def nearest(self, x: float, y: float) -> tuple[tuple[float, str], ...]:
        """How far a place is from the nearer edge across and from the nearer one along, and what they are called."""
        if self.names:
            return self._nearest_of_wall(x, y)
        ways = self.to_edges(x, y)
        pairs = [[ways[way] for way in pair if way in ways] for pair in (("left", "right"), ("down", "up"))]
        return tuple(min(pair) for pair in pairs if pair)

    def _nearest_of_wall(self, x: float, y: float) -> tuple[tuple[float, str], ...]:
        """Laid flat it has two edges of many stretches, which are told first, and two ends; each may be bent."""
        a, b = self.outline, np.roll(self.outline, -1, axis=0)
        way, at = b - a, np.array([x, y])
        share = np.clip(np.sum((at - a) * way, axis=1) / np.maximum(np.sum(way**2, axis=1), 1e-12), 0, 1)
        gaps = np.linalg.norm(at - a - share[:, None] * way, axis=1)
        edges = [np.flatnonzero(np.array(self.edges) == edge) for edge in range(max(self.edges) + 1)]
        found = [(float(gaps[edge].min()), self.names[edge[0]]) for edge in edges]
        if len(found) != SHEET_EDGES:
            return tuple(sorted(found)[:2])
        pairs = min(found[::2]), min(found[1::2])
        return pairs if len(edges[0]) >= len(edges[1]) else pairs[::-1]

    def to_edges(self, x: float, y: float) -> dict[str, tuple[float, str]]:
        """How far it is straight left, right, down and up to the outline, and what the edge there is called on the
        subject: "bow edge", "foot edge"…; nothing where there is none that way.
        """
        lay, found = self.lays[0], {}
        ways = {"left": -lay.right, "right": lay.right, "down": -lay.up, "up": lay.up}
        for words, along, at, across in (("left", 0, (x, y), -1), ("right", 0, (x, y), 1),
                                         ("down", 1, (y, x), -1), ("up", 1, (y, x), 1)):  # fmt: skip
            here, other = at
            gaps = (_crossings(self.outline, along, other) - here) * across
            if np.any(gaps >= 0):
                found[words] = (float(gaps[gaps >= 0].min()), f"{side_of(ways[words])} edge")
        return found


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
    return FacePanel((Lay(corner, right, up),), np.stack([x - x.min(), y - y.min()], axis=1))


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


def side_of(way: Array) -> str:
    """The side of the subject that a direction (3,) mostly points to."""
    k = int(np.argmax(np.abs(way)))
    return (("bow", "aft"), ("port", "starboard"), ("top", "foot"))[k][0 if way[k] > 0 else 1]
