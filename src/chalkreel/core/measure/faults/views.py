"""Whole stills that fit the others only with their pairs exchanged, or turned left to right."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.faults.fault import Fault, repaired
from chalkreel.core.measure.faults.lenses import Cure
from chalkreel.core.measure.faults.marks import MARK_SIGMA, SWAP_GAIN, far_marks
from chalkreel.core.measure.scene import Scene, View
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.solver.normal import Equations, robust_cost
from chalkreel.core.measure.solver.solve import Solution, solve
from chalkreel.core.measure.start.deeper import solved_without
from chalkreel.core.measure.start.estimate import LEAST_FOR_POSE, Estimate, estimate_of, resected
from chalkreel.core.measure.start.grow import known_part, with_places, without_hidden
from chalkreel.core.measure.start.unknowns_from import unknowns_from

Progress = Callable[[float], bool]
SUSPECT_SHARE, MOST_SUSPECTS = 0.25, 3
# Two explanations whose costs per mark differ by less than this are one as good as the other.
EVEN = 0.5


def view_cure(scene: Scene, solution: Solution, progress: Progress) -> Cure | None:
    """The still that is exchanged or flopped, if any. `scene` is whole, with views that could not be tied in."""
    for view in _suspects(scene, solution):
        # The suspect must not testify in its own case.
        rest = solved_without(solution, view.key, progress) if view.key in solution.layout.views else solution
        fault = _turned(scene, view, rest) if rest is not None else None
        if fault is not None and rest is not None:
            cured = _cured(scene, rest, fault, progress)
            if cured is not None:
                return Cure((fault,), cured, fault.strength)
    return None


def _suspects(scene: Scene, solution: Solution) -> list[View]:
    far, marks = far_marks(solution), scene.marks
    twin = {m.key: m.mirror for m in scene.landmarks}
    found = []
    for view in scene.views:
        paired = [n for n in marks[view.key] if twin[n] not in ("", n)]
        if len(paired) < LEAST_FOR_POSE or len(scene.views) < 2:
            continue
        tied = view.key in solution.layout.views
        share = len(far.get(view.key, ())) / len(marks[view.key]) if tied else 1.0
        found += [(share, view)] if share > SUSPECT_SHARE else []
    return [view for _, view in sorted(found, key=lambda pair: -pair[0])][:MOST_SUSPECTS]


def _turned(scene: Scene, view: View, rest: Solution) -> Fault | None:
    twin = {m.key: m.mirror for m in scene.landmarks}
    marks = scene.marks[view.key]
    points = {m.key: rest.point(m.key) for m in rest.scene.landmarks}
    sigma = float(np.median([s.mark.sigma_px for s in scene.sightings if s.view == view.key]))
    width = np.array([view.size_px[0], 0.0])
    straight = _misfit(view, marks, points, sigma)
    exchanged = _misfit(view, {(twin[n] or n): xy for n, xy in marks.items()}, points, sigma)
    flopped = _misfit(view, {n: np.abs(width - xy) for n, xy in marks.items()}, points, sigma)
    best = min(exchanged, flopped, key=lambda fit: fit[1])
    if best[1] * SWAP_GAIN >= straight[1] or best[0] > 3 * MARK_SIGMA:
        return None
    strength = min(straight[0], 99.0)
    if flopped[1] < exchanged[1] - EVEN:
        return Fault("flopped", strength, view.key)
    names = tuple(n for n in marks if twin[n] not in ("", n))
    return Fault("swapped view", strength, view.key, names, or_flopped=flopped[1] < exchanged[1] + EVEN)


def _misfit(view: View, marks: Mapping[str, Array], points: Mapping[str, Array], sigma: float) -> tuple[float, float]:
    """Median distance in σ of marks from their landmarks through the camera that suits them best, and cost per mark."""
    camera = resected(view, marks, points)
    if camera is None:
        return np.inf, np.inf
    names = [n for n in marks if n in points]
    gaps = camera.project(np.stack([points[n] for n in names])) - np.stack([marks[n] for n in names])
    far = np.nan_to_num(np.linalg.norm(gaps, axis=1) / sigma, nan=1e6)
    return float(np.median(far)), float(np.mean(robust_cost(far**2)))


def with_untied(scene: Scene, solution: Solution, progress: Progress) -> Solution:
    """The solution with the views that it left out brought in, however badly: what is wrong with them may show."""
    marks, known = scene.marks, estimate_of(solution)
    for view in scene.views:
        if view.key not in solution.layout.views:
            camera = resected(view, marks[view.key], known.points)
            known = known.with_camera(view.key, camera) if camera is not None else known
    if len(known.cameras) == len(solution.scene.views):
        return solution
    return solved_near(scene, known, progress) or solution


def _cured(scene: Scene, rest: Solution, fault: Fault, progress: Progress) -> Solution | None:
    mended = repaired(scene, fault)
    view = next(v for v in mended.views if v.key == fault.view)
    known = estimate_of(rest)
    camera = resected(view, mended.marks[view.key], known.points)
    return None if camera is None else solved_near(mended, known.with_camera(view.key, camera), progress)


def solved_near(scene: Scene, known: Estimate, progress: Progress) -> Solution | None:
    """A scene solved from an estimate nearby; None where that leads nowhere."""
    estimate = without_hidden(scene, with_places(scene, known))
    layout = Layout(known_part(scene, estimate))
    try:
        return solve(Equations(layout), unknowns_from(layout, estimate), progress)
    except RefusedError:
        return None
