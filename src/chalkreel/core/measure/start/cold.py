"""From marks alone to a solution: several ways to begin, the best one kept."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.solver.solve import Solution, SolveStoppedError
from chalkreel.core.measure.start.estimate import LEAST_FOR_POSE, Estimate, marks_by_view, usual_focal
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
# Robust cost per observation below which a start needs no rival.
GOOD_ENOUGH = 0.8


@dataclass(frozen=True, eq=False)
class Untied:
    """A view that cannot be tied in, why not, and what would help."""

    view: str
    reason: str


@dataclass(frozen=True, eq=False)
class Solved:
    """The best solution found, and what is not part of it."""

    solution: Solution
    untied: tuple[Untied, ...]
    unplaced: tuple[str, ...]

    @property
    def misfit(self) -> float:
        """Robust cost for each coordinate marked; about a half where only clicks are in error."""
        return _misfit(self.solution)

    @property
    def estimate(self) -> Estimate:
        """Cameras and places, to start the next solving from."""
        scene = self.solution.scene
        return Estimate(
            {v.key: self.solution.camera(v.key) for v in scene.views},
            {m.key: self.solution.point(m.key) for m in scene.landmarks},
            {c.key: values for c, values in zip(scene.circles, self.solution.unknowns.circles, strict=True)},
        )


def solve_reel(
    scene: Scene, known: Estimate | None = None, progress: Progress = lambda _: True, accepted: float = GOOD_ENOUGH
) -> Solved:
    """Solve a scene, from what was known before where that still serves, else from nothing.

    `accepted` is the misfit up to which what was known serves: where a fault in the marks leaves a large one that no
    other start betters, searching again after each edit would be of no use.

    Raises
    ------
    RefusedError
        No start is possible; the sentence says what to mark.
    SolveStoppedError
        `progress` said to stop.
    """
    best = _warm(scene, known, progress) if known is not None and known.cameras else None
    if best is None or _misfit(best) > accepted:
        rivals = [] if best is None else [best]
        for start in _starts(scene, progress):
            solution = _finished(scene, start, progress)
            if solution is not None:
                rivals.append(solution)
                if not _poor(scene, solution):
                    break
        if not rivals:
            raise RefusedError(_what_to_mark(scene))
        best = min(rivals, key=lambda s: _rank(scene, s))
    return Solved(best, _untied(scene, best), _unplaced(scene, best))


def _warm(scene: Scene, known: Estimate, progress: Progress) -> Solution | None:
    names = {m.key for m in scene.landmarks}
    points = {name: place for name, place in known.points.items() if name in names}
    marks = marks_by_view(scene)
    alone = {v.key for v in scene.views if len(scene.views) == 1}
    # A view that has lost its marks is not held by where it was.
    tied = {v for v in known.cameras if sum(n in points for n in marks.get(v, ())) >= LEAST_FOR_POSE or v in alone}
    cameras = {v.key: known.cameras[v.key] for v in scene.views if v.key in tied}
    circles = {c.key: known.circles[c.key] for c in scene.circles if c.key in known.circles}
    return _finished(scene, Estimate(cameras, points, circles), progress) if cameras else None


def _finished(scene: Scene, estimate: Estimate, progress: Progress) -> Solution | None:
    try:
        estimate = grown(scene, estimate, progress)
        return refined(scene, estimate, progress, quick=False)[1] if estimate.points else None
    except SolveStoppedError:
        raise
    except RefusedError:
        return None


def _starts(scene: Scene, progress: Progress) -> Iterator[Estimate]:
    yield from _from_edges(scene)
    yield from _from_pairs(scene, progress)


def _from_edges(scene: Scene) -> Iterator[Estimate]:
    """Views whose edges give their turn, placed together by linear least squares."""
    choices = {v.key: found for v in scene.views if (found := turned_cameras(scene, v))}
    if not choices:
        return
    most = max(len(found) for found in choices.values())
    for rank in range(most):
        # One view may be turned wrongly: each is also tried at its next best, the others at their best.
        tries = [{key: found[min(rank, len(found) - 1)] for key, found in choices.items()}] if rank == 0 else [
            {k: (f[rank] if k == key else f[0]) for k, f in choices.items()}
            for key, found in choices.items() if rank < len(found)
        ]  # fmt: skip
        for turned in tries:
            estimate = placed(scene, turned)
            if estimate is not None:
                estimate = without_hidden(scene, estimate)
                if len(estimate.points) >= LEAST_FOR_POSE:
                    yield estimate


def _from_pairs(scene: Scene, progress: Progress) -> Iterator[Estimate]:
    """Pairs of views (flipped twins among them) at several focal lengths, grown in a frame of their own."""
    loose = with_twins(scene)
    marks = marks_by_view(loose)
    views = {view.key: view for view in loose.views}
    shared = [
        (sum(name in marks[b] for name in marks[a]), a, b)
        for a, b in itertools.combinations(views, 2)
        if not a.endswith(TWIN)
    ]
    ranked = [(a, b) for count, a, b in sorted(shared, key=lambda s: -s[0]) if count >= LEAST_SHARED][:PAIRS_TRIED]
    for factor, (a, b) in itertools.product(FOCAL_FACTORS, ranked):
        if not progress(-1.0):
            raise SolveStoppedError("Solving was stopped.")
        focals = factor * usual_focal(views[a]), factor * usual_focal(views[b])
        estimate = first_pair(loose, a, b, focals)
        if estimate is None:
            continue
        try:
            estimate = grown(loose, without_hidden(loose, estimate), progress, lambda e: _pairs_known(scene, e))
            estimate, _ = refined(loose, estimate, progress)
        except SolveStoppedError:
            raise
        except RefusedError:
            continue
        world = in_world(scene, Estimate(estimate.cameras, estimate.points))
        yield sized(scene, _own_views(scene, world))


def _own_views(scene: Scene, estimate: Estimate) -> Estimate:
    return without_hidden(scene, with_places(scene, Estimate(untwinned(estimate.cameras), {})))


def _pairs_known(scene: Scene, estimate: Estimate) -> bool:
    """Whether the mirror plane can be told: from there on symmetry itself helps."""
    halves = sum(m.mirror not in ("", m.key) and {m.key, m.mirror} <= set(estimate.points) for m in scene.landmarks)
    return halves >= 2 * PAIRS_NEEDED


def _misfit(solution: Solution) -> float:
    return solution.cost / max(2 * len(solution.scene.sightings), 1)


def _poor(scene: Scene, solution: Solution) -> bool:
    """Whether another start might do better: marks fit badly, or a view with enough of them fits no camera."""
    known = {m.key for m in solution.scene.landmarks}
    marks = marks_by_view(scene)
    lost = [u for u in _untied(scene, solution) if sum(n in known for n in marks[u.view]) >= LEAST_FOR_POSE]
    return _misfit(solution) > GOOD_ENOUGH or bool(lost)


def _rank(scene: Scene, solution: Solution) -> tuple[int, float]:
    """Fewer untied views first, then the lesser cost per mark."""
    return len(scene.views) - len(solution.scene.views), _misfit(solution)


def _untied(scene: Scene, solution: Solution) -> tuple[Untied, ...]:
    known = {m.key for m in solution.scene.landmarks}
    tied = {v.key for v in solution.scene.views}
    marks = marks_by_view(scene)
    found = []
    for view in scene.views:
        if view.key in tied or not marks[view.key]:
            continue
        shared = sum(name in known for name in marks[view.key])
        if shared < LEAST_FOR_POSE:
            wanted = [name for name in known if name not in marks[view.key]][:3]
            lacking = LEAST_FOR_POSE - shared
            reason = f"It shares {shared} landmarks with the others; mark {lacking} more, such as {', '.join(wanted)}."
        else:
            reason = "Its marks fit no camera. Check its pixel aspect, and whether port and starboard are swapped."
        found.append(Untied(view.key, reason))
    return tuple(found)


def _unplaced(scene: Scene, solution: Solution) -> tuple[str, ...]:
    known = {m.key for m in solution.scene.landmarks}
    return tuple(m.key for m in scene.landmarks if m.key not in known)


def _what_to_mark(scene: Scene) -> str:
    counts = {key: len(marks) for key, marks in marks_by_view(scene).items()}
    if len([n for n in counts.values() if n]) < 2:
        return (
            "One still alone needs more: mark edges along two or three directions and pairs or parallels between its "
            "landmarks, or mark the same landmarks on a second still."
        )
    if max(counts.values()) < LEAST_SHARED:
        return f"Mark the same {LEAST_SHARED} landmarks or more on two stills taken from different places."
    return "No two stills share enough landmarks. Mark the same six or more on two stills taken from different places."
