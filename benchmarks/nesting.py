"""How much sheet and bar the cut list wastes, on lists made here: python -m benchmarks.nesting [seconds …].

Rectangles: parts of boxes, frames and ribs (eight lists). Outlines: fins, ribs, panes and rings in mirrored pairs (six
lists). Lengths: rails, rungs and braces (six lists). Shelves of frames, the tallest first, are what to beat.
"""

from __future__ import annotations

import math
import random
import sys
import time
from collections.abc import Iterator

from chalkreel.core.convert.nest import outlines, rectangles
from chalkreel.core.convert.nest.bars import Bar, Length, bars_for
from chalkreel.core.convert.nest.check import faults
from chalkreel.core.convert.nest.pieces import Layout, Piece, Point, StockSheet, rectangle

SHEETS = ((330.0, 200.0), (300.0, 175.0), (250.0, 500.0), (297.0, 210.0), (152.4, 304.8))
KERFS = (0.0, 0.2, 0.3, 0.5)


def rectangle_list(seed: int) -> tuple[tuple[Piece, ...], tuple[StockSheet, ...], float]:
    """Parts of boxes: pairs of sides, ribs, small squares."""
    rng = random.Random(seed)
    pieces = []
    for n in range(rng.randint(4, 16)):
        long, wide = rng.uniform(18, 110), rng.uniform(6, 60)
        pieces.append(Piece(f"r{n}", rectangle(round(long, 1), round(wide, 1)), rng.choice((1, 2, 2, 4, 6))))
    width, height = SHEETS[seed % len(SHEETS)]
    return tuple(pieces), (StockSheet("sheet", rectangle(width, height), 12),), KERFS[seed % len(KERFS)]


def outline_list(seed: int) -> tuple[tuple[Piece, ...], tuple[StockSheet, ...], float]:
    """Raked fins, trapezoids, triangles, discs, L pieces and curved ribs, most of them in pairs."""
    rng = random.Random(1_000 + seed)
    pieces = []
    for n in range(rng.randint(7, 16)):
        a, b = rng.uniform(25, 90), rng.uniform(15, 70)
        kind = rng.choice(("fin", "trapezoid", "triangle", "disc", "corner", "rib"))
        shape: dict[str, tuple[Point, ...]] = {
            "fin": ((0, 0), (a, 0), (a * 1.2, b), (a * 0.7, b)),
            "trapezoid": ((0, 0), (a, 0), (a * 0.8, b), (a * 0.3, b)),
            "triangle": ((0, 0), (a, 0), (rng.uniform(0, a), b)),
            "disc": tuple((a / 2 * math.cos(t / 20 * math.pi), a / 2 * math.sin(t / 20 * math.pi)) for t in range(40)),
            "corner": ((0, 0), (a, 0), (a, b * 0.35), (a * 0.35, b * 0.35), (a * 0.35, b), (0, b)),
            "rib": (*((a * t / 12, 0.3 * b * math.sin(math.pi * t / 12)) for t in range(13)),
                    *((a * (1 - t / 12), b * 0.4 + 0.5 * b * math.sin(math.pi * t / 12)) for t in range(13))),
        }  # fmt: skip
        pieces.append(Piece(f"{kind}{n}", shape[kind], rng.choice((1, 2, 2, 2))))
    width, height = SHEETS[seed % len(SHEETS)]
    return tuple(pieces), (StockSheet("sheet", rectangle(width, height), 12),), KERFS[seed % len(KERFS)]


def length_list(seed: int) -> tuple[tuple[Length, ...], tuple[Bar, ...]]:
    """Rails, braces and rungs."""
    rng = random.Random(2_000 + seed)
    kinds = rng.randint(4, 20)
    lengths = tuple(Length(f"l{n}", round(rng.uniform(9, 160), 1), rng.choice((1, 2, 4, 6, 12))) for n in range(kinds))
    return lengths, (Bar("bar", rng.choice((250.0, 330.0, 355.6, 609.6, 1000.0)), 60),)


def shelves(pieces: tuple[Piece, ...], sheets: tuple[StockSheet, ...], kerf: float) -> float:
    """The waste of frames in rows, the tallest first."""
    width, height = sheets[0].size
    frames = sorted((p.size for p in pieces for _ in range(p.count)), key=lambda s: -s[1])
    full, x, y, row = 0, 0.0, 0.0, 0.0
    for w, h in frames:
        if x + w > width:
            x, y, row = 0.0, y + row + kerf, 0.0
        if y + h > height:
            full, x, y, row = full + 1, 0.0, 0.0, 0.0
        x, row = x + w + kerf, max(row, h)
    taken = full * width * height + (y + row) * width
    return 1 - sum(p.area * p.count for p in pieces) / taken


def within(layouts: Iterator[Layout], seconds: float) -> Layout:
    """The best layout after so long."""
    begun = time.perf_counter()
    for layout in layouts:
        if time.perf_counter() - begun > seconds:
            return layout
    raise AssertionError


def main(argv: list[str]) -> None:
    """Print the waste after so many seconds."""
    seconds = [float(word) for word in argv] or [1.0]
    for name, made, engine in (("rectangles", rectangle_list, lambda p, s, k: rectangles.layouts(p, s, k, False)),
                               ("straight", rectangle_list, lambda p, s, k: rectangles.layouts(p, s, k, True)),
                               ("outlines", outline_list, outlines.layouts)):  # fmt: skip
        for limit in seconds:
            rows = []
            for seed in range(6 if name == "outlines" else 8):
                pieces, sheets, kerf = made(seed)
                layout = within(engine(pieces, sheets, kerf), limit)
                wrong = faults(pieces, sheets, layout, kerf)
                assert not wrong, wrong
                assert not layout.unplaced
                rows.append((shelves(pieces, sheets, kerf), layout.waste, sum(p.count for p in pieces)))
            mean = [100 * sum(row[n] for row in rows) / len(rows) for n in (0, 1)]
            print(f"{name} {limit:g} s: shelves {mean[0]:.1f} %, nested {mean[1]:.1f} %  "
                  + " ".join(f"{100 * r[1]:.0f}({r[2]})" for r in rows))  # fmt: skip
    for seed in range(6):
        lengths, stock = length_list(seed)
        begun = time.perf_counter()
        plan = bars_for(lengths, stock, 0.3)
        took = time.perf_counter() - begun
        print(f"lengths {seed}: {sum(n.count for n in lengths)} pieces, {len(plan.bars)} bars, proved {plan.proved}, "
              f"{took:.2f} s, unplaced {len(plan.unplaced)}")  # fmt: skip


if __name__ == "__main__":
    main(sys.argv[1:])
