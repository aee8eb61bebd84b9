"""The whole reel solved: cameras, landmarks, ghosts, faults, and every size that hangs on landmarks.

Everything is told apart by entity ids; `wording` says it to people.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from chalkreel.answers.scene_of import quantity_of, scene_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.advice import Advice, advise
from chalkreel.core.measure.axis import AXES, Axis
from chalkreel.core.measure.faults.fault import Fault, repaired
from chalkreel.core.measure.faults.find import find_faults
from chalkreel.core.measure.faults.marks import residuals_px
from chalkreel.core.measure.faults.rulers import RulerCheck, check_rulers, widened_by_rulers
from chalkreel.core.measure.ghosts import Ghost, ghosts, line_between, search_line
from chalkreel.core.measure.profile import FocalDoubt, focal_doubt, measured_with_profile
from chalkreel.core.measure.quantities import (
    Across,
    Angle,
    Distance,
    Measured,
    Quantity,
    direction_open,
    in_one_place,
    measure,
)
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.solver.spread import Spread
from chalkreel.core.measure.start.cold import Solved, Start, Untied, resolved, solve_reel
from chalkreel.document.entities import Dimension
from chalkreel.document.snapshot import Build

Progress = Callable[[float], bool]
Line = tuple[tuple[float, float], ...]
# A size known no better (1 σ) than this share of itself is not known: twice as long would not surprise.
UNDETERMINED = 0.5


@dataclass(frozen=True)
class ReelInputs:
    """All that the solving depends on: not names, notes or trust, which may change without it."""

    scene: Scene
    quantities: tuple[tuple[str, Quantity], ...]


@dataclass(frozen=True)
class Lack:
    """Why a size is not known: `key` is the landmark or circle concerned, `words` the core's own refusal."""

    kind: Literal["second still", "scale", "direction", "one place", "undetermined", "ends", "ruler", "refused"]
    key: str = ""
    along: Axis | None = None
    words: str = ""


@dataclass(frozen=True)
class Basis:
    """What a size rests on: stills it is marked on, rulers, planes of single stills, and what it assumes.

    `widened` says how many times more the single stills disagree than their errors allow, 1 where they do not.
    """

    views: tuple[str, ...] = ()
    rulers: tuple[str, ...] = ()
    mirrored: bool = False
    along: Axis | None = None
    true_edges: bool = False
    flats: tuple[str, ...] = ()
    planes: tuple[tuple[str, str], ...] = ()
    widened: float = 1.0


@dataclass(frozen=True)
class ReelSize:
    """A dimension found from landmarks, with what it rests on; without `measured`, `lack` says why."""

    measured: Measured | None
    is_angle: bool
    basis: Basis = Basis()
    lack: Lack | None = None


@dataclass(frozen=True)
class Effect:
    """What taking a fault's repair would do to the sizes: dimension ids with the change in mm, the largest first."""

    fault: Fault
    changes: tuple[tuple[str, float], ...]


@dataclass(frozen=True, eq=False)
class ReelAnswer:
    """All that follows from landmarks. Without a solution, `problem` says why.

    Where landmarks must be on a still is worked out when that still is shown: a large reel has tens of thousands.
    """

    scene: Scene | None = None
    solution: Solution | None = None
    spread: Spread | None = None
    problem: str = ""
    sizes: Mapping[str, ReelSize] = field(default_factory=dict)
    residuals: Mapping[tuple[str, str], tuple[float, float]] = field(default_factory=dict)
    faults: tuple[Fault, ...] = ()
    effect: Effect | None = None
    rulers: tuple[RulerCheck, ...] = ()
    untied: tuple[Untied, ...] = ()
    unplaced: tuple[str, ...] = ()
    doubt: FocalDoubt | None = None
    advice: tuple[str, tuple[Advice, ...]] = ("", ())
    start: Start | None = None
    _ghosts: dict[str, tuple[Ghost, ...]] = field(default_factory=dict, repr=False)
    _lines: dict[str, dict[str, Line]] = field(default_factory=dict, repr=False)

    @property
    def leaning(self) -> bool:
        """Whether nothing says how the subject's length and height lie: it lies as the cameras were held."""
        return self.spread is not None and any(f"turn {axis}" in self.spread.loose for axis in AXES)

    def ghosts_on(self, view: str) -> tuple[Ghost, ...]:
        """Landmarks that are not marked on a view yet, where they must be."""
        if self.scene is None or self.solution is None or self.spread is None:
            return ()
        if view not in self._ghosts:
            made = {s.landmark for s in self.scene.sightings if s.view == view}
            found = ghosts(self.solution, self.spread, view)
            self._ghosts[view] = tuple(g for g in found if g.landmark not in made)
        return self._ghosts[view]

    def lines_on(self, view: str) -> Mapping[str, Line]:
        """Along which lines of a view landmarks must lie that one other view shows."""
        if self.scene is None or self.solution is None or view not in self.solution.layout.views:
            return {}
        if view not in self._lines:
            tried = ((name, search_line(self.solution, self.scene, view, name)) for name in self.unplaced)
            self._lines[view] = {name: line for name, line in tried if line}
        return self._lines[view]

    def line_between(self, other: str, place_px: tuple[float, float], view: str) -> Line:
        """Along what a place on one view is seen on another; nothing where one of them is not solved."""
        if self.solution is None or not {other, view} <= set(self.solution.layout.views):
            return ()
        return line_between(self.solution, other, place_px, view)


def reel_inputs(build: Build) -> ReelInputs:
    """The marks and the wanted sizes of a build.

    Raises
    ------
    RefusedError
        A ruler of no length.
    """
    return ReelInputs(scene_of(build), tuple((d.id, q) for d in build.all(Dimension) if (q := quantity_of(d))))


def next_starts(starts: tuple[Start, ...], answer: ReelAnswer) -> tuple[Start, ...]:
    """Where the next solving may begin: the last start that fitted well, then the last one at all."""
    if answer.start is None:
        return starts
    if answer.start.sound:
        return (answer.start,)
    return (*(s for s in starts if s.sound), answer.start)


def solved_reel(inputs: ReelInputs, starts: tuple[Start, ...], progress: Progress) -> ReelAnswer:
    """The answer for what was marked; says what is lacking instead of refusing.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    dimensions = dict(inputs.quantities)
    if not inputs.scene.sightings:
        return ReelAnswer(problem="No landmark is marked yet.")
    try:
        solved = solve_reel(inputs.scene, starts, progress)
    except RefusedError as refusal:
        lack = Lack("refused", words=str(refusal))
        waiting = {d: ReelSize(None, isinstance(q, Angle), lack=lack) for d, q in dimensions.items()}
        return ReelAnswer(problem=str(refusal), sizes=waiting)
    return _answer(inputs.scene, solved, dimensions, progress)


def _answer(scene: Scene, solved: Solved, dimensions: Mapping[str, Quantity], progress: Progress) -> ReelAnswer:
    solution = solved.solution
    spread = Spread(Equations(solution.layout), solution)
    sizes = _sizes(solution, spread, dimensions, progress)
    faults = find_faults(scene, solution, spread, progress)
    return ReelAnswer(
        scene=scene,
        solution=solution,
        sizes=sizes,
        spread=spread,
        residuals={key: (float(x), float(y)) for key, (x, y) in residuals_px(solution).items()},
        faults=faults,
        effect=_effect(scene, solved, faults, dimensions, sizes, progress),
        rulers=check_rulers(solution, spread),
        untied=solved.untied,
        unplaced=solved.unplaced,
        doubt=focal_doubt(solution, spread),
        advice=_advice(scene, solution, spread, dimensions, sizes),
        start=solved.start,
    )


def _effect(
    scene: Scene, solved: Solved, faults: tuple[Fault, ...], dimensions: Mapping[str, Quantity],
    sizes: Mapping[str, ReelSize], progress: Progress,
) -> Effect | None:  # fmt: skip
    """The worst fault's repair tried out, from where the solution stands."""
    if not faults or faults[0].kind == "rulers":
        return None
    mended = resolved(repaired(scene, faults[0]), solved.start.estimate, progress)
    if mended is None:
        return None
    known = {d: s.measured.value for d, s in sizes.items() if s.measured is not None and not s.is_angle}
    spread = Spread(Equations(mended.layout), mended)
    ready = [d for d in known if _lack(dimensions[d], mended, spread, scaled=True) is None]
    after = measure(mended, spread, tuple(dimensions[d] for d in ready)) if ready else ()
    changes = [(d, there.value - known[d]) for d, there in zip(ready, after, strict=True)]
    return Effect(faults[0], tuple(sorted(changes, key=lambda c: -abs(c[1]))))


def _sizes(
    solution: Solution, spread: Spread, dimensions: Mapping[str, Quantity], progress: Progress
) -> dict[str, ReelSize]:
    scaled = bool(solution.scene.rulers or solution.scene.gauges or "size" not in spread.loose)
    ready: dict[str, Quantity] = {}
    found: dict[str, ReelSize] = {}
    for dimension_id, quantity in dimensions.items():
        lack = _lack(quantity, solution, spread, scaled)
        if lack is not None:
            found[dimension_id] = ReelSize(None, isinstance(quantity, Angle), lack=lack)
        else:
            ready[dimension_id] = quantity
    measured = measured_with_profile(solution, spread, tuple(ready.values()), progress) if ready else ()
    widened = widened_by_rulers(solution, spread)
    for (dimension_id, quantity), value in zip(ready.items(), measured, strict=True):
        is_angle = isinstance(quantity, Angle)
        if not is_angle and value.sigma > UNDETERMINED * value.value:
            found[dimension_id] = ReelSize(None, is_angle, lack=Lack("undetermined"))
            continue
        found[dimension_id] = ReelSize(widened(quantity, value), is_angle, _basis(quantity, solution))
    return {d: found[d] for d in dimensions}


def _lack(quantity: Quantity, solution: Solution, spread: Spread, scaled: bool) -> Lack | None:
    layout = solution.layout
    if isinstance(quantity, Across):
        lost = [] if quantity.circle in layout.circles else [quantity.circle]
    else:
        ends = (quantity.a, quantity.b) if isinstance(quantity, Distance) else (quantity.a, quantity.corner, quantity.b)
        lost = [key for key in ends if key not in layout.blocks]
    if lost:
        return Lack("second still", lost[0])
    if not scaled and not isinstance(quantity, Angle):
        return Lack("scale")
    if direction_open(quantity, spread):
        return Lack("direction", along=quantity.along if isinstance(quantity, Distance) else None)
    return Lack("one place") if in_one_place(solution, quantity) else None


def _basis(quantity: Quantity, solution: Solution) -> Basis:
    """Stills, rulers and assumptions behind a size."""
    scene = solution.scene
    if isinstance(quantity, Across):
        used: set[str] = set()
        views = {r.view for r in scene.rims if r.circle == quantity.circle}
    else:
        used = {quantity.a, quantity.b} | ({quantity.corner} if isinstance(quantity, Angle) else set())
        used |= {m.mirror for m in scene.landmarks if m.key in used and m.mirror}
        views = {s.view for s in scene.sightings if s.landmark in used}
    return Basis(
        views=tuple(v.key for v in scene.views if v.key in views),
        rulers=(*(r.key for r in scene.rulers), *(g.key for g in scene.gauges)),
        mirrored=any(m.mirror for m in scene.landmarks if m.key in used),
        along=quantity.along if isinstance(quantity, Distance) else None,
        true_edges=any(p.a in used or p.b in used for p in scene.parallels),
        flats=tuple(f.key for f in scene.flats if used & set(f.landmarks)),
    )


def _advice(
    scene: Scene, solution: Solution, spread: Spread, dimensions: Mapping[str, Quantity], sizes: Mapping[str, ReelSize]
) -> tuple[str, tuple[Advice, ...]]:
    """For the relatively worst known size, by its id: what would help most."""
    shares = {d: s.measured.sigma / s.measured.value for d, s in sizes.items() if s.measured and not s.is_angle}
    if not shares:
        return "", ()
    worst = max(shares, key=lambda d: shares[d])
    return worst, advise(scene, solution, spread, dimensions[worst])
