"""How one modeller's varnishes and washes come out, as chips tell: a dry swatch read before and after.

A varnish scatters its own share of the light into the eye, and a matte or satin one's flatting agent scatters a
little inside; a wiped wash leaves as much as the hand leaves. Chips refit these, held to what is usual (Gauss–Newton
with priors).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.layers import MILK, VARNISH_SURFACE, Layer, looks
from chalkreel.core.colour.mixing import Pot
from chalkreel.core.materials import SHEENS, Sheen

# How far one modeller's varnish is from the usual: its surface, and the logarithm of its milk (1 σ).
SURFACE_SIGMA, MILK_SIGMA = 0.008, 0.8
# How far apart hands leave a wiped wash (1 σ of the logarithm).
WIPED_SIGMA: Final = 0.7
# A chip's two readings tell their difference this well, L*, a*, b* (1 σ).
READING: Final = np.array([0.7, 0.5, 0.5])
LEAST_MILK: Final = 1e-4
ROUNDS: Final = 8
STEP: Final = 1e-4


@dataclass(frozen=True, eq=False)
class Chip:
    """A dry swatch before and after one layer: a varnish of a sheen in so many coats, or a wash wiped off.

    `surface` is what the swatch scattered into the eye before.
    """

    before: Lab
    after: Lab
    surface: float
    sheen: Sheen | None = None
    coats: int = 1
    wash: Pot | None = None


@dataclass(frozen=True)
class Finishing:
    """What varnishes scatter at their surface and within, by sheen, and how much of a usual wash is left when wiped;
    and by how many chips each is told."""

    surface: Mapping[Sheen, float] = field(default_factory=lambda: dict(VARNISH_SURFACE))
    milk: Mapping[Sheen, float] = field(default_factory=lambda: dict(MILK))
    wiped: float = 1.0
    varnish_chips: Mapping[Sheen, int] = field(default_factory=dict)
    wash_chips: int = 0

    def varnish(self, name: str, sheen: Sheen, coats: int) -> Layer:
        """A varnish as this hand lays it."""
        return Layer(name, "varnish", sheen=sheen, coats=coats, surface=self.surface[sheen], milk=self.milk[sheen])

    def wiped_wash(self, name: str, wash: Pot) -> Layer:
        """A wash as this hand wipes it."""
        return Layer(name, "wiped wash", wash, left=self.wiped)


USUAL: Final = Finishing()


def taught_by(chips: tuple[Chip, ...]) -> Finishing:
    """What chips teach of varnishes and washes; without any, what is usual."""
    found = USUAL
    for sheen in SHEENS:
        mine = tuple(chip for chip in chips if chip.sheen == sheen)
        if mine:
            found = _with_varnish(found, sheen, mine)
    washes = tuple(chip for chip in chips if chip.wash is not None)
    if not washes:
        return found

    def misses(values: Array) -> Array:
        hand = replace(found, wiped=float(np.exp(values[0])))
        return np.concatenate([_miss(chip, hand) for chip in washes])

    left = fitted(misses, np.zeros(1), np.array([WIPED_SIGMA]))
    return replace(found, wiped=float(np.exp(left[0])), wash_chips=len(washes))


def _with_varnish(found: Finishing, sheen: Sheen, chips: tuple[Chip, ...]) -> Finishing:
    usual = np.array([found.surface[sheen], np.log(max(found.milk[sheen], LEAST_MILK))])

    def hand(values: Array) -> Finishing:
        return replace(
            found,
            surface={**found.surface, sheen: max(0.0, float(values[0]))},
            milk={**found.milk, sheen: float(np.exp(values[1]))},
        )

    def misses(values: Array) -> Array:
        return np.concatenate([_miss(chip, hand(values)) for chip in chips])

    values = fitted(misses, usual, np.array([SURFACE_SIGMA, MILK_SIGMA]))
    return replace(hand(values), varnish_chips={**found.varnish_chips, sheen: len(chips)})


def _miss(chip: Chip, hand: Finishing) -> Array:
    """What a chip shows beyond what is foretold (3,), in its σ."""
    below = Layer("swatch", "primer", lab=chip.before, surface=chip.surface)
    if chip.wash is not None:
        over = hand.wiped_wash("wash", chip.wash)
    else:
        assert chip.sheen is not None
        over = hand.varnish("varnish", chip.sheen, chip.coats)
    return np.asarray((np.array(chip.after) - looks((below, over))[-1].lab) / READING)


def fitted(misses: Callable[[Array], Array], usual: Array, sigma: Array) -> Array:
    """Values that leave the least of `misses`, in their σ, near what is usual (Gauss–Newton with a prior)."""
    values = usual.copy()
    moves = STEP * sigma * np.eye(len(usual))
    for _ in range(ROUNDS):
        now = misses(values)
        sides = np.stack([(misses(values + move) - now) / STEP for move in moves], axis=1)
        away = (values - usual) / sigma
        step = np.linalg.solve(sides.T @ sides + np.eye(len(usual)), -sides.T @ now - away)
        values = values + sigma * np.clip(step, -1.5, 1.5)
        if np.abs(step).max() < 1e-3:
            break
    return values
