"""How surely the solution is known: covariances of anything that does not depend on where the model stands.

Freedoms that no observation holds (place, turn and size of the whole) are pinned before inverting; what
does not depend on them comes out the same however they are pinned.

Reference: Triggs et al. 2000, §9 (gauge freedom); Hartley & Zisserman, 2nd ed., §5.2.
"""

from __future__ import annotations

import math
from functools import cached_property

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.solver.layout import LENS, POSE, ROUND, Layout
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.solver.unknowns import Unknowns

FREEDOMS = ("length", "beam", "height", "turn length", "turn beam", "turn height", "size")
# Share of its own weight below which a freedom counts as held by nothing.
HELD = 1e-9
FEW_FREE = 6


class Spread:
    """Covariances at a solution.

    `loose` names the freedoms of the whole that nothing holds. `widened` is how many times more the residuals
    scatter than their errors explain (at least 1); covariances contain its square.
    """

    def __init__(self, equations: Equations, solution: Solution) -> None:
        self.layout, self._equations = solution.layout, equations
        normal = equations.normal(solution.unknowns)
        self._whole, _, self._half, self._inverse = normal.reduced()
        self.loose = tuple(self._pin(solution.unknowns, np.diag(normal.dense)))
        self.freedom = equations.freedom + len(self.loose)
        self.widened = math.sqrt(max(1.0, 2.0 * solution.cost / self.freedom)) if self.freedom > FEW_FREE else 1.0

    def factors(self, by_dense: Array, by_block: Array) -> Array:
        """What has the covariance of Q quantities as its Gram matrix: (N, Q), from their slopes.

        `by_dense` (D_all, Q) holds slopes by all dense, coupled blocks among them, `by_block` (S, 3, Q) by all
        blocks; slopes by coupled blocks may stand in either.
        """
        layout, count = self.layout, by_dense.shape[1]
        slopes = by_dense.copy()
        coupled = slice(layout.offsets["blocks"], layout.offsets["end"])
        slopes[coupled] += by_block[layout.coupled_blocks].reshape(-1, count)
        active = np.vstack([slopes[self._equations.active], np.zeros((1, count))])
        inner = (self._inverse @ by_block[layout.free_blocks]).reshape(-1, count)
        outer = np.linalg.solve(self._root, active - self._half.T @ inner)
        return np.asarray(np.vstack([outer, inner])) * self.widened

    def towards(self, by_dense: Array, by_block: Array) -> tuple[Array, Array]:
        """Covariances of one quantity, by its slopes (D_all,) and (S, 3), with all dense (D_all,) and blocks (S, 3)."""
        layout = self.layout
        outer, inner = np.split(
            self.factors(by_dense[:, None], by_block[..., None])[:, 0] * self.widened, [len(self._whole)]
        )
        step = np.asarray(np.linalg.solve(self._root.T, outer), np.float64)
        dense = self._equations.of_all(step)
        blocks = np.zeros_like(by_block)
        rest = (inner - self._half @ step).reshape(-1, 3)
        blocks[layout.free_blocks] = np.einsum("sji,sj->si", self._inverse, rest)
        blocks[layout.coupled_blocks] = dense[layout.offsets["blocks"] :].reshape(-1, 3)
        return dense, blocks

    @cached_property
    def _root(self) -> Array:
        scale = np.sqrt(np.diag(self._whole))
        scaled = self._whole / np.outer(scale, scale)
        jitter = 0.0
        while True:
            try:
                return np.asarray(scale[:, None] * np.linalg.cholesky(scaled + jitter * np.eye(len(scale))))
            except np.linalg.LinAlgError:
                # What is not determined at all comes out with an enormous error, not with none.
                jitter = max(jitter * 10, 1e-14)

    def _pin(self, unknowns: Unknowns, weight: Array) -> list[str]:
        ways = _freedoms(self.layout, unknowns)[self._equations.active]
        ways = np.vstack([ways, np.zeros((1, len(FREEDOMS)))])
        own = (ways**2).T @ weight
        held = np.einsum("ik,ij,jk->k", ways, self._whole, ways)
        loose = np.flatnonzero((own > 0) & (held < HELD * own))
        for k in loose:
            self._whole = self._whole + np.outer(ways[:, k], ways[:, k]) * own[k] / float(ways[:, k] @ ways[:, k]) ** 2
        return [FREEDOMS[k] for k in loose]


def _freedoms(layout: Layout, unknowns: Unknowns) -> Array:
    """How moving, turning and sizing the whole moves the dense parameters: (D_all, 7)."""
    ways = np.zeros((layout.offsets["end"], 7))
    for k in range(7):
        ways[:, k] = _freedom(layout, unknowns, k)
    return ways


def _freedom(layout: Layout, unknowns: Unknowns, k: int) -> Array:
    at = layout.offsets
    axis = np.eye(3)[k % 3]
    poses = np.zeros((len(unknowns.rotations), POSE))
    flats, circles = np.zeros_like(unknowns.flats), np.zeros((len(unknowns.circles), ROUND))
    directions = np.zeros_like(unknowns.directions)
    blocks = unknowns.blocks[layout.coupled_blocks]
    centres, normals = unknowns.circles[:, :3], unknowns.circles[:, 3:6]
    if k < 3:
        poses[:, 3:] = -unknowns.rotations @ axis
        flats[:, 3] = unknowns.flats[:, :3] @ axis
        circles[:, :3], moved = axis, np.tile(axis, (len(blocks), 1))
    elif k < 6:
        poses[:, :3] = -unknowns.rotations @ axis
        flats[:, :3] = np.cross(axis, unknowns.flats[:, :3])
        circles[:, :3], circles[:, 3:6] = np.cross(axis, centres), np.cross(axis, normals)
        directions = np.cross(axis, unknowns.directions) if len(directions) else directions
        moved = np.cross(axis, blocks) if len(blocks) else blocks
    else:
        poses[:, 3:] = unknowns.translations
        flats[:, 3] = unknowns.flats[:, 3]
        circles[:, :3], circles[:, 6], moved = centres, 1.0, blocks
    moved = moved.copy()
    moved[layout.centred_blocks[layout.coupled_blocks], 1] = 0.0
    lenses = np.zeros(LENS * len(layout.lenses))
    parts = (poses, lenses, directions, flats, circles, moved)
    found = np.concatenate([np.ravel(part) for part in parts])
    assert len(found) == at["end"]
    return found
