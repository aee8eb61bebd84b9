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


@dataclass(frozen=True, eq=False)
class GhostSet:
    """Ghosts of many landmarks with the factors of their covariance: (N, 2 G), rows in common with a `Spread`."""

    ghosts: tuple[Ghost, ...]
    factors: Array


def ghosts(solution: Solution, spread: Spread, views: tuple[str, ...] | None = None) -> GhostSet:
    """Every solved landmark on every solved view (or those named), where it falls inside the picture."""
    scene, layout = solution.scene, solution.layout
    wanted: list[Sighting] = []
    for view in scene.views:
        if views is not None and view.key not in views:
            continue
        stored = solution.camera(view.key).project(np.stack([solution.point(m.key) for m in scene.landmarks]))
        for landmark, (x, y) in zip(scene.landmarks, stored, strict=True):
            if 0 <= x <= view.size_px[0] and 0 <= y <= view.size_px[1]:
                wanted.append(Sighting(view.key, landmark.key, Mark(float(x), float(y), 1.0)))
    if not wanted:
        return GhostSet((), np.zeros((0, 0)))
    factors = _factors(layout, solution.unknowns, spread, tuple(wanted))
    found = []
    for i, sighting in enumerate(wanted):
        mine = factors[:, 2 * i : 2 * i + 2]
        found.append(Ghost(sighting.view, sighting.landmark, sighting.mark.x_px, sighting.mark.y_px, mine.T @ mine))
    return GhostSet(tuple(found), factors)


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
    camera, own = solution.camera(other.view), solution.camera(view)
    ray = camera.rays(np.array([[other.mark.x_px, other.mark.y_px]]))[0]
    middle = np.mean([solution.point(m.key) for m in solution.scene.landmarks], axis=0)
    reach = float(np.linalg.norm(middle - camera.position))
    along = np.geomspace(NEAR * reach, FAR * reach, STEPS)
    stored = own.project(camera.position + along[:, None] * ray)
    inside = np.all((stored >= 0) & (stored <= np.array(own.size_px)), axis=1)
    return tuple((float(x), float(y)) for x, y in stored[inside])
