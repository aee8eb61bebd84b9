"""Growing an estimate: the view that knows most landmarks next, then the landmarks it adds, refined as it goes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import MOST_STEPS, Solution, solve
from chalkreel.core.measure.start.estimate import (
    LEAST_FOR_POSE,
    Estimate,
    resected,
    triangulated,
)
from chalkreel.core.measure.start.frame import on_plan
from chalkreel.core.measure.start.linear import sized
from chalkreel.core.measure.start.unknowns_from import unknowns_from

QUICK_STEPS = 12
QUICK_PATIENCE = 1e-3
EASY_SHARE = 0.02


def known_part(scene: Scene, estimate: Estimate) -> Scene:
    """The scene without the views and landmarks that the estimate does not hold, nor what hangs on them."""
    views, names = set(estimate.cameras), set(estimate.points)
    circles = {r.circle for r in scene.rims if r.view in views}
    kept_landmarks = (m for m in scene.landmarks if m.key in names)
    return replace(
        scene,
        views=tuple(v for v in scene.views if v.key in views),
        landmarks=tuple(m if m.mirror in names else replace(m, mirror="") for m in kept_landmarks),
        sightings=tuple(s for s in scene.sightings if s.view in views and s.landmark in names),
        edges=tuple(e for e in scene.edges if e.view in views),
        parallels=tuple(p for p in scene.parallels if p.a in names and p.b in names),
        flats=tuple(
            replace(f, landmarks=kept)
            for f in scene.flats
            if len(kept := tuple(n for n in f.landmarks if n in names)) > (1 if f.across else 3)
        ),
        circles=tuple(c for c in scene.circles if c.key in circles),
        rims=tuple(r for r in scene.rims if r.view in views),
        rulers=tuple(r for r in scene.rulers if r.a in names and r.b in names),
        gauges=tuple(g for g in scene.gauges if g.circle in circles),
    )  # fmt: skip


def with_places(scene: Scene, estimate: Estimate) -> Estimate:
    """With all landmarks that known cameras fix, and the twins of known ones."""
    points = {**triangulated(scene, estimate.cameras), **estimate.points}
    for m in scene.landmarks:
        if m.mirror and m.mirror in points and m.key not in points:
            points[m.key] = points[m.mirror] * np.array([1.0, -1.0, 1.0])
    return replace(estimate, points=points)


def refined(
    scene: Scene,
    estimate: Estimate,
    progress: Callable[[float], bool],
    quick: bool = True,
    most_steps: int = MOST_STEPS,
) -> tuple[Estimate, Solution]:
    """Solve what is known so far; unless it is to be quick, with all that was marked.

    Raises
    ------
    RefusedError
        A landmark lies behind a camera that marks it.
    """
    if quick:
        known = _bare(known_part(scene, estimate))
        layout = Layout(known)
        start = unknowns_from(layout, estimate)
        solution = solve(Equations(layout), start, progress, QUICK_STEPS, QUICK_PATIENCE)
    else:
        estimate = on_plan(scene, sized(scene, estimate) if scene.rulers else estimate)
        known = known_part(scene, estimate)
        layout = Layout(known)
        solution = solve(Equations(layout), unknowns_from(layout, estimate), progress, most_steps)
    cameras = {view.key: solution.camera(view.key) for view in known.views}
    points = {m.key: solution.point(m.key) for m in known.landmarks}
    return Estimate(cameras, points, estimate.circles), solution


def _bare(scene: Scene) -> Scene:
    """Without circles, which cost much and tie nothing in, and with rulers that bend nothing: one may be wrong."""
    easy = tuple(replace(r, sigma_mm=max(r.sigma_mm, EASY_SHARE * r.length_mm)) for r in scene.rulers)
    return replace(scene, rulers=easy, circles=(), rims=(), gauges=())


def without_hidden(scene: Scene, estimate: Estimate) -> Estimate:
    """Without landmarks that lie behind a camera that marks them."""
    behind = set()
    for s in scene.sightings:
        camera, point = estimate.cameras.get(s.view), estimate.points.get(s.landmark)
        if camera is not None and point is not None and float(camera.rotation[2] @ point + camera.translation[2]) <= 0:
            behind |= {s.landmark}
    twins = {m.key: m.mirror for m in scene.landmarks}
    behind |= {twins[name] for name in behind if twins[name]}
    return replace(estimate, points={n: p for n, p in estimate.points.items() if n not in behind})


def grown(
    scene: Scene,
    estimate: Estimate,
    progress: Callable[[float], bool],
    enough: Callable[[Estimate], bool] = lambda _: False,
    left_out: frozenset[str] = frozenset(),
) -> Estimate:
    """Tie in view after view, as far as marks allow or until it is enough, but for those left out."""
    marks = scene.marks
    views = {view.key: view for view in scene.views}
    failed = set(left_out)
    estimate = without_hidden(scene, with_places(scene, estimate))
    while not enough(estimate):
        waiting = [
            (sum(name in estimate.points for name in marks[key]), key)
            for key in views
            if key not in estimate.cameras and key not in failed
        ]
        if not waiting or max(waiting)[0] < LEAST_FOR_POSE:
            return estimate
        key = max(waiting)[1]
        camera = resected(views[key], marks[key], estimate.points, _shared_focal(scene, estimate, key))
        if camera is None:
            failed.add(key)
            continue
        larger = without_hidden(scene, with_places(scene, estimate.with_camera(key, camera)))
        try:
            estimate, _ = refined(scene, larger, progress)
            estimate = without_hidden(scene, with_places(scene, estimate))
        except RefusedError:
            failed.add(key)
    return estimate


def _shared_focal(scene: Scene, estimate: Estimate, key: str) -> float:
    lens = next(view.lens for view in scene.views if view.key == key)
    same = [v.key for v in scene.views if lens and v.lens == lens and v.key in estimate.cameras]
    return estimate.cameras[same[0]].focal_px if same else 0.0
