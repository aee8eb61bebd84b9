"""Ways to begin from marks alone, the quickest and surest first: rough estimates of some views and landmarks."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Mapping

import numpy as np

from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.start.estimate import LEAST_FOR_POSE, Estimate, resected, usual_focal
from chalkreel.core.measure.start.frame import in_world
from chalkreel.core.measure.start.grow import grown, refined, with_places, without_hidden
from chalkreel.core.measure.start.linear import placed, sized
from chalkreel.core.measure.start.mirrored import TWIN, untwinned, with_twins
from chalkreel.core.measure.start.relative import LEAST_SHARED, first_pair
from chalkreel.core.measure.start.vanishing import turned_cameras

Progress = Callable[[float], bool]
FOCAL_FACTORS = (1.0, 0.6, 1.7)
PAIRS_TRIED = 4
PAIRS_NEEDED = 5


def beginnings(scene: Scene, progress: Progress) -> Iterator[Estimate]:
    """From known places, then from pairs of views, then from edges: edges alone say little and are slow to settle.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    yield from _from_places(scene)
    yield from _from_pairs(scene, progress)
    yield from _from_edges(scene)


def _from_places(scene: Scene) -> Iterator[Estimate]:
    """Views that mark enough landmarks whose places are known beforehand."""
    known = {m.key: np.array(m.place_mm) for m in scene.landmarks if m.place_mm is not None}
    marks = scene.marks
    cameras = {v.key: c for v in scene.views if (c := resected(v, marks[v.key], known)) is not None}
    if cameras:
        yield without_hidden(scene, with_places(scene, Estimate(cameras, known)))


def _from_pairs(scene: Scene, progress: Progress) -> Iterator[Estimate]:
    """Pairs of views (flipped twins among them) at several focal lengths, grown in a frame of their own."""
    loose = with_twins(scene)
    marks = loose.marks
    views = {view.key: view for view in loose.views}
    shared = [
        (sum(name in marks[b] for name in marks[a]), a, b)
        for a, b in itertools.combinations(views, 2)
        if not a.endswith(TWIN)
    ]
    ranked = [(a, b) for count, a, b in sorted(shared, key=lambda s: -s[0]) if count >= LEAST_SHARED][:PAIRS_TRIED]
    for factor, (a, b) in itertools.product(FOCAL_FACTORS, ranked):
        if not progress(-1.0):
            raise StoppedError("Solving was stopped.")
        focals = factor * usual_focal(views[a]), factor * usual_focal(views[b])
        estimate = first_pair(loose, a, b, focals)
        if estimate is None:
            continue
        try:
            estimate = grown(loose, without_hidden(loose, estimate), progress, lambda e: _pairs_known(scene, e))
            estimate, _ = refined(loose, estimate, progress)
        except RefusedError:
            continue
        world = in_world(scene, Estimate(estimate.cameras, estimate.points))
        own = with_places(scene, Estimate(untwinned(world.cameras), {}))
        yield sized(scene, without_hidden(scene, own))


def _pairs_known(scene: Scene, estimate: Estimate) -> bool:
    """Whether the mirror plane can be told: from there on symmetry itself helps."""
    halves = sum(m.mirror not in ("", m.key) and {m.key, m.mirror} <= set(estimate.points) for m in scene.landmarks)
    return halves >= 2 * PAIRS_NEEDED


def _from_edges(scene: Scene) -> Iterator[Estimate]:
    """Views whose edges give their turn, placed together by linear least squares."""
    choices = {v.key: found for v in scene.views if (found := turned_cameras(scene, v))}
    for turned in _turns(choices):
        estimate = placed(scene, turned)
        if estimate is not None:
            estimate = without_hidden(scene, estimate)
            if len(estimate.points) >= LEAST_FOR_POSE:
                yield estimate


def _turns(choices: Mapping[str, tuple[Camera, ...]]) -> Iterator[dict[str, Camera]]:
    """All at their best; then each in turn at its next best, since one view may be turned wrongly."""
    best = {key: found[0] for key, found in choices.items()}
    if best:
        yield best
    for rank in range(1, max((len(found) for found in choices.values()), default=0)):
        for key, found in choices.items():
            if rank < len(found):
                yield {**best, key: found[rank]}
