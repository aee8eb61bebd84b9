"""The whole reel solved: cameras, landmarks, ghosts, faults, and every size that hangs on landmarks."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from chalkreel.answers.scene_of import Names, names_of, quantity_of, scene_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.advice import Advice, advise
from chalkreel.core.measure.faults import Fault, RulerCheck, check_rulers, find_faults, repaired, residuals_px
from chalkreel.core.measure.ghosts import Ghost, ghosts, search_line
from chalkreel.core.measure.profile import FocalDoubt, focal_doubt, measured_with_profile
from chalkreel.core.measure.quantities import Across, Angle, Distance, Measured, Quantity
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.solver.spread import Spread
from chalkreel.core.measure.start.cold import GOOD_ENOUGH, Untied, solve_reel
from chalkreel.core.measure.start.estimate import Estimate
from chalkreel.core.scale_effects import DerivedRatio, derived_ratio
from chalkreel.document.entities import Dimension, KnownLength
from chalkreel.document.snapshot import Build

Progress = Callable[[float], bool]
Line = tuple[tuple[float, float], ...]
# A misfit so many times the last one is worth another search for a start.
WORSE = 1.3


@dataclass(frozen=True)
class ReelSize:
    """A dimension found from landmarks, with what it rests on; without `measured`, `problem` says why."""

    measured: Measured | None
    is_angle: bool
    rests_on: tuple[str, ...]
    problem: str


@dataclass(frozen=True)
class Effect:
    """What taking a fault's repair would do to the sizes: names with the change in mm, the largest first."""

    fault: Fault
    changes: tuple[tuple[str, float], ...]


@dataclass(frozen=True, eq=False)
class ReelAnswer:
    """All that follows from landmarks. Keys are those of `names`; without a solution, `problem` says why."""

    names: Names
    scene: Scene | None = None
    solution: Solution | None = None
    problem: str = ""
    sizes: Mapping[str, ReelSize] = field(default_factory=dict)
    ghosts: Mapping[str, tuple[Ghost, ...]] = field(default_factory=dict)
    lines: Mapping[str, Mapping[str, Line]] = field(default_factory=dict)
    residuals: Mapping[tuple[str, str], tuple[float, float]] = field(default_factory=dict)
    faults: tuple[Fault, ...] = ()
    effect: Effect | None = None
    rulers: tuple[RulerCheck, ...] = ()
    untied: tuple[Untied, ...] = ()
    unplaced: tuple[str, ...] = ()
    ratio: DerivedRatio | None = None
    doubt: FocalDoubt | None = None
    advice: tuple[str, tuple[Advice, ...]] = ("", ())


class ReelSolver:
    """Solves a build's reel again and again, each time from where it was."""

    def __init__(self) -> None:
        self._known: Estimate | None = None
        self._accepted = GOOD_ENOUGH

    def solve(self, build: Build, progress: Progress) -> ReelAnswer:
        """The answer for a build; never refuses, but says what is lacking."""
        names = names_of(build)
        dimensions = {d.id: q for d in build.all(Dimension) if (q := quantity_of(d, names)) is not None}
        try:
            scene = scene_of(build, names)
            if not scene.sightings:
                return ReelAnswer(names, problem="No landmark is marked yet.")
            solved = solve_reel(scene, self._known, progress, self._accepted)
        except RefusedError as refusal:
            waiting = {d: ReelSize(None, isinstance(q, Angle), (), str(refusal)) for d, q in dimensions.items()}
            return ReelAnswer(names, problem=str(refusal), sizes=waiting)
        self._known = solved.estimate
        self._accepted = max(GOOD_ENOUGH, WORSE * solved.misfit)
        solution = solved.solution
        spread = Spread(Equations(solution.layout), solution)
        sizes = _sizes(solution, spread, dimensions, progress)
        faults = find_faults(scene, solution, spread)
        checks = check_rulers(solution, spread)
        return ReelAnswer(
            names=names,
            scene=scene,
            solution=solution,
            sizes=sizes,
            ghosts=_ghosts(scene, solution, spread),
            lines=_lines(scene, solution, solved.unplaced),
            residuals={key: (float(x), float(y)) for key, (x, y) in residuals_px(solution).items()},
            faults=faults,
            effect=self._effect(scene, faults, dimensions, sizes, build, progress),
            rulers=checks,
            ratio=_ratio(build, names, checks),
            untied=solved.untied,
            unplaced=solved.unplaced,
            doubt=focal_doubt(solution, spread),
            advice=_advice(build, scene, solution, spread, dimensions, sizes),
        )

    def _effect(
        self, scene: Scene, faults: tuple[Fault, ...], dimensions: Mapping[str, Quantity],
        sizes: Mapping[str, ReelSize], build: Build, progress: Progress,
    ) -> Effect | None:  # fmt: skip
        """The worst fault's repair tried out."""
        if not faults:
            return None
        try:
            solved = solve_reel(repaired(scene, faults[0]), self._known, progress)
        except RefusedError:
            return None
        spread = Spread(Equations(solved.solution.layout), solved.solution)
        after = _sizes(solved.solution, spread, dimensions, progress)
        changes = []
        for dimension_id, size in sizes.items():
            there = after[dimension_id].measured
            if size.measured is not None and there is not None and not size.is_angle:
                dimension = build.get(Dimension, dimension_id)
                assert dimension is not None
                changes.append((dimension.name, there.value - size.measured.value))
        return Effect(faults[0], tuple(sorted(changes, key=lambda c: -abs(c[1]))))


def _ratio(build: Build, names: Names, checks: tuple[RulerCheck, ...]) -> DerivedRatio | None:
    """The scale between story and miniature, where both have rulers."""
    link = {names.keys[k.id]: k.link for k in build.all(KnownLength)}
    known = [(link[c.name], (c.miss, c.own_sigma)) for c in checks]
    story = tuple(pair for which, pair in known if which == "story")
    miniature = tuple(pair for which, pair in known if which == "miniature")
    return derived_ratio(story, miniature, build.chain.convert(1.0, "miniature", "story"))


def _sizes(
    solution: Solution, spread: Spread, dimensions: Mapping[str, Quantity], progress: Progress
) -> dict[str, ReelSize]:
    scaled = bool(solution.scene.rulers or solution.scene.gauges or "size" not in spread.loose)
    ready: dict[str, Quantity] = {}
    found: dict[str, ReelSize] = {}
    for dimension_id, quantity in dimensions.items():
        problem = _problem(quantity, solution, spread, scaled)
        if problem:
            found[dimension_id] = ReelSize(None, isinstance(quantity, Angle), (), problem)
        else:
            ready[dimension_id] = quantity
    try:
        measured = measured_with_profile(solution, spread, tuple(ready.values()), progress) if ready else ()
    except RefusedError as refusal:
        return found | {d: ReelSize(None, isinstance(q, Angle), (), str(refusal)) for d, q in ready.items()}
    for (dimension_id, quantity), value in zip(ready.items(), measured, strict=True):
        found[dimension_id] = ReelSize(value, isinstance(quantity, Angle), _rests_on(quantity, solution), "")
    return {d: found[d] for d in dimensions}


def _problem(quantity: Quantity, solution: Solution, spread: Spread, scaled: bool) -> str:
    layout = solution.layout
    if isinstance(quantity, Across):
        lost = [] if quantity.circle in layout.circles else [quantity.circle]
    else:
        ends = (quantity.a, quantity.b) if isinstance(quantity, Distance) else (quantity.a, quantity.corner, quantity.b)
        lost = [name for name in ends if name not in layout.seeds]
    if lost:
        return f"Mark “{lost[0]}” on a second still."
    if not scaled and not isinstance(quantity, Angle):
        return "Nothing gives the scale yet. Make one known length a ruler."
    along = quantity.along if isinstance(quantity, Distance) else None
    if along and any(f.startswith("turn") and f != f"turn {along}" for f in spread.loose):
        return f"Nothing says which way {along} runs: mark edges along it on a still."
    return ""


def _rests_on(quantity: Quantity, solution: Solution) -> tuple[str, ...]:
    """Stills, rulers and assumptions behind a size."""
    scene = solution.scene
    if isinstance(quantity, Across):
        views = sorted({r.view for r in scene.rims if r.circle == quantity.circle})
        used: set[str] = set()
    else:
        used = {quantity.a, quantity.b} | ({quantity.corner} if isinstance(quantity, Angle) else set())
        twins = {m.mirror for m in scene.landmarks if m.key in used and m.mirror}
        views = sorted({s.view for s in scene.sightings if s.landmark in used | twins})
        used |= twins
    words = [f"marked on stills {', '.join(view.removeprefix('still ') for view in views)}"]
    rulers = [r.name for r in scene.rulers] + [g.name for g in scene.gauges]
    if rulers:
        words.append(f"scale from {', '.join(rulers)}")
    if any(m.mirror for m in scene.landmarks if m.key in used):
        words.append("assumes that port and starboard are mirror images")
    if isinstance(quantity, Distance) and quantity.along:
        words.append(f"counts along the {quantity.along} only")
    if any(p.a in used or p.b in used for p in scene.parallels):
        words.append("assumes that edges between landmarks run true")
    words += [f"assumes that {f.name} is flat" for f in scene.flats if used & set(f.landmarks)]
    return tuple(words)


def _ghosts(scene: Scene, solution: Solution, spread: Spread) -> dict[str, tuple[Ghost, ...]]:
    made = {(s.view, s.landmark) for s in scene.sightings}
    found: dict[str, list[Ghost]] = {}
    for ghost in ghosts(solution, spread).ghosts:
        if (ghost.view, ghost.landmark) not in made:
            found.setdefault(ghost.view, []).append(ghost)
    return {view: tuple(mine) for view, mine in found.items()}


def _lines(scene: Scene, solution: Solution, unplaced: tuple[str, ...]) -> dict[str, dict[str, Line]]:
    found: dict[str, dict[str, Line]] = {}
    for view in solution.scene.views:
        mine = {name: line for name in unplaced if (line := search_line(solution, scene, view.key, name))}
        if mine:
            found[view.key] = mine
    return found


def _advice(
    build: Build, scene: Scene, solution: Solution, spread: Spread, dimensions: Mapping[str, Quantity],
    sizes: Mapping[str, ReelSize],
) -> tuple[str, tuple[Advice, ...]]:  # fmt: skip
    """For the relatively worst known size: what would help most."""
    shares = {d: s.measured.sigma / s.measured.value for d, s in sizes.items() if s.measured and not s.is_angle}
    if not shares:
        return "", ()
    worst = max(shares, key=lambda d: shares[d])
    dimension = build.get(Dimension, worst)
    assert dimension is not None
    return dimension.name, advise(scene, solution, spread, dimensions[worst])
