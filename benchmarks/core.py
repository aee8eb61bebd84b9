"""The slow parts of the core against a plain way of doing the same. Run: python -m benchmarks.core"""

from __future__ import annotations

import itertools
import time
from collections.abc import Callable

import numpy as np

from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kubelka_munk import mix_reflectance
from chalkreel.core.colour.recipe import Paint, find_recipes
from chalkreel.core.colour.sampling import Patch, sample_patch
from chalkreel.core.colour.spectra import xyz_of_reflectance
from chalkreel.core.measure.marks import Mark, Segment
from chalkreel.core.measure.plane import Ruler, SquaredUp, measure_plane
from chalkreel.core.media.picture import Picture
from chalkreel.core.media.pyramid import halvings
from chalkreel.demo.evidence import bench_range

TARGET = (65.0, -0.6, 9.2)


def timed(work: Callable[[], object], repeats: int = 5) -> float:
    best = np.inf
    for _ in range(repeats):
        started = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - started)
    return float(best)


def exhaustive_triples(shelf: tuple[Paint, ...], most: int) -> float:
    drops = np.array([d for d in itertools.product(range(1, most + 1), repeat=3) if sum(d) <= most], float)
    best = np.inf
    for paints in itertools.combinations(shelf, 3):
        k, s = np.stack([p.absorption for p in paints]), np.stack([p.scattering for p in paints])
        lab = lab_of_xyz(xyz_of_reflectance(mix_reflectance(drops, k, s)))
        best = min(best, float(delta_e_2000(lab, np.array(TARGET)).min()))
    return best


def main() -> None:
    shelf = tuple(Paint(p.name, np.array(p.absorption), np.array(p.scattering)) for p in bench_range())
    beam = timed(lambda: find_recipes(TARGET, shelf))
    whole = timed(lambda: exhaustive_triples(shelf, 24), 1)
    print(f"recipe of up to 4 of 18 paints, 24 drops: {beam:.2f} s")
    print(f"  all triples alone, exhaustively: {whole:.1f} s ({whole / beam:.0f} times as long)")
    corners = tuple(Mark(x, y) for x, y in ((100, 100), (900, 130), (880, 600), (120, 580)))
    wanted = tuple(Segment(Mark(200 + n, 200), Mark(500, 300 + n)) for n in range(30))
    view = SquaredUp((corners[0], corners[1], corners[2], corners[3]), 200.0, 1.0, 120.0, 1.0)
    ruler = Ruler("r", Segment(Mark(150, 500), Mark(800, 500)), 160.0, 1.0)
    print(
        f"one plane with 30 sizes and covariance: {1000 * timed(lambda: measure_plane(view, (ruler,), wanted)):.1f} ms"
    )
    large = np.zeros((4000, 6000, 3), np.uint8)
    print(f"pyramid of 24 megapixels: {1000 * timed(lambda: halvings(large)):.0f} ms")
    patch = timed(lambda: sample_patch(Picture(large), Patch(0, 0, 500, 500)))
    print(f"sampling a patch of 500 × 500: {1000 * patch:.1f} ms")


if __name__ == "__main__":
    main()
