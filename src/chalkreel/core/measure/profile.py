"""Errors where straight-line error propagation lies: the focal length is stepped and everything else solved again.

Few stills leave the focal length open, and sizes bend with it; the interval then comes from all focal lengths that
fit the marks about as well as the best one.

Reference: Venzon & Moolgavkar, "A Method for Computing Profile-Likelihood-Based Confidence Intervals", 1988.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.measure.quantities import Angle, Measured, Quantity, measure
from chalkreel.core.measure.solver.layout import FOCAL, LENS
from chalkreel.core.measure.solver.normal import LOG_FOCAL_SIGMA, Equations
from chalkreel.core.measure.solver.solve import Solution, solve
from chalkreel.core.measure.solver.spread import Spread

# Focal lengths known better than this need no profile: sizes are straight in them over so small a range.
STRAIGHT = 0.08
# Known no better than this share of what was believed before any mark: the marks say nothing of it.
OPEN_SHARE = 0.5
REACH, STEPS = 2.2, 7
CHI_SQUARE_95 = 3.84
PROFILE_STEPS = 30


@dataclass(frozen=True, eq=False)
class FocalDoubt:
    """How well the worst known lens is known: its views, relative σ of its focal length, and whether it is open."""

    views: tuple[str, ...]
    sigma: float
    open: bool


def focal_doubt(solution: Solution, spread: Spread) -> FocalDoubt:
    """The lens whose focal length is known worst."""
    sigma = _focal_sigma(solution, spread)
    lens = int(np.argmax(sigma))
    views = tuple(
        v.key for v, row in zip(solution.scene.views, solution.layout.lens_of_view, strict=True) if row == lens
    )
    return FocalDoubt(views, float(sigma[lens]), bool(sigma[lens] > OPEN_SHARE * LOG_FOCAL_SIGMA))


def _focal_sigma(solution: Solution, spread: Spread) -> Array:
    layout = solution.layout
    slopes = np.zeros((layout.offsets["end"], len(layout.lenses)))
    for lens in range(len(layout.lenses)):
        slopes[layout.offsets["lenses"] + LENS * lens + FOCAL, lens] = 1.0
    factors = spread.factors(slopes, np.zeros((layout.block_count, 3, len(layout.lenses))))
    return np.asarray(np.linalg.norm(factors, axis=0))


def measured_with_profile(
    solution: Solution,
    spread: Spread,
    wanted: tuple[Quantity, ...],
    progress: Callable[[float], bool] = lambda _: True,
) -> tuple[Measured, ...]:
    """As `measure`, with errors widened to the focal lengths that also fit where the marks leave it open."""
    plain = measure(solution, spread, wanted)
    sigma = _focal_sigma(solution, spread)
    lens = int(np.argmax(sigma))
    # Marks that scatter for another reason say nothing of the lens.
    if sigma[lens] <= STRAIGHT * spread.widened or not wanted:
        return plain
    low = high = np.array([m.value for m in plain])
    reach = REACH * min(float(sigma[lens]), LOG_FOCAL_SIGMA)
    for sign in (-1.0, 1.0):
        at = solution
        for share in np.linspace(0, 1, STEPS + 1)[1:]:
            found = _at_focal(at, lens, solution, sign * reach * float(share), progress)
            if found is None:
                break
            at, narrow = found
            if 2.0 * (at.cost - solution.cost) > CHI_SQUARE_95 * spread.widened**2:
                break
            there = measure(at, narrow, wanted)
            low = np.minimum(low, [m.value - NORMAL_95 * m.sigma for m in there])
            high = np.maximum(high, [m.value + NORMAL_95 * m.sigma for m in there])
    return tuple(
        _widened(m, q, max(m.value - lo, hi - m.value) / NORMAL_95)
        for m, q, lo, hi in zip(plain, wanted, low, high, strict=True)
    )


def _at_focal(
    at: Solution, lens: int, best: Solution, shift: float, progress: Callable[[float], bool]
) -> tuple[Solution, Spread] | None:
    """Everything else solved again with one focal length held at a distance (in log) from the best."""
    layout = best.layout
    equations = Equations(layout)
    active = layout.active.copy()
    active[layout.offsets["lenses"] + LENS * lens + FOCAL] = False
    equations.use(active)
    lenses = at.unknowns.lenses.copy()
    lenses[lens, FOCAL] = best.unknowns.lenses[lens, FOCAL] + shift
    try:
        found = solve(equations, replace(at.unknowns, lenses=lenses), progress, PROFILE_STEPS, 1e-6)
    except RefusedError:
        return None
    return found, Spread(equations, found)


def _widened(m: Measured, quantity: Quantity, sigma: float) -> Measured:
    sigma = max(sigma, m.sigma)
    if isinstance(quantity, Angle):
        return replace(m, sigma=sigma)
    share = math.sqrt(max((sigma / m.value) ** 2 - m.scale_sigma**2, m.ratio_sigma**2))
    return replace(m, sigma=sigma, ratio_sigma=share)
