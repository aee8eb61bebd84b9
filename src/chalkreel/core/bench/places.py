"""Landmarks whose places are known from the solved reel or a plan, and how surely, all together.

What the reel leaves open (where the whole stands, how it is turned and how large it is) is taken out of their errors:
a photograph's own camera takes it up wholly. Left in, it lets that camera drift far from where its equations hold.

Reference: Triggs, McLauchlan, Hartley & Fitzgibbon, "Bundle Adjustment: A Modern Synthesis", 2000, §9 (gauges).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.faces.face import Index
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.solver.spread import Spread


@dataclass(frozen=True, eq=False)
class Places:
    """Places (N, 3) in mm of the miniature; the covariance of all of them, (3N, 3N), is `factorsᵀ factors`.

    It is that of their shape: shifts, turns and growth of the whole are not in it.
    """

    keys: tuple[str, ...]
    points: Array
    factors: Array

    @cached_property
    def index(self) -> dict[str, int]:
        """The row of each key."""
        return {key: i for i, key in enumerate(self.keys)}

    def factors_of(self, rows: Index) -> Array:
        """Factors (M, n, 3) of some of the places."""
        return np.asarray(self.factors.reshape(len(self.factors), -1, 3)[:, rows])


def places_of(solution: Solution, spread: Spread, keys: tuple[str, ...]) -> Places:
    """The places of landmarks of a solved reel; those that are not in it are left out."""
    layout = solution.layout
    known = tuple(key for key in keys if key in layout.blocks)
    count = 3 * len(known)
    blocks = np.zeros((layout.block_count, 3, count))
    for n, key in enumerate(known):
        block, sign = layout.blocks[key]
        for k, factor in enumerate((1.0, sign, 1.0)):
            if not (k == 1 and layout.centred_blocks[block]):
                blocks[block, k, 3 * n + k] = factor
    factors = spread.factors(np.zeros((layout.offsets["end"], count)), blocks)
    points = np.array([solution.point(key) for key in known]).reshape(-1, 3)
    return Places(known, points, of_shape(points, factors))


def of_shape(points: Array, factors: Array) -> Array:
    """Factors (M, 3N) of errors of places (N, 3) without their parts that shift, turn or scale the whole."""
    if not len(points):
        return factors
    away = points - points.mean(axis=0)
    shifts = np.tile(np.eye(3), (len(points), 1, 1))
    turns = np.cross(np.eye(3)[None, :, :], away[:, None, :]).transpose(0, 2, 1)
    ways = np.concatenate([shifts, turns, away[:, :, None]], axis=2).reshape(-1, 7)
    u, sizes, _ = np.linalg.svd(ways, full_matrices=False)
    basis = u[:, sizes > 1e-9 * max(float(sizes[0]), 1e-12)]
    return np.asarray(factors - (factors @ basis) @ basis.T)
