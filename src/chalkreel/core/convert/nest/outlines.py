"""Pieces laid out by their true outlines on sheets and offcuts of any shape.

Outlines and sheets are bitmaps; where a piece finds room is read off the correlation of both, and of all places the one
farthest to the lower left is taken (bottom-left fill; Oliveira & Ferreira 1993, "Algorithms for nesting problems").
A cell counts as taken as soon as a piece touches it, so that what fits on the bitmap fits in truth.
"""

from __future__ import annotations

import math
import random
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Final

import cv2
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.convert.nest.pieces import Laid, Layout, Piece, Point, StockSheet, put, signed_area, turned

# Cells of the first rounds and of the later ones, mm; larger sheets get larger cells.
COARSE_MM: Final = 1.0
FINE_MM: Final = 0.5
MOST_CELLS: Final = 400_000
# A cell is looked at in so many parts each way; a line drawn EDGE parts wide leaves out none that it touches.
FINER: Final = 8
EDGE: Final = 3
# So many rounds are made on coarse cells before the best orders are tried on fine ones.
COARSE_ROUNDS: Final = 8
# What a correlation must stay below to count as free, in cells.
FREE: Final = 0.5


@dataclass(frozen=True)
class _Pose:
    """A piece turned and turned over, as cells that it takes."""

    turn: float
    over: bool
    cells: Array


@dataclass(frozen=True)
class _Bitmaps:
    """Pieces and sheets as cells of one size, made once each."""

    kerf_mm: float
    cell: float
    poses: dict[tuple[Piece, bool, bool], tuple[_Pose, ...]] = field(default_factory=dict)
    taken: dict[tuple[Point, ...], Array] = field(default_factory=dict)

    def poses_of(self, piece: Piece, sheet: StockSheet) -> tuple[_Pose, ...]:
        """How a piece may lie on a sheet."""
        key = (piece, sheet.grained, sheet.one_face)
        if key not in self.poses:
            self.poses[key] = tuple(
                _Pose(turn, over, _piece_cells(turned(piece.outline, turn, over), self.kerf_mm, self.cell))
                for turn, over in ways(piece, sheet)
            )
        return self.poses[key]

    def of_sheet(self, sheet: StockSheet) -> Array:
        """What is taken of a sheet before the first piece."""
        if sheet.outline not in self.taken:
            self.taken[sheet.outline] = _sheet_cells(sheet.outline, self.kerf_mm, self.cell)
        return self.taken[sheet.outline].copy()


def layouts(
    pieces: tuple[Piece, ...], sheets: tuple[StockSheet, ...], kerf_mm: float, seed: int = 1
) -> Iterator[Layout]:
    """Ever better layouts, one for each round that was made: the best so far again where a round found no better."""
    rng = random.Random(seed)
    fields = tuple(sheet for sheet in sheets for _ in range(sheet.count))
    one_each = [piece for piece in pieces for _ in range(piece.count)]
    order = sorted(one_each, key=lambda p: (-max(p.size), -p.area))
    best, best_order, number = Layout((), tuple(p.key for p in one_each)), order, 0
    largest = max((s.size[0] * s.size[1] for s in fields), default=1.0)
    coarse, fine = (_Bitmaps(kerf_mm, max(mm, math.sqrt(largest / MOST_CELLS))) for mm in (COARSE_MM, FINE_MM))
    while True:
        bitmaps = fine if number >= COARSE_ROUNDS and number % 2 == 0 else coarse
        tried = order if number == 0 else _stirred(best_order, rng) if number % 4 else _by_area(one_each, rng)
        found = _round(tried, fields, bitmaps)
        if number == 0 or found.price < best.price:
            best, best_order = found, tried
        number += 1
        yield best


def _by_area(pieces: list[Piece], rng: random.Random) -> list[Piece]:
    return sorted(pieces, key=lambda p: -p.area * (1 + 0.3 * rng.uniform(-1, 1)))


def _stirred(order: list[Piece], rng: random.Random) -> list[Piece]:
    """The same with a few pieces taken earlier or later."""
    found = list(order)
    for _ in range(1 + rng.randrange(3)):
        found.insert(rng.randrange(len(found)), found.pop(rng.randrange(len(found))))
    return found


def _round(order: list[Piece], fields: tuple[StockSheet, ...], bitmaps: _Bitmaps) -> Layout:
    """Each piece in turn on the first sheet that has room for it."""
    # Bitmaps of sheets are made as they are needed: of many that are owned, few are cut.
    taken: dict[int, Array] = {}
    laid: list[list[tuple[Piece, _Pose, int, int]]] = [[] for _ in fields]
    lost: list[Piece] = []
    # Once a piece found no room on a sheet, the next of its kind need not be tried there.
    full: set[tuple[str, int]] = set()
    for piece in order:
        for at, sheet in enumerate(fields):
            if (piece.key, at) in full:
                continue
            if at not in taken:
                taken[at] = bitmaps.of_sheet(sheet)
            place = _place(bitmaps.poses_of(piece, sheet), taken[at])
            if place is not None:
                pose, x, y = place
                height, width = pose.cells.shape
                under = taken[at][y : y + height, x : x + width]
                np.maximum(under, pose.cells, out=under)
                laid[at].append((piece, pose, x, y))
                break
            full.add((piece.key, at))
        else:
            lost.append(piece)
    return _layout(fields, laid, lost, bitmaps.cell)


def _layout(
    fields: tuple[StockSheet, ...], laid: list[list[tuple[Piece, _Pose, int, int]]], lost: list[Piece], cell: float
) -> Layout:
    found = [
        Laid(sheet, tuple(put(p, x * cell, y * cell, pose.turn, pose.over) for p, pose, x, y in on))
        for sheet, on in zip(fields, laid, strict=True)
        if on
    ]
    found.sort(key=lambda one: (not one.sheet.offcut, -sum(abs(signed_area(p.outline)) for p in one.placed)))
    return Layout(tuple(found), tuple(Counter(p.key for p in lost).elements()))


def _place(poses: tuple[_Pose, ...], bitmap: Array) -> tuple[_Pose, int, int] | None:
    """The pose and cell of a piece that lies farthest to the left, then lowest."""
    best: tuple[int, _Pose, int, int] | None = None
    rows = bitmap.shape[0]
    for pose in poses:
        height, width = pose.cells.shape
        if height > rows or width > bitmap.shape[1]:
            continue
        overlap = cv2.matchTemplate(bitmap, pose.cells, cv2.TM_CCORR)
        free = np.flatnonzero(overlap.T.ravel() < FREE)
        if len(free):
            x, y = divmod(int(free[0]), overlap.shape[0])
            far = (x + width) * rows + y + height
            if best is None or far < best[0]:
                best = (far, pose, x, y)
    return None if best is None else best[1:]


def ways(piece: Piece, sheet: StockSheet) -> tuple[tuple[float, bool], ...]:
    """How a piece may lie on a sheet: turns in degrees, and whether it is turned over."""
    turns = [0.0, 180.0] if piece.along_grain and sheet.grained else [0.0, 90.0, 180.0, 270.0]
    if not (piece.along_grain and sheet.grained):
        level = _level(piece.outline)
        turns += [(turn + level) % 360 for turn in turns if level]
    overs = (False,) if sheet.one_face else (False, True)
    seen: dict[tuple[Point, ...], tuple[float, bool]] = {}
    for over in overs:
        for turn in turns:
            lies = tuple(sorted((round(x, 3), round(y, 3)) for x, y in turned(piece.outline, turn, over)))
            seen.setdefault(lies, (turn, over))
    return tuple(seen.values())


def _level(outline: tuple[Point, ...]) -> float:
    """The turn that lays the longest edge level, where that is another than a right angle."""
    after = (*outline[1:], outline[0])
    a, b = max(zip(outline, after, strict=True), key=lambda e: math.dist(*e))
    lean = math.degrees(math.atan2(b[1] - a[1], b[0] - a[0])) % 90
    return 0.0 if min(lean, 90 - lean) < 0.5 else -lean


def _piece_cells(outline: tuple[Point, ...], kerf_mm: float, cell: float) -> Array:
    """The cells a piece touches, with half the cut round it."""
    points = np.array(outline)
    size = np.ceil((points.max(axis=0) + kerf_mm) / cell - 1e-6).astype(int)
    fine = np.zeros((size[1] * FINER, size[0] * FINER), np.uint8)
    _fill(fine, (points + kerf_mm / 2) * FINER / cell, kerf_mm * FINER / cell)
    touched = fine.reshape(size[1], FINER, size[0], FINER).max(axis=(1, 3))
    return np.asarray(touched.astype(np.float32))


def _fill(image: Array, points: Array, thick: float) -> None:
    """An outline filled, and its edge drawn `thick` wide: every small cell that it touches."""
    scaled = [np.round((points - 0.5) * 256).astype(np.int32).reshape(-1, 1, 2)]
    cv2.fillPoly(image, scaled, 1, lineType=cv2.LINE_8, shift=8)
    cv2.polylines(image, scaled, True, 1, thickness=EDGE + math.ceil(thick), lineType=cv2.LINE_8, shift=8)


def _sheet_cells(outline: tuple[Point, ...], kerf_mm: float, cell: float) -> Array:
    """What cannot be used of a sheet's frame: 1 where a cell is not wholly inside. The outer half of a cut may lie
    beside it."""
    points = np.array(outline)
    width, height = np.floor((points.max(axis=0) + kerf_mm) / cell + 1e-6).astype(int)
    if abs(signed_area(outline)) >= (1 - 1e-6) * float(np.prod(points.max(axis=0))):
        return np.zeros((height, width), np.float32)
    fine = np.zeros((height * FINER, width * FINER), np.uint8)
    scaled = [np.round(((points + kerf_mm / 2) * FINER / cell - 0.5) * 256).astype(np.int32).reshape(-1, 1, 2)]
    cv2.fillPoly(fine, scaled, 1, lineType=cv2.LINE_8, shift=8)
    cv2.polylines(fine, scaled, True, 0, thickness=EDGE, lineType=cv2.LINE_8, shift=8)
    inside = fine.reshape(height, FINER, width, FINER).min(axis=(1, 3))
    return np.asarray((1 - inside).astype(np.float32))
