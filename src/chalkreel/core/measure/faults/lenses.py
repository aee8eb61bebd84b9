"""Stills that are not framed or shaped as stated: cropped off centre, or with another pixel aspect.

Each is tried with what is held fixed set free: first by one step of the normal equations, then, where that is
beyond chance, by solving again.

References: Rao, "Large sample tests of statistical hypotheses", 1948 (score test); Wilks, 1938 (likelihood ratio).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.faults.fault import Fault, repaired
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.solver.layout import ASPECT, LENS, OFFSET_X, OFFSET_Y, Index, Layout
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import SCATTER_SIGMA, Solution, solve
from chalkreel.core.media.aspect import PIXEL_SHAPES

Progress = Callable[[float], bool]
# What a step must promise, and solving then deliver, as a fall of the sum of squares for each number set free.
ASPECT_FALL, CROP_FALL = 16.0, 14.0
ASPECT_LEAST, ASPECT_NEAR = 0.01, 0.015
# A crop this small (share of the larger side) does no harm that anyone would see.
CROP_LEAST = 0.015
# So many stills must be cut alike before a common cut is believed.
LEAST_COMMON = 3
MOST_STEPS = 40


@dataclass(frozen=True, eq=False)
class Cure:
    """Faults with the solution of the scene in which they are put right."""

    faults: tuple[Fault, ...]
    solution: Solution
    gain: float


def lens_cure(solution: Solution, progress: Progress) -> Cure | None:
    """The most telling of what may be wrong with framing and pixel shape; None where nothing is beyond chance."""
    single = _single_views(solution.layout)
    # A lone still cannot tell its own framing from its pixels' shape.
    if len(solution.scene.views) < 2 or not single:
        return None
    tried = [cure for cure in (_crops(solution, single, progress), _aspect(solution, single, progress)) if cure]
    return max(tried, key=lambda cure: cure.gain, default=None)


def _single_views(layout: Layout) -> list[int]:
    """Views with a lens of their own; a drawing has none."""
    return [
        i
        for i, lens in enumerate(layout.lens_of_view)
        if np.count_nonzero(layout.lens_of_view == lens) == 1 and not layout.scene.views[i].orthographic
    ]


def _columns(layout: Layout, views: list[int], which: tuple[int, ...]) -> Index:
    """(V, K) columns of the lenses' parameters."""
    starts = layout.offsets["lenses"] + LENS * layout.lens_of_view[views]
    return np.asarray(starts[:, None] + np.array(which))


def _crops(solution: Solution, single: list[int], progress: Progress) -> Cure | None:
    views = [i for i in single if not solution.scene.views[i].cropped]
    if not views:
        return None
    columns = _columns(solution.layout, views, (OFFSET_X, OFFSET_Y))
    whole, left = _set_free(solution, columns)
    pick = np.tile(np.eye(2), (len(views), 1))
    together = pick.T @ left
    promised = float(together @ np.linalg.solve(pick.T @ whole @ pick, together))
    common = _common_crop(solution, views, columns, progress) if promised > 2 * CROP_FALL else None
    return common or _single_crops(solution, views, _own_steps(whole, left, 2), progress)


def _common_crop(solution: Solution, views: list[int], columns: Index, progress: Progress) -> Cure | None:
    """All stills cut the same way, as letterboxed copies are: no single one stands out, but their mean does."""
    if len(views) < LEAST_COMMON:
        return None
    found = _freed(solution, columns, progress)
    if found is None:
        return None
    offsets = found.unknowns.lenses[solution.layout.lens_of_view[views], OFFSET_X : OFFSET_Y + 1]
    weight = np.linalg.inv(_covariance(found, columns)) / max(found.variance_factor, 1.0)
    pick = np.tile(np.eye(2), (len(views), 1))
    common = np.linalg.solve(pick.T @ weight @ pick, pick.T @ weight @ offsets.ravel())
    square = float(common @ (pick.T @ weight @ pick) @ common)
    apart = offsets.ravel() - pick @ common
    freedom = 2 * len(views) - 2
    alike = float(apart @ weight @ apart) < freedom + SCATTER_SIGMA * math.sqrt(2 * freedom)
    if not alike or square < 2 * CROP_FALL or np.linalg.norm(common) < CROP_LEAST * _larger_side(solution, views):
        return None
    same = np.tile(common, (len(views), 1))
    return _crop_cure(solution, found, views, same, np.full(len(views), square), progress)


def _larger_side(solution: Solution, views: list[int]) -> float:
    return float(np.mean([max(solution.scene.views[i].size_px) for i in views]))


def _single_crops(solution: Solution, views: list[int], steps: tuple[Array, Array], progress: Progress) -> Cure | None:
    shifts, weights = steps
    promised = np.einsum("vi,vij,vj->v", shifts, weights, shifts)
    suspects = [views[i] for i in np.flatnonzero(promised > 2 * CROP_FALL)]
    while suspects:
        free = _columns(solution.layout, suspects, (OFFSET_X, OFFSET_Y))
        found = _freed(solution, free, progress)
        if found is None:
            return None
        offsets = found.unknowns.lenses[solution.layout.lens_of_view[suspects], OFFSET_X : OFFSET_Y + 1]
        blocks = np.linalg.inv(_own_blocks(_covariance(found, free), 2))
        strength = np.einsum("vi,vij,vj->v", offsets, blocks, offsets) / max(found.variance_factor, 1.0)
        least = CROP_LEAST * np.array([max(solution.scene.views[i].size_px) for i in suspects])
        real = (strength > 2 * CROP_FALL) & (np.linalg.norm(offsets, axis=1) > least)
        if real.all():
            return _crop_cure(solution, found, suspects, offsets, strength, progress)
        # The least likely one alone is let go: it may have been bent by the others.
        suspects = [v for i, v in enumerate(suspects) if i != int(np.argmin(np.where(real, np.inf, strength)))]
    return None


def _crop_cure(
    solution: Solution, found: Solution, suspects: list[int], offsets: Array, strength: Array, progress: Progress
) -> Cure | None:
    gain = 2.0 * (solution.cost - found.cost) / max(found.variance_factor, 1.0) - 2 * CROP_FALL
    if gain <= 0:
        return None
    faults = []
    for view, (x, y), square in zip(suspects, offsets, strength, strict=True):
        info = solution.scene.views[view]
        place = (float(x) / info.pixel_aspect, float(y))
        faults.append(Fault("crop", math.sqrt(float(square)), info.key, offset_px=place))
    cured = _cured(solution.scene, found, tuple(faults), progress)
    return None if cured is None else Cure(tuple(faults), cured, gain)


def _aspect(solution: Solution, single: list[int], progress: Progress) -> Cure | None:
    """The view whose pixels look wider or narrower than stated: one wrong aspect bends the whole, so only the worst."""
    columns = _columns(solution.layout, single, (ASPECT,))
    shifts, weights = _own_steps(*_set_free(solution, columns), 1)
    promised = shifts[:, 0] ** 2 * weights[:, 0, 0]
    worst = int(np.argmax(promised))
    if promised[worst] < ASPECT_FALL or abs(shifts[worst, 0]) < ASPECT_LEAST:
        return None
    free = columns[worst : worst + 1]
    found = _freed(solution, free, progress)
    if found is None:
        return None
    shift = float(found.unknowns.lenses[solution.layout.lens_of_view[single[worst]], ASPECT])
    gain = 2.0 * (solution.cost - found.cost) / max(found.variance_factor, 1.0) - ASPECT_FALL
    if gain <= 0 or abs(shift) < ASPECT_LEAST:
        return None
    view, sigma = solution.scene.views[single[worst]], math.sqrt(float(_covariance(found, free)[0, 0]))
    fitted = view.pixel_aspect * math.exp(shift)
    shape = min(PIXEL_SHAPES, key=lambda s: abs(math.log(s.aspect / fitted)))
    near = abs(math.log(shape.aspect / fitted)) < max(ASPECT_NEAR, 2 * sigma)
    fault = Fault(
        "aspect", abs(shift) / sigma, view.key, found=fitted, sigma=sigma * fitted,
        aspect=shape.aspect if near else fitted, shape=shape.name if near else "",
    )  # fmt: skip
    cured = _cured(solution.scene, solution, (fault,), progress)
    return None if cured is None else Cure((fault,), cured, gain)


def _equations(solution: Solution, columns: Index) -> Equations:
    """The solution's equations with these columns among the unknowns."""
    equations = Equations(solution.layout)
    active = solution.layout.active.copy()
    active[columns.ravel()] = True
    equations.use(active)
    return equations


def _set_free(solution: Solution, columns: Index) -> tuple[Array, Array]:
    """Normal equations (V·K, V·K), (V·K,) of columns (V, K) set free, everything else following."""
    equations = _equations(solution, columns)
    whole, slope, _, _ = equations.normal(solution.unknowns).reduced(1e-9)
    tried = np.searchsorted(equations.active, columns.ravel())
    rest = np.setdiff1d(np.arange(len(whole)), tried)
    cross = whole[np.ix_(rest, tried)]
    gone = np.linalg.solve(whole[np.ix_(rest, rest)], np.column_stack([cross, slope[rest]]))
    return whole[np.ix_(tried, tried)] - cross.T @ gone[:, :-1], slope[tried] - cross.T @ gone[:, -1]


def _own_steps(whole: Array, left: Array, width: int) -> tuple[Array, Array]:
    """For each group of K columns set free alone: the step it would take (V, K) and its weight (V, K, K)."""
    weights = _own_blocks(whole, width)
    return np.asarray(-np.linalg.solve(weights, left.reshape(-1, width, 1))[..., 0]), weights


def _covariance(solution: Solution, columns: Index) -> Array:
    """Covariance (V·K, V·K) of groups of columns (V, K) that a solution found, all of them free together."""
    equations = _equations(solution, columns)
    whole = equations.normal(solution.unknowns).reduced(1e-9)[0]
    places = np.searchsorted(equations.active, columns).ravel()
    units = np.zeros((len(whole), len(places)))
    units[places, np.arange(len(places))] = 1.0
    return np.asarray(np.linalg.solve(whole, units)[places])


def _own_blocks(matrix: Array, width: int) -> Array:
    return np.stack([matrix[i : i + width, i : i + width] for i in range(0, len(matrix), width)])


def _freed(solution: Solution, columns: Index, progress: Progress) -> Solution | None:
    try:
        return solve(_equations(solution, columns), solution.unknowns, progress, MOST_STEPS, 1e-5)
    except RefusedError:
        return None


def _cured(scene: Scene, start: Solution, faults: tuple[Fault, ...], progress: Progress) -> Solution | None:
    for fault in faults:
        scene = repaired(scene, fault)
    unknowns = start.unknowns
    if any(fault.kind == "aspect" for fault in faults):
        unknowns = replace(unknowns, lenses=unknowns.lenses * np.array([1.0, 1.0, 1.0, 1.0, 0.0]))
    try:
        return solve(Equations(Layout(scene)), unknowns, progress)
    except RefusedError:
        return None
