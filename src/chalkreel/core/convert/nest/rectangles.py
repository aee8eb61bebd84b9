"""Pieces laid out by their frames on rectangular sheets: for straight cuts, and quick for everything.

Maximal rectangles, skylines and guillotine splits (Jylänki 2010, "A thousand ways to pack the bin") in random order;
the last sheet is made shorter as long as everything still finds room.
"""

from __future__ import annotations

import math
import random
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Final

from chalkreel.core.convert.nest.cuts import straight_cuts
from chalkreel.core.convert.nest.pieces import Laid, Layout, Piece, StockSheet, put, signed_area

# Sizes are whole hundredths of a mm, so that what just fits does.
UNIT: Final = 100
# How far the order is stirred, as a share of each piece's size.
STIR: Final = (0.0, 0.1, 0.3, 0.8)


@dataclass(frozen=True)
class _Frame:
    """One piece in hand: its frame with the cut round it, in whole units; `fixed` keeps it along the grain."""

    piece: Piece
    width: int
    height: int
    fixed: bool


@dataclass(frozen=True)
class _Lain:
    """A frame on a sheet, in whole units."""

    field: int
    x: int
    y: int
    frame: _Frame
    turned: bool


def layouts(
    pieces: tuple[Piece, ...], sheets: tuple[StockSheet, ...], kerf_mm: float, straight: bool, seed: int = 1
) -> Iterator[Layout]:
    """Ever better layouts, one for each round that was made: the best so far again where a round found no better.

    With `straight` only such as come apart by cuts from edge to edge. Sheets of other shapes are left alone.
    """
    rng = random.Random(seed)
    fields = tuple(sheet for sheet in sheets if sheet.is_rectangle for _ in range(sheet.count))
    frames = [
        _Frame(piece, _units(piece.size[0], kerf_mm), _units(piece.size[1], kerf_mm), piece.along_grain)
        for piece in pieces
        for _ in range(piece.count)
    ]
    best = Layout((), tuple(frame.piece.key for frame in frames))
    number = 0
    while True:
        found = _round(frames, fields, best, kerf_mm, straight, rng, number)
        if found is not None and (number == 0 or found.price < best.price):
            best = found
        number += 1
        yield best


def _units(mm: float, kerf_mm: float) -> int:
    return math.ceil((mm + kerf_mm) * UNIT - 1e-6)


def _round(
    frames: list[_Frame], fields: tuple[StockSheet, ...], best: Layout, kerf_mm: float, straight: bool,
    rng: random.Random, number: int,
) -> Layout | None:  # fmt: skip
    """One attempt in an order of its own; every other one on a last sheet that is shorter than the best so far."""
    stir = STIR[number % len(STIR)]
    by = rng.choice(("long", "area", "height")) if number else "long"
    order = sorted(frames, key=lambda f: -_size(f, by) * (1 + stir * rng.uniform(-1, 1)))
    if number % 3 and best.laid and not best.unplaced:
        fields = tuple(laid.sheet for laid in best.laid)
    bins = [(_floor(s.size[0], kerf_mm), _floor(s.size[1], kerf_mm)) for s in fields]
    if number % 3 and best.laid and not best.unplaced:
        bins = _squeezed(bins, best, kerf_mm, rng)
    found = _layout(_packed(order, bins, fields, straight, rng), order, fields)
    return None if straight and not _comes_apart(found) else found


def _size(frame: _Frame, by: str) -> float:
    if by == "area":
        return float(frame.width * frame.height)
    return float(frame.height if by == "height" else max(frame.width, frame.height))


def _floor(mm: float, kerf_mm: float) -> int:
    return math.floor((mm + kerf_mm) * UNIT + 1e-6)


def _squeezed(bins: list[tuple[int, int]], best: Layout, kerf_mm: float, rng: random.Random) -> list[tuple[int, int]]:
    """The same sheets, the last only as long as is used so far, less a little."""
    last = best.laid[-1]
    right = _units(max(x for p in last.placed for x, _ in p.outline), kerf_mm)
    top = _units(max(y for p in last.placed for _, y in p.outline), kerf_mm)
    width, height = bins[-1]
    less = 1 + int(rng.choice((0.0, 0.01, 0.04)) * min(width, height))
    along = rng.random() < 0.5 if right < width and top < height else right * height < top * width
    # Of a single small piece there is nothing left to take away.
    return [*bins[:-1], (max(1, right - less), height) if along else (width, max(1, top - less))]


def _packed(
    order: list[_Frame], bins: list[tuple[int, int]], fields: tuple[StockSheet, ...], straight: bool, rng: random.Random
) -> list[_Lain]:
    """Each piece in turn on the first sheet that has room for it."""
    # Loaded with the first list: it is not needed to open a window.
    from rectpack import guillotine, maxrects, skyline  # noqa: PLC0415

    kinds: tuple[Any, ...] = (
        guillotine.GuillotineBssfSas,
        guillotine.GuillotineBafMinas,
        guillotine.GuillotineBlsfLlas,
    )
    if not straight:
        kinds = (maxrects.MaxRectsBssf, maxrects.MaxRectsBl, maxrects.MaxRectsBaf, maxrects.MaxRectsBlsf,
                 skyline.SkylineMwfl, skyline.SkylineBlWm)  # fmt: skip
    kind = rng.choice(kinds)
    open_bins = [kind(width, height) for width, height in bins]
    found = []
    for frame in order:
        for at, room in enumerate(open_bins):
            room.rot = not (frame.fixed and fields[at].grained)
            lain = room.add_rect(frame.width, frame.height)
            if lain is not None:
                found.append(_Lain(at, lain.x, lain.y, frame, lain.width != frame.width))
                break
    return found


def _layout(found: list[_Lain], order: list[_Frame], fields: tuple[StockSheet, ...]) -> Layout:
    """The sheets that were used, the fullest first, so that the last one is that of which most is left."""
    by_field: dict[int, list[_Lain]] = {}
    for lain in found:
        by_field.setdefault(lain.field, []).append(lain)
    laid = [
        Laid(fields[at], tuple(put(n.frame.piece, n.x / UNIT, n.y / UNIT, 90.0 * n.turned) for n in on))
        for at, on in by_field.items()
    ]
    laid.sort(key=lambda one: (not one.sheet.offcut, -sum(abs(signed_area(p.outline)) for p in one.placed)))
    lost = Counter(frame.piece.key for frame in order) - Counter(lain.frame.piece.key for lain in found)
    return Layout(tuple(laid), tuple(lost.elements()))


def _comes_apart(layout: Layout) -> bool:
    return all(straight_cuts(laid) is not None for laid in layout.laid)
