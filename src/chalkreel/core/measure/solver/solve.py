"""The solver: Levenberg–Marquardt steps with robust weights until nothing moves any more.

Reference: Nielsen, "Damping Parameter in Marquardt's Method", 1999.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.solver.normal import Equations, Normal
from chalkreel.core.measure.solver.unknowns import Unknowns

MOST_STEPS = 200
FIRST_DAMPING = 1e-4
# Freedoms that nothing holds (where the model stands on the bench) are held by the damping alone.
LEAST_DAMPING = 1e-10
# A sum of squares so many of its own σ above the expected one is no longer chance.
SCATTER_SIGMA = 4.0


@dataclass(frozen=True, eq=False)
class Solution:
    """Where everything is. `cost` is half the robust sum of squares in σ²; `freedom` as `Equations` has it."""

    layout: Layout
    unknowns: Unknowns
    cost: float
    steps: int
    settled: bool
    freedom: int

    @property
    def scene(self) -> Scene:
        """What was solved."""
        return self.layout.scene

    @property
    def variance_factor(self) -> float:
        """Squares found over squares expected: about 1 where only clicks are in error."""
        return 2.0 * self.cost / max(self.freedom, 1)

    @property
    def fits(self) -> bool:
        """Whether it settled and the marks scatter no more than honest clicks do."""
        usual = self.freedom + SCATTER_SIGMA * math.sqrt(2.0 * max(self.freedom, 1))
        return self.settled and 2.0 * self.cost <= usual

    def point(self, landmark: str) -> Array:
        """A landmark's place in mm, (3,)."""
        return self.unknowns.point(self.layout, landmark)

    @property
    def points(self) -> Array:
        """All landmarks' places in the scene's order, (L, 3)."""
        blocks, signs = self.layout.landmark_blocks
        return np.asarray(self.unknowns.blocks[blocks] * signs)

    def camera(self, view: str) -> Camera:
        """A view's camera."""
        return self.unknowns.camera(self.layout, self.layout.views[view])


def solve(
    equations: Equations,
    start: Unknowns,
    progress: Callable[[float], bool] = lambda _: True,
    most_steps: int = MOST_STEPS,
    patience: float = 1e-7,
) -> Solution:
    """Improve on a start until a step promises less than `patience` of the cost.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    RefusedError
        The start has landmarks behind their cameras.
    """
    unknowns, damping, growth = start, FIRST_DAMPING, 2.0
    cost = equations.cost(unknowns)
    if not np.isfinite(cost):
        raise RefusedError("This start has landmarks behind the camera.")
    normal = equations.normal(unknowns)
    settled = False
    count = 0
    for count in range(1, most_steps + 1):  # noqa: B007 - the last count is reported
        if not progress(-1.0):
            raise StoppedError("Solving was stopped.")
        moved, fall = _moved(equations, unknowns, normal, damping)
        if moved is None:
            damping, growth = damping * growth, growth * 2
            continue
        if fall <= patience * cost + 1e-18:
            settled = True
            break
        found = equations.cost(moved)
        gain = (cost - found) / fall
        if gain > 0:
            unknowns, cost = moved, found
            normal = equations.normal(unknowns)
            damping = max(damping * max(0.1, 1.0 - (2.0 * gain - 1.0) ** 3), LEAST_DAMPING)
            growth = 2.0
        else:
            damping, growth = damping * growth, growth * 2
            if damping > 1e12:
                settled = True
                break
    return Solution(equations.layout, unknowns, cost, count, settled, equations.freedom)


def _moved(equations: Equations, unknowns: Unknowns, normal: Normal, damping: float) -> tuple[Unknowns | None, float]:
    try:
        step, free_step, fall = normal.step(damping)
    except np.linalg.LinAlgError:
        return None, 0.0
    if not (np.all(np.isfinite(step)) and np.all(np.isfinite(free_step))):
        return None, 0.0
    layout = equations.layout
    block_step = np.zeros((layout.block_count, 3))
    block_step[layout.free_blocks] = free_step
    return unknowns.moved(layout, equations.of_all(step), block_step), fall
