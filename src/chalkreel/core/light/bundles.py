"""Wires through a tube: how wide it must be inside for a bundle to pass.

Equal wires: published best packings (Graham, Lubachevsky, Nurmela, Östergård, Dense packings of congruent circles in
a circle). Mixed ones: the tightest of many relaxations from chance starts, always the same ones.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Final, Literal

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError

# Inner over outer diameter for so many equal circles.
_EQUAL: Final = (
    1.0, 2.0, 2.1547, 2.4142, 2.7013, 3.0, 3.0, 3.3048, 3.6131, 3.8130, 3.9238, 4.0296, 4.2361, 4.3284, 4.5214, 4.6154,
    4.7920, 4.8637, 4.8637, 5.1223,
)  # fmt: skip
MOST_WIRES: Final = 200
# Up to here the packing is searched; bigger mixed bundles were found to fill about this much of the circle.
SEARCHED: Final = 18
_MANY_FILL: Final = 0.65
_STARTS: Final = 24
Passing = Literal["drops in", "pulls in", "one at a time with talc", "will not"]
# The smallest two-pin plugs (1.25 mm pitch) are so wide and high.
PLUG_MM: Final = (4.0, 3.2)
# Share of the tube's area that the wires may fill; by hand nobody packs as well as the best packing.
_FILLS: Final[tuple[tuple[float, Passing], ...]] = (
    (0.4, "drops in"), (0.5, "pulls in"), (0.6, "one at a time with talc"),
)  # fmt: skip


@lru_cache(maxsize=128)
def across_mm(outsides: tuple[float, ...]) -> float:
    """The smallest circle into which wires of these outsides (mm) pack.

    Raises
    ------
    RefusedError
        No wire, too many, or one without a thickness.
    """
    if not outsides or len(outsides) > MOST_WIRES or min(outsides) <= 0:
        raise RefusedError(f"A bundle has one to {MOST_WIRES} wires, each with a thickness.")
    largest = max(outsides)
    if len(outsides) <= len(_EQUAL) and min(outsides) > 0.999 * largest:
        return largest * _EQUAL[len(outsides) - 1]
    if len(outsides) == 2:
        return sum(outsides)
    if len(outsides) > SEARCHED:
        return math.sqrt(sum(d * d for d in outsides) / _MANY_FILL)
    radii = np.sort(np.array(outsides))[::-1] / 2
    return 2 * _packed(radii)


def passing(outsides: tuple[float, ...], tube_mm: float) -> Passing:
    """How a bundle goes through a tube of so much inside."""
    fill = sum(d * d for d in outsides) / tube_mm**2
    if across_mm(outsides) > tube_mm:
        return "will not"
    return next((word for most, word in _FILLS if fill <= most), "will not")


def plug_passes(tube_mm: float) -> bool:
    """Whether the smallest plug goes through, or its wires must be soldered after threading."""
    return math.hypot(*PLUG_MM) <= tube_mm


def tube_for(outsides: tuple[float, ...]) -> float:
    """The tube (mm inside, in steps of 0.1) into which a bundle can be pulled."""
    by_area = math.sqrt(sum(d * d for d in outsides) / 0.5)
    return math.ceil(max(by_area, across_mm(outsides)) * 10 - 1e-9) / 10


def _packed(radii: Array) -> float:
    """The tightest enclosing circle found: all starts are relaxed at once, and shrunk while they still fit."""
    rng = np.random.default_rng(len(radii))
    count = len(radii)
    low = max(radii[0] + radii[1], math.sqrt(float((radii**2).sum())))
    high = low * 1.9
    angle, reach = rng.uniform(0, 2 * math.pi, (_STARTS, count)), np.sqrt(rng.uniform(0, 1, (_STARTS, count)))
    shape = np.stack([reach * np.cos(angle), reach * np.sin(angle)], axis=2)
    places = shape * high
    for _ in range(12):
        middle = (low + high) / 2
        tried, left = _relaxed(places * middle / high, radii, middle)
        if left.min() < 2e-3 * radii[-1]:
            best = int(left.argmin())
            # The one that fits leads on, with the others shaken loose from it.
            places = (
                tried[best] + rng.normal(0, 0.15 * radii[-1], tried.shape) * (np.arange(_STARTS) > 0)[:, None, None]
            )
            high = middle
        else:
            low = middle
            places = np.concatenate([places[: _STARTS // 2], (shape * high)[_STARTS // 2 :]])
    return float(high)


def _relaxed(places: Array, radii: Array, within: float) -> tuple[Array, Array]:
    """Push overlapping circles apart and back inside; the places (S, N, 2) and the worst overlap left (S,)."""
    apart = radii[:, None] + radii[None, :]
    np.fill_diagonal(apart := apart.copy(), 0)
    worst = np.full(len(places), np.inf)
    for _ in range(150):
        between = places[:, :, None] - places[:, None]
        far = np.linalg.norm(between, axis=3) + 1e-12
        overlap = np.maximum(apart - far, 0)
        push = (between / far[..., None] * overlap[..., None]).sum(axis=2) * 0.45
        out = np.linalg.norm(places, axis=2) + 1e-12
        beyond = np.maximum(out + radii - within, 0)
        worst = np.maximum(overlap.max(axis=(1, 2)), beyond.max(axis=1))
        places = places + push - places * (beyond / out)[..., None]
    return places, worst
