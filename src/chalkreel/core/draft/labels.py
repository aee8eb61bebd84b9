"""Words on a sheet that never lie over each other."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from itertools import islice

from chalkreel.core.draft.sheet import Point, Words

Box = tuple[float, float, float, float]
# Steps from where a label would best stand, nearest first, in heights of its letters.
_AROUND: tuple[Point, ...] = tuple(
    (dx * ring, dy * ring)
    for ring in (0.0, 1.3, 2.6, 4.0, 6.0, 8.5, 11.0, 14.0)
    for dx, dy in ((0, 1), (0, -1), (1, 0), (-1, 0), (1, 1), (-1, 1), (1, -1), (-1, -1))
)
# So many of them are near.
_NEAR = 16
CLEAR_MM = 0.3


def overlap(a: Box, b: Box) -> bool:
    """Whether two boxes (x0, y0, x1, y1) share any room."""
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def crosses(start: Point, end: Point, box: Box) -> bool:
    """Whether a straight line enters a box (Liang & Barsky 1984)."""
    low, high = 0.0, 1.0
    for axis in (0, 1):
        way, place = end[axis] - start[axis], start[axis]
        first, last = box[axis] - place, box[axis + 2] - place
        if abs(way) < 1e-12:
            if first > 0 or last < 0:
                return False
            continue
        near, far = sorted((first / way, last / way))
        low, high = max(low, near), min(high, far)
    return low <= high


def placed(words: Iterable[Words], taken: Iterable[Box] = ()) -> tuple[Words, ...]:
    """Labels in their order, each at the free place nearest to its own; where there is none it stays, or is left out
    if it can be spared. Those do not go far.
    """
    boxes, found = list(taken), []
    for label in words:
        tries = (
            replace(label, at=(label.at[0] + dx * label.height, label.at[1] + dy * label.height)) for dx, dy in _AROUND
        )
        free = (t for t in islice(tries, _NEAR if label.spare else None)
                if not any(overlap(t.box(CLEAR_MM), box) for box in boxes))  # fmt: skip
        best = next(free, None if label.spare else label)
        if best is None:
            continue
        boxes.append(best.box(CLEAR_MM))
        found.append(best)
    return tuple(found)
