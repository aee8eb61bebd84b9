"""How much to mix: area and coats to drops, ml, parts and cost."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import reduce

from chalkreel.core.colour.kinds import DROP_ML
from chalkreel.core.colour.paint import Paint
from chalkreel.core.errors import RefusedError

# One ml of airbrushed paint covers about 90 cm² a coat; cup, needle and overspray keep a share and a rest.
COVERAGE_CM2_PER_ML = 90.0
LOSS_SHARE = 0.3
LOSS_ML = 1.0
TOUCH_UP_ML = 1.0


@dataclass(frozen=True)
class Habits:
    """How a modeller sprays: cover of 1 ml a coat, share lost, thinner to one part of paint, what to keep."""

    coverage_cm2_per_ml: float = COVERAGE_CM2_PER_ML
    loss_share: float = LOSS_SHARE
    thinner_parts: float = 1.0
    touch_up_ml: float = TOUCH_UP_ML


@dataclass(frozen=True)
class Amount:
    """One paint of a batch: whole drops, ml, smallest whole parts, share of the paint in percent."""

    name: str
    drops: int
    millilitres: float
    parts: int
    percent: float


@dataclass(frozen=True)
class Batch:
    """Paint before thinning, as whole repeats of the recipe; `cost` in the shelf's own currency."""

    millilitres: float
    thinned_ml: float
    repeats: int
    amounts: tuple[Amount, ...]
    cost: float
    short: tuple[str, ...]


def batch_for(
    area_cm2: float, coats: int, drops: tuple[tuple[str, int], ...], shelf: tuple[Paint, ...], habits: Habits = Habits()
) -> Batch:
    """Enough for all coats, the losses and a touch-up remainder, as a whole multiple of the recipe.

    `short` names the paints of which the shelf holds too little.

    Raises
    ------
    RefusedError
        No area, no coat, an empty recipe, or habits that leave nothing.
    """
    total = sum(count for _, count in drops)
    if not (0 < area_cm2 <= 1e6 and 1 <= coats <= 20 and total > 0):
        raise RefusedError("A batch needs an area above zero, 1 to 20 coats and a recipe.")
    if not (5 <= habits.coverage_cm2_per_ml <= 1000 and 0 <= habits.loss_share <= 0.9):
        raise RefusedError("1 ml covers 5 to 1000 cm² a coat, and at most nine tenths are lost.")
    bottles = {p.name: p for p in shelf}
    drop_ml = {name: bottles[name].drop_ml if name in bottles else DROP_ML for name, _ in drops}
    once = sum(count * drop_ml[name] for name, count in drops)
    wanted = area_cm2 * coats / habits.coverage_cm2_per_ml / (1 - habits.loss_share) + LOSS_ML + habits.touch_up_ml
    repeats = math.ceil(wanted / once)
    common = reduce(math.gcd, (count for _, count in drops))
    amounts = tuple(
        Amount(
            name, count * repeats, count * repeats * drop_ml[name], count // common, 100 * count * drop_ml[name] / once
        )
        for name, count in drops
    )
    millilitres = repeats * once
    cost = sum(a.millilitres * bottles[a.name].price_per_ml for a in amounts if a.name in bottles)
    short = tuple(a.name for a in amounts if _short(bottles.get(a.name), a.millilitres))
    return Batch(millilitres, millilitres * (1 + habits.thinner_parts), repeats, amounts, cost, short)


def _short(paint: Paint | None, millilitres: float) -> bool:
    return paint is not None and paint.ml_left is not None and paint.ml_left < millilitres
