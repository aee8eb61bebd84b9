"""Single marks: misplaced, swapped with their twin, moved together, or of a landmark that sits in two places."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.faults.fault import Fault
from chalkreel.core.measure.scene import Sighting
from chalkreel.core.measure.solver.sightings import Sighted
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.start.estimate import MIRROR, nearest_to_rays

MARK_SIGMA = 4.5
MOVED_TOGETHER = 3
# A mark fits its twin's place when it lies so many σ from it at most, and so many times nearer than from its own.
SWAP_GAIN = 4.0
# Rejected marks agree on another place when each lies within so many σ of it: wild clicks seldom do.
TOGETHER_SIGMA = 2.5

Far = dict[str, dict[str, float]]


def residuals_px(solution: Solution) -> dict[tuple[str, str], Array]:
    """By view and landmark: how far (stored pixels) the mark lies from where the solution has it, (2,)."""
    sightings = solution.scene.sightings
    sigma = np.array([s.mark.sigma_px for s in sightings])
    gaps = -_in_sigma(solution) * sigma[:, None]
    return {(s.view, s.landmark): gap for s, gap in zip(sightings, gaps, strict=True)}


def far_marks(solution: Solution) -> Far:
    """How many σ each mark lies off that lies beyond chance, by view and landmark."""
    strength = np.linalg.norm(_in_sigma(solution), axis=1)
    far: Far = {}
    for row in np.flatnonzero(strength > MARK_SIGMA):
        sighting = solution.scene.sightings[row]
        far.setdefault(sighting.view, {})[sighting.landmark] = float(strength[row])
    return far


def _in_sigma(solution: Solution) -> Array:
    """Place less mark of every sighting in the scene's order, over the click's σ, (M, 2)."""
    sighted = Sighted.of(solution.layout, solution.scene.sightings)
    found = np.zeros((len(sighted.order), 2))
    found[sighted.order] = sighted.residuals(solution.unknowns)
    return found


def mark_faults(solution: Solution) -> list[Fault]:
    """All suspicions against single marks."""
    twin = {m.key: m.mirror for m in solution.scene.landmarks}
    far = far_marks(solution)
    found = _two_places(solution, far)
    for fault in found:
        for view in fault.elsewhere:
            far.get(view, {}).pop(fault.landmarks[0], None)
    for view, names in far.items():
        for name in _swaps(solution, view, names, twin):
            strength = max(names.pop(name), names.pop(twin[name], 0.0))
            found.append(Fault("swap", strength, view, (name, twin[name])))
        if len(names) >= MOVED_TOGETHER and _moved_as_one(solution, view, tuple(names)):
            found.append(Fault("version", max(names.values()), view, tuple(sorted(names))))
            continue
        found += [Fault("mark", strength, view, (name,)) for name, strength in names.items()]
    return found


def _moved_as_one(solution: Solution, view: str, names: tuple[str, ...]) -> bool:
    """Whether marks are off much the same way: a part that sits elsewhere, not clicks gone wrong one by one."""
    gaps = residuals_px(solution)
    off = np.stack([gaps[view, name] for name in names])
    common = np.median(off, axis=0)
    return float(np.median(np.linalg.norm(off - common, axis=1))) < 0.5 * float(np.linalg.norm(common))


def _swaps(solution: Solution, view: str, far: Mapping[str, float], twin: Mapping[str, str]) -> list[str]:
    """Landmarks whose mark suits their twin's place, once for each pair."""
    marks = solution.scene.marks[view]
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


def _two_places(solution: Solution, far: Far) -> list[Fault]:
    """Landmarks whose rejected marks, on two views or more, agree on another place: another version of the subject."""
    found = []
    for landmark in solution.scene.landmarks:
        views = tuple(v for v in far if landmark.key in far[v])
        if len(views) < 2:
            continue
        mine = [s for s in solution.scene.sightings if s.landmark == landmark.key]
        if len(mine) - len(views) < 2:
            continue
        if _in_one_place(solution, [s for s in mine if s.view in views], landmark.mirror == landmark.key):
            strength = max(far[v][landmark.key] for v in views)
            found.append(Fault("two places", strength, landmarks=(landmark.key,), elsewhere=views))
    return found


def _in_one_place(solution: Solution, mine: list[Sighting], centred: bool) -> bool:
    cameras = [solution.camera(s.view) for s in mine]
    stored = np.array([(s.mark.x_px, s.mark.y_px) for s in mine])
    ways = np.stack([c.rays(xy[None])[0] for c, xy in zip(cameras, stored, strict=True)])
    place = nearest_to_rays(np.stack([c.position for c in cameras]), ways)
    place = place * (0.5 * (np.ones(3) + MIRROR)) if centred else place
    gaps = [np.linalg.norm(c.project(place[None])[0] - xy) for c, xy in zip(cameras, stored, strict=True)]
    return all(gap < TOGETHER_SIGMA * s.mark.sigma_px for gap, s in zip(gaps, mine, strict=True))
