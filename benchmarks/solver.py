"""The measuring solver against two general ones on the same reel, and its own figures at the bench's usual size.

Run: python -m benchmarks.solver (needs the "bench" extra: scipy and pyceres).
"""

from __future__ import annotations

import math
import resource
import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pyceres
from scipy.optimize import least_squares
from scipy.sparse import csr_array
from tests.core.measure.reels import Reel, reel
from tests.core.measure.test_solver import disturbed

from chalkreel.core.arrays import Array
from chalkreel.core.measure.camera import cross_matrix, rotation_of
from chalkreel.core.measure.quantities import Distance, measure
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import Solution, solve
from chalkreel.core.measure.solver.spread import Spread
from chalkreel.core.measure.solver.unknowns import Unknowns
from chalkreel.core.measure.start.cold import solve_reel

SAME_COST = 1e-4


def best_of(repeats: int, work: Callable[[], object]) -> float:
    best = np.inf
    for _ in range(repeats):
        started = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - started)
    return float(best)


class Flat:
    """The same problem as one vector: turns (about the start), translations, log focal and bend, then landmarks."""

    def __init__(self, equations: Equations, start: Unknowns) -> None:
        self.equations, self.start, self.layout = equations, start, equations.layout
        self.views, self.seeds = len(start.rotations), len(start.blocks)
        self.sighted = equations.sighted
        lenses = start.lenses[self.layout.lens_of_view]
        self.first = np.concatenate(
            [np.hstack([np.zeros((self.views, 3)), start.translations, lenses[:, :2]]).ravel(), start.blocks.ravel()]
        )
        self.prior_mean = np.array([equations._prior_mean.reshape(-1, 5)[self.layout.lens_of_view, k] for k in (0, 1)])
        self.prior_root = np.sqrt(
            np.array([equations._prior_weight.reshape(-1, 5)[self.layout.lens_of_view, k] for k in (0, 1)])
        )
        self.ruler = equations.constraints[0]
        scene = self.layout.scene.rulers[0]
        self.ends = [self.layout.blocks[scene.a][0], self.layout.blocks[scene.b][0]]

    def unknowns(self, x: Array) -> Unknowns:
        cameras = x[: 8 * self.views].reshape(-1, 8)
        lenses = self.start.lenses.copy()
        lenses[self.layout.lens_of_view, :2] = cameras[:, 6:]
        return replace(
            self.start, rotations=rotation_of(cameras[:, :3]) @ self.start.rotations, translations=cameras[:, 3:6],
            lenses=lenses, blocks=x[8 * self.views :].reshape(-1, 3),
        )  # fmt: skip

    def residuals(self, x: Array) -> Array:
        unknowns = self.unknowns(x)
        lens = x[: 8 * self.views].reshape(-1, 8)[:, 6:].T
        return np.concatenate([
            self.sighted.residuals(unknowns).ravel(), self.ruler.residuals(unknowns).ravel(),
            ((lens - self.prior_mean) * self.prior_root).ravel(),
        ])  # fmt: skip

    def blocks(self, x: Array) -> tuple[Array, Array]:
        """Derivatives of the marks by camera (M, 2, 8) and by landmark (M, 2, 3)."""
        by_camera, by_block = self.sighted.linearised(self.unknowns(x))
        turns = x[: 8 * self.views].reshape(-1, 8)[:, :3]
        by_camera = by_camera[:, :, :8].copy()
        by_camera[:, :, :3] = by_camera[:, :, :3] @ _left_jacobian(turns)[self.sighted.view]
        return by_camera, by_block

    def jacobian(self, x: Array) -> csr_array:
        by_camera, by_block = self.blocks(x)
        count = len(by_camera)
        rows = np.repeat(np.arange(2 * count), 11).reshape(count, 2, 11)
        cameras = 8 * self.sighted.view[:, None] + np.arange(8)
        seeds = 8 * self.views + 3 * self.sighted.block[:, None] + np.arange(3)
        columns = np.repeat(np.hstack([cameras, seeds])[:, None], 2, axis=1)
        values = np.concatenate([by_camera, by_block], axis=2)
        ends = x[8 * self.views :].reshape(-1, 3)[self.ends]
        unit = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0]) / self.layout.scene.rulers[0].sigma_mm
        ruler_columns = 8 * self.views + np.concatenate([3 * e + np.arange(3) for e in self.ends])
        lens_columns = np.concatenate([8 * np.arange(self.views) + 6, 8 * np.arange(self.views) + 7])
        whole_rows = np.concatenate([rows.ravel(), np.full(6, 2 * count), 2 * count + 1 + np.arange(2 * self.views)])
        whole_columns = np.concatenate([columns.ravel(), ruler_columns, lens_columns])
        whole = np.concatenate([values.ravel(), -unit, unit, self.prior_root.ravel()])
        return csr_array((whole, (whole_rows, whole_columns)), shape=(2 * count + 1 + 2 * self.views, len(x)))


def _left_jacobian(vectors: Array) -> Array:
    angle = np.linalg.norm(vectors, axis=1)[:, None, None]
    safe = np.maximum(angle, 1e-8)
    cross = cross_matrix(vectors)
    first = np.where(angle > 1e-5, (1 - np.cos(safe)) / safe**2, 0.5)
    second = np.where(angle > 1e-5, (safe - np.sin(safe)) / safe**3, 1 / 6)
    return np.asarray(np.eye(3) + first * cross + second * (cross @ cross))


class _Reached(Exception):  # noqa: N818 - not an error
    pass


def scipy_time(flat: Flat, goal: float) -> float:
    """Until the cost comes down to the goal."""

    def residuals(x: Array) -> Array:
        found = flat.residuals(x)
        if 0.5 * float(found @ found) <= goal:
            raise _Reached
        return found

    started = time.perf_counter()
    try:
        least_squares(residuals, flat.first, flat.jacobian, method="trf", tr_solver="lsmr", x_scale="jac", max_nfev=200)
        print("  (scipy stopped before the same cost)")
    except _Reached:
        pass
    return time.perf_counter() - started


class _Mark(pyceres.CostFunction):
    """One mark in plain floats: this binding takes cost functions one by one and only from Python."""

    def __init__(self, flat: Flat, row: int) -> None:
        super().__init__()
        sighted = flat.sighted
        self._start = flat.start.rotations[sighted.view[row]].tolist()
        self._place, self._sigma = sighted.place[row].tolist(), sighted.sigma[row].tolist()
        self.set_num_residuals(2)
        self.set_parameter_block_sizes([8, 3])

    def Evaluate(self, parameters: list[Array], residuals: Array, jacobians: list[Array] | None) -> bool:  # noqa: N802
        ax, ay, az, tx, ty, tz, log_focal, bend = parameters[0].tolist()
        px, py, pz = parameters[1].tolist()
        r = self._start
        x, y, z = (row[0] * px + row[1] * py + row[2] * pz for row in r)
        rx, ry, rz, turn = _turned(ax, ay, az, x, y, z)
        u, v, w = rx + tx, ry + ty, rz + tz
        inverse, focal = 1.0 / w, math.exp(log_focal)
        u, v = u * inverse, v * inverse
        square = u * u + v * v
        widen = 1.0 + bend * square
        sx, sy = self._sigma
        residuals[0] = (focal * widen * u - self._place[0]) / sx
        residuals[1] = (focal * widen * v - self._place[1]) / sy
        if jacobians is None:
            return True
        for_u = (focal * (widen + 2 * bend * u * u) / sx, focal * 2 * bend * u * v / sx)
        for_v = (focal * 2 * bend * u * v / sy, focal * (widen + 2 * bend * v * v) / sy)
        rows = [(a * inverse, b * inverse, -(a * u + b * v) * inverse) for a, b in (for_u, for_v)]
        if jacobians[0] is not None:
            whole = []
            for (a, b, c), ideal, sigma in zip(rows, (u, v), (sx, sy), strict=True):
                # By the turn, to first order in it: the turn stays below a degree.
                dx, dy, dz = b * -rz + c * ry, a * rz - c * rx, -a * ry + b * rx
                half = (dx + (dy * az - dz * ay) / 2, dy + (dz * ax - dx * az) / 2, dz + (dx * ay - dy * ax) / 2)
                whole += [*half, a, b, c, focal * widen * ideal / sigma, focal * square * ideal / sigma]
            jacobians[0][:] = whole
        if jacobians[1] is not None:
            jacobians[1][:] = [
                a * (turn[0][0] * r[0][k] + turn[0][1] * r[1][k] + turn[0][2] * r[2][k])
                + b * (turn[1][0] * r[0][k] + turn[1][1] * r[1][k] + turn[1][2] * r[2][k])
                + c * (turn[2][0] * r[0][k] + turn[2][1] * r[1][k] + turn[2][2] * r[2][k])
                for a, b, c in rows
                for k in range(3)
            ]
        return True


def _turned(
    ax: float, ay: float, az: float, x: float, y: float, z: float
) -> tuple[float, float, float, tuple[tuple[float, float, float], ...]]:
    angle = math.sqrt(ax * ax + ay * ay + az * az)
    first = math.sin(angle) / angle if angle > 1e-9 else 1.0
    second = (1 - math.cos(angle)) / angle**2 if angle > 1e-6 else 0.5
    square = angle * angle
    turn = (
        (1 - second * (square - ax * ax), second * ax * ay - first * az, second * ax * az + first * ay),
        (second * ax * ay + first * az, 1 - second * (square - ay * ay), second * ay * az - first * ax),
        (second * ax * az - first * ay, second * ay * az + first * ax, 1 - second * (square - az * az)),
    )
    return (*(row[0] * x + row[1] * y + row[2] * z for row in turn), turn)  # type: ignore[return-value]


class _Length(pyceres.CostFunction):
    def __init__(self, length: float, sigma: float) -> None:
        super().__init__()
        self._length, self._sigma = length, sigma
        self.set_num_residuals(1)
        self.set_parameter_block_sizes([3, 3])

    def Evaluate(self, parameters: list[Array], residuals: Array, jacobians: list[Array] | None) -> bool:  # noqa: N802
        line = parameters[1] - parameters[0]
        length = np.linalg.norm(line)
        residuals[0] = (length - self._length) / self._sigma
        if jacobians is not None:
            for k, sign in ((0, -1.0), (1, 1.0)):
                if jacobians[k] is not None:
                    jacobians[k][:] = sign * line / length / self._sigma
        return True


class _Belief(pyceres.CostFunction):
    def __init__(self, mean: Array, root: Array) -> None:
        super().__init__()
        self._mean, self._root = mean, root
        self.set_num_residuals(2)
        self.set_parameter_block_sizes([8])

    def Evaluate(self, parameters: list[Array], residuals: Array, jacobians: list[Array] | None) -> bool:  # noqa: N802
        residuals[:] = (parameters[0][6:] - self._mean) * self._root
        if jacobians is not None and jacobians[0] is not None:
            slopes = np.zeros((2, 8))
            slopes[[0, 1], [6, 7]] = self._root
            jacobians[0][:] = slopes.ravel()
        return True


def ceres_time(flat: Flat) -> tuple[float, float]:
    """Time to its own end, building the problem included, and the cost it comes to."""
    started = time.perf_counter()
    cameras = [c.copy() for c in flat.first[: 8 * flat.views].reshape(-1, 8)]
    seeds = [s.copy() for s in flat.first[8 * flat.views :].reshape(-1, 3)]
    problem = pyceres.Problem()
    costs = [_Mark(flat, row) for row in range(len(flat.sighted.view))]
    for cost, view, seed in zip(costs, flat.sighted.view, flat.sighted.seed, strict=True):
        problem.add_residual_block(cost, None, [cameras[view], seeds[seed]])
    ruler = flat.layout.scene.rulers[0]
    length = _Length(ruler.length_mm, ruler.sigma_mm)
    problem.add_residual_block(length, None, [seeds[e] for e in flat.ends])
    beliefs = [_Belief(flat.prior_mean[:, i], flat.prior_root[:, i]) for i in range(flat.views)]
    for belief, camera in zip(beliefs, cameras, strict=True):
        problem.add_residual_block(belief, None, [camera])
    solver = pyceres.SolverOptions()
    solver.linear_solver_type = pyceres.LinearSolverType.SPARSE_SCHUR
    solver.max_num_iterations = 100
    solver.num_threads = 1
    solver.function_tolerance = SAME_COST / 10
    summary = pyceres.SolverSummary()
    pyceres.solve(solver, problem, summary)
    return time.perf_counter() - started, float(summary.final_cost)


def rivals() -> None:
    """Forty stills, four hundred landmarks, from a disturbed start."""
    marked = reel(7, 200, 40, mirrored=False, share=0.3)
    layout = Layout(marked.scene)
    equations = Equations(layout, weighed=False)
    start = disturbed(layout, marked.truth(layout), 1)
    found: list[Solution] = []

    def own() -> None:
        found[:] = [solve(Equations(layout, weighed=False), start, patience=SAME_COST / 10)]

    mine = best_of(3, own)
    flat = Flat(equations, start)
    print(
        f"40 stills, 400 landmarks, {len(marked.scene.sightings)} marks: {mine * 1000:.0f} ms, cost {found[0].cost:.1f}"
    )
    theirs = scipy_time(flat, found[0].cost * (1 + SAME_COST))
    print(f"  scipy trf/lsmr to the same cost: {theirs:.2f} s, {theirs / mine:.1f} times as long")
    theirs, cost = ceres_time(flat)
    print(f"  pyceres, sparse Schur: {theirs:.2f} s, cost {cost:.1f}, {theirs / mine:.1f} times as long")
    names = sorted(marked.points)
    wanted = tuple(Distance(names[i], names[-1 - i]) for i in range(60))

    def errors() -> None:
        measure(found[0], Spread(equations, found[0]), wanted)

    print(f"  covariance of 60 distances: {best_of(3, errors) * 1000:.0f} ms")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"  memory of this whole run, rivals included: {peak:.0f} MB")


def usual() -> None:
    """Five stills, sixty landmarks."""
    marked = reel(3, 30, 5)
    layout = Layout(marked.scene)
    start = disturbed(layout, marked.truth(layout), 1)
    wanted = tuple(Distance(f"p{i}", f"s{29 - i}") for i in range(30))

    def whole() -> None:
        equations = Equations(layout)
        solution = solve(equations, start)
        measure(solution, Spread(equations, solution), wanted)

    print(f"5 stills, 60 landmarks, solved with covariance of 30 sizes: {best_of(5, whole) * 1000:.0f} ms")
    before = solve_reel(replace(marked.scene, sightings=marked.scene.sightings[:-1])).start
    print(f"  one more mark, warm: {best_of(5, lambda: solve_reel(marked.scene, (before,))) * 1000:.0f} ms")
    times = [cold_time(reel(seed, 30, 5, mirrored=seed % 2 == 0, share=0.6)) for seed in range(20)]
    print(f"  from nothing, 20 reels: median {np.median(times):.2f} s, longest {max(times):.2f} s")


def cold_time(marked: Reel) -> float:
    started = time.perf_counter()
    solved = solve_reel(marked.scene)
    spent = time.perf_counter() - started
    layout = Layout(solved.solution.scene)
    truth = solve(Equations(layout), marked.truth(layout))
    if solved.solution.cost > truth.cost * 1.001:
        print(f"  a reel was not solved rightly: cost {solved.solution.cost:.0f}, should be {truth.cost:.0f}")
    return spent


if __name__ == "__main__":
    usual()
    rivals()
