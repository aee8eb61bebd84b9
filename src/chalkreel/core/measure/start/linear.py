"""Places of landmarks and cameras from known turns and focal lengths, in one linear least squares.

With turns known, "the landmark lies on the ray" is linear in the landmark and the camera's translation, and so are
mirror pairs, parallels along the axes and flats square to them.

Reference: Hartley & Zisserman, 2nd ed., §18.5 (reconstruction with known rotations).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.axis import AXES
from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.start.estimate import Estimate

# Places are held, ever so lightly, near the middle: where the whole stands is nobody's business.
LIGHT = 1e-6
# An estimate this near its rulers is left to the solver.
NEAR_ENOUGH = 0.05


def placed(scene: Scene, turned: Mapping[str, Camera]) -> Estimate | None:
    """Cameras and landmarks at the scale of the first ruler, or None where something comes out behind a camera.

    Only landmarks that the views of `turned` mark, or that are tied to such, are in the result.
    """
    layout = Layout(scene)
    rows = _Rows(layout, list(turned))
    for key, marks in scene.marks.items():
        if key in turned:
            rows.add_marks(key, turned[key], marks)
    rows.add_ties(scene)
    solved = rows.solve()
    if solved is None:
        return None
    blocks, shifts = solved
    cameras = {key: replace(turned[key], translation=shift) for key, shift in zip(turned, shifts, strict=True)}
    points = {n: blocks[s] * np.array([1.0, sign, 1.0]) for n, (s, sign) in layout.blocks.items() if rows.touched[s]}
    return sized(scene, Estimate(cameras, points))


def ties_of(scene: Scene) -> Iterator[tuple[str, str, list[int]]]:
    """Two landmarks and the axes along which they have the same coordinate, for all parallels and squared flats."""
    for parallel in scene.parallels:
        if parallel.direction in AXES:
            along = AXES.index(parallel.direction)
            yield parallel.a, parallel.b, [k for k in range(3) if k != along]
    for flat in scene.flats:
        if flat.across is not None:
            for name in flat.landmarks[1:]:
                yield flat.landmarks[0], name, [AXES.index(flat.across)]


def sized(scene: Scene, estimate: Estimate) -> Estimate:
    """The estimate enlarged to suit most rulers between known landmarks, or to some 500 mm without one."""
    points = estimate.points
    factor = 500.0 / max(float(np.ptp(np.stack(list(points.values())), axis=0).max()), 1e-9) if points else 1.0
    factors = []
    for ruler in scene.rulers:
        if ruler.a in points and ruler.b in points:
            line = points[ruler.b] - points[ruler.a]
            if ruler.along is not None:
                line = line * np.eye(3)[AXES.index(ruler.along)]
            factors.append(ruler.length_mm / max(float(np.linalg.norm(line)), 1e-9))
    factor = float(np.median(factors)) if factors else factor
    if abs(np.log(factor)) < NEAR_ENOUGH:
        return estimate
    # Circles are found anew at another size.
    return Estimate(
        {key: replace(c, translation=c.translation * factor) for key, c in estimate.cameras.items()},
        {name: point * factor for name, point in points.items()},
    )


class _Rows:
    """Equations in blocks (3 each), then translations (3 each)."""

    def __init__(self, layout: Layout, views: list[str]) -> None:
        self._layout = layout
        self._column = {key: 3 * (layout.block_count + i) for i, key in enumerate(views)}
        self._width = 3 * (layout.block_count + len(views))
        self._rows: list[Array] = []
        self._depth = np.zeros(self._width)
        self._depth_rows: list[Array] = []
        self.touched = np.zeros(layout.block_count, dtype=np.bool_)

    def add_marks(self, key: str, camera: Camera, marks: Mapping[str, Array]) -> None:
        if not marks:
            return
        rays = camera.rays(np.stack(list(marks.values()))) @ camera.rotation.T
        for name, ray in zip(marks, rays, strict=True):
            block, sign = self._layout.blocks[name]
            self.touched[block] = True
            turn = camera.rotation * np.array([1.0, sign, 1.0])
            across = np.linalg.svd(ray[None])[2][1:]
            rows = np.zeros((3, self._width))
            basis = np.vstack([across, ray])
            rows[:, 3 * block : 3 * block + 3] = basis @ turn
            rows[:, self._column[key] : self._column[key] + 3] = basis
            self._rows.append(rows[:2])
            self._depth_rows.append(rows[2])

    def add_ties(self, scene: Scene) -> None:
        for a, b, axes in ties_of(scene):
            self._tie(a, b, axes)

    def _tie(self, a: str, b: str, axes: list[int]) -> None:
        (block_a, sign_a), (block_b, sign_b) = self._layout.blocks[a], self._layout.blocks[b]
        self.touched[[block_a, block_b]] = self.touched[block_a] or self.touched[block_b]
        rows = np.zeros((len(axes), self._width))
        for row, k in zip(rows, axes, strict=True):
            row[3 * block_a + k] += sign_a if k == 1 else 1.0
            row[3 * block_b + k] -= sign_b if k == 1 else 1.0
        self._rows.append(rows)

    def solve(self) -> tuple[Array, Array] | None:
        if not self._rows:
            return None
        count = self._layout.block_count
        depth = np.stack(self._depth_rows)
        rows = np.vstack([*self._rows, depth.mean(axis=0, keepdims=True), LIGHT * np.eye(self._width)])
        wanted = np.zeros(len(rows))
        wanted[len(rows) - 1 - self._width] = 1.0
        centred = 3 * np.flatnonzero(self._layout.centred_blocks) + 1
        rows[:, centred] = 0.0
        values = np.linalg.lstsq(rows, wanted, rcond=None)[0]
        if not np.mean(depth @ values > 0) > 0.9:
            return None
        return values[: 3 * count].reshape(-1, 3), values[3 * count :].reshape(-1, 3)
