"""Out of a poor minimum: landmarks placed anew, and badly fitting views taken out and put back.

A bad mark, or a view that came in turned wrongly, can hold a whole reel in a minimum where innocent marks look wrong.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.solver.normal import ROBUST_SIGMA, Equations, robust_cost
from chalkreel.core.measure.solver.sightings import Sighted
from chalkreel.core.measure.solver.solve import Solution, solve
from chalkreel.core.measure.start.estimate import (
    LEAST_FOR_POSE,
    MIRROR,
    Estimate,
    estimate_of,
    nearest_to_rays,
    resected,
)
from chalkreel.core.measure.start.unknowns_from import unknowns_from

Progress = Callable[[float], bool]
MOST_ROUNDS, MOST_STEPS = 3, 40
# A view of whose marks so large a share is rejected may stand in the wrong place as a whole.
BAD_SHARE, MOST_VIEWS = 0.2, 2
LEAST_GAIN = 1e-3
# What a mark costs that a solution does not explain: as much as one that lies six σ off.
UNEXPLAINED = 10.0


def deeper(solution: Solution, progress: Progress) -> Solution:
    """The solution, or a cheaper one near it, perhaps without a view that fits nowhere.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    scene = solution.scene
    for _ in range(MOST_ROUNDS):
        if solution.fits:
            return solution
        better = _cheaper(solution, _placed_anew(solution), progress)
        for view in _bad_views(better):
            tries = [better, *_without_and_back(better, view, progress)]
            better = min(tries, key=lambda s: cost_of(s, scene))
        if cost_of(better, scene) > cost_of(solution, scene) * (1 - LEAST_GAIN):
            return better
        solution = better
    return solution


def cost_of(solution: Solution, scene: Scene) -> float:
    """A solution's cost where no mark of the whole scene, rejected or not held at all, costs more than so much.

    A view with a few wild clicks then counts for its good ones, and one that fits nowhere is better left out.
    """
    sighted = Sighted.of(solution.layout, solution.scene.sightings)
    each = robust_cost(np.sum(sighted.residuals(solution.unknowns) ** 2, axis=1))
    wild = float(np.sum(np.maximum(each - UNEXPLAINED, 0.0)))
    return solution.cost - wild + UNEXPLAINED * (len(scene.sightings) - len(solution.scene.sightings))


def rejected_by_view(solution: Solution) -> dict[str, list[str]]:
    """Landmarks whose marks have lost most of their pull, by view."""
    sighted = Sighted.of(solution.layout, solution.scene.sightings)
    far = np.sum(sighted.residuals(solution.unknowns) ** 2, axis=1) > (1.5 * ROBUST_SIGMA) ** 2
    found: dict[str, list[str]] = {}
    for row in np.sort(sighted.order[far]):
        sighting = solution.scene.sightings[row]
        found.setdefault(sighting.view, []).append(sighting.landmark)
    return found


def _cheaper(solution: Solution, estimate: Estimate, progress: Progress) -> Solution:
    """Solved from an estimate of the same scene, where that is the better."""
    layout = solution.layout
    try:
        found = solve(Equations(layout), unknowns_from(layout, estimate), progress, MOST_STEPS)
    except RefusedError:
        return solution
    return found if found.cost < solution.cost else solution


def _placed_anew(solution: Solution) -> Estimate:
    """Every landmark with a rejected mark where two of its rays meet, whichever two leave least over."""
    scene, estimate = solution.scene, estimate_of(solution)
    twin = {m.key: m.mirror for m in scene.landmarks}
    doubtful = {name for names in rejected_by_view(solution).values() for name in names}
    points = dict(estimate.points)
    for name in sorted(doubtful):
        place = _best_meeting(scene, estimate, name, twin[name])
        if place is not None:
            points[name] = place
            if twin[name]:
                points[twin[name]] = place * MIRROR
    return replace(estimate, points=points)


def _best_meeting(scene: Scene, estimate: Estimate, name: str, twin: str) -> Array | None:
    mine = [s for s in scene.sightings if s.landmark in (name, twin)]
    if len(mine) < 3:
        return None
    flips = [MIRROR if s.landmark == twin and twin != name else np.ones(3) for s in mine]
    cameras = [estimate.cameras[s.view] for s in mine]
    stored = np.array([(s.mark.x_px, s.mark.y_px) for s in mine])
    rays = [c.rays(xy[None])[0] * flip for c, xy, flip in zip(cameras, stored, flips, strict=True)]
    stands = [c.position * flip for c, flip in zip(cameras, flips, strict=True)]
    tries = [estimate.points[name]] + [
        nearest_to_rays(np.stack([stands[i], stands[j]]), np.stack([rays[i], rays[j]]))
        for i, j in itertools.combinations(range(len(mine)), 2)
    ]
    if twin == name:
        tries = [place * np.array([1.0, 0.0, 1.0]) for place in tries]
    sigma = np.array([s.mark.sigma_px for s in mine])

    def cost(place: Array) -> float:
        seen = np.stack([c.project((place * flip)[None])[0] for c, flip in zip(cameras, flips, strict=True)])
        gaps = np.linalg.norm(seen - stored, axis=1) / sigma
        return float(np.sum(robust_cost(np.nan_to_num(gaps, nan=1e6) ** 2)))

    return min(tries, key=cost)


def _bad_views(solution: Solution) -> list[str]:
    marks = solution.scene.marks
    shares = {v: len(names) / len(marks[v]) for v, names in rejected_by_view(solution).items()}
    bad = [v for v in sorted(shares, key=lambda v: -shares[v]) if shares[v] > BAD_SHARE]
    return bad[:MOST_VIEWS] if len(solution.scene.views) > 2 else []


def _without_and_back(solution: Solution, key: str, progress: Progress) -> list[Solution]:
    """The rest solved without a view, and with it tied in again where that goes."""
    rest = solved_without(solution, key, progress)
    if rest is None:
        return []
    view = next(v for v in solution.scene.views if v.key == key)
    known = estimate_of(rest)
    camera = resected(view, solution.scene.marks[key], known.points)
    if camera is None:
        return [rest]
    again = replace(known.with_camera(key, camera), circles=estimate_of(solution).circles)
    return [rest, _cheaper(solution, again, progress)]


def solved_without(solution: Solution, view: str, progress: Progress) -> Solution | None:
    """The same landmarks solved from all views but one; None where too little is left."""
    scene = without_view(solution.scene, view)
    if not scene.sightings or max(len(m) for m in scene.marks.values()) < LEAST_FOR_POSE:
        return None
    layout = Layout(scene)
    estimate = estimate_of(solution)
    try:
        return solve(Equations(layout), unknowns_from(layout, estimate), progress, MOST_STEPS, 1e-5)
    except RefusedError:
        return None


def without_view(scene: Scene, view: str) -> Scene:
    """The scene without what was marked on a view."""
    rims = tuple(r for r in scene.rims if r.view != view)
    seen = {r.circle for r in rims}
    return replace(
        scene,
        views=tuple(v for v in scene.views if v.key != view),
        sightings=tuple(s for s in scene.sightings if s.view != view),
        edges=tuple(e for e in scene.edges if e.view != view),
        rims=rims,
        circles=tuple(c for c in scene.circles if c.key in seen),
        gauges=tuple(g for g in scene.gauges if g.circle in seen),
    )
