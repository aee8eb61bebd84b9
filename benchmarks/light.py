"""How long Light takes: fifty lamps with compiling, their run time, three hundred made copies; and what folding saves.

Run: python benchmarks/light.py
"""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

from chalkreel.core.light.cells import supply
from chalkreel.core.light.circuit import Branch, Circuit, LampKind, LampUse, Strand
from chalkreel.core.light.island import island
from chalkreel.core.light.lamps import Point, fit
from chalkreel.core.light.network import LampInRow, Network, Row, Source, Values, values_of
from chalkreel.core.light.operating import solve
from chalkreel.core.light.run_time import run_times

LAMPS = 50


def best_of(work: Callable[[], object], times: int = 7) -> float:
    """The shortest of several runs, ms."""
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        found.append(time.perf_counter() - begun)
    return 1000 * min(found)


def unfolded(row_ohm: float, lamp: LampInRow) -> Network:
    """The same fifty rows with a joint between resistor and lamp."""
    rows = []
    for i in range(LAMPS):
        rows += [Row(1, 2 + i, row_ohm), Row(2 + i, 0, 1e-3, (lamp,))]
    return Network(1 + LAMPS, tuple(rows), (Source(1, 4.8, 0.45),))


def main() -> None:
    """Print the times and ratios."""
    kind = LampKind("w", "w", "white", "0603", fit("white", "0603", (Point(3.05, 20.0),)), 5.0)
    branches = tuple(Branch(str(i), "b", (Strand((LampUse("w"),)),), 220.0 + i) for i in range(LAMPS))
    circuit = Circuit((("main", supply("AA cells", 3)),), (kind,), branches)
    part = island(circuit, "main")
    base = values_of(part.network)
    rng = np.random.default_rng(1)
    copies = Values(
        base.saturation * np.exp(rng.normal(0, 0.5, (300, LAMPS))), base.n, base.lamp_ohm, base.row_ohm, base.volts,
        base.source_ohm,
    )  # fmt: skip
    whole = best_of(lambda: solve((p := island(circuit, "main")).network, p.values(), p.shape))
    plain = unfolded(220.0, LampInRow(kind.curve))
    print(f"{LAMPS} lamps with compiling {whole:.1f} ms (at most 5 asked)")
    print(f"run time {best_of(lambda: run_times(circuit)):.1f} ms (20)")
    print(f"300 copies {best_of(lambda: solve(part.network, copies, part.shape), 3):.0f} ms (150)")
    folded = best_of(lambda: solve(part.network, None, part.shape))
    print(f"without folding {best_of(lambda: solve(plain)) / folded:.1f} times as long")


if __name__ == "__main__":
    main()
