"""Whether a layout can be cut: every piece there, inside its sheet, clear of the others by the cut, lying as it may."""

from __future__ import annotations

from collections import Counter
from typing import Final

from chalkreel.core.convert.nest.pieces import Layout, Piece, StockSheet

# What a drawing is true to, mm.
LEAST: Final = 0.01


def faults(
    pieces: tuple[Piece, ...], sheets: tuple[StockSheet, ...], layout: Layout, kerf_mm: float
) -> tuple[str, ...]:
    """What is wrong with a layout, in words; nothing where it can be cut as it is."""
    # Loaded with the first list: it is not needed to open a window.
    from shapely import Polygon, STRtree  # noqa: PLC0415

    found: list[str] = []
    asked = Counter({piece.key: piece.count for piece in pieces})
    there = Counter([p.piece for laid in layout.laid for p in laid.placed]) + Counter(layout.unplaced)
    found += [f"{key} is there {there[key]} times instead of {asked[key]}" for key in asked | there
              if asked[key] != there[key]]  # fmt: skip
    used = Counter(laid.sheet.key for laid in layout.laid)
    owned = {sheet.key: sheet.count for sheet in sheets}
    found += [f"{many} of {key} are cut, {owned.get(key, 0)} are there" for key, many in used.items()
              if many > owned.get(key, 0)]  # fmt: skip
    along = {piece.key for piece in pieces if piece.along_grain}
    for laid in layout.laid:
        field = Polygon(laid.sheet.outline).buffer(LEAST)
        shapes = [Polygon(p.outline) for p in laid.placed]
        found += [f"{p.piece} reaches over the edge of {laid.sheet.key}"
                  for p, shape in zip(laid.placed, shapes, strict=True) if not field.covers(shape)]  # fmt: skip
        found += [f"{p.piece} lies across the grain" for p in laid.placed
                  if laid.sheet.grained and p.piece in along and p.turn % 180]  # fmt: skip
        found += [f"{p.piece} shows its wrong face" for p in laid.placed if laid.sheet.one_face and p.over]
        pairs = STRtree(shapes).query(shapes, predicate="dwithin", distance=max(kerf_mm - LEAST, 0.0)).T
        for a, b in pairs:
            near = a < b and (kerf_mm > LEAST or shapes[a].intersection(shapes[b]).area > LEAST)
            if near:
                found.append(f"{laid.placed[a].piece} and {laid.placed[b].piece} are too near each other")
    return tuple(found)
