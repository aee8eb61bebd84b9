"""What another scale would do: length, figures, the finest detail that can be cut, lamps, and whether it fits."""

from __future__ import annotations

import math
from dataclasses import dataclass

from chalkreel.core.interval import NORMAL_95
from chalkreel.core.scale import ScaleChain, fit_in_space

# Ratios that stock, figures and decals are commonly sold in.
COMMON_RATIOS = (
    12.0,
    16.0,
    20.0,
    24.0,
    32.0,
    35.0,
    43.0,
    48.0,
    64.0,
    72.0,
    76.0,
    87.0,
    100.0,
    120.0,
    144.0,
    200.0,
    350.0,
)
FIGURE_MM = 1750.0
FINEST_CUT_MM = 0.25
SMALL_LAMP_MM = 1.8
THIN_SHEET_MM = 0.25


@dataclass(frozen=True)
class ScaleEffect:
    """A scale and what comes of it. Lengths in mm; those "in the story" are what a thing on the model stands for."""

    ratio: float
    length_mm: float
    figure_mm: float
    finest_in_story_mm: float
    lamp_in_story_mm: float
    sheet_in_story_mm: float
    room_mm: float | None
    chosen: bool


def scale_effects(chain: ScaleChain, space_mm: float | None) -> tuple[ScaleEffect, ...]:
    """Common scales within three times of the chosen one, and the chosen one itself."""
    chosen = chain.replica_ratio
    near = {r for r in COMMON_RATIOS if abs(math.log(r / chosen)) <= math.log(3.0)}
    own = min(near, key=lambda r: abs(r - chosen), default=chosen)
    ratios = sorted(near | ({chosen} if abs(own - chosen) > 1e-6 * chosen else set()))
    return tuple(_effect(chain, ratio, space_mm, abs(ratio - chosen) < 1e-6 * chosen) for ratio in ratios)


def _effect(chain: ScaleChain, ratio: float, space_mm: float | None, chosen: bool) -> ScaleEffect:
    length = chain.story_mm / ratio
    other = ScaleChain(chain.story_mm, chain.miniature_mm, length)
    room = fit_in_space(other, space_mm).room_mm if space_mm else None
    return ScaleEffect(
        ratio, length, FIGURE_MM / ratio, FINEST_CUT_MM * ratio, SMALL_LAMP_MM * ratio, THIN_SHEET_MM * ratio, room,
        chosen,
    )  # fmt: skip


@dataclass(frozen=True)
class DerivedRatio:
    """What rulers on two links of the chain say of the ratio between them, with its 1 σ, and what the chain says."""

    ratio: float
    sigma: float
    stated: float

    @property
    def disagrees(self) -> bool:
        """Whether the chain's ratio lies outside the 95 % interval."""
        return abs(self.stated - self.ratio) > NORMAL_95 * self.sigma


def derived_ratio(
    story: tuple[tuple[float, float], ...], miniature: tuple[tuple[float, float], ...], stated: float
) -> DerivedRatio | None:
    """The story's ratio to the miniature, from how far (miss and σ, both relative) each link's rulers are off.

    Misses are claims over their lengths as solved, less one, in the chain's own ratio: the size of the solution
    itself cancels. None without rulers on both links.
    """
    if not story or not miniature:
        return None
    (a, a_sigma), (b, b_sigma) = _mean(story), _mean(miniature)
    factor = (1.0 + a) / (1.0 + b)
    return DerivedRatio(stated * factor, stated * factor * math.hypot(a_sigma, b_sigma), stated)


def _mean(values: tuple[tuple[float, float], ...]) -> tuple[float, float]:
    weights = [1.0 / sigma**2 for _, sigma in values]
    whole = sum(weights)
    return sum(w * value for w, (value, _) in zip(weights, values, strict=True)) / whole, 1.0 / math.sqrt(whole)
