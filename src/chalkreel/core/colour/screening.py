"""Which pairs and triples of a large shelf are worth a closer look for a colour.

Near the target the colour of a mix is nearly linear in the shares of its paints: every paint is a point in a space of
three dimensions with the target in its origin, a pair is a segment, a triple a triangle, and what counts is how near it
comes to the origin. Reference: Allen, *J. Opt. Soc. Am.* 56 (1966), 1256 (the linear match); Ericson, *Real-Time
Collision Detection*, 2005, §5.1 (distances from segments and triangles).
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.errors import StoppedError

Rows = npt.NDArray[np.int64]


def nearest_pairs(points: Array, keep: int) -> Rows:
    """The pairs (n, 2) of points (P, 3) whose segments come nearest to the origin, at most `keep`."""
    first, second = np.triu_indices(len(points), 1)
    best = _least(_segments(points)[first, second], keep)
    return np.stack([first[best], second[best]], axis=1).astype(np.int64)


def nearest_triples(points: Array, keep: int, progress: Callable[[float], bool]) -> Rows:
    """The triples (n, 3) whose triangles come nearest to the origin, at most `keep`.

    Raises
    ------
    StoppedError
        `progress`, asked with −1 now and then, returned False.
    """
    triangles = _Triangles(points)
    found: list[Rows] = []
    gaps: list[Array] = []
    limit = np.inf
    for i in range(len(points) - 2):
        if not progress(-1.0):
            raise StoppedError
        reach = triangles.of(i)
        j, k = np.nonzero(np.triu(reach < limit, 1))
        found.append(np.stack([np.full(len(j), i), j + i + 1, k + i + 1], axis=1).astype(np.int64))
        gaps.append(reach[j, k])
        if sum(map(len, gaps)) > 3 * keep:
            rows, near = np.concatenate(found), np.concatenate(gaps)
            best = _least(near, keep)
            found, gaps, limit = [rows[best]], [near[best]], float(near[best].max())
    if not found:
        return np.zeros((0, 3), np.int64)
    return np.concatenate(found)[_least(np.concatenate(gaps), keep)]


def nearest_with_first(points: Array, keep: int) -> Rows:
    """The triples (n, 3) that hold the first point and come nearest to the origin, at most `keep`."""
    reach = _Triangles(points).of(0)
    j, k = np.triu_indices(len(reach), 1)
    best = _least(reach[j, k], keep)
    return np.stack([np.zeros(len(best)), j[best] + 1, k[best] + 1], axis=1).astype(np.int64)


def _segments(points: Array) -> Array:
    """How near the segment of each pair comes to the origin, (P, P)."""
    a, b = points[:, None], points[None]
    way = b - a
    share = np.clip(-np.sum(a * way, axis=2) / np.maximum(np.sum(way * way, axis=2), 1e-12), 0.0, 1.0)
    return np.asarray(np.linalg.norm(a + share[..., None] * way, axis=2))


class _Triangles:
    """Distances of triangles from the origin, by inner products of their corners alone."""

    def __init__(self, points: Array) -> None:
        self._points, self._segments = points, _segments(points)
        self._cross = np.cross(points[:, None], points[None])
        self._inner = points @ points.T
        own = np.diag(self._inner)
        # |a × b|² = (a·a)(b·b) − (a·b)² (Lagrange).
        self._wide = np.outer(own, own) - self._inner**2

    def of(self, i: int) -> Array:
        """How near the triangles of point i with each later pair j, k come to the origin, (m, m)."""
        later = slice(i + 1, None)
        inner, own = self._inner[later, later], np.diag(self._inner)[later]
        to_j, to_k = self._inner[i, later][:, None], self._inner[i, later][None]
        # Inner products of a×b, b×c and c×a with each other (Binet–Cauchy), for corners a = i, b = j, c = k.
        ab_bc = to_j * inner - to_k * own[:, None]
        bc_ca = inner * to_k - to_j * own[None]
        ab_ca = to_k * to_j - self._inner[i, i] * inner
        # The triangle's normal is their sum; where it points the way of all three, the origin's foot lies within.
        bc = ab_bc + self._wide[later, later] + bc_ca
        ca = ab_ca + bc_ca + self._wide[i, later][None]
        ab = self._wide[i, later][:, None] + ab_bc + ab_ca
        size = bc + ca + ab
        inside = (bc >= 0) & (ca >= 0) & (ab >= 0) & (size > 1e-9)
        plane = np.abs(self._cross[later, later] @ self._points[i]) / np.sqrt(np.maximum(size, 1e-9))
        edges = np.minimum(self._segments[i, later][:, None], self._segments[i, later][None])
        return np.where(inside, plane, np.minimum(edges, self._segments[later, later]))


def _least(gaps: Array, keep: int) -> Rows:
    """Places of the least gaps, in the order of the rows."""
    if len(gaps) <= keep:
        return np.arange(len(gaps))
    return np.sort(np.argpartition(gaps, keep)[:keep])
