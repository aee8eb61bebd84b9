"""Stills that are said to share a lens, but were taken at different focal lengths: a camera that zoomed.

Each gets a lens of its own; where that explains the marks much better and the focal lengths then differ, it zoomed.
Reference: Wilks, 1938 (likelihood ratio).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from chalkreel.core.measure.faults.fault import Fault, repaired
from chalkreel.core.measure.faults.lenses import Cure
from chalkreel.core.measure.faults.views import solved_near
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.start.estimate import estimate_of

Progress = Callable[[float], bool]
# How far the sum of squares must fall for each lens more, and by how much the focal lengths must then differ.
ZOOM_FALL = 14.0
ZOOM_LEAST = 0.015
# Marks that scatter no more than this share over their σ give no reason to ask.
USUAL = 1.1


def zoom_cure(solution: Solution, progress: Progress) -> Cure | None:
    """The shared lens whose stills differ most in zoom; None where nothing is beyond chance."""
    if solution.variance_factor < USUAL:
        return None
    shared: dict[str, list[str]] = {}
    for view in solution.scene.views:
        if view.lens:
            shared.setdefault(view.lens, []).append(view.key)
    tried = [_parted(solution, keys, progress) for keys in shared.values() if len(keys) > 1]
    return max((cure for cure in tried if cure), key=lambda cure: cure.gain, default=None)


def _parted(solution: Solution, keys: list[str], progress: Progress) -> Cure | None:
    fault = Fault("zoom", 0.0, keys[0], elsewhere=tuple(keys[1:]))
    found = solved_near(repaired(solution.scene, fault), estimate_of(solution), progress)
    if found is None:
        return None
    fall = 2.0 * (solution.cost - found.cost) / max(found.variance_factor, 1.0)
    gain = fall - ZOOM_FALL * (len(keys) - 1)
    lengths = {key: found.camera(key).focal_px for key in keys}
    ratio = max(lengths.values()) / min(lengths.values())
    if gain <= 0 or ratio < 1 + ZOOM_LEAST:
        return None
    ordered = sorted(keys, key=lambda key: lengths[key])
    told = replace(fault, view=ordered[-1], elsewhere=tuple(ordered[:-1]), strength=fall**0.5, found=ratio - 1)
    return Cure((told,), found, gain)
