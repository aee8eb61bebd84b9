"""How much to mix: area and coats to drops."""

from __future__ import annotations

import math
from dataclasses import dataclass

from chalkreel.core.errors import RefusedError

# One ml of airbrushed acrylic covers about 90 cm² a coat; cup, needle and overspray keep a share and a rest.
COVERAGE_CM2_PER_ML = 90.0
LOSS_SHARE = 0.3
LOSS_ML = 1.0
TOUCH_UP_ML = 1.0
DROP_ML = 0.05


@dataclass(frozen=True)
class Batch:
    """Paint before thinning, as whole repeats of the recipe."""

    millilitres: float
    repeats: int
    drops: tuple[tuple[str, int], ...]


def batch_for(area_cm2: float, coats: int, drops: tuple[tuple[str, int], ...]) -> Batch:
    """Enough for all coats, the losses and a touch-up remainder, as a whole multiple of the recipe.

    Raises
    ------
    RefusedError
        No area, no coat or an empty recipe.
    """
    total = sum(count for _, count in drops)
    if not (0 < area_cm2 <= 1e6 and 1 <= coats <= 20 and total > 0):
        raise RefusedError("A batch needs an area above zero, 1 to 20 coats and a recipe.")
    wanted = area_cm2 * coats / COVERAGE_CM2_PER_ML / (1 - LOSS_SHARE) + LOSS_ML + TOUCH_UP_ML
    repeats = math.ceil(wanted / (total * DROP_ML))
    return Batch(repeats * total * DROP_ML, repeats, tuple((name, count * repeats) for name, count in drops))
