"""Correcting the pot: what to add to what is in the cup, or whether to start again.

The pot counts as a paint of its own, fitted to its test swatch: paint cannot be taken out, only added.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import as_lab
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.learning import DrySwatch, learn, warped
from chalkreel.core.colour.mixing import Mixer, Pot, Sets, metric_at, pot_lab, pot_of, stepped
from chalkreel.core.colour.paint import Paint, opaque_of
from chalkreel.core.colour.recipe import Recipe, linear_points
from chalkreel.core.colour.screening import nearest_with_first
from chalkreel.core.errors import RefusedError

# No eye tells these apart.
TOLERANCE: Final = 1.0
# A new pot must end so much nearer, in ΔE00, to be worth it.
WORTH_A_POT: Final = 1.0
MOST_ADDED: Final = 3
# A drop added must earn its penalty, in ΔE00.
DROP_TROUBLE: Final = 0.012
# Beyond so many sets those are tried that may come near, or grow out of so many of the best.
MOST_SETS: Final = 12_000
GROWN: Final = 30
ROUNDS: Final = 8
SCREENED: Final = (3000, 800, 300)


@dataclass(frozen=True)
class Addition:
    """Add so many drops of a paint: then the pot has this colour and is so far off the target."""

    name: str
    drops: int
    lab: Lab
    delta_e: float


@dataclass(frozen=True)
class Rescue:
    """The way out for a pot: steps in order, or a new pot and why. `now` is the ΔE00 of the swatch to the target."""

    now: float
    steps: tuple[Addition, ...]
    start_again: str


def rescue(
    drops: tuple[tuple[str, int], ...], swatch_lab: Lab, target_lab: Lab, shelf: tuple[Paint, ...],
    cup_drops: int, fresh: Recipe | None = None, needed_drops: int = 0,
) -> Rescue:  # fmt: skip
    """Smallest additions that bring a pot to its target within the cup.

    `fresh` is the recipe to start again with, `needed_drops` how much paint the job wants.

    Raises
    ------
    RefusedError
        An empty pot, or a paint in it that is not on the shelf.
    """
    names = {p.name for p in shelf}
    missing = [name for name, _ in drops if name not in names]
    if not drops or missing:
        words = f"“{missing[0]}” is in the pot but not on the shelf." if missing else "Nothing is in the pot yet."
        raise RefusedError(f"{words} Write down every drop, then the colour of the swatch.")
    target = np.array(target_lab)
    taught = learn(shelf, (DrySwatch(drops, swatch_lab),)).shelf
    pot = fitted_pot(drops, swatch_lab, taught)
    now = float(delta_e_2000(np.array(swatch_lab), target))
    if now <= TOLERANCE:
        return Rescue(now, (), "")
    room = cup_drops - pot.drops
    usable = tuple(p for p in opaque_of(taught) if p.ml_left != 0.0)
    best = _Additions(usable, pot, target).best(room) if room > 0 else None
    steps = _in_order(best, taught, pot, target) if best else ()
    return Rescue(now, steps, _start_again(now, steps, room, taught, fresh, needed_drops))


def fitted_pot(drops: tuple[tuple[str, int], ...], swatch_lab: Lab, shelf: tuple[Paint, ...]) -> Pot:
    """The pot as a paint of its own that looks like its swatch."""
    pot = pot_of(drops, shelf)
    factors = warped(pot.absorption / pot.scattering, np.array(swatch_lab), pot.surface)
    return replace(pot, absorption=pot.absorption * factors)


class _Additions:
    """All ways of adding up to three paints to one pot."""

    def __init__(self, shelf: tuple[Paint, ...], pot: Pot, target: Array) -> None:
        self.mixer = Mixer(shelf, pot)
        self.target, self.metric = target, metric_at(target)

    def best(self, room: int) -> tuple[tuple[str, int], ...] | None:
        """The additions that pay best for their drops; within tolerance the fewest."""
        found: list[tuple[float, float, tuple[tuple[str, int], ...]]] = []
        sets = np.arange(len(self.mixer.paints))[:, None]
        for size in range(1, min(MOST_ADDED, len(self.mixer.paints)) + 1):
            sets, amounts = self._settled(self._sets(size, sets), float(room))
            found += self._rounded(sets, amounts, room)
        near = [row for row in found if row[1] <= TOLERANCE]
        if near:
            return min(near, key=lambda row: (sum(n for _, n in row[2]) + 8.0 * row[1], row[2]))[2]
        return min(found, key=lambda row: (row[0], row[2]))[2] if found else None

    def _sets(self, size: int, before: Sets) -> Sets:
        """All sets of paints to add; of a large shelf pairs that may come near, and what grows out of the best."""
        count = len(self.mixer.paints)
        if math.comb(count, size) <= MOST_SETS:
            return np.array(list(itertools.combinations(range(count), size)))
        if size == 2:
            pot = Paint("pot", self.mixer.pot.absorption, self.mixer.pot.scattering, surface=self.mixer.pot.surface)
            points = linear_points(self.target, Mixer((pot, *self.mixer.paints)))
            return nearest_with_first(points, MOST_SETS)[:, 1:] - 1
        grown = np.array([(*sorted(row), n) for row in before[:GROWN].tolist() for n in range(count) if n not in row])
        return np.unique(np.sort(grown, axis=1), axis=0)

    def _settled(self, sets: Sets, room: float) -> tuple[Sets, Array]:
        """Best amounts by damped Gauss–Newton in their logarithms, the hopeless dropped on the way."""
        amounts = np.full(sets.shape, min(2.0, room / sets.shape[1]))
        for number in range(ROUNDS):
            amounts = np.clip(stepped(self.mixer, self.target, self.metric, sets, amounts), 0.3, room)
            if number in (1, 3, 5):
                error = delta_e_2000(self.mixer.lab(sets, amounts), self.target) + DROP_TROUBLE * amounts.sum(axis=1)
                order = np.argsort(error, kind="stable")[: SCREENED[number // 2]]
                sets, amounts = sets[order], amounts[order]
        return sets, amounts

    def _rounded(self, sets: Sets, amounts: Array, room: int) -> list[tuple[float, float, tuple[tuple[str, int], ...]]]:
        size = sets.shape[1]
        corners = np.array(list(itertools.product((-1, 0, 1, 2), repeat=size)))
        whole = np.maximum(np.floor(amounts)[:, None, :] + corners, 1.0).reshape(-1, size)
        rows = np.repeat(sets, len(corners), axis=0)
        fits = whole.sum(axis=1) <= room
        rows, whole = rows[fits], whole[fits]
        if not len(rows):
            return []
        error = delta_e_2000(self.mixer.lab(rows, whole), self.target)
        score = error + DROP_TROUBLE * whole.sum(axis=1)
        near = np.flatnonzero(error <= TOLERANCE)
        fewest = near[np.argsort(whole[near].sum(axis=1) + 8.0 * error[near], kind="stable")[:20]]
        kept = np.unique(np.concatenate([np.argsort(score, kind="stable")[:20], fewest]))
        paints = self.mixer.paints
        return [
            (float(score[i]), float(error[i]),
             tuple((paints[p].name, int(n)) for p, n in zip(rows[i], whole[i], strict=True)))
            for i in kept
        ]  # fmt: skip


def _in_order(
    additions: tuple[tuple[str, int], ...], shelf: tuple[Paint, ...], pot: Pot, target: Array
) -> tuple[Addition, ...]:
    """What helps most goes in first; stir and look after each."""
    by_name = {p.name: p for p in shelf}
    left, steps = list(additions), []
    while left:
        options = []
        for name, count in left:
            paint = by_name[name]
            total = pot.drops + count
            after = Pot(
                pot.absorption + count * paint.absorption, pot.scattering + count * paint.scattering, total, pot.coat,
                (pot.drops * pot.surface + count * paint.surface) / total,
            )  # fmt: skip
            lab = pot_lab(after)
            options.append((float(delta_e_2000(lab, target)), name, count, after, lab))
        error, name, count, pot, lab = min(options, key=lambda option: option[:2])
        left.remove((name, count))
        steps.append(Addition(name, count, as_lab(lab), error))
    return tuple(steps)


def _start_again(
    now: float, steps: tuple[Addition, ...], room: int, shelf: tuple[Paint, ...], fresh: Recipe | None, needed: int
) -> str:
    """Why a new pot is the better way, or nothing."""
    if room <= 0:
        return "The cup is full: nothing can be added. Pour a part off into another cup, or start again."
    if not steps or steps[-1].delta_e > now - 0.3:
        return "No addition from this shelf brings the pot nearer. Start again."
    return _cheaper_anew(steps, shelf, fresh, needed) if fresh is not None else ""


def _cheaper_anew(steps: tuple[Addition, ...], shelf: tuple[Paint, ...], fresh: Recipe, needed: int) -> str:
    price = {p.name: p.drop_ml * p.price_per_ml for p in shelf}
    repeats = max(1, math.ceil(needed / fresh.total))
    anew = sum(n * price.get(name, 0.0) for name, n in fresh.drops) * repeats
    added = sum(step.drops * price.get(step.name, 0.0) for step in steps)
    more, drops_anew, left = sum(step.drops for step in steps), fresh.total * repeats, steps[-1].delta_e
    cost = f"a new pot costs {anew:.2f}, the additions {added:.2f}"
    drops = f"a new pot takes {drops_anew} drops, saving this one {more}"
    if anew > 0 and added > anew:
        return f"Start again, it is cheaper: {cost}."
    if anew == 0 and more > drops_anew:
        return f"Start again, it is cheaper: {drops}."
    # What stays visibly off is worth a new pot whatever it costs, as long as one comes visibly nearer.
    if left > TOLERANCE and fresh.delta_e < left - WORTH_A_POT:
        return (
            f"Start again: this pot stays ΔE00 {left:.1f} off, a new one is foretold at {fresh.delta_e:.1f}; "
            f"{cost if anew > 0 else drops}."
        )
    return ""
