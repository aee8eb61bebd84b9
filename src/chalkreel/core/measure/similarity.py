"""The turn, size and shift that lay some points on others best.

Reference: Umeyama, "Least-Squares Estimation of Transformation Parameters Between Two Point Patterns", 1991.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array


@dataclass(frozen=True, eq=False)
class Similarity:
    """A turn (D, D) that mirrors nothing, a size, and a shift (D,), in this order."""

    turn: Array
    size: float
    shift: Array

    def __call__(self, points: Array) -> Array:
        """Where points (..., D) come to lie."""
        return np.asarray(self.size * points @ self.turn.T + self.shift)


def similarity(found: Array, wanted: Array) -> Similarity:
    """What lays points (N, D) on others (N, D), in two or three dimensions, by least squares."""
    wanted_middle, found_middle = wanted.mean(axis=0), found.mean(axis=0)
    u, spread, v = np.linalg.svd((wanted - wanted_middle).T @ (found - found_middle))
    signs = np.ones(len(spread))
    signs[-1] = np.sign(np.linalg.det(u @ v))
    turn = u * signs @ v
    size = float(spread @ signs) / float(np.sum((found - found_middle) ** 2))
    return Similarity(turn, size, wanted_middle - size * turn @ found_middle)
