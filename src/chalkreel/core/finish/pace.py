"""How long steps take this modeller: the table's minutes, moved by what the log says they took.

Durations are log-normal. Each kind begins at the table's minutes with the weight of four steps; a pace that all kinds
share begins at one with the same weight (conjugate normal means on log minutes).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from math import exp, log

PRIOR_WEIGHT = 4.0
# A log of a minute or of a whole day for a usual step is a slip of the pen.
LEAST_RATIO, MOST_RATIO = 0.2, 5.0
# A smaller change than this is not worth odd minutes.
LEAST_CHANGE = 0.1


def minutes_at(minutes: int, pace: float) -> int:
    """The table's minutes at a pace, in fives; as they are where the pace hardly differs."""
    return minutes if abs(pace - 1) < LEAST_CHANGE else max(5, 5 * round(minutes * pace / 5))


@dataclass(frozen=True)
class Took:
    """What a step of a kind was planned for, and what it took, in minutes."""

    kind: str
    planned: float
    real: float


def paces(logged: Iterable[Took]) -> tuple[float, dict[str, float]]:
    """Factors on the table's minutes: for kinds that were never logged, and for each that was."""
    ratios: dict[str, list[float]] = defaultdict(list)
    for took in logged:
        ratio = took.real / took.planned
        if LEAST_RATIO <= ratio <= MOST_RATIO:
            ratios[took.kind].append(log(ratio))
    every = [ratio for found in ratios.values() for ratio in found]
    shared = sum(every) / (PRIOR_WEIGHT + len(every))
    return exp(shared), {
        kind: exp((PRIOR_WEIGHT * shared + sum(found)) / (PRIOR_WEIGHT + len(found))) for kind, found in ratios.items()
    }
