"""What is wrong with the marks: misplaced, swapped, moved, a ruler that disagrees, a wrong pixel aspect.

A fault is a hypothesis with its own test; clean reels are not accused (the thresholds are beyond what a few
hundred honest clicks reach by chance).

Reference: Baarda, *A Testing Procedure for Use in Geodetic Networks*, 1968 (one suspect at a time, over its own σ).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.measure.quantities import Across, Distance, Quantity, in_one_place, slopes_of
from chalkreel.core.measure.scene import Gauge, Ruler, Scene, View
from chalkreel.core.measure.solver.layout import ASPECT, LENS
from chalkreel.core.measure.solver.normal import Equations, robust_weight
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.solver.spread import Spread
from chalkreel.core.measure.start.cold import GOOD_ENOUGH, Start, solve_reel
from chalkreel.core.measure.start.estimate import LEAST_FOR_POSE, Estimate, marks_by_view, resected
from chalkreel.core.media.aspect import PIXEL_SHAPES

Kind = Literal["mark", "swap", "swapped view", "version", "ruler", "aspect"]

MARK_SIGMA = 4.5
RULER_SIGMA = 3.0
ASPECT_SIGMA = 4.0
ASPECT_LEAST = 0.01
ASPECT_NEAR = 0.015
MOVED_TOGETHER = 3
# A mark fits its twin's place when it lies so many σ from it at most, and so many times nearer than from its own.
SWAP_GAIN = 4.0
CHECKABLE = 1e-4
SUSPECT_SHARE = 0.25


@dataclass(frozen=True)
class Fault:
    """A suspicion: what, how strongly (σ), and the keys of view, landmarks and ruler that are the culprits.

    `found` with its 1 σ is what the rest of the reel says: for a ruler its claim over the length found, less one
    (infinite where its ends lie in one place); for an aspect the one that fits best. `aspect` is the one proposed,
    that of the usual `shape` where one is near.
    """

    kind: Kind
    strength: float
    view: str = ""
    landmarks: tuple[str, ...] = ()
    ruler: str = ""
    found: float = 0.0
    sigma: float = 0.0
    aspect: float = 1.0
    shape: str = ""


@dataclass(frozen=True)
class RulerCheck:
    """A ruler against everything else: claimed over found, less one, with its 1 σ; None where nothing checks it.

    `residual` is its claim over its length as solved with all rulers, less one; `own_sigma` the claim's own relative
    σ. Where its ends lie in one place, both deviations are infinite.
    """

    key: str
    deviation: float | None
    sigma: float
    residual: float
    own_sigma: float

    @property
    def disagrees(self) -> bool:
        """Whether the deviation lies outside its 95 % interval."""
        return self.deviation is not None and abs(self.deviation) > NORMAL_95 * self.sigma


def find_faults(
    scene: Scene, solution: Solution, spread: Spread, progress: Callable[[float], bool] = lambda _: True
) -> tuple[Fault, ...]:
    """All suspicions, the strongest first. `scene` is whole, with views that could not be tied in.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    found = [*_swapped_views(scene, solution, progress), *_rulers_at_fault(solution, spread), *_aspects(solution)]
    explained = {fault.view for fault in found if fault.view}
    found += [fault for fault in _marks(solution) if fault.view not in explained]
    return tuple(sorted(found, key=lambda fault: -fault.strength))


def repaired(scene: Scene, fault: Fault) -> Scene:
    """The scene with the culprit removed or put right."""
    twin = {m.key: m.mirror for m in scene.landmarks}
    if fault.kind == "ruler":
        return replace(
            scene,
            rulers=tuple(r for r in scene.rulers if r.key != fault.ruler),
            gauges=tuple(g for g in scene.gauges if g.key != fault.ruler),
        )
    if fault.kind == "aspect":
        views = tuple(replace(v, pixel_aspect=fault.aspect) if v.key == fault.view else v for v in scene.views)
        return replace(scene, views=views)
    culprits = {(fault.view, name) for name in fault.landmarks}
    if fault.kind in ("swap", "swapped view"):
        return replace(
            scene,
            sightings=tuple(
                replace(s, landmark=twin[s.landmark]) if (s.view, s.landmark) in culprits else s
                for s in scene.sightings
            ),
        )
    return replace(scene, sightings=tuple(s for s in scene.sightings if (s.view, s.landmark) not in culprits))


def check_rulers(solution: Solution, spread: Spread) -> tuple[RulerCheck, ...]:
    """What the rest of the reel says of each ruler's claim."""
    scene = solution.scene
    rulers: list[tuple[Ruler | Gauge, Quantity, float]] = [
        *((r, Distance(r.a, r.b, r.along), r.length_mm) for r in scene.rulers),
        *((g, Across(g.circle), g.diameter_mm) for g in scene.gauges),
    ]
    found = [
        RulerCheck(ruler.key, math.inf, ruler.sigma_mm / length, math.inf, ruler.sigma_mm / length)
        for ruler, quantity, length in rulers
        if in_one_place(solution, quantity)
    ]
    rulers = [row for row in rulers if not in_one_place(solution, row[1])]
    if not rulers:
        return tuple(found)
    values, by_dense, by_block = slopes_of(solution, tuple(q for _, q, _ in rulers))
    error = np.linalg.norm(spread.factors(by_dense, by_block), axis=0) / spread.widened
    for (ruler, _, length), value, sigma in zip(rulers, values, error, strict=True):
        # The ruler's own share in its adjusted length; what is left over is the others' say.
        weight = float(robust_weight(np.array([(length - value) / ruler.sigma_mm]) ** 2)[0])
        residual = float(length / value) - 1.0
        own = weight * (float(sigma) / ruler.sigma_mm) ** 2
        if own > 1.0 - CHECKABLE:
            found.append(RulerCheck(ruler.key, None, ruler.sigma_mm / length, residual, ruler.sigma_mm / length))
            continue
        others = float(sigma) ** 2 / (1.0 - own)
        deviation = (length - value) / (1.0 - own) / length
        doubt = math.hypot(ruler.sigma_mm, math.sqrt(others)) / length
        found.append(RulerCheck(ruler.key, float(deviation), doubt, residual, ruler.sigma_mm / length))
    return tuple(found)


def _rulers_at_fault(solution: Solution, spread: Spread) -> list[Fault]:
    found = []
    for check in check_rulers(solution, spread):
        if check.deviation is None or abs(check.deviation) <= RULER_SIGMA * check.sigma:
            continue
        strength = abs(check.deviation) / check.sigma
        found.append(Fault("ruler", strength, ruler=check.key, found=check.deviation, sigma=check.sigma))
    return found


def residuals_px(solution: Solution) -> dict[tuple[str, str], Array]:
    """By view and landmark: how far (stored pixels) the mark lies from where the solution has it, (2,)."""
    found = {}
    for s in solution.scene.sightings:
        place = solution.camera(s.view).project(solution.point(s.landmark)[None])[0]
        found[s.view, s.landmark] = np.array([s.mark.x_px, s.mark.y_px]) - place
    return found


def _marks(solution: Solution) -> list[Fault]:
    scene = solution.scene
    sigma = {(s.view, s.landmark): s.mark.sigma_px for s in scene.sightings}
    twin = {m.key: m.mirror for m in scene.landmarks}
    far: dict[str, dict[str, float]] = {}
    for (view, name), gap in residuals_px(solution).items():
        strength = float(np.linalg.norm(gap)) / sigma[view, name]
        if strength > MARK_SIGMA:
            far.setdefault(view, {})[name] = strength
    found = []
    for view, names in far.items():
        for name in _swaps(solution, view, names, twin):
            strength = max(names.pop(name), names.pop(twin[name], 0.0))
            found.append(Fault("swap", strength, view, (name, twin[name])))
        if len(names) >= MOVED_TOGETHER:
            found.append(Fault("version", max(names.values()), view, tuple(sorted(names))))
            continue
        found += [Fault("mark", strength, view, (name,)) for name, strength in names.items()]
    return found


def _swaps(solution: Solution, view: str, far: dict[str, float], twin: dict[str, str]) -> list[str]:
    """Landmarks whose mark suits their twin's place, once for each pair."""
    marks = marks_by_view(solution.scene)[view]
    camera, found = solution.camera(view), []
    for name, strength in far.items():
        other = twin[name]
        if not other or other == name or (other in far and other < name and other in found) or other in found:
            continue
        place = camera.project(solution.point(other)[None])[0]
        sigma = next(s.mark.sigma_px for s in solution.scene.sightings if (s.view, s.landmark) == (view, name))
        distance = float(np.linalg.norm(marks[name] - place)) / sigma
        if distance < strength / SWAP_GAIN and distance < 3 * MARK_SIGMA:
            found.append(name)
    return found


def _swapped_views(scene: Scene, solution: Solution, progress: Callable[[float], bool]) -> list[Fault]:
    """Views that fit no camera, or badly, but fit the others well with all their pairs exchanged."""
    twin = {m.key: m.mirror for m in scene.landmarks}
    found = []
    gaps = residuals_px(solution)
    for view in scene.views:
        marks = marks_by_view(scene)[view.key]
        paired = tuple(n for n in marks if twin[n] not in ("", n))
        if len(paired) < LEAST_FOR_POSE or not _suspect(scene, solution, view.key, gaps):
            continue
        # The suspect must not testify in its own case.
        try:
            others = Start(_others(solution, view.key), GOOD_ENOUGH)
            points = solve_reel(without_view(scene, view.key), (others,), progress).estimate.points
        except RefusedError:
            continue
        sigma = float(np.median([s.mark.sigma_px for s in scene.sightings if s.view == view.key]))
        straight = _misfit(view, marks, points)
        exchanged = _misfit(view, {(twin[n] or n): xy for n, xy in marks.items()}, points)
        if exchanged * SWAP_GAIN < straight and exchanged < 3 * MARK_SIGMA * sigma:
            found.append(Fault("swapped view", min(straight, 99.0) / sigma, view.key, paired))
    return found


def without_view(scene: Scene, view: str) -> Scene:
    """The scene without what was marked on a view."""
    return replace(
        scene,
        views=tuple(v for v in scene.views if v.key != view),
        sightings=tuple(s for s in scene.sightings if s.view != view),
        edges=tuple(e for e in scene.edges if e.view != view),
        rims=tuple(r for r in scene.rims if r.view != view),
    )


def _others(solution: Solution, view: str) -> Estimate:
    cameras = {v.key: solution.camera(v.key) for v in solution.scene.views if v.key != view}
    return Estimate(cameras, {m.key: solution.point(m.key) for m in solution.scene.landmarks})


def _suspect(scene: Scene, solution: Solution, view: str, gaps: Mapping[tuple[str, str], Array]) -> bool:
    if view not in solution.layout.views:
        return True
    sigma = {s.landmark: s.mark.sigma_px for s in scene.sightings if s.view == view}
    far = [float(np.linalg.norm(gap)) > MARK_SIGMA * sigma[name] for (key, name), gap in gaps.items() if key == view]
    return float(np.mean(far)) > SUSPECT_SHARE


def _misfit(view: View, marks: Mapping[str, Array], points: Mapping[str, Array]) -> float:
    """Median distance in pixels of marks from their landmarks through the camera that suits them best."""
    camera = resected(view, marks, points)
    if camera is None:
        return np.inf
    names = [n for n in marks if n in points]
    gaps = camera.project(np.stack([points[n] for n in names])) - np.stack([marks[n] for n in names])
    return float(np.nanmedian(np.linalg.norm(gaps, axis=1)))


def _aspects(solution: Solution) -> list[Fault]:
    """The view whose pixels look wider or narrower than stated, if any.

    Each lens of a single view is tried with its aspect free, all others held; the normal equations give step and σ.
    """
    layout = solution.layout
    equations = Equations(layout)
    single = [i for i, lens in enumerate(layout.lens_of_view) if np.count_nonzero(layout.lens_of_view == lens) == 1]
    columns = np.array([layout.offsets["lenses"] + LENS * layout.lens_of_view[i] + ASPECT for i in single], np.intp)
    active = layout.active.copy()
    active[columns] = True
    equations.use(active)
    whole, slope, _, _ = equations.normal(solution.unknowns).reduced(1e-9)
    tried = np.searchsorted(equations.active, columns)
    rest = np.setdiff1d(np.arange(len(whole)), tried)
    cross = whole[np.ix_(rest, tried)]
    eliminated = np.linalg.solve(whole[np.ix_(rest, rest)], np.column_stack([cross, slope[rest]]))
    weights = np.diag(whole)[tried] - np.sum(cross * eliminated[:, :-1], axis=0)
    shifts = -(slope[tried] - cross.T @ eliminated[:, -1]) / weights
    strengths = np.abs(shifts) * np.sqrt(np.maximum(weights, 0.0))
    if not single:
        return []
    # One wrong aspect bends the whole, so that other stills look wrong too: only the worst is named.
    worst = int(np.argmax(strengths))
    if strengths[worst] < ASPECT_SIGMA or abs(shifts[worst]) < ASPECT_LEAST:
        return []
    view, sigma = solution.scene.views[single[worst]], 1.0 / math.sqrt(weights[worst])
    fitted = view.pixel_aspect * math.exp(shifts[worst])
    shape = min(PIXEL_SHAPES, key=lambda s: abs(math.log(s.aspect / fitted)))
    near = abs(math.log(shape.aspect / fitted)) < max(ASPECT_NEAR, 2 * sigma)
    return [
        Fault(
            "aspect", float(strengths[worst]), view.key, found=fitted, sigma=sigma * fitted,
            aspect=shape.aspect if near else fitted, shape=shape.name if near else "",
        )
    ]  # fmt: skip
