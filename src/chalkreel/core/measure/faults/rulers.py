"""Rulers against each other and against the rest of the reel."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from chalkreel.core.interval import NORMAL_95
from chalkreel.core.measure.faults.fault import Fault
from chalkreel.core.measure.quantities import (
    Across,
    Angle,
    Distance,
    Measured,
    Quantity,
    in_one_place,
    measure,
    slopes_of,
)
from chalkreel.core.measure.solver.normal import robust_weight
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.solver.spread import Spread

RULER_SIGMA = 3.0
CHECKABLE = 1e-4


@dataclass(frozen=True)
class RulerCheck:
    """A ruler against everything else: claimed over found, less one, with its 1 σ; None where nothing checks it.

    `residual` is its claim over its length as solved with all rulers, less one; `own_sigma` the claim's own relative
    σ. Where its ends lie in one place, both deviations are infinite.
    """

    key: str
    deviation: float | None
    sigma: float
    residual: float
    own_sigma: float

    @property
    def disagrees(self) -> bool:
        """Whether the deviation lies outside its 95 % interval."""
        return self.deviation is not None and abs(self.deviation) > NORMAL_95 * self.sigma


@dataclass(frozen=True)
class _Claim:
    """A ruler's claimed length over its length as solved, in logarithm, with its 1 σ but for the shared scale."""

    key: str
    log_ratio: float
    sigma: float

    def agrees(self, other: _Claim) -> bool:
        return abs(self.log_ratio - other.log_ratio) <= RULER_SIGMA * math.hypot(self.sigma, other.sigma)


def check_rulers(solution: Solution, spread: Spread) -> tuple[RulerCheck, ...]:
    """What the rest of the reel says of each ruler's claim."""
    rulers = _rulers(solution)
    found = [
        RulerCheck(key, math.inf, sigma / length, math.inf, sigma / length)
        for key, quantity, length, sigma in rulers
        if in_one_place(solution, quantity)
    ]
    rulers = [row for row in rulers if not in_one_place(solution, row[1])]
    if not rulers:
        return tuple(found)
    values, by_dense, by_block = slopes_of(solution, tuple(q for _, q, _, _ in rulers))
    error = np.linalg.norm(spread.factors(by_dense, by_block), axis=0) / spread.widened
    for (key, _, length, own_mm), value, sigma in zip(rulers, values, error, strict=True):
        # The ruler's own share in its adjusted length; what is left over is the others' say.
        weight = float(robust_weight(np.array([(length - value) / own_mm]) ** 2)[0])
        residual = float(length / value) - 1.0
        own = weight * (float(sigma) / own_mm) ** 2
        if own > 1.0 - CHECKABLE:
            found.append(RulerCheck(key, None, own_mm / length, residual, own_mm / length))
            continue
        others = float(sigma) ** 2 / (1.0 - own)
        deviation = (length - value) / (1.0 - own) / length
        doubt = math.hypot(own_mm, math.sqrt(others)) / length
        found.append(RulerCheck(key, float(deviation), doubt, residual, own_mm / length))
    return tuple(found)


def ruler_faults(solution: Solution, spread: Spread) -> list[Fault]:
    """A ruler that all others contradict; or, where nothing decides between them, the two that lie farthest apart."""
    claims = _claims(solution, spread)
    undecided = _undecided(claims)
    if undecided:
        first, second = max(undecided, key=lambda c: c.log_ratio), min(undecided, key=lambda c: c.log_ratio)
        apart, sigma = first.log_ratio - second.log_ratio, math.hypot(first.sigma, second.sigma)
        return [Fault("rulers", apart / sigma, rulers=(first.key, second.key), found=math.expm1(apart), sigma=sigma)]
    found = []
    for check in check_rulers(solution, spread):
        if check.deviation is None or abs(check.deviation) <= RULER_SIGMA * check.sigma:
            continue
        strength = abs(check.deviation) / check.sigma
        found.append(Fault("ruler", strength, rulers=(check.key,), found=check.deviation, sigma=check.sigma))
    return found


def widened_by_rulers(solution: Solution, spread: Spread) -> Callable[[Quantity, Measured], Measured]:
    """What disagreement between rulers adds to a size's error: all claims are covered while nothing decides between
    them, else errors widen by the Birge ratio of the rulers that agree."""
    claims = _claims(solution, spread)
    undecided = _undecided(claims)
    agreeing = _largest_agreement(claims)
    if undecided:
        doubt = max(abs(math.expm1(c.log_ratio)) / NORMAL_95 for c in undecided)
    elif len(agreeing) > 1:
        ratio = math.sqrt(sum((c.log_ratio / c.sigma) ** 2 for c in agreeing) / (len(agreeing) - 1))
        doubt = math.sqrt(max(ratio**2 - 1.0, 0.0)) / math.sqrt(sum(c.sigma**-2 for c in agreeing))
    else:
        doubt = 0.0

    def widened(quantity: Quantity, found: Measured) -> Measured:
        if isinstance(quantity, Angle) or not doubt:
            return found
        return replace(
            found,
            sigma=math.hypot(found.sigma, doubt * found.value),
            scale_sigma=math.hypot(found.scale_sigma, doubt),
        )

    return widened


def _rulers(solution: Solution) -> list[tuple[str, Quantity, float, float]]:
    """Key, what it is of, claimed length and its 1 σ."""
    scene = solution.scene
    found: list[tuple[str, Quantity, float, float]] = [
        (r.key, Distance(r.a, r.b, r.along), r.length_mm, r.sigma_mm) for r in scene.rulers
    ]
    return [*found, *((g.key, Across(g.circle), g.diameter_mm, g.sigma_mm) for g in scene.gauges)]


def _claims(solution: Solution, spread: Spread) -> list[_Claim]:
    rulers = [row for row in _rulers(solution) if not in_one_place(solution, row[1])]
    sizes = measure(solution, spread, tuple(quantity for _, quantity, _, _ in rulers)) if rulers else ()
    return [
        _Claim(key, math.log(length / size.value), math.hypot(own / length, size.ratio_sigma))
        for (key, _, length, own), size in zip(rulers, sizes, strict=True)
    ]


def _largest_agreement(claims: list[_Claim]) -> list[_Claim]:
    return max(([c for c in claims if c.agrees(centre)] for centre in claims), key=len, default=[])


def _undecided(claims: list[_Claim]) -> list[_Claim]:
    """The rulers between which nothing decides: no more than half of all agree with each other."""
    agreeing = _largest_agreement(claims)
    return claims if len(claims) > 1 and 2 * len(agreeing) <= len(claims) else []
