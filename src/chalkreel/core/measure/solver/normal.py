"""Normal equations of a scene and their solution by eliminating the free blocks.

Reference: Triggs, McLauchlan, Hartley & Fitzgibbon, "Bundle Adjustment: A Modern Synthesis", 2000, §6
(Schur complement on the points) and §4.3 (robust weights).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.solver.constraints import Constraint, constraints_of
from chalkreel.core.measure.solver.layout import (
    BEND,
    DIRECTION,
    FLAT,
    FOCAL,
    LENS,
    OFFSET_X,
    OFFSET_Y,
    ROUND,
    Index,
    Layout,
)
from chalkreel.core.measure.solver.sightings import CAMERA, Sighted
from chalkreel.core.measure.solver.unknowns import Unknowns

# Beyond so many σ a residual's pull shrinks with its square: a quadratic core with Cauchy's tail.
ROBUST_SIGMA = 3.0
# What is believed of any lens before a mark is made: its focal length is some 1.5 times the picture's width, give
# or take a factor of two and a half; its bend is small.
USUAL_FOCAL = 1.5
LOG_FOCAL_SIGMA = 0.9
BEND_SIGMA = 0.06
OFFSET_SHARE = 0.25
# Landmarks lie within some 100 m of where they are: only for what nothing else determines.
SEED_SIGMA_MM = 1e5
ROBUST_KINDS = ("edge", "rim", "ruler")


@dataclass(frozen=True, eq=False)
class Normal:
    """Normal equations at one place.

    `dense` (D, D) and `slope` (D,) are of the active dense parameters and one last, empty row that collects what is not
    unknown; `across` (F, 3, D), `blocks` (F, 3, 3), `block_slope` (F, 3) are of the free blocks.
    """

    dense: Array
    slope: Array
    across: Array
    blocks: Array
    block_slope: Array

    def reduced(self, damping: float = 0.0) -> tuple[Array, Array, Array, Array]:
        """The equations of the dense parameters alone (D, D), (D,), and what takes them back to the blocks.

        The last two are L⁻¹ Wᵀ (3F, D) and L⁻¹ (F, 3, 3) with V = L Lᵀ.

        Raises
        ------
        numpy.linalg.LinAlgError
            A block is not determined at all.
        """
        damped = self.blocks.copy()
        diagonal = np.einsum("sii->si", damped)
        diagonal += damping * np.maximum(diagonal, 1e-12)
        inverse = np.linalg.inv(np.linalg.cholesky(damped))
        half = (inverse @ self.across).reshape(-1, len(self.slope))
        whole = self.dense - half.T @ half
        index = np.arange(len(whole))
        whole[index, index] += damping * np.maximum(np.diag(self.dense), 1e-12)
        slope = self.slope - half.T @ (inverse @ self.block_slope[..., None]).reshape(-1)
        return whole, slope, half, inverse

    def step(self, damping: float) -> tuple[Array, Array, float]:
        """The damped step of the dense parameters (D,) and free blocks (F, 3), and the fall of cost that it promises.

        Raises
        ------
        numpy.linalg.LinAlgError
            The equations are singular.
        """
        whole, slope, half, inverse = self.reduced(damping)
        step = np.linalg.solve(whole, -slope)
        inner = -(inverse @ self.block_slope[..., None])[..., 0] - (half @ step).reshape(-1, 3)
        block_step = np.einsum("sji,sj->si", inverse, inner)
        fall = -float(step @ self.slope) - float(np.sum(block_step * self.block_slope))
        push = damping * float(
            step @ (np.diag(self.dense) * step) + np.sum(np.einsum("sii->si", self.blocks) * block_step**2)
        )
        return np.asarray(step, np.float64), np.asarray(block_step), 0.5 * (fall + push)


class Equations:
    """A scene made ready for solving: everything that does not change from step to step."""

    def __init__(self, layout: Layout, weighed: bool = True) -> None:
        self.layout = layout
        self.sighted = Sighted.of(layout, layout.scene.sightings)
        self.constraints = constraints_of(layout)
        self.weighed = weighed
        self._prior_mean, self._prior_weight = lens_priors(layout)
        self.use(layout.active)

    def use(self, active: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> None:
        """Solve for these dense parameters (D,) only."""
        layout, sighted = self.layout, self.sighted
        self.active = np.flatnonzero(active)
        self.size = len(self.active) + 1
        self._column = np.full(layout.offsets["end"] + 1, self.size - 1, dtype=np.intp)
        self._column[self.active] = np.arange(len(self.active))
        views = range(len(layout.views))
        cameras = np.stack([self._column[layout.camera_columns(v)] for v in views]).reshape(-1, CAMERA)
        self._camera_pairs = (cameras[:, :, None] * self.size + cameras[:, None, :]).ravel()
        self._cameras = cameras
        self._view_starts = np.searchsorted(sighted.view, np.arange(len(cameras) + 1))
        free = np.full(layout.block_count, -1, dtype=np.intp)
        free[layout.free_blocks] = np.arange(len(layout.free_blocks))
        self._free = free[sighted.block]
        self._is_free = self._free >= 0
        rows = 3 * self._free[:, None] + np.arange(3)
        flat = rows[:, :, None] * self.size + cameras[sighted.view][:, None, :]
        self._across_index = flat[self._is_free].ravel()
        self._block_index = (9 * self._free[:, None] + np.arange(9))[self._is_free].ravel()
        self._fixed_blocks = layout.centred_blocks[layout.free_blocks]

    @property
    def freedom(self) -> int:
        """Observations beyond unknowns; what nothing holds (the whole's place, turn and size) counts as unknown."""
        layout = self.layout
        rows = 2 * len(layout.scene.sightings) + sum(len(c.columns) for c in self.constraints)
        active = set(self.active.tolist())
        lenses = range(layout.offsets["lenses"], layout.offsets["directions"])
        believed = min(int(np.count_nonzero(self._prior_weight)), sum(column in active for column in lenses))
        return rows - len(self.active) - 3 * len(layout.free_blocks) + believed

    def cost(self, unknowns: Unknowns) -> float:
        """Half the sum of squares, with Cauchy's tail where it is robust."""
        total = float(np.sum(robust_cost(_square(self.sighted.residuals(unknowns)), self.weighed)))
        for constraint in self.constraints:
            robust = self.weighed and constraint.kind in ROBUST_KINDS
            total += float(np.sum(robust_cost(_square(constraint.residuals(unknowns)), robust)))
        lenses = (unknowns.lenses.ravel() - self._prior_mean) ** 2
        return total + 0.5 * float(lenses @ self._prior_weight)

    def normal(self, unknowns: Unknowns) -> Normal:
        """The normal equations at a place, with robust weights."""
        residual = self.sighted.residuals(unknowns)
        root = np.sqrt(robust_weight(_square(residual), self.weighed))
        by_camera, by_block = self.sighted.linearised(unknowns)
        by_camera *= root[:, None, None]
        by_block *= root[:, None, None]
        residual = residual * root[:, None]
        whole, slope = self._of_cameras(by_camera, residual)
        across, blocks, block_slope = self._of_blocks(by_camera, by_block, residual)
        self._of_coupled(whole, slope, by_camera, by_block, residual)
        for constraint in self.constraints:
            rows, missed = self.dense(constraint, unknowns)
            whole += rows.T @ rows
            slope += rows.T @ missed
        columns = self._lens_columns()
        whole[columns, columns] += self._prior_weight
        slope[columns] += self._prior_weight * (unknowns.lenses.ravel() - self._prior_mean)
        self._hold_lengths(whole, unknowns)
        coupled = self._column[self.layout.offsets["blocks"] : -1]
        whole[coupled, coupled] += 1.0 / SEED_SIGMA_MM**2
        whole[-1], whole[:, -1], slope[-1], across[..., -1] = 0.0, 0.0, 0.0, 0.0
        whole[-1, -1] = 1.0
        return Normal(whole, slope, across, blocks, block_slope)

    def dense(self, constraint: Constraint, unknowns: Unknowns) -> tuple[Array, Array]:
        """Weighted rows (N·K, D) and residuals (N·K,) of a constraint."""
        missed, slopes = constraint.residuals(unknowns), constraint.linearised(unknowns)
        robust = self.weighed and constraint.kind in ROBUST_KINDS
        root = np.sqrt(robust_weight(_square(missed), robust))[:, None]
        rows = np.zeros((*missed.shape, self.size))
        columns = self._column[constraint.columns]
        for j in range(columns.shape[1]):
            rows[np.arange(len(rows)), :, columns[:, j]] += slopes[:, :, j] * root
        rows[..., -1] = 0.0
        return rows.reshape(-1, self.size), (missed * root).reshape(-1)

    def of_all(self, step: Array) -> Array:
        """A step of the active dense parameters (D,) as one of all."""
        whole = np.zeros(self.layout.offsets["end"])
        whole[self.active] = step[:-1]
        return whole

    def _of_cameras(self, by_camera: Array, residual: Array) -> tuple[Array, Array]:
        blocks = np.zeros((len(self._cameras), CAMERA, CAMERA))
        slopes = np.zeros((len(self._cameras), CAMERA))
        for view, (start, end) in enumerate(zip(self._view_starts[:-1], self._view_starts[1:], strict=True)):
            rows = by_camera[start:end].reshape(-1, CAMERA)
            blocks[view] = rows.T @ rows
            slopes[view] = rows.T @ residual[start:end].reshape(-1)
        whole = _sums(self._camera_pairs, blocks.ravel(), self.size**2).reshape(self.size, self.size)
        return whole, _sums(self._cameras.ravel(), slopes.ravel(), self.size)

    def _of_blocks(self, by_camera: Array, by_block: Array, residual: Array) -> tuple[Array, Array, Array]:
        count, free = len(self.layout.free_blocks), self._is_free
        mine, cameras, missed = by_block[free], by_camera[free], residual[free]
        # Blocks in the mirror plane do not leave it.
        mine[self._fixed_blocks[self._free[free]], :, 1] = 0.0
        turned = mine.transpose(0, 2, 1)
        across = _sums(self._across_index, (turned @ cameras).ravel(), 3 * count * self.size)
        blocks = _sums(self._block_index, (turned @ mine).ravel(), 9 * count).reshape(count, 3, 3)
        blocks += np.eye(3) / SEED_SIGMA_MM**2
        blocks[self._fixed_blocks, 1, 1] += 1.0
        slopes = (turned @ missed[..., None]).reshape(-1)
        rows = (3 * self._free[free][:, None] + np.arange(3)).ravel()
        slope = _sums(rows, slopes, 3 * count).reshape(count, 3)
        return across.reshape(count, 3, self.size), blocks, slope

    def _of_coupled(self, whole: Array, slope: Array, by_camera: Array, by_block: Array, residual: Array) -> None:
        mine = np.flatnonzero(~self._is_free)
        if not len(mine):
            return
        columns = self._column[self.layout.block_columns[self.sighted.block[mine]][:, None] + np.arange(3)]
        cameras = self._cameras[self.sighted.view[mine]]
        rows = np.zeros((len(mine), 2, self.size))
        index = np.arange(len(mine))[:, None]
        rows[index, :, columns] = by_block[mine].transpose(0, 2, 1)
        rows[..., -1] = 0.0
        flat = rows.reshape(-1, self.size)
        whole += flat.T @ flat
        slope += flat.T @ residual[mine].reshape(-1)
        cross = np.zeros((self.size, self.size))
        np.add.at(
            cross, (columns[:, :, None], cameras[:, None, :]), by_block[mine].transpose(0, 2, 1) @ by_camera[mine]
        )
        whole += cross + cross.T

    def _hold_lengths(self, whole: Array, unknowns: Unknowns) -> None:
        """Unit vectors do not change their length: nothing else would say so."""
        at = self.layout.offsets
        units = [(at["directions"] + DIRECTION * i, v) for i, v in enumerate(unknowns.directions)]
        units += [(at["flats"] + FLAT * i, v[:3]) for i, v in enumerate(unknowns.flats)]
        units += [(at["circles"] + ROUND * i + 3, v[3:6]) for i, v in enumerate(unknowns.circles)]
        for start, unit in units:
            columns = self._column[start : start + 3]
            whole[columns[:, None], columns] += np.outer(unit, unit)

    def _lens_columns(self) -> Index:
        start = self.layout.offsets["lenses"]
        return self._column[start : self.layout.offsets["directions"]]


def lens_priors(layout: Layout) -> tuple[Array, Array]:
    """What is believed of the lenses beforehand: means and weights (5 G,)."""
    mean = np.zeros((len(layout.lenses), LENS))
    sigma = np.full((len(layout.lenses), LENS), np.inf)
    for view, lens in zip(layout.scene.views, layout.lens_of_view, strict=True):
        width = max(view.size_px[0] * view.pixel_aspect, view.size_px[1])
        if not np.isfinite(sigma[lens, FOCAL]) or view.known_focal_px is not None:
            mean[lens, FOCAL] = np.log(view.known_focal_px or USUAL_FOCAL * width)
            sigma[lens, FOCAL] = view.focal_sigma if view.known_focal_px else LOG_FOCAL_SIGMA
        sigma[lens, BEND] = BEND_SIGMA
        sigma[lens, [OFFSET_X, OFFSET_Y]] = OFFSET_SHARE * width
    return mean.ravel(), (1.0 / sigma**2).ravel()


def _sums(index: Index, values: Array, size: int) -> Array:
    return np.bincount(index, values, size).astype(np.float64, copy=False)


def _square(residual: Array) -> Array:
    return np.asarray(np.sum(residual * residual, axis=1))


def robust_cost(square: Array, robust: bool = True) -> Array:
    """What residuals with these squares (in σ²) cost: half of it near, with Cauchy's tail beyond."""
    if not robust:
        return 0.5 * square
    core = ROBUST_SIGMA**2
    return np.where(square <= core, 0.5 * square, 0.5 * core * (1.0 + np.log(np.maximum(square, core) / core)))


def robust_weight(square: Array, robust: bool = True) -> Array:
    """How much a residual with this square (in σ²) still pulls, 0..1."""
    core = ROBUST_SIGMA**2
    return np.minimum(1.0, core / np.maximum(square, core)) if robust else np.ones_like(square)
