"""Where landmarks must be on stills that are tied in, and how surely: ghosts of marks not made yet."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.scene import Scene, Sighting
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.solver.sightings import CAMERA, Sighted
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.solver.spread import Spread
from chalkreel.core.measure.solver.unknowns import Unknowns

# How far along its ray a landmark is looked for, as multiples of the camera's distance from the middle.
NEAR, FAR, STEPS = 0.4, 2.5, 25
# Two-dimensional Gaussian: 95 % lie within so many σ.
ELLIPSE_95 = 2.448
SMALLEST_SEEN_PX = 4.0


@dataclass(frozen=True, eq=False)
class Ghost:
    """A landmark's expected place on a view (stored pixels) and its covariance (2, 2) in stored pixels²."""

    view: str
    landmark: str
    x_px: float
    y_px: float
    covariance: Array

    def outline(self) -> tuple[tuple[float, float], ...]:
        """The ellipse that holds the landmark 19 times in 20, as 24 points in stored pixels; never too small to see."""
        values, ways = np.linalg.eigh(self.covariance)
        axes = ways * np.maximum(np.sqrt(np.maximum(values, 0.0)) * ELLIPSE_95, SMALLEST_SEEN_PX)
        turn = np.linspace(0, 2 * np.pi, 24, endpoint=False)
        x, y = axes @ np.stack([np.cos(turn), np.sin(turn)])
        return tuple((float(a) + self.x_px, float(b) + self.y_px) for a, b in zip(x, y, strict=True))

    def distance(self, mark: Mark) -> float:
        """How many σ a mark lies from here, its own click error included."""
        gap = np.array([mark.x_px - self.x_px, mark.y_px - self.y_px])
        whole = self.covariance + np.eye(2) * mark.sigma_px**2
        return float(np.sqrt(gap @ np.linalg.solve(whole, gap)))


def expected_marks(solution: Solution, view: str) -> tuple[Sighting, ...]:
    """Every solved landmark on a view, with a click error of 1, where it falls inside the picture."""
    scene = solution.scene
    if view not in solution.layout.views:
        return ()
    width, height = scene.views[solution.layout.views[view]].size_px
    stored = solution.camera(view).project(solution.points)
    return tuple(
        Sighting(view, landmark.key, Mark(float(x), float(y), 1.0))
        for landmark, (x, y) in zip(scene.landmarks, stored, strict=True)
        if 0 <= x <= width and 0 <= y <= height
    )


def ghosts(solution: Solution, spread: Spread, view: str) -> tuple[Ghost, ...]:
    """Where every solved landmark must be on a view, and how surely; none on a view that is not solved."""
    wanted = expected_marks(solution, view)
    factors = ghost_factors(solution, spread, wanted)
    return tuple(
        Ghost(view, s.landmark, s.mark.x_px, s.mark.y_px, factors[i].T @ factors[i]) for i, s in enumerate(wanted)
    )


def ghost_factors(solution: Solution, spread: Spread, wanted: tuple[Sighting, ...]) -> Array:
    """Factors (W, N, 2) of the covariance of marks with a click error of 1; N rows in common with a `Spread`."""
    if not wanted:
        return np.zeros((0, 0, 2))
    whole = _factors(solution.layout, solution.unknowns, spread, wanted)
    return np.moveaxis(whole.reshape(len(whole), len(wanted), 2), 1, 0)


def _factors(layout: Layout, unknowns: Unknowns, spread: Spread, wanted: tuple[Sighting, ...]) -> Array:
    """Factors (N, 2 W) of the places, in stored pixels, of sightings with σ 1."""
    sighted = Sighted.of(layout, wanted)
    by_camera, by_block = sighted.linearised(unknowns)
    count = 2 * len(wanted)
    dense, blocks = np.zeros((layout.offsets["end"], count)), np.zeros((layout.block_count, 3, count))
    for row, place in enumerate(sighted.order):
        columns = layout.camera_columns(sighted.view[row])
        block = sighted.block[row]
        for k in range(2):
            dense[columns, 2 * place + k] = by_camera[row, k, :CAMERA]
            blocks[block, :, 2 * place + k] = by_block[row, k]
        if layout.centred_blocks[block]:
            blocks[block, 1, 2 * place : 2 * place + 2] = 0.0
    return spread.factors(dense, blocks)


def search_line(solution: Solution, scene: Scene, view: str, landmark: str) -> tuple[tuple[float, float], ...]:
    """Where a landmark marked on one other solved view must lie on this one: a line of stored pixels, maybe empty."""
    other = next(
        (s for s in scene.sightings if s.landmark == landmark and s.view != view and s.view in solution.layout.views),
        None,
    )
    if other is None or view not in solution.layout.views:
        return ()
    return line_between(solution, other.view, (other.mark.x_px, other.mark.y_px), view)


def line_between(
    solution: Solution, other: str, place_px: tuple[float, float], view: str
) -> tuple[tuple[float, float], ...]:
    """Along what a place on one solved view is seen on another: a line of stored pixels, maybe empty."""
    camera, own = solution.camera(other), solution.camera(view)
    ray = camera.rays(np.array([place_px]))[0]
    middle = np.mean([solution.point(m.key) for m in solution.scene.landmarks], axis=0)
    reach = float(np.linalg.norm(middle - camera.position))
    along = np.geomspace(NEAR * reach, FAR * reach, STEPS)
    stored = own.project(camera.position + along[:, None] * ray)
    inside = np.all((stored >= 0) & (stored <= np.array(own.size_px)), axis=1)
    return tuple((float(x), float(y)) for x, y in stored[inside])
