"""From marks alone to a solution: several ways to begin, the best one kept."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass, replace

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.scene import Scene, View
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import MOST_STEPS, Solution, solve
from chalkreel.core.measure.start.beginnings import beginnings
from chalkreel.core.measure.start.deeper import cost_of, deeper
from chalkreel.core.measure.start.estimate import LEAST_FOR_POSE, Estimate, estimate_of
from chalkreel.core.measure.start.grow import grown, refined
from chalkreel.core.measure.start.lacking import what_to_mark
from chalkreel.core.measure.start.tied import with_tied, without_lost

Progress = Callable[[float], bool]
# After so many steps the worth of a start shows.
TRIAL_STEPS, PROMISING = 30, 4.0
# Starts that end in one place within so small a share of the cost agree; so many are tried before that counts.
AGREE, LEAST_TRIED, FEW_VIEWS = 1e-3, 3, 3
MOST_TRIED = 8
# After so many rivals the best is led out of poor minima before more are tried.
DEEPENED = 3
# Views whose marks fit nowhere: so large a share is left out of a solution that fits otherwise, and reported.
LOST_SHARE = 0.34
# A warm start serves when it explains the marks as well as the search from nothing did, but for the marks added since.
AS_WELL = 1.1
# One that suddenly fits this much better than its poor search did has had a fault mended: others may fit better yet.
MENDED = 0.8


@dataclass(frozen=True, eq=False)
class Start:
    """Where an earlier solving ended, the variance factor that the search from nothing behind it came to, whether the
    marks fitted, and the views that it could not tie in though they mark enough."""

    estimate: Estimate
    cold_factor: float
    fits: bool
    left_out: frozenset[str]

    @property
    def sound(self) -> bool:
        """Whether everything fitted there."""
        return self.fits and not self.left_out

    def serves(self, solution: Solution, left_out: frozenset[str]) -> bool:
        """Whether a solution found from here may stand without a new search from nothing."""
        if left_out != self.left_out or solution.fits != self.fits or not solution.settled:
            return False
        usual = self.fits or solution.variance_factor >= MENDED * self.cold_factor
        return solution.variance_factor <= AS_WELL * self.cold_factor and usual


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
    start: Start


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
        warm = _warm(scene, start, progress)
        if warm is not None and start.serves(warm, _left_out(scene, warm)):
            return _solved(scene, warm, start.cold_factor)
        rivals += [warm] if warm is not None else []
    best = _searched(scene, rivals, progress)
    held = without_lost(best)
    if held is None:
        raise RefusedError(what_to_mark(scene))
    return _solved(scene, held, held.variance_factor)


def _warm(scene: Scene, start: Start, progress: Progress) -> Solution | None:
    """From a start with and without the views that it left out: perhaps they fit by now."""
    choices = dict.fromkeys((frozenset[str](), start.left_out))
    tries = [resolved(scene, start.estimate, progress, left) for left in choices]
    held = [placed for found in tries if found is not None and (placed := without_lost(found)) is not None]
    return min(held, key=lambda s: cost_of(s, scene), default=None)


def _searched(scene: Scene, rivals: list[Solution], progress: Progress) -> Solution:
    """The best of the rivals there are and of those that a search from nothing adds."""
    for estimate in itertools.islice(beginnings(scene, progress), MOST_TRIED):
        solution = _tried(scene, estimate, progress)
        if solution is None:
            continue
        rivals.append(solution)
        if len(rivals) == DEEPENED:
            rivals.append(_deepest(scene, rivals, progress))
        if _enough(scene, rivals):
            break
    if not rivals:
        raise RefusedError(what_to_mark(scene))
    return _deepest(scene, rivals, progress)


def _deepest(scene: Scene, rivals: list[Solution], progress: Progress) -> Solution:
    """The best rival out of its poor minimum, with the views tied in again that it had let go."""
    best = deeper(_settled(min(rivals, key=lambda s: cost_of(s, scene)), progress), progress)
    again = _finished(scene, estimate_of(best), progress) if _left_out(scene, best) else None
    return best if again is None else min(best, deeper(again, progress), key=lambda s: cost_of(s, scene))


def resolved(
    scene: Scene, known: Estimate, progress: Progress, left_out: frozenset[str] = frozenset()
) -> Solution | None:
    """A scene solved from an earlier estimate, without any search; None where that leads nowhere.

    Views that were `left_out` are not tied in.
    """
    names = {m.key for m in scene.landmarks}
    points = {name: place for name, place in known.points.items() if name in names}
    marks = scene.marks
    alone = {v.key for v in scene.views if len(scene.views) == 1}
    # A view that has lost its marks is not held by where it was.
    tied = {v for v in known.cameras if sum(n in points for n in marks.get(v, ())) >= LEAST_FOR_POSE or v in alone}
    cameras = {v.key: _as_stated(v, known.cameras[v.key]) for v in scene.views if v.key in tied}
    circles = {c.key: known.circles[c.key] for c in scene.circles if c.key in known.circles}
    return _finished(scene, Estimate(cameras, points, circles), progress, left_out=left_out) if cameras else None


def _as_stated(view: View, camera: Camera) -> Camera:
    """A still that is no longer said to be cropped loses the offset that was found while it was."""
    return camera if view.cropped else replace(camera, offset_px=(0.0, 0.0))


def _finished(
    scene: Scene, estimate: Estimate, progress: Progress, most_steps: int = MOST_STEPS,
    left_out: frozenset[str] = frozenset(),
) -> Solution | None:  # fmt: skip
    try:
        estimate = with_tied(scene, grown(scene, estimate, progress, left_out=left_out))
        return refined(scene, estimate, progress, False, most_steps)[1] if estimate.points else None
    except RefusedError:
        return None


def _tried(scene: Scene, estimate: Estimate, progress: Progress) -> Solution | None:
    """A start's solution after so many steps, by when the worth of a start shows; a promising one is seen through."""
    solution = _finished(scene, estimate, progress, TRIAL_STEPS)
    promising = solution is not None and solution.variance_factor < PROMISING
    return _settled(solution, progress) if promising and solution is not None else solution


def _settled(solution: Solution, progress: Progress) -> Solution:
    return solution if solution.settled else solve(Equations(solution.layout), solution.unknowns, progress)


def _left_out(scene: Scene, solution: Solution) -> frozenset[str]:
    """Views that are not in it though they mark enough of its landmarks."""
    known = {m.key for m in solution.scene.landmarks}
    marks = scene.marks
    untied = (u.view for u in _untied(scene, solution))
    return frozenset(v for v in untied if sum(n in known for n in marks[v]) >= LEAST_FOR_POSE)


def _enough(scene: Scene, rivals: list[Solution]) -> bool:
    """Whether no more starts need be tried: one that holds everything fits, or what is left over lies in the marks."""
    best, *others = sorted(rivals, key=lambda s: cost_of(s, scene))
    marks = scene.marks
    lost = [v.key for v in scene.views if len(marks[v.key]) >= LEAST_FOR_POSE and v.key not in best.layout.views]
    if best.fits and not lost:
        # Few stills fit in more than one way: two starts must end in one place.
        return len(scene.views) > FEW_VIEWS or (len(rivals) > 1 and _agree(best, others[0]))
    if best.fits and len(rivals) > LEAST_TRIED and len(lost) <= LOST_SHARE * len(scene.views):
        return True
    return len(rivals) > LEAST_TRIED and not lost and _agree(best, others[0])


def _agree(first: Solution, second: Solution) -> bool:
    sizes = [(len(s.scene.views), len(s.scene.landmarks)) for s in (first, second)]
    return sizes[0] == sizes[1] and abs(second.cost - first.cost) <= first.cost * AGREE + AGREE


def _solved(scene: Scene, solution: Solution, cold_factor: float) -> Solved:
    known = {m.key for m in solution.scene.landmarks}
    unplaced = tuple(m.key for m in scene.landmarks if m.key not in known)
    start = Start(estimate_of(solution), cold_factor, solution.fits, _left_out(scene, solution))
    return Solved(solution, _untied(scene, solution), unplaced, start)


def _untied(scene: Scene, solution: Solution) -> tuple[Untied, ...]:
    known = {m.key for m in solution.scene.landmarks}
    tied = {v.key for v in solution.scene.views}
    marks = scene.marks
    found = []
    for view in scene.views:
        if view.key in tied or not marks[view.key]:
            continue
        shared = sum(name in known for name in marks[view.key])
        lacking = max(0, LEAST_FOR_POSE - shared)
        wanted = [m.key for m in solution.scene.landmarks if m.key not in marks[view.key]][:3] if lacking else []
        found.append(Untied(view.key, shared, lacking, tuple(wanted)))
    return tuple(found)
