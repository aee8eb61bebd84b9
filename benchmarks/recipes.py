"""Recipes from shelves of 60, 150 and 400 paints: seconds for a first look and for the whole, and memory.

Run: `python -m benchmarks.recipes`
"""

from __future__ import annotations

import resource
import time

from tests.core.colour.test_recipes import typed_shelf

from chalkreel.core.colour.recipe import find_recipes


def main() -> None:
    for count in (60, 150, 400):
        shelf = typed_shelf(count, 3)
        begun = time.perf_counter()
        find_recipes((65.0, -0.6, 9.2), shelf, quick=True)
        middle = time.perf_counter()
        best = min(r.delta_e for r in find_recipes((65.0, -0.6, 9.2), shelf))
        megabytes = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        took = f"{middle - begun:.2f} s, all {time.perf_counter() - middle:.2f} s"
        print(f"{count} paints: first {took}, best ΔE00 {best:.2f}, {megabytes:.0f} MB")


if __name__ == "__main__":
    main()
