"""Which drops from the shelf make a colour: a beam search over whole drops.

Every mix of n drops is one of n − 1 drops and one more, so the search grows mixes drop by
drop and keeps the most promising at each size (beam), judged by CIEDE2000 of the two-constant
Kubelka–Munk prediction, then tries to exchange single drops in the best.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kubelka_munk import mix_reflectance
from chalkreel.core.colour.spectra import xyz_of_reflectance
from chalkreel.core.errors import RefusedError

Array = npt.NDArray[np.float64]
Counts = npt.NDArray[np.int16]
BEAM = 40
EXCHANGES = 6
# Another paint or more drops must earn their trouble, in ΔE00.
PAINT_TROUBLE, DROP_TROUBLE = 0.25, 0.015


@dataclass(frozen=True)
class Paint:
    """A paint's K and S (36,) at the program's bands, S relative to the shelf's white."""

    name: str
    absorption: Array
    scattering: Array


@dataclass(frozen=True)
class Recipe:
    """Whole drops by paint name, the predicted L*a*b* and its ΔE00 to the target."""

    drops: tuple[tuple[str, int], ...]
    lab: tuple[float, float, float]
    delta_e: float


class SearchStoppedError(Exception):
    """The caller asked the search to stop."""


def find_recipes(
    target_lab: tuple[float, float, float],
    shelf: tuple[Paint, ...],
    most_paints: int = 4,
    most_drops: int = 24,
    progress: Callable[[float], bool] | None = None,
) -> tuple[Recipe, ...]:
    """The best recipe for each number of paints that pays for its trouble, best first.

    `progress` is called with the share done and returns False to stop.

    Raises
    ------
    RefusedError
        An empty shelf or impossible limits.
    SearchStoppedError
        `progress` returned False.
    """
    if not shelf:
        raise RefusedError("The shelf is empty. Add paints before asking for a recipe.")
    if most_paints < 1 or most_drops < 1:
        raise RefusedError("A recipe needs at least one paint and one drop.")
    search = _Search(np.array(target_lab), shelf, most_paints)
    front: Counts = np.eye(len(shelf), dtype=np.int16)
    for size in range(1, most_drops + 1):
        if size > 1:
            front = search.grow(front)
        front = search.keep_best(front)
        if progress is not None and not progress(size / most_drops):
            raise SearchStoppedError
    for _ in range(EXCHANGES):
        search.keep_best(search.exchange(most_drops))
    return search.result()


class _Search:
    def __init__(self, target: Array, shelf: tuple[Paint, ...], most_paints: int) -> None:
        self.target, self.shelf, self.most_paints = target, shelf, most_paints
        self.absorption = np.stack([p.absorption for p in shelf])
        self.scattering = np.stack([p.scattering for p in shelf])
        self.best: dict[int, tuple[float, float, Counts]] = {}

    def predict(self, counts: Counts) -> Array:
        return lab_of_xyz(xyz_of_reflectance(mix_reflectance(counts.astype(float), self.absorption, self.scattering)))

    def keep_best(self, counts: Counts) -> Counts:
        """Note the best for each number of paints; return the beam, the best of each number and of all."""
        error = delta_e_2000(self.predict(counts), self.target)
        paints = (counts > 0).sum(axis=1)
        score = error + DROP_TROUBLE * counts.sum(axis=1)
        kept = []
        for number in range(1, self.most_paints + 1):
            rows = np.flatnonzero(paints == number)
            if len(rows) == 0:
                continue
            order = rows[np.argsort(score[rows], kind="stable")[:BEAM]]
            kept.append(order)
            top = int(order[0])
            if number not in self.best or score[top] < self.best[number][0]:
                self.best[number] = (float(score[top]), float(error[top]), counts[top])
        return counts[np.concatenate(kept)]

    def grow(self, counts: Counts) -> Counts:
        one = np.eye(len(self.shelf), dtype=np.int16)
        grown = (counts[:, None, :] + one[None]).reshape(-1, len(self.shelf))
        return self._allowed(grown)

    def exchange(self, most_drops: int) -> Counts:
        """Neighbours of the best mixes: one drop more, less, or of another paint."""
        one = np.eye(len(self.shelf), dtype=np.int16)
        start = np.stack([entry[2] for entry in self.best.values()])
        steps = np.concatenate([one, -one, (one[:, None] - one[None]).reshape(-1, len(self.shelf))])
        near = (start[:, None, :] + steps[None]).reshape(-1, len(self.shelf))
        total = near.sum(axis=1)
        return self._allowed(near[(near >= 0).all(axis=1) & (total >= 1) & (total <= most_drops)])

    def _allowed(self, counts: Counts) -> Counts:
        counts = counts[(counts > 0).sum(axis=1) <= self.most_paints]
        # Rows are told apart by a random projection: far cheaper than sorting whole rows.
        key = counts @ np.random.default_rng(1).standard_normal(counts.shape[1])
        return counts[np.unique(np.round(key, 9), return_index=True)[1]]

    def result(self) -> tuple[Recipe, ...]:
        rows = [(score + PAINT_TROUBLE * number, error, counts) for number, (score, error, counts) in self.best.items()]
        rows.sort(key=lambda row: row[0])
        return tuple(self._recipe(counts, error) for _, error, counts in rows)

    def _recipe(self, counts: Counts, error: float) -> Recipe:
        lab = self.predict(counts[None])[0]
        order = np.argsort(-counts, kind="stable")
        drops = tuple((self.shelf[i].name, int(counts[i])) for i in order if counts[i] > 0)
        return Recipe(drops, (float(lab[0]), float(lab[1]), float(lab[2])), error)


def predict_recipe(
    drops: tuple[tuple[str, int], ...], shelf: tuple[Paint, ...], target_lab: tuple[float, float, float]
) -> Recipe | None:
    """The colour of given drops against a target; None where there are none or a paint is not on the shelf."""
    by_name = {paint.name: paint for paint in shelf}
    if not drops or any(name not in by_name for name, _ in drops):
        return None
    counts = np.array([float(count) for _, count in drops])
    absorption = np.stack([by_name[name].absorption for name, _ in drops])
    scattering = np.stack([by_name[name].scattering for name, _ in drops])
    lab = lab_of_xyz(xyz_of_reflectance(mix_reflectance(counts, absorption, scattering)))
    error = float(delta_e_2000(lab, np.array(target_lab)))
    return Recipe(drops, (float(lab[0]), float(lab[1]), float(lab[2])), error)
