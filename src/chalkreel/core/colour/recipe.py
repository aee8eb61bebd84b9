"""Which whole drops from the shelf make a colour.

Every pair and triple of paints, of a large shelf those that may come near (`screening`), is brought to its best amounts
by Gauss–Newton in L*a*b* with the CIEDE2000 metric of the target; the best are rounded to whole drops in every total up
to the pot's size. Sets of four and five grow out of the best smaller ones. The start is the linear match of Allen
(*J. Opt. Soc. Am.* 56 (1966), 1256).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.characterise import guessed
from chalkreel.core.colour.cielab import as_lab
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.kubelka_munk import ratio_of, reflectance_of
from chalkreel.core.colour.mixing import Correction, Mixer, Sets, likely_miss, metric_at, stepped
from chalkreel.core.colour.paint import Paint, opaque_of
from chalkreel.core.colour.screening import nearest_pairs, nearest_triples
from chalkreel.core.colour.spectra import tristimulus_weights
from chalkreel.core.errors import RefusedError, StoppedError

# Another paint, another drop and a bottle that runs low must earn their penalty, in ΔE00.
PAINT_TROUBLE, DROP_TROUBLE, LOW_PENALTY = 0.05, 0.003, 0.3
LEAST_ML: Final = 0.5
# What lies so much further off than the best is no choice.
WORST: Final = 4.0
# Saving so many drops is no choice either.
WORTH_SAVING: Final = 2
MOST_PAINTS, MOST_DROPS = 5, 400
# How many sets go on to the next, dearer look.
SCREENED: Final = 2500
# A shelf with more pairs or triples than this is screened first; sets are looked at so many at a time.
MOST_SETS, BLOCK = 12_000, 2_000
ROUNDED: Final = {2: 200, 3: 70, 4: 30, 5: 20}
GROWN: Final = {4: 50, 5: 25}


@dataclass(frozen=True)
class Limits:
    """At most so many paints and drops in the pot; names that must not be used."""

    paints: int = 4
    drops: int = 24
    without: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Recipe:
    """Whole drops by paint name, the predicted L*a*b* and its ΔE00 to the target; of clears, in so many `coats`."""

    drops: tuple[tuple[str, int], ...]
    lab: Lab
    delta_e: float
    coats: int = 0

    @property
    def total(self) -> int:
        """Drops in all."""
        return sum(count for _, count in self.drops)


def find_recipes(
    target_lab: Lab, shelf: tuple[Paint, ...], limits: Limits = Limits(),
    progress: Callable[[float], bool] | None = None, quick: bool = False, corrections: tuple[Correction, ...] = (),
) -> tuple[Recipe, ...]:  # fmt: skip
    """The recipes worth a choice, best first: nearer ones with more paints or drops, simpler ones further off.

    The paints of `shelf` must be such as may share a cup. `progress` is called with the share done and returns
    False to stop; `quick` looks at single paints and pairs only.

    Raises
    ------
    RefusedError
        An empty shelf or impossible limits.
    StoppedError
        `progress` returned False.
    """
    usable = _usable(shelf, limits)
    search = Search(np.array(target_lab), Mixer(usable, corrections=corrections), limits)
    search.run(min(limits.paints, 2 if quick else limits.paints), progress or (lambda _: True))
    return search.result()


class Search:
    """The best mixes found so far for one target, by number of paints and of drops."""

    def __init__(self, target: Array, mixer: Mixer, limits: Limits) -> None:
        self.target, self.mixer, self.limits = target, mixer, limits
        self.metric = metric_at(target)
        self.pull, self.weight = _linear(target, mixer)
        low = [p.ml_left is not None and p.ml_left < LEAST_ML for p in mixer.paints]
        self.penalty = LOW_PENALTY * np.array(low, float)
        self.best: dict[tuple[int, int], tuple[float, tuple[int, ...], tuple[int, ...]]] = {}

    def run(self, most: int, progress: Callable[[float], bool]) -> None:
        """Singles, pairs, triples, then what grows out of them."""
        count = len(self.mixer.paints)
        self.note(np.arange(count)[:, None], np.ones((count, 1)))
        kept: tuple[Sets, Array] | None = None
        for size in range(2, min(most, count) + 1):
            if not progress((size - 2) / max(1, most - 1)):
                raise StoppedError
            if size <= 3:
                kept = self.settle(self.candidates(size, progress), None, progress)
            else:
                assert kept is not None
                kept = self.settle(*self.grow(kept[0][: GROWN[size]], kept[1][: GROWN[size]]), progress)
            self.round_off(*kept, ROUNDED[size])

    def candidates(self, size: int, progress: Callable[[float], bool]) -> Sets:
        """All pairs or triples, or of too many those that come nearest in the linear model."""
        count = len(self.mixer.paints)
        if math.comb(count, size) <= MOST_SETS:
            return _all_sets(count, size)
        points = linear_points(self.target, self.mixer)
        return nearest_pairs(points, MOST_SETS) if size == 2 else nearest_triples(points, MOST_SETS, progress)

    def start(self, sets: Sets) -> Array:
        """Amounts (N, m) of the linear match at the target's own smooth spectrum, kept above a trace."""
        jacobian = self.pull[sets]
        gram = jacobian @ jacobian.transpose(0, 2, 1)
        # Two paints that both are the target, as two blacks are of a black, pull nothing anywhere.
        held = 1e-6 * np.trace(gram, axis1=1, axis2=2) + 1e-12
        gram += held[:, None, None] * np.eye(sets.shape[1])
        amounts = np.linalg.solve(gram, self.weight[sets][..., None])[..., 0]
        largest = np.abs(amounts).max(axis=1, keepdims=True)
        amounts = np.maximum(amounts, 0.004 * largest)
        return np.asarray(amounts / amounts.sum(axis=1, keepdims=True))

    def grow(self, sets: Sets, amounts: Array) -> tuple[Sets, Array]:
        """Each set with each further paint, that one in a small dose for its strength."""
        every = np.arange(len(self.mixer.paints))
        new = np.tile(every, len(sets))
        old, dose = np.repeat(sets, len(every), axis=0), np.repeat(amounts, len(every), axis=0)
        fresh = ~(old == new[:, None]).any(axis=1)
        strength = (self.mixer.absorption + self.mixer.scattering).mean(axis=1)
        in_pot = (strength[old] * dose).sum(axis=1)
        grown = np.concatenate([old, new[:, None]], axis=1)[fresh]
        doses = np.concatenate([dose, (0.05 * in_pot / strength[new])[:, None]], axis=1)[fresh]
        order = np.argsort(grown, axis=1)
        grown, doses = np.take_along_axis(grown, order, 1), np.take_along_axis(doses, order, 1)
        first = np.unique(grown, axis=0, return_index=True)[1]
        return grown[first], doses[first]

    def settle(self, sets: Sets, amounts: Array | None, progress: Callable[[float], bool]) -> tuple[Sets, Array]:
        """Gauss–Newton on the amounts; one step for all, two more for the best; returned best first."""
        for keep in (SCREENED, SCREENED // 2, SCREENED // 4):
            parts = []
            # In blocks, so that neither memory nor the wait for Stop grows with the shelf.
            for start in range(0, len(sets), BLOCK):
                if not progress(-1.0):
                    raise StoppedError
                rows = sets[start : start + BLOCK]
                given = self.start(rows) if amounts is None else amounts[start : start + BLOCK]
                moved = stepped(self.mixer, self.target, self.metric, rows, given)
                # What counts is what whole drops make of it: no share below one drop of the pot.
                coarse = np.maximum(moved / moved.sum(axis=1, keepdims=True), 1.0 / self.limits.drops)
                parts.append((moved, self.error(rows, coarse)))
            amounts = np.concatenate([moved for moved, _ in parts])
            order = np.argsort(np.concatenate([error for _, error in parts]), kind="stable")[:keep]
            sets, amounts = sets[order], amounts[order]
        assert amounts is not None
        return sets, amounts

    def error(self, sets: Sets, amounts: Array) -> Array:
        """ΔE00 to the target (N,), what a mix unlike all swatches may be off by, the penalty of low bottles."""
        residual = delta_e_2000(self.mixer.lab(sets, amounts), self.target)
        return np.asarray(np.hypot(residual, self.mixer.doubt(sets, amounts)) + self.penalty[sets].sum(axis=1))

    def round_off(self, sets: Sets, amounts: Array, keep: int) -> None:
        """Note the best of all whole-drop neighbours, in every total that the pot allows."""
        sets, share = sets[:keep], amounts[:keep] / amounts[:keep].sum(axis=1, keepdims=True)
        size = sets.shape[1]
        totals = np.arange(size, self.limits.drops + 1)
        totals = totals[:: max(1, len(totals) // 24)]
        corners = np.array(list(itertools.product((0, 1), repeat=size)))
        below = np.floor(share[:, None, :] * totals[None, :, None])
        whole = np.maximum(below[:, :, None, :] + corners, 1.0)
        rows = np.repeat(sets, len(totals) * len(corners), axis=0)
        self.note(rows, whole.reshape(-1, size))

    def note(self, sets: Sets, amounts: Array) -> None:
        """Keep the best of these for its number of paints and each total of drops."""
        total = amounts.sum(axis=1).astype(int)
        fits = total <= self.limits.drops
        sets, amounts, total = sets[fits], amounts[fits], total[fits]
        error = self.error(sets, amounts)
        order = np.lexsort((error, total))
        first = order[np.unique(total[order], return_index=True)[1]]
        for row in first:
            key = (sets.shape[1], int(total[row]))
            if key not in self.best or error[row] < self.best[key][0]:
                self.best[key] = (
                    float(error[row]), tuple(int(i) for i in sets[row]), tuple(int(n) for n in amounts[row])
                )  # fmt: skip

    def result(self) -> tuple[Recipe, ...]:
        """What no other beats in paints, drops and nearness at once, the best compromise first."""
        rows = sorted(self.best.items(), key=lambda item: (item[1][0], item[0]))
        worthy: list[tuple[float, Recipe]] = []
        for (paints, drops), (error, sets, counts) in rows:
            rivals = [(len(r.drops), r.total, e) for e, r in worthy]
            hopeless = error > rows[0][1][0] + WORST
            if hopeless or any(p <= paints and d <= drops + WORTH_SAVING and e <= error for p, d, e in rivals):
                continue
            worthy.append((error, self._recipe(sets, counts)))
        worthy.sort(key=lambda pair: self._trouble(*pair))
        return tuple(recipe for _, recipe in worthy)

    def _trouble(self, error: float, recipe: Recipe) -> float:
        """What a recipe costs, in ΔE00: where it lands, how touchy it is, its paints and drops."""
        at = {paint.name: n for n, paint in enumerate(self.mixer.paints)}
        sets = np.array([[at[name] for name, _ in recipe.drops]])
        counts = np.array([[float(count) for _, count in recipe.drops]])
        likely = np.hypot(error, likely_miss(self.mixer, sets, counts))
        return float(likely) + PAINT_TROUBLE * len(recipe.drops) + DROP_TROUBLE * recipe.total

    def _recipe(self, sets: tuple[int, ...], counts: tuple[int, ...]) -> Recipe:
        lab = self.mixer.lab(np.array([sets]), np.array([counts], float))[0]
        order = sorted(range(len(sets)), key=lambda i: (-counts[i], self.mixer.paints[sets[i]].name))
        drops = tuple((self.mixer.paints[sets[i]].name, counts[i]) for i in order)
        error = float(delta_e_2000(lab, self.target))
        return Recipe(drops, as_lab(lab), error)


def predict_recipe(
    drops: tuple[tuple[str, int], ...], shelf: tuple[Paint, ...], target_lab: Lab,
    corrections: tuple[Correction, ...] = (),
) -> Recipe | None:  # fmt: skip
    """The colour of given drops against a target; None where there are none or a paint is not on the shelf."""
    by_name = {paint.name: paint for paint in shelf}
    if not drops or any(name not in by_name for name, _ in drops):
        return None
    mixer = Mixer(tuple(by_name[name] for name, _ in drops), corrections=corrections)
    lab = mixer.lab(np.arange(len(drops))[None], np.array([[float(count) for _, count in drops]]))[0]
    return Recipe(drops, as_lab(lab), float(delta_e_2000(lab, np.array(target_lab))))


def _usable(shelf: tuple[Paint, ...], limits: Limits) -> tuple[Paint, ...]:
    if not 1 <= limits.paints <= MOST_PAINTS or not 1 <= limits.drops <= MOST_DROPS:
        raise RefusedError(f"A recipe has 1 to {MOST_PAINTS} paints and 1 to {MOST_DROPS} drops.")
    if not shelf:
        raise RefusedError("The shelf is empty. Add paints before asking for a recipe.")
    opaque = opaque_of(shelf)
    if not opaque:
        raise RefusedError("Only clear and metallic paints are on the shelf: an opaque mix needs opaque ones.")
    usable = tuple(p for p in opaque if p.name not in limits.without and p.ml_left != 0.0)
    if not usable:
        raise RefusedError("Every opaque paint is empty or left out: allow one of them again.")
    # Ties are broken by name, so that the order of the shelf does not matter.
    return tuple(sorted(usable, key=lambda p: p.name))


def _all_sets(count: int, size: int) -> Sets:
    grids = np.meshgrid(*[np.arange(count)] * size, indexing="ij")
    rows = np.stack([g.ravel() for g in grids], axis=1)
    return rows[(np.diff(rows, axis=1) > 0).all(axis=1)]


def linear_points(target: Array, mixer: Mixer) -> Array:
    """Each paint (P, 3) in a space of colours that is linear near a target L*a*b* (3,), which is its origin."""
    pull, weight = _linear(target, mixer)
    return np.asarray(pull / weight[:, None])


def _linear(target: Array, mixer: Mixer) -> tuple[Array, Array]:
    """Each paint's pull off the target's colour per drop (P, 3), and its weight in the pot (P,)."""
    try:
        target_ratio = guessed(target, float(np.median(mixer.surface)))
        ratio = target_ratio.absorption / target_ratio.scattering
    except RefusedError:
        # No paint has this colour: start from the grey of its lightness.
        ratio = ratio_of(np.full(36, float(np.clip((target[0] / 100) ** 2.4, 0.02, 0.95))))
    inner = reflectance_of(ratio)
    fall = inner / np.sqrt(ratio * (ratio + 2.0))
    weights = fall[:, None] * tristimulus_weights()
    pull = (mixer.absorption - ratio * mixer.scattering) @ weights
    slope = np.diag(1.0 / np.maximum(inner @ tristimulus_weights(), 0.02))
    return pull @ slope, mixer.scattering @ weights.sum(axis=1) + 1e-6


def nearest_single(target_lab: Lab, shelf: tuple[Paint, ...]) -> tuple[Recipe, ...]:
    """Every opaque paint by itself, nearest first."""
    shelf = opaque_of(shelf)
    if not shelf:
        return ()
    mixer = Mixer(shelf)
    lab = mixer.lab(np.arange(len(shelf))[:, None], np.ones((len(shelf), 1)))
    error = delta_e_2000(lab, np.array(target_lab))
    return tuple(
        Recipe(((shelf[i].name, 1),), as_lab(lab[i]), float(error[i])) for i in np.argsort(error, kind="stable")
    )
