"""The order of straight cuts from edge to edge that take a sheet apart, the long ones first."""

from __future__ import annotations

import heapq
from dataclasses import dataclass
from typing import Final

from chalkreel.core.convert.nest.pieces import Laid, Point

# Frames are known to so much, mm.
LEAST: Final = 1e-4
# Between more pieces than this, only what is left beside and above them all is looked at.
MOST_LOOKED_BETWEEN: Final = 80
# So many remainders of one sheet are worth a place on the rack.
MOST_LEFT: Final = 4
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class Cut:
    """A cut along the ruler, from one edge of what is left to the other."""

    start: Point
    end: Point

    @property
    def length(self) -> float:
        """mm."""
        return abs(self.end[0] - self.start[0]) + abs(self.end[1] - self.start[1])


def straight_cuts(laid: Laid) -> tuple[Cut, ...] | None:
    """Cuts in their order; None where some pieces cannot be parted by cuts from edge to edge.

    Each cut runs along the far side of the pieces before it; the last ones leave one piece each, with what is round it.
    """
    width, height = laid.sheet.size
    waiting: list[tuple[float, int, Box, tuple[Box, ...]]] = []
    found: list[Cut] = []
    number = 0
    heapq.heappush(waiting, (0.0, 0, (0.0, 0.0, width, height), tuple(_frame(p.outline) for p in laid.placed)))
    # The largest piece of sheet is always cut next: its cuts are the long ones.
    while waiting:
        _, _, region, frames = heapq.heappop(waiting)
        # A piece alone is cut out along its own edges.
        cut = _best_cut(region, frames) if len(frames) > 1 or not found else None
        if cut is None:
            if len(frames) > 1:
                return None
            continue
        axis, at = cut
        x0, y0, x1, y1 = region
        parts = ((x0, y0, at, y1), (at, y0, x1, y1)) if axis == 0 else ((x0, y0, x1, at), (x0, at, x1, y1))
        ends = ((at, y0), (at, y1)) if axis == 0 else ((x0, at), (x1, at))
        found.append(Cut(*ends))
        for part in parts:
            inside = tuple(f for f in frames if part[axis] - LEAST <= f[axis] < part[axis + 2] - LEAST)
            if inside:
                number += 1
                longest = max(part[2] - part[0], part[3] - part[1])
                heapq.heappush(waiting, (-longest, number, part, inside))
    return tuple(found)


def _frame(outline: tuple[Point, ...]) -> Box:
    xs, ys = zip(*outline, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def _best_cut(region: Box, frames: tuple[Box, ...]) -> tuple[int, float] | None:
    """The cut that frees the most: what stays whole first, then the longest through the pieces."""
    options: list[tuple[bool, float, int, float]] = []
    for axis in (0, 1):
        for at in {frame[axis + 2] for frame in frames}:
            if at > region[axis + 2] - LEAST:
                continue
            if all(f[axis + 2] <= at + LEAST or f[axis] >= at - LEAST for f in frames):
                whole = all(f[axis + 2] <= at + LEAST for f in frames)
                other = 1 - axis
                options.append((whole, region[other + 2] - region[other], axis, at))
    if not options:
        return None
    freeing = [o for o in options if o[0]]
    _, _, axis, at = max(freeing or options, key=lambda o: o[1])
    return axis, at


def left_whole(laid: Laid, kerf_mm: float, least_mm: float) -> tuple[Box, ...]:
    """Rectangles of a sheet that no piece touches, apart from each other, the largest first: at most MOST_LEFT, none
    narrower than `least_mm`; none of a sheet that is no rectangle itself."""
    if not laid.sheet.is_rectangle:
        return ()
    taken = [_grown(_frame(p.outline), kerf_mm) for p in laid.placed]
    found: list[Box] = []
    while len(found) < MOST_LEFT:
        box = _largest_free(taken, *laid.sheet.size, least_mm)
        if box is None:
            break
        found.append(box)
        taken.append(_grown(box, kerf_mm))
    return tuple(found)


def _grown(frame: Box, by: float) -> Box:
    return frame[0] - by, frame[1] - by, frame[2] + by, frame[3] + by


def _largest_free(grown: list[Box], width: float, height: float, least: float) -> Box | None:
    """The largest rectangle that touches none of some frames and is nowhere narrower than `least`."""
    best: Box | None = None
    lefts = sorted({0.0, *(f[2] for f in grown)})
    rights = sorted({width, *(f[0] for f in grown)})
    if len(grown) > MOST_LOOKED_BETWEEN:
        lefts, rights = [0.0, lefts[-1]], [width]
    for left in lefts:
        for right in rights:
            if right - left >= max(least, LEAST):
                low, high = _gap(
                    sorted((f[1], f[3]) for f in grown if f[2] > left + LEAST and f[0] < right - LEAST), height
                )
                if high - low >= least and (best is None or (right - left) * (high - low) > _area(best)):
                    best = (left, low, right, high)
    return best if best is not None and _area(best) > 0 else None


def _gap(spans: list[tuple[float, float]], height: float) -> tuple[float, float]:
    """The widest stretch between spans."""
    low, best = 0.0, (0.0, 0.0)
    for start, end in (*spans, (height, height)):
        if start - low > best[1] - best[0]:
            best = (low, start)
        low = max(low, end)
    return best


def _area(box: Box) -> float:
    return (box[2] - box[0]) * (box[3] - box[1])
