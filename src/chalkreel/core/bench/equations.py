"""All photographs of one state of the replica together: what clicks leave over, once the cameras are free to move.

The landmarks' own errors are one covariance that all photographs share: more photographs do not average it away.

Reference: Koch, *Parameter Estimation and Hypothesis Testing in Linear Models*, 2nd ed., §3.2, §4.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array, Flags
from chalkreel.core.bench.places import Places
from chalkreel.core.bench.resect import ANY_LENS, UNKNOWNS, Clicks, Lens, linearised, prior
from chalkreel.core.faces.face import Index
from chalkreel.core.measure.camera import Camera


@dataclass(frozen=True, eq=False)
class Shot:
    """A photograph: its landmarks (n,), rows of `Places`, where they were clicked (n, 2), how surely (n,); its lens."""

    rows: Index
    stored: Array
    sigma: Array
    size_px: tuple[int, int]
    lens: Lens = ANY_LENS

    def clicks(self, places: Places, kept: Flags | None = None) -> Clicks:
        """Its clicks with the places they are on; only some of them by flags (n,)."""
        kept = np.ones(len(self.rows), np.bool_) if kept is None else kept
        rows = self.rows[kept]
        return Clicks(self.stored[kept], self.sigma[kept], places.points[rows], places.factors_of(rows))


@dataclass(frozen=True, eq=False)
class Equations:
    """Clicks of all photographs, made independent of each other and of where the cameras stand.

    `rows` (m,) names the landmark of each click, `off` (2m,) what is left over in σ; `_root` and `_free` do the same to
    anything else that would move the clicks.
    """

    rows: Index
    off: Array
    by_point: Array
    _root: Array
    _free: Array
    _lost: int

    @staticmethod
    def of(
        places: Places, shots: Sequence[Shot], cameras: Sequence[Camera], weights: Sequence[Array],
        moves: Array | None = None,
    ) -> Equations:  # fmt: skip
        """The equations at cameras near to the right ones.

        `weights` lower what single clicks count. `moves` (N, 3, k) are further ways in which all places are free to
        move.
        """
        count = sum(len(shot.rows) for shot in shots)
        cameras_too = UNKNOWNS * len(shots)
        slopes = np.zeros((2 * count, cameras_too + (0 if moves is None else moves.shape[2])))
        by_point, off, own, pulls, strange = [], [], [], [], []
        at = 0
        for n, (shot, camera, weight) in enumerate(zip(shots, cameras, weights, strict=True)):
            expected, by_unknowns, by_place = linearised(camera, places.points[shot.rows])
            rows, columns = slice(2 * at, 2 * (at + len(shot.rows))), slice(UNKNOWNS * n, UNKNOWNS * (n + 1))
            slopes[rows, columns] = by_unknowns.reshape(-1, UNKNOWNS)
            if moves is not None:
                slopes[rows, cameras_too:] = (by_place @ moves[shot.rows]).reshape(2 * len(shot.rows), -1)
            off.append((shot.stored - expected).ravel())
            by_point.append(by_place)
            own.append(np.repeat(shot.sigma**2 / np.maximum(weight, 1e-4), 2))
            away, pull = prior(camera, shot.lens)
            wide = np.zeros((2, slopes.shape[1]))
            wide[:, columns] = pull
            pulls.append(wide)
            strange.append(-away)
            at += len(shot.rows)
        every, points = np.concatenate([shot.rows for shot in shots]), np.concatenate(by_point)
        moving = np.einsum("nij,mnj->mni", points, places.factors_of(every)).reshape(len(places.factors), -1)
        root = np.linalg.cholesky(moving.T @ moving + np.diag(np.concatenate(own)))
        free = np.vstack([np.linalg.solve(root, slopes), *pulls])
        whole = np.concatenate([np.linalg.solve(root, np.concatenate(off)), *strange])
        basis = np.linalg.qr(free)[0]
        off_free = whole - basis @ (basis.T @ whole)
        return Equations(every, off_free, points, root, basis, 2 * len(shots))

    @property
    def freedom(self) -> int:
        """How many independent numbers are left over."""
        return int(len(self.off) - self._free.shape[1])

    def moved_by(self, moves: Array) -> Array:
        """What changes (N, 3, k) of the landmarks' places do to the numbers left over, (2m + …, k)."""
        shift = np.einsum("nij,njk->nik", self.by_point, moves[self.rows]).reshape(2 * len(self.rows), -1)
        return self._freed(shift)

    def of_clicks(self, chosen: Flags) -> Array:
        """What errors of single clicks (m,) do to the numbers left over: two columns a click."""
        return self._freed(np.eye(2 * len(self.rows))[:, np.repeat(chosen, 2)])

    def _freed(self, shift: Array) -> Array:
        whole = np.vstack([np.linalg.solve(self._root, shift), np.zeros((self._lost, shift.shape[1]))])
        return np.asarray(whole - self._free @ (self._free.T @ whole))


def explained(columns: Array, off: Array) -> tuple[float, int]:
    """How much of the sum of squares some columns explain, and how many of them are independent."""
    ways, sizes, _ = np.linalg.svd(columns, full_matrices=False)
    kept = sizes > 1e-6 * max(float(sizes.max(initial=0.0)), 1e-12)
    return float(np.sum((ways[:, kept].T @ off) ** 2)), int(kept.sum())


def normal_score(square: float, freedom: int) -> float:
    """A sum of squares as a standard normal number (Wilson & Hilferty 1931)."""
    if freedom <= 0:
        return 0.0
    share = 2.0 / (9.0 * freedom)
    return float(((square / freedom) ** (1 / 3) - (1 - share)) / np.sqrt(share))
