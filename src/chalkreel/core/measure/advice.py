"""What to mark next: the one mark, ruler or edge that would shrink a size's error most.

Each candidate's effect is computed before it is made: an observation with slopes j and σ takes
(cov(size, j))² / (σ² + var(j)) off the size's variance (one step of a Kalman filter).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.ghosts import expected_marks, ghost_factors
from chalkreel.core.measure.quantities import Distance, Quantity, slopes_of
from chalkreel.core.measure.scene import Scene, Sighting
from chalkreel.core.measure.solver.layout import FOCAL, LENS
from chalkreel.core.measure.solver.sightings import Sighted
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.solver.spread import Spread

CLICK_PX = 0.8
RULER_SHARE = 0.003
FOCAL_SHARE = 0.02
RULERS_TRIED = 12
# So many candidates are worked out in full at a time.
AT_ONCE = 64
# What leaves more of the error than this is not worth saying.
WORTH_IT = 0.9


@dataclass(frozen=True)
class Advice:
    """An observation worth making; `left` is the share of the size's σ that would be left."""

    kind: Literal["mark", "ruler", "focal"]
    left: float
    view: str = ""
    landmarks: tuple[str, ...] = ()


def advise(scene: Scene, solution: Solution, spread: Spread, quantity: Quantity) -> tuple[Advice, ...]:
    """The best mark, ruler and focal length to add for one size, the most helpful first; each helps by a tenth."""
    _, by_dense, by_block = slopes_of(solution, (quantity,))
    wanted = spread.factors(by_dense, by_block)[:, 0]
    variance = float(wanted @ wanted)
    found = [*_marks(scene, solution, spread, wanted, quantity), *_rulers(solution, spread, wanted)]
    found += _focals(solution, spread, wanted)
    best: dict[str, Advice] = {}
    for gain, advice in found:
        left = float(np.sqrt(max(1.0 - gain / variance, 0.0)))
        if left < min(WORTH_IT, best[advice.kind].left if advice.kind in best else 1.0):
            best[advice.kind] = replace(advice, left=left)
    return tuple(sorted(best.values(), key=lambda advice: advice.left))


def _marks(
    scene: Scene, solution: Solution, spread: Spread, wanted: Array, quantity: Quantity
) -> list[tuple[float, Advice]]:
    """The best mark that is not made yet.

    What a mark at a place with covariance C and covariance t with the size takes off its variance V is
    tᵀ (C + σ²)⁻¹ t, and C is no less than t tᵀ / V: most candidates are ruled out by t alone.
    """
    made = {(s.view, s.landmark) for s in scene.sightings}
    tried = [
        s for v in solution.scene.views for s in expected_marks(solution, v.key) if (v.key, s.landmark) not in made
    ]
    if not tried:
        return []
    toward = _towards(solution, spread, quantity, tried)
    square = np.sum(toward**2, axis=1)
    most = square / (square / float(wanted @ wanted) + CLICK_PX**2)
    order, best = np.argsort(-most), (0.0, 0)
    for start in range(0, len(order), AT_ONCE):
        rows = order[start : start + AT_ONCE]
        if most[rows[0]] <= best[0]:
            break
        factors = ghost_factors(solution, spread, tuple(tried[i] for i in rows))
        whole = factors.transpose(0, 2, 1) @ factors + np.eye(2) * CLICK_PX**2
        mine = factors.transpose(0, 2, 1) @ wanted
        gains = np.sum(mine * np.linalg.solve(whole, mine[..., None])[..., 0], axis=1)
        best = max(best, (float(gains.max()), int(rows[int(np.argmax(gains))])))
    gain, row = best
    return [(gain, Advice("mark", 1.0, tried[row].view, (tried[row].landmark,)))]


def _towards(solution: Solution, spread: Spread, quantity: Quantity, tried: list[Sighting]) -> Array:
    """Covariances (W, 2) of a size with the places of marks."""
    layout = solution.layout
    _, by_dense, by_block = slopes_of(solution, (quantity,))
    dense, blocks = spread.towards(by_dense[:, 0], by_block[:, :, 0])
    sighted = Sighted.of(layout, tuple(tried))
    by_camera, to_block = sighted.linearised(solution.unknowns)
    cameras = np.stack([dense[layout.camera_columns(v)] for v in range(len(layout.views))])
    found = np.einsum("mij,mj->mi", by_camera, cameras[sighted.view])
    found += np.einsum("mij,mj->mi", to_block, blocks[sighted.block])
    out: Array = np.empty(found.shape)
    out[sighted.order] = found
    return out


def _rulers(solution: Solution, spread: Spread, wanted: Array) -> list[tuple[float, Advice]]:
    """Rulers between landmarks far apart along each axis."""
    names = [m.key for m in solution.scene.landmarks]
    places = np.stack([solution.point(n) for n in names])
    pairs = set()
    for axis in range(3):
        order = np.argsort(places[:, axis])
        pairs |= {(names[a], names[b]) for a, b in zip(order[:2], order[::-1][:2], strict=True) if a != b}
    known = {frozenset((r.a, r.b)) for r in solution.scene.rulers}
    tried = [pair for pair in sorted(pairs) if frozenset(pair) not in known][:RULERS_TRIED]
    if not tried:
        return []
    values, by_dense, by_block = slopes_of(solution, tuple(Distance(a, b) for a, b in tried))
    factors = spread.factors(by_dense, by_block)
    variance = np.sum(factors**2, axis=0) + (RULER_SHARE * values) ** 2
    gains = (factors.T @ wanted) ** 2 / variance
    return [(float(gain), Advice("ruler", 1.0, "", pair)) for gain, pair in zip(gains, tried, strict=True)]


def _focals(solution: Solution, spread: Spread, wanted: Array) -> list[tuple[float, Advice]]:
    layout = solution.layout
    slopes = np.zeros((layout.offsets["end"], len(layout.lenses)))
    for lens in range(len(layout.lenses)):
        slopes[layout.offsets["lenses"] + LENS * lens + FOCAL, lens] = 1.0
    factors = spread.factors(slopes, np.zeros((layout.block_count, 3, len(layout.lenses))))
    gains = (factors.T @ wanted) ** 2 / (np.sum(factors**2, axis=0) + FOCAL_SHARE**2)
    view = {int(lens): v.key for v, lens in zip(solution.scene.views, layout.lens_of_view, strict=True)}
    return [(float(gain), Advice("focal", 1.0, view[lens])) for lens, gain in enumerate(gains)]
