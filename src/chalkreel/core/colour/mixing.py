"""The colour of many mixes at once, and how it moves with each paint in them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kinds import COAT
from chalkreel.core.colour.kubelka_munk import reflectance_of
from chalkreel.core.colour.paint import DOUBT, Paint
from chalkreel.core.colour.spectra import BANDS, Illuminant, tristimulus_weights, white_xyz
from chalkreel.core.colour.surface_terms import INSIDE, OUTSIDE, SURFACE, seen

Sets = npt.NDArray[np.int64]
METRIC_STEP = 0.5
# Of a step: how far it goes in logarithms of the amounts, and how strongly it is damped.
LONGEST_STEP, DAMPING = 1.2, 0.02
# Drop sizes vary from drop to drop, and the eye of the needle adds its part (1 σ of a count of one).
DROP_SIGMA = 0.06
# How far, in shares of the pot, a swatch teaches.
REACH = 0.25


@dataclass(frozen=True, eq=False)
class Pot:
    """Total K and S (36,) of what is in a cup already, its drops, how thick one coat of it goes on, its dry surface."""

    absorption: Array
    scattering: Array
    drops: int
    coat: float = COAT
    surface: float = SURFACE["matte"]


EMPTY = Pot(np.zeros(BANDS), np.zeros(BANDS), 0)


@dataclass(frozen=True, eq=False)
class Correction:
    """What a swatch showed beyond strengths: factors of K/S (36,) for mixes like it, `shares` by paint name.

    It fades with the distance of a mix from the swatch's own shares, `REACH` away to 0.6.
    """

    shares: dict[str, float]
    factors: Array


class Mixer:
    """A shelf as arrays. A *set* is a row of paint numbers (m,), its *amounts* a row of drops (m,)."""

    def __init__(self, paints: tuple[Paint, ...], pot: Pot = EMPTY, corrections: tuple[Correction, ...] = ()) -> None:
        self.paints, self.pot = paints, pot
        self.surface = np.array([p.surface for p in paints])
        self.absorption = np.stack([p.absorption for p in paints])
        self.scattering = np.stack([p.scattering for p in paints])
        self._doubt = np.array([DOUBT[p.source] for p in paints])
        self._taught = [
            (np.array([c.shares.get(p.name, 0.0) for p in paints]), sum(v**2 for v in c.shares.values()), c.factors)
            for c in corrections
        ]

    def sums(self, sets: Sets, amounts: Array) -> tuple[Array, Array]:
        """Total K and S (N, 36) of sets (N, m) in amounts (N, m), with what is in the pot."""
        k = np.einsum("nm,nmb->nb", amounts, self.absorption[sets]) + self.pot.absorption
        s = np.einsum("nm,nmb->nb", amounts, self.scattering[sets]) + self.pot.scattering
        return k * self._lesson(sets, amounts) if self._taught else k, s

    def _lesson(self, sets: Sets, amounts: Array) -> Array:
        """Factors of K/S (N, 36) that swatches of like mixes taught, each by its nearness."""
        near = self._near(sets, amounts)
        logs = near @ np.log([factors for _, _, factors in self._taught])
        return np.asarray(np.exp(logs / np.maximum(near.sum(axis=1, keepdims=True), 1.0)))

    def _near(self, sets: Sets, amounts: Array) -> Array:
        """How near each mix is to each swatch (N, C), 0..1."""
        part = amounts / amounts.sum(axis=1, keepdims=True)
        every = [(part**2).sum(axis=1) - 2.0 * (part * shares[sets]).sum(axis=1) + square
                 for shares, square, _ in self._taught]  # fmt: skip
        return np.asarray(np.exp(-0.5 * np.maximum(np.stack(every, axis=1), 0.0) / REACH**2))

    def doubt(self, sets: Sets, amounts: Array) -> Array | float:
        """How far off a mix may be for lack of a swatch like it, in ΔE00 (N,); nothing where no swatch was made."""
        if not self._taught:
            return 0.0
        return np.asarray(self._doubt[sets].max(axis=1) * (1.0 - self._near(sets, amounts).max(axis=1)))

    def reflectance(self, sets: Sets, amounts: Array) -> Array:
        """Seen reflectance (N, 36)."""
        k, s = self.sums(sets, amounts)
        return seen(reflectance_of(k / s), self.surfaces(sets, amounts)[:, None])

    def surfaces(self, sets: Sets, amounts: Array) -> Array:
        """What the dry surface of each mix (N,) scatters into the eye: between those of what is in it, by drops."""
        total = amounts.sum(axis=1) + self.pot.drops
        return np.asarray(((amounts * self.surface[sets]).sum(axis=1) + self.pot.drops * self.pot.surface) / total)

    def lab(self, sets: Sets, amounts: Array, illuminant: Illuminant = "D65") -> Array:
        """L*a*b* (N, 3)."""
        reflectance = self.reflectance(sets, amounts)
        return lab_of_xyz(reflectance @ tristimulus_weights(illuminant), illuminant)

    def lab_and_jacobian(self, sets: Sets, amounts: Array) -> tuple[Array, Array]:
        """L*a*b* (N, 3) and its change (N, 3, m) per unit of the logarithm of each amount."""
        k, s = self.sums(sets, amounts)
        ratio = k / s
        root = np.sqrt(ratio * (ratio + 2.0))
        inner = 1.0 / (1.0 + ratio + root)
        weights = tristimulus_weights()
        surfaces = self.surfaces(sets, amounts)
        xyz = seen(inner, surfaces[:, None]) @ weights
        total = amounts.sum(axis=1) + self.pot.drops
        fall = -(1 - OUTSIDE) * (1 - INSIDE) / (1 - INSIDE * inner) ** 2 * inner / (np.maximum(root, 1e-9) * s)
        jacobian = np.empty((*sets.shape, 3))
        for m in range(sets.shape[1]):
            paint = sets[:, m]
            change = fall * (self.absorption[paint] - ratio * self.scattering[paint])
            lighter = (self.surface[paint] - surfaces) / total
            jacobian[:, m] = amounts[:, m, None] * (change @ weights + lighter[:, None] * weights.sum(axis=0))
        return lab_of_xyz(xyz), lab_slope(xyz) @ jacobian.transpose(0, 2, 1)


def likely_miss(mixer: Mixer, sets: Sets, counts: Array) -> float:
    """One σ in ΔE00 of where one mix (1, m) lands, by the strengths of its paints and the sizes of its drops."""
    here, jacobian = mixer.lab_and_jacobian(sets, counts)
    strengths = [mixer.paints[i].strength_sigma for i in sets[0]]
    sigma = np.hypot(strengths, DROP_SIGMA / np.sqrt(counts[0]))
    moved = delta_e_2000(here[0] + (jacobian[0] * sigma).T, here[0])
    return float(np.sqrt((moved**2).sum()))


def stepped(mixer: Mixer, target: Array, metric: Array, sets: Sets, amounts: Array) -> Array:
    """Amounts (N, m) one damped Gauss–Newton step, in their logarithms, nearer to a target L*a*b* (3,)."""
    lab, jacobian = mixer.lab_and_jacobian(sets, amounts)
    sides = metric @ jacobian
    residual = (lab - target) @ metric.T
    normal = sides.transpose(0, 2, 1) @ sides
    level = np.trace(normal, axis1=1, axis2=2) + 1e-9
    normal += DAMPING * level[:, None, None] * np.eye(sets.shape[1])
    step = np.linalg.solve(normal, -np.einsum("ndm,nd->nm", sides, residual)[..., None])[..., 0]
    return np.asarray(amounts * np.exp(np.clip(step, -LONGEST_STEP, LONGEST_STEP)))


def lab_slope(xyz: Array) -> Array:
    """Change of L*a*b* (..., 3, 3) per unit of XYZ (..., 3)."""
    white = white_xyz()
    ratio = np.maximum(xyz / white, 1e-6)
    slope = np.where(ratio > (6 / 29) ** 3, np.cbrt(ratio) / (3 * ratio), 1 / (3 * (6 / 29) ** 2)) / white
    mix = np.array([[0.0, 116.0, 0.0], [500.0, -500.0, 0.0], [0.0, 200.0, -200.0]])
    return np.asarray(mix * slope[..., None, :])


def metric_at(lab: Array) -> Array:
    """A matrix M (3, 3) so that |M d| is nearly the ΔE00 of a small step d (3,) from a colour."""
    step = METRIC_STEP * np.eye(3)

    def squared(move: Array) -> float:
        return float(delta_e_2000(lab + move, lab)) ** 2

    square = np.empty((3, 3))
    for i in range(3):
        for j in range(3):
            square[i, j] = (squared(step[i] + step[j]) - squared(step[i] - step[j])) / (4 * METRIC_STEP**2)
    values, vectors = np.linalg.eigh((square + square.T) / 2)
    return np.asarray(np.sqrt(np.maximum(values, 1e-4))[:, None] * vectors.T)


def pot_of(drops: Sequence[tuple[str, int]], shelf: tuple[Paint, ...], corrections: tuple[Correction, ...] = ()) -> Pot:
    """What drops by paint name add up to, as swatches of like mixes correct it; unknown names are left out."""
    by_name = {paint.name: paint for paint in shelf}
    k, s, total, coat, surface = np.zeros(BANDS), np.zeros(BANDS), 0, 0.0, 0.0
    for name, count in drops:
        if name in by_name:
            k, s = k + count * by_name[name].absorption, s + count * by_name[name].scattering
            total, coat = total + count, coat + count * by_name[name].coat
            surface += count * by_name[name].surface
    known = tuple((by_name[name], float(count)) for name, count in drops if name in by_name)
    if corrections and known:
        mixer = Mixer(tuple(paint for paint, _ in known), corrections=corrections)
        sums = mixer.sums(np.arange(len(known))[None], np.array([[count for _, count in known]]))
        k, s = sums[0][0], sums[1][0]
    return Pot(k, s, total, coat / total, surface / total) if total else Pot(k, s, 0)


def pot_lab(pot: Pot) -> Array:
    """L*a*b* (3,) of an opaque coat of what is in a pot."""
    return lab_of_xyz(pot_reflectance(pot) @ tristimulus_weights())


def pot_reflectance(pot: Pot) -> Array:
    """Seen reflectance (36,) of an opaque coat of what is in a pot."""
    return seen(reflectance_of(pot.absorption / pot.scattering), pot.surface)
