"""The allowance round a template: chosen edges moved outwards, from corner to corner.

Each edge is offset as the curve that it is (shapely's offset); at the corners neighbours are carried on until they
meet, or cut off square where they would meet too far out.
"""

from __future__ import annotations

import numpy as np
from shapely import LineString, Polygon, make_valid

from chalkreel.core.arrays import Array
from chalkreel.core.draft.sheet import Point
from chalkreel.core.errors import RefusedError

# A corner is carried on to so many times the allowance at most.
MITRE_LIMIT = 3.0


def inward_left(edges: tuple[tuple[Point, ...], ...]) -> bool:
    """Whether the inside lies to the left of the edges' way (they go round counter-clockwise)."""
    points = np.array([point for edge in edges for point in edge[:-1]] or [(0.0, 0.0)])
    x, y = points.T
    return bool(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y) > 0)


def widened(edges: tuple[tuple[Point, ...], ...], allowance_mm: float, chosen: tuple[int, ...]) -> tuple[Point, ...]:
    """A closed outline given as edges, with the chosen ones (from 1; none means all) moved outwards.

    Raises
    ------
    RefusedError
        An edge that is not there, points on one spot, or an allowance that the curves do not bear.
    """
    if any(not 1 <= number <= len(edges) for number in chosen):
        raise RefusedError(f"This outline has edges 1 to {len(edges)}; their numbers stand on the sheet.")
    if any(np.any(np.linalg.norm(np.diff(np.array(edge), axis=0), axis=1) < 1e-9) for edge in edges):
        raise RefusedError("Two points of the outline lie on the same spot.")
    if len(edges) == 1:
        ring = Polygon(edges[0]).buffer(allowance_mm, join_style="mitre", mitre_limit=MITRE_LIMIT)
        return _outer(ring, allowance_mm)
    out = -allowance_mm if inward_left(edges) else allowance_mm
    moved = [
        _offset(np.array(edge), out, allowance_mm) if not chosen or number in chosen else np.array(edge)
        for number, edge in enumerate(edges, start=1)
    ]
    points: list[Array] = []
    for before, after, edge in zip(moved[-1:] + moved[:-1], moved, edges, strict=True):
        points += [*_corner(before, after, np.array(edge[0]), MITRE_LIMIT * abs(allowance_mm)), *after[1:-1]]
    return _outer(make_valid(Polygon(points)), allowance_mm)


def _offset(edge: Array, out: float, allowance: float) -> Array:
    """An edge (N, 2) moved to its right (negative) or left, its ends square to where they were."""
    line = LineString(edge).offset_curve(out, join_style="mitre", mitre_limit=MITRE_LIMIT)
    if line.is_empty or line.geom_type != "LineString":
        raise _refusal(allowance)
    points = np.asarray(line.coords)
    forward = np.linalg.norm(points[0] - edge[0]) <= np.linalg.norm(points[-1] - edge[0])
    return points if forward else points[::-1]


def _corner(before: Array, after: Array, corner: Array, reach: float) -> list[Array]:
    """Where two edges meet once carried on; both their ends where that is nowhere near the corner."""
    end, start = before[-1], after[0]
    if np.linalg.norm(end - start) < 1e-9:
        return [start]
    ways = np.stack([end - before[-2], start - after[1]], axis=1)
    ways = ways / np.linalg.norm(ways, axis=0)
    if abs(float(np.linalg.det(ways))) < 1e-6:
        return [end, start]
    along = np.linalg.solve(np.stack([ways[:, 0], -ways[:, 1]], axis=1), start - end)
    meeting = end + along[0] * ways[:, 0]
    return [meeting] if np.linalg.norm(meeting - corner) <= reach else [end, start]


def _outer(shape: object, allowance: float) -> tuple[Point, ...]:
    parts = [p for p in getattr(shape, "geoms", [shape]) if isinstance(p, Polygon) and not p.is_empty]
    if not parts:
        raise _refusal(allowance)
    ring = max(parts, key=lambda part: float(part.area)).exterior
    return tuple((float(x), float(y)) for x, y in list(ring.coords)[:-1])


def _refusal(allowance: float) -> RefusedError:
    return RefusedError(f"The curves of this outline do not bear an allowance of {allowance:g} mm. Make it smaller.")
