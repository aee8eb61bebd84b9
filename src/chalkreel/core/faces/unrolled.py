"""A wall of flat pieces laid flat, one beside the other, as it would be cut from one sheet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.faces.face import Face
from chalkreel.core.faces.panel import FacePanel, Lay, panel_of, side_of

# Two corners nearer than this, mm of the miniature, are one.
SAME_MM = 0.3
# Where the sheet's outline turns by more than 45° (cosine), one edge ends and another begins.
CORNER = 0.7


@dataclass(frozen=True, eq=False)
class _Laid:
    """A piece's corners (N, 3) and where each lies on the sheet (N, 2)."""

    corners: Array
    flat: Array


def unrolled(pieces: Sequence[Face]) -> FacePanel:
    """The panel of a wall whose pieces are given in order along it, each sharing a side with the one before.

    Every piece keeps its true shape. Where they stand round in a ring, it is cut open between the last and the first.
    """
    first = panel_of(pieces[0])
    lays = [first.lays[0]]
    laid = [_Laid(pieces[0].corners, first.lays[0].flat(pieces[0].corners))]
    for piece in pieces[1:]:
        lay = _beside(piece, laid[-1])
        lays.append(lay)
        laid.append(_Laid(piece.corners, lay.flat(piece.corners)))
    stretches = _outline(laid)
    outline = np.array([stretch.start for stretch in stretches])
    middle = np.concatenate([piece.corners for piece in laid]).mean(axis=0)
    low = outline.min(axis=0)
    moved = tuple(Lay(lay.corner + low @ np.stack([lay.right, lay.up]), lay.right, lay.up) for lay in lays)
    return FacePanel(moved, outline - low, *_edges(stretches, middle))


def _beside(piece: Face, before: _Laid) -> Lay:
    """Where a piece lies on the sheet: the side that it shares with the one before stays where it is."""
    gaps = np.linalg.norm(piece.corners[:, None] - before.corners[None], axis=2)
    nearest = np.argmin(gaps, axis=1)
    shared = np.argsort(gaps[np.arange(len(gaps)), nearest])[:2]
    a, b = piece.corners[shared]
    flat_a, flat_b = before.flat[nearest[shared]]
    along = (b - a) / np.linalg.norm(b - a)
    across = np.cross(piece.normal, along)
    way = (flat_b - flat_a) / np.linalg.norm(flat_b - flat_a)
    right = way[0] * along - way[1] * across
    up = way[1] * along + way[0] * across
    return Lay(a - flat_a @ np.stack([right, up]), right, up)


@dataclass(frozen=True, eq=False)
class _Stretch:
    """A piece of the outline: its ends on the sheet (2,), its middle in space (3,), and whether it was cut there."""

    start: Array
    stop: Array
    middle: Array
    is_cut: bool


def _outline(laid: Sequence[_Laid]) -> list[_Stretch]:
    """Round the whole sheet, from a corner on."""
    free: list[_Stretch] = []
    for n, piece in enumerate(laid):
        neighbours = [laid[k].flat for k in (n - 1, n + 1) if 0 <= k < len(laid)]
        ends = list(zip(piece.corners, piece.flat, strict=True))
        for (a, flat_a), (b, flat_b) in zip(ends, [*ends[1:], ends[0]], strict=True):
            if not any(_holds(other, flat_a) and _holds(other, flat_b) for other in neighbours):
                is_cut = len(laid) > 2 and n in (0, len(laid) - 1) and _both_hold(laid[0], laid[-1], a, b)
                free.append(_Stretch(flat_a, flat_b, (a + b) / 2, is_cut))
    return _joined(free)


def _both_hold(first: _Laid, last: _Laid, a: Array, b: Array) -> bool:
    """Whether a stretch belongs to both: there a ring was cut open."""
    return all(_holds(piece.corners, corner) for piece in (first, last) for corner in (a, b))


def _holds(corners: Array, corner: Array) -> bool:
    return bool(np.linalg.norm(corners - corner, axis=1).min() < SAME_MM)


def _joined(free: list[_Stretch]) -> list[_Stretch]:
    """Stretches in order, each from where the one before ended, from a corner on."""
    left, found = list(free), list[_Stretch]()
    at = left[0].start
    while left:
        nearest = min(range(len(left)), key=lambda k: float(np.linalg.norm(left[k].start - at)))
        found.append(left.pop(nearest))
        at = found[-1].stop
    first = next((k for k in range(len(found)) if _turns(found[k - 1], found[k])), 0)
    return [*found[first:], *found[:first]]


def _edges(stretches: list[_Stretch], middle: Array) -> tuple[tuple[str, ...], tuple[int, ...]]:
    """What the edge of each stretch is called, and its number. An edge runs from corner to corner of the sheet, and is
    called by where it lies as a whole.
    """
    edges: list[list[_Stretch]] = []
    for n, stretch in enumerate(stretches):
        if n == 0 or _turns(stretches[n - 1], stretch):
            edges.append([])
        edges[-1].append(stretch)
    names, numbers = list[str](), list[int]()
    for number, edge in enumerate(edges):
        side = side_of(np.mean([stretch.middle for stretch in edge], axis=0) - middle)
        names += [f"{side} {'cut' if edge[0].is_cut else 'edge'}"] * len(edge)
        numbers += [number] * len(edge)
    return tuple(names), tuple(numbers)


def _turns(before: _Stretch, after: _Stretch) -> bool:
    a, b = before.stop - before.start, after.stop - after.start
    return bool(a @ b < CORNER * np.linalg.norm(a) * np.linalg.norm(b))
