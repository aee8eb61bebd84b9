"""From marks alone to a solution: several ways to begin, the best one kept."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.scene import Scene, View
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import MOST_STEPS, Solution, solve
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
TRIAL_STEPS, PROMISING = 30, 2.0
# Starts tried against a warm one that holds all stills already: a fault in the marks makes every start look poor.
RIVALS_OF_WARM = 4
# A warm start serves when it explains the marks as well as the search from nothing did, but for the marks added since.
AS_WELL = 1.1
# One that suddenly fits this much better than its poor search did has had a fault mended: others may fit better yet.
MENDED = 0.8


@dataclass(frozen=True, eq=False)
class Start:
    """Where an earlier solving ended, and the misfit that the search from nothing behind it came to."""

    estimate: Estimate
    cold_misfit: float

    def serves(self, misfit: float) -> bool:
        """Whether a solution found from here may stand without a new search from nothing."""
        usual = self.cold_misfit <= GOOD_ENOUGH or misfit >= MENDED * self.cold_misfit
        return misfit <= AS_WELL * self.cold_misfit and usual


@dataclass(frozen=True, eq=False)
class Untied:
    """A view that cannot be tied in: it shares so few landmarks with the others and lacks some of `wanted`, or (with
    none lacking) its marks fit no camera."""

    view: str
    shared: int
    lacking: int = 0
    wanted: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class Solved:
    """The best solution found, and what is not part of it."""

    solution: Solution
    untied: tuple[Untied, ...]
    unplaced: tuple[str, ...]
    cold_misfit: float

    @property
    def start(self) -> Start:
        """Where the next solving may begin."""
        return Start(self.estimate, self.cold_misfit)

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


def solve_reel(scene: Scene, starts: tuple[Start, ...] = (), progress: Progress = lambda _: True) -> Solved:
    """Solve a scene, from one of the earlier starts where that serves, else from nothing.

    Starts change how long it takes; a poorer solution is never kept for their sake.

    Raises
    ------
    RefusedError
        No start is possible; the sentence says what to mark.
    StoppedError
        `progress` said to stop.
    """
    rivals: list[Solution] = []
    for start in starts:
        warm = _warm(scene, start.estimate, progress)
        if warm is not None and start.serves(_misfit(warm)):
            return Solved(warm, _untied(scene, warm), _unplaced(scene, warm), start.cold_misfit)
        rivals += [warm] if warm is not None else []
    whole = any(len(rival.scene.views) == len(scene.views) for rival in rivals)
    for estimate in itertools.islice(_starts(scene, progress), RIVALS_OF_WARM if whole else None):
        solution = _tried(scene, estimate, progress)
        if solution is not None:
            rivals.append(solution)
            if not _poor(scene, solution):
                break
    if not rivals:
        raise RefusedError(_what_to_mark(scene))
    best = _settled(min(rivals, key=lambda s: _rank(scene, s)), progress)
    return Solved(best, _untied(scene, best), _unplaced(scene, best), _misfit(best))


def _warm(scene: Scene, known: Estimate, progress: Progress) -> Solution | None:
    names = {m.key for m in scene.landmarks}
    points = {name: place for name, place in known.points.items() if name in names}
    marks = marks_by_view(scene)
    alone = {v.key for v in scene.views if len(scene.views) == 1}
    # A view that has lost its marks is not held by where it was.
    tied = {v for v in known.cameras if sum(n in points for n in marks.get(v, ())) >= LEAST_FOR_POSE or v in alone}
    cameras = {v.key: _as_stated(v, known.cameras[v.key]) for v in scene.views if v.key in tied}
    circles = {c.key: known.circles[c.key] for c in scene.circles if c.key in known.circles}
    return _finished(scene, Estimate(cameras, points, circles), progress) if cameras else None


def _as_stated(view: View, camera: Camera) -> Camera:
    """A still that is no longer said to be cropped loses the offset that was found while it was."""
    return camera if view.cropped else replace(camera, offset_px=(0.0, 0.0))


def _finished(scene: Scene, estimate: Estimate, progress: Progress, most_steps: int = MOST_STEPS) -> Solution | None:
    try:
        estimate = grown(scene, estimate, progress)
        return refined(scene, estimate, progress, False, most_steps)[1] if estimate.points else None
    except RefusedError:
        return None


def _tried(scene: Scene, estimate: Estimate, progress: Progress) -> Solution | None:
    """A start's solution after so many steps, by when the worth of a start shows; a promising one is seen through."""
    solution = _finished(scene, estimate, progress, TRIAL_STEPS)
    promising = solution is not None and _misfit(solution) < PROMISING * GOOD_ENOUGH
    return _settled(solution, progress) if promising and solution is not None else solution


def _settled(solution: Solution, progress: Progress) -> Solution:
    return solution if solution.settled else solve(Equations(solution.layout), solution.unknowns, progress)


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
        lacking = max(0, LEAST_FOR_POSE - shared)
        wanted = [m.key for m in solution.scene.landmarks if m.key not in marks[view.key]][:3] if lacking else []
        found.append(Untied(view.key, shared, lacking, tuple(wanted)))
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
