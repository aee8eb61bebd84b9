"""The simple ways in which an assembly may be out of true: one number each, in mm."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from chalkreel.core.arrays import Array

Way = Literal[
    "forward", "to port", "up", "longer", "longer forward", "longer aft", "wider", "taller", "larger",
    "leaning forward", "leaning to port",
]  # fmt: skip
# What an assembly is called that is the other way about.
OPPOSITE: Final[dict[Way, str]] = {
    "forward": "aft", "to port": "to starboard", "up": "down", "longer": "shorter", "longer forward": "shorter forward",
    "longer aft": "shorter aft", "wider": "narrower", "taller": "lower", "larger": "smaller",
    "leaning forward": "leaning aft", "leaning to port": "leaning to starboard",
}  # fmt: skip
SHIFTS: Final[tuple[Way, ...]] = ("forward", "to port", "up")
# Landmarks less far apart along an axis than this say nothing of how long an assembly is.
LEAST_SPREAD_MM = 8.0


@dataclass(frozen=True, eq=False)
class Bent:
    """A way, and how each landmark (n, 3) moves for a millimetre of it."""

    way: Way
    moves: Array


def ways_of(points: Array) -> tuple[Bent, ...]:
    """All ways that landmarks at places (n, 3) in mm can tell apart in principle."""
    found = [Bent(way, np.tile(axis, (len(points), 1))) for way, axis in zip(SHIFTS, np.eye(3), strict=True)]
    low, high = points.min(axis=0), points.max(axis=0)
    middle, size = (low + high) / 2, high - low
    away = points - middle
    if size[0] > LEAST_SPREAD_MM:
        found.append(_along("longer", away[:, 0] / size[0], 0))
        found.append(_along("longer forward", (points[:, 0] - low[0]) / size[0], 0))
        found.append(_along("longer aft", (points[:, 0] - high[0]) / size[0], 0))
    if size[1] > LEAST_SPREAD_MM:
        found.append(_along("wider", away[:, 1] / size[1], 1))
    if size[2] > LEAST_SPREAD_MM:
        height = (points[:, 2] - low[2]) / size[2]
        # From its foot: parts stand on what is below them.
        found.append(_along("taller", height, 2))
        found.append(_along("leaning forward", height, 0))
        found.append(_along("leaning to port", height, 1))
    if np.count_nonzero(size > LEAST_SPREAD_MM) > 1:
        # By its longest side.
        found.append(Bent("larger", away / size.max()))
    return tuple(found)


def _along(way: Way, shares: Array, axis: int) -> Bent:
    moves = np.zeros((len(shares), 3))
    moves[:, axis] = shares
    return Bent(way, moves)
