"""The slow parts of the core against a plain way of doing the same. Run: python -m benchmarks.core"""

from __future__ import annotations

import itertools
import time
from collections.abc import Callable

import numpy as np

from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.joint import joint_colours
from chalkreel.core.colour.joint_values import Known, Seen
from chalkreel.core.colour.kubelka_munk import mix_reflectance
from chalkreel.core.colour.paint import Paint
from chalkreel.core.colour.recipe import Limits, find_recipes
from chalkreel.core.colour.sampling import box, sample_region
from chalkreel.core.colour.spectra import xyz_of_reflectance
from chalkreel.core.colour.still_light import BRADFORD, RGB_TO_CONES
from chalkreel.core.colour.surface_terms import seen
from chalkreel.core.measure.marks import Mark, Segment
from chalkreel.core.measure.plane import PlaneRuler, SquaredUp, measure_plane
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
        lab = lab_of_xyz(xyz_of_reflectance(seen(mix_reflectance(drops, k, s), "matte")))
        best = min(best, float(delta_e_2000(lab, np.array(TARGET)).min()))
    return best


def recipes() -> None:
    rng = np.random.default_rng(0)
    shelf = [Paint(p.name, np.array(p.absorption), np.array(p.scattering)) for p in bench_range()]
    while len(shelf) < 60:
        one, other = (shelf[i] for i in rng.choice(18, 2, replace=False))
        share, strength = rng.uniform(0.1, 0.9), np.exp(rng.normal(0, 0.5))
        mixed = (share * a + (1 - share) * b for a, b in zip(
            (one.absorption, one.scattering), (other.absorption, other.scattering), strict=True))  # fmt: skip
        shelf.append(Paint(f"mix {len(shelf)}", *(strength * m for m in mixed)))
    sixty = tuple(shelf)
    whole = timed(lambda: find_recipes(TARGET, sixty))
    quick = timed(lambda: find_recipes(TARGET, sixty, quick=True))
    print(f"recipe of up to 4 of 60 paints, 24 drops: {whole:.2f} s; first answer after {1000 * quick:.0f} ms")
    few = sixty[:18]
    ours = timed(lambda: find_recipes(TARGET, few, Limits(paints=3)))
    rival = timed(lambda: exhaustive_triples(few, 24), 1)
    best = min(r.delta_e for r in find_recipes(TARGET, few, Limits(paints=3)))
    print(f"  up to 3 of 18: {ours:.2f} s, ΔE00 {best:.2f}; all triples exhaustively {rival / ours:.0f} times as long, "
          f"ΔE00 {exhaustive_triples(few, 24):.2f}")  # fmt: skip


def together() -> None:
    rng = np.random.default_rng(0)
    surfaces, lights = rng.normal(-1.5, 0.5, (60, 3)), rng.normal(0, 0.5, (30, 3))
    to_rgb = np.linalg.inv(RGB_TO_CONES)
    samples = tuple(
        Seen(m, n, to_rgb @ np.exp(surfaces[n] + lights[m] + rng.normal(0, 0.2) + rng.normal(0, 0.03, 3)),
             np.eye(3) * 1e-4)
        for m in range(30) for n in range(60)
    )  # fmt: skip
    known = (Known(0, np.linalg.inv(BRADFORD) @ np.exp(surfaces[0])),)
    print(f"30 stills × 60 surfaces together: {1000 * timed(lambda: joint_colours(samples, known, 30, 60)):.0f} ms")


def main() -> None:
    recipes()
    together()
    corners = tuple(Mark(x, y) for x, y in ((100, 100), (900, 130), (880, 600), (120, 580)))
    wanted = tuple(Segment(Mark(200 + n, 200), Mark(500, 300 + n)) for n in range(30))
    view = SquaredUp((corners[0], corners[1], corners[2], corners[3]), 200.0, 1.0, 120.0, 1.0)
    ruler = PlaneRuler("r", Segment(Mark(150, 500), Mark(800, 500)), 160.0, 1.0)
    print(
        f"one plane with 30 sizes and covariance: {1000 * timed(lambda: measure_plane(view, (ruler,), wanted)):.1f} ms"
    )
    large = np.zeros((4000, 6000, 3), np.uint8)
    print(f"pyramid of 24 megapixels: {1000 * timed(lambda: halvings(large)):.0f} ms")
    patch = timed(lambda: sample_region(Picture(large), box(0, 0, 500, 500)))
    print(f"sampling a patch of 500 × 500: {1000 * patch:.1f} ms")


if __name__ == "__main__":
    main()
