"""Flat pieces that joined points enclose: the faces of the plane graphs that edges make.

Reference: de Berg et al., "Computational Geometry", 2008 (§2.2: the face to the left of a half-edge).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.face import face_of

Loop = tuple[int, ...]
# Plain numbers: one small step at a time, arrays take ten times longer.
Point = tuple[float, float, float]
MOST_SIDES = 60
# Points no farther off a plane than this share of a piece's spread lie in it.
FLAT_SHARE = 0.012
# Two edges that turn less than this (sine) span no plane.
LEAST_TURN = 0.05


@dataclass(frozen=True)
class _Plane:
    """A place on it and its unit normal."""

    at: Point
    normal: Point


def flat_loops(points: Array, edges: tuple[tuple[int, int], ...]) -> tuple[Loop, ...]:
    """Loops of edges between points (N, 3) that bound a flat piece, each once, in order round it.

    Nothing that is joined to a loop lies within it; pieces that touch it nowhere may.
    """
    beside: dict[int, list[int]] = {}
    for a, b in edges:
        beside.setdefault(a, []).append(b)
        beside.setdefault(b, []).append(a)
    places: list[Point] = [(float(x), float(y), float(z)) for x, y, z in points]
    found: dict[frozenset[int], Loop] = {}
    for start in sorted(beside):
        for through in beside[start]:
            for after in beside[through]:
                loop = _left_of(start, through, after, places, beside)
                if loop and frozenset(loop) not in found and _is_flat(points[list(loop)]):
                    found[frozenset(loop)] = loop
    return tuple(found.values())


def _left_of(start: int, through: int, after: int, points: list[Point], beside: dict[int, list[int]]) -> Loop:
    """The piece to the left of an edge, in the plane in which the next turns left; empty where there is none."""
    first, second = _from(points[start], points[through]), _from(points[through], points[after])
    normal = _cross(first, second)
    size = math.hypot(*normal)
    if size < LEAST_TURN * math.hypot(*first) * math.hypot(*second):
        return ()
    plane = _Plane(points[start], (normal[0] / size, normal[1] / size, normal[2] / size))
    path = [start, through]
    # Of a place where the path ended blindly, the way there is not taken again.
    blind: set[tuple[int, int]] = set()
    for _ in range(2 * MOST_SIDES):
        onwards = _leftmost(path, plane, points, beside, blind)
        if onwards is None:
            blind.add((path[-2], path[-1]))
            path.pop()
            if len(path) < 2:
                return ()
        elif onwards == start:
            return tuple(path) if _is_left(path, plane, points) else ()
        elif onwards in path:
            return ()
        else:
            path.append(onwards)
    return ()


def _is_left(path: list[int], plane: _Plane, points: list[Point]) -> bool:
    """Whether a closed path has its inside to the left; round all pieces of a plane it has it to the right."""
    places = [_from(plane.at, points[n]) for n in path]
    pairs = zip(places, [*places[1:], places[0]], strict=True)
    return sum(_dot(plane.normal, _cross(a, b)) for a, b in pairs) > 0


def _leftmost(
    path: list[int], plane: _Plane, points: list[Point], beside: dict[int, list[int]], blind: set[tuple[int, int]]
) -> int | None:
    """Of the points that a path may go on to within its plane, the one farthest to the left."""
    before, at = path[-2], path[-1]
    along = _from(points[before], points[at])
    best, most = None, -math.inf
    for other in beside[at]:
        away = _from(plane.at, points[other])
        near = abs(_dot(plane.normal, away)) <= FLAT_SHARE * max(math.hypot(*away), math.hypot(*along))
        if other == before or (at, other) in blind or not near:
            continue
        way = _from(points[at], points[other])
        turn = math.atan2(_dot(plane.normal, _cross(along, way)), _dot(along, way))
        if turn > most:
            best, most = other, turn
    return best


def _from(a: Point, b: Point) -> Point:
    return b[0] - a[0], b[1] - a[1], b[2] - a[2]


def _dot(a: Point, b: Point) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def _cross(a: Point, b: Point) -> Point:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


def _is_flat(corners: Array) -> bool:
    """Whether corners, in order, make a face in one plane."""
    extent = np.linalg.svd(corners - corners.mean(axis=0), compute_uv=False)
    if len(corners) > 3 and extent[-1] > FLAT_SHARE * extent[0]:
        return False
    try:
        face_of("", corners, 2 * corners.mean(axis=0) + 1.0)
    except RefusedError:
        return False
    return True
