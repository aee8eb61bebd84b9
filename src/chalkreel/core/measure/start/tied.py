"""Landmarks that one view shows and ties to others place: parallels along the axes, flats square to one, pairs.

Reference: Hartley & Zisserman, 2nd ed., §12.2 (a mark is two linear equations), §A5.1 (what a null space leaves open).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import Solution, solve
from chalkreel.core.measure.solver.spread import Spread
from chalkreel.core.measure.start.estimate import Estimate, estimate_of
from chalkreel.core.measure.start.grow import known_part
from chalkreel.core.measure.start.linear import ties_of
from chalkreel.core.measure.start.unknowns_from import unknowns_from

# Singular values below this share of the largest count as nothing: an edge within a tenth of a degree of a ray.
NOTHING = 2e-3
# A place less sure (1 σ) than this share of the whole model's extent is none.
LOST = 0.5
# Of what is lost, that which floats nearly as far as the farthest goes first.
FLOATS_WITH = 0.3
MOST_ROUNDS = 8


def with_tied(scene: Scene, estimate: Estimate) -> Estimate:
    """With the landmarks that known views show but do not place, as far as ties to others leave nothing open."""
    rows = _Rows(scene, estimate)
    found = rows.places()
    twins = {m.key: m.mirror for m in scene.landmarks}
    for name, place in list(found.items()):
        if twins[name]:
            found[twins[name]] = place * np.array([1.0, -1.0, 1.0])
    return replace(estimate, points={**found, **estimate.points})


class _Rows:
    """Linear equations in the places of the unknown blocks; what is known stands on the right."""

    def __init__(self, scene: Scene, estimate: Estimate) -> None:
        self._layout, self._known = Layout(scene), estimate.points
        ties = list(ties_of(scene))
        near = {name for a, b, _ in ties for name in (a, b)}
        blocks = {self._layout.blocks[n][0] for n in near if n not in estimate.points}
        self._column = {block: 3 * i for i, block in enumerate(sorted(blocks))}
        self._rows: list[Array] = []
        self._right: list[float] = []
        for key, camera in estimate.cameras.items():
            marks = {n: xy for n, xy in scene.marks[key].items() if self._layout.blocks[n][0] in blocks}
            for name, ray in zip(marks, camera.rays(np.stack(list(marks.values()))) if marks else (), strict=True):
                for across in np.linalg.svd(ray[None])[2][1:]:
                    self._add({name: across}, float(across @ camera.position))
        for a, b, axes in ties:
            for k in axes:
                self._add({a: np.eye(3)[k], b: -np.eye(3)[k]}, 0.0)

    def _add(self, parts: Mapping[str, Array], right: float) -> None:
        row = np.zeros(3 * len(self._column))
        for name, part in parts.items():
            block, sign = self._layout.blocks[name]
            if block in self._column:
                start = self._column[block]
                row[start : start + 3] += part * np.array([1.0, sign, 1.0])
            else:
                right -= float(part @ self._known[name])
        if row.any():
            self._rows.append(row)
            self._right.append(right)

    def places(self) -> dict[str, Array]:
        """The landmarks that nothing leaves open."""
        if not self._rows:
            return {}
        matrix = np.stack(self._rows)
        _, sizes, ways = np.linalg.svd(matrix)
        open_ways = ways[int(np.sum(sizes > NOTHING * sizes[0])) :]
        values = np.linalg.lstsq(matrix, np.array(self._right), rcond=NOTHING)[0]
        found = {}
        for name, (block, sign) in self._layout.blocks.items():
            start = self._column.get(block)
            if start is not None and np.all(np.abs(open_ways[:, start : start + 3]) < NOTHING):
                found[name] = values[start : start + 3] * np.array([1.0, sign, 1.0])
        return found


def without_lost(solution: Solution) -> Solution | None:
    """Without landmarks that one ray shows and nothing holds along it: they have no place, whatever the start said.

    Those that float most go first and the rest is judged anew, since what floats takes with it what is tied to it.
    None where no landmark is left.
    """
    for _ in range(MOST_ROUNDS):
        sigma, extent = _floating(solution)
        lost = {b: s for b, s in sigma.items() if s > LOST * extent}
        if not lost:
            return solution
        most = max(lost.values())
        gone = {b for b, s in lost.items() if s >= FLOATS_WITH * most}
        if len(gone) == solution.layout.block_count:
            return None
        solution = _without(solution, gone)
    return None


def _without(solution: Solution, gone: set[int]) -> Solution:
    """What is left without some blocks, solved again."""
    layout, estimate = solution.layout, estimate_of(solution)
    points = {n: p for n, p in estimate.points.items() if layout.blocks[n][0] not in gone}
    rest = Layout(known_part(solution.scene, replace(estimate, points=points)))
    return solve(Equations(rest), unknowns_from(rest, estimate))


def _floating(solution: Solution) -> tuple[dict[int, float], float]:
    """1 σ of the blocks that one ray shows at most, and how large the model is."""
    scene, layout = solution.scene, solution.layout
    rays = np.bincount([layout.blocks[s.landmark][0] for s in scene.sightings], minlength=layout.block_count)
    known = {layout.blocks[m.key][0] for m in scene.landmarks if m.place_mm is not None}
    tried = [b for b in range(layout.block_count) if rays[b] < 2 and b not in known]
    # By the median, since what is lost may lie anywhere.
    away = np.linalg.norm(solution.unknowns.blocks - np.median(solution.unknowns.blocks, axis=0), axis=1)
    extent = 2.0 * float(np.median(away)) if len(away) else 0.0
    if not tried:
        return {}, extent
    by_block = np.zeros((layout.block_count, 3, 3 * len(tried)))
    for i, block in enumerate(tried):
        by_block[block, :, 3 * i : 3 * i + 3] = np.eye(3)
        by_block[block, 1, 3 * i + 1] = 0.0 if layout.centred_blocks[block] else 1.0
    spread = Spread(Equations(layout), solution)
    factors = spread.factors(np.zeros((layout.offsets["end"], 3 * len(tried))), by_block)
    sigma = np.linalg.norm(factors, axis=0).reshape(-1, 3).max(axis=1)
    return dict(zip(tried, map(float, sigma), strict=True)), extent
