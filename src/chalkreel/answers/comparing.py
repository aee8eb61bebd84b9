"""Is the replica right? What its photographs say is out of true, and what became of it from one stage to the next."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from chalkreel.answers.assemblies import Group, groups_of
from chalkreel.answers.faces import Faces
from chalkreel.answers.photographs import Laid, Photographs, Subject, subject_of
from chalkreel.answers.pose import stand_words
from chalkreel.answers.reel import ReelAnswer
from chalkreel.answers.sizes import Sizes
from chalkreel.core.arrays import Array
from chalkreel.core.bench.deviations import Deviation, Doubt, Judged
from chalkreel.core.bench.ways import SHIFTS, Way
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.verdict import CALLIPER_SIGMA_MM
from chalkreel.document.bench_entities import FindingDecision, ReplicaPhoto, ReplicaReading
from chalkreel.document.entities import Landmark, LandmarkMark, Still
from chalkreel.document.snapshot import Build

State = Literal["new", "same", "worse", "better", "fixed", "not seen", "accepted", "missing", "click", "perhaps"]
SIGMAS = 1.96
# A photograph from so much farther round tells apart what one cannot.
ROUND_DEG = 35.0


@dataclass(frozen=True)
class Amount:
    """A way out of true, in mm of the replica with half its 95 % interval."""

    way: Way
    mm: float
    half_mm: float


@dataclass(frozen=True)
class Finding:
    """An assembly, or one side of it, that is or was out of true; the likeliest way first.

    `was_mm` is what it was at the stage before; one that is fixed is now `within_mm` (95 %) of its place in that way.
    With `click` one landmark alone is off; "perhaps" is too little to be sure of and too much to be called right.
    """

    group: Group
    state: State
    amounts: tuple[Amount, ...] = ()
    was_mm: float | None = None
    within_mm: float | None = None
    photo_ids: tuple[str, ...] = ()
    click: str = ""
    decision: FindingDecision | None = None

    @property
    def is_open(self) -> bool:
        """Whether something is still to be done about it."""
        return self.state not in ("fixed", "accepted")


@dataclass(frozen=True)
class Whole:
    """The whole replica: `percent` longer (or wider …) than its other measures say, with half its 95 % interval."""

    way: Way
    percent: float
    half: float


@dataclass(frozen=True)
class Scale:
    """How large the replica is for its drawing, in % with half the 95 % interval, from calliper readings."""

    percent: float
    half: float
    dimension_ids: tuple[str, ...]


@dataclass(frozen=True)
class StageVerdict:
    """What the photographs of one stage of the build say, with what has become of findings of the stage before.

    `within_mm` is how far, at most (95 %), what is not named lies from its place along the axis seen best, `unseen_mm`
    along the direction seen worst; `untested` are assemblies that have no clicks. Without anything told, `problem` says
    why.
    """

    name: str = ""
    findings: tuple[Finding, ...] = ()
    wholes: tuple[Whole, ...] = ()
    within_mm: float | None = None
    unseen_mm: float | None = None
    tested: tuple[str, ...] = ()
    untested: tuple[str, ...] = ()
    problem: str = ""

    @property
    def open(self) -> tuple[Finding, ...]:
        """What is still to be done, the most urgent first."""
        return tuple(f for f in self.findings if f.is_open)


@dataclass(frozen=True, eq=False)
class Comparing:
    """All photographs laid, and what each stage says, in order of time.

    `leaning` says that nobody told what is level: fore and aft, up and down are then only roughly meant.
    """

    laid: Mapping[str, Laid] = field(default_factory=dict)
    stages: tuple[StageVerdict, ...] = ()
    groups: tuple[Group, ...] = ()
    scale: Scale | None = None
    problem: str = ""
    subject: Subject | None = None
    leaning: bool = False

    @property
    def last(self) -> StageVerdict:
        """The stage reached."""
        return self.stages[-1] if self.stages else StageVerdict(problem=self.problem)

    def stage(self, name: str) -> StageVerdict:
        """A stage by what its photographs call it."""
        wanted = _folded(name)
        return next((s for s in self.stages if _folded(s.name) == wanted), self.last)


def comparing(build: Build, sizes: Sizes, faces: Faces, photographs: Photographs) -> Comparing:
    """Lay every photograph, judge each stage, and follow findings from stage to stage."""
    photos = sorted(build.all(ReplicaPhoto), key=lambda p: (p.taken_at, p.number))
    if not photos:
        return Comparing()
    subject = subject_of(build, sizes.reel, faces)
    if subject is None:
        return Comparing(problem="The stills are not solved yet: the replica is compared with what they say.")
    laid = {photo.id: photographs.laid(build, subject, photo) for photo in photos}
    scale = _scale(build, sizes)
    port = frozenset(k for k, p in zip(subject.places.keys, subject.places.points, strict=True) if p[1] > 0)
    groups = groups_of(build, port)
    ratio = build.chain.convert(1.0, "miniature", "replica") * (1.0 + (scale.percent / 100 if scale else 0.0))
    by_name: dict[str, list[ReplicaPhoto]] = {}
    for photo in photos:
        by_name.setdefault(_folded(photo.stage), []).append(photo)
    stages: list[StageVerdict] = []
    found: dict[str, Finding] = {}
    # A stage is where its last photograph is: one may come back to it.
    for taken in sorted(by_name.values(), key=lambda own: own[-1].taken_at):
        try:
            now = _judged(build, subject, groups, taken, laid, photographs)
        except RefusedError as refusal:
            stages.append(
                StageVerdict(taken[-1].stage, tuple(_decided(build, f) for f in found.values()), problem=str(refusal))
            )
            continue
        found = _followed(found, now, groups, taken, ratio)
        stages.append(_stage(build, taken[-1], now, found, groups, ratio))
    return Comparing(laid, tuple(stages), groups, scale, subject=subject, leaning=bool(sizes.reel.leaning))


def _stage(
    build: Build,
    photo: ReplicaPhoto,
    now: Judged,
    found: Mapping[str, Finding],
    groups: tuple[Group, ...],
    ratio: float,
) -> StageVerdict:
    decided = (_decided(build, finding) for finding in found.values())
    return StageVerdict(
        photo.stage,
        tuple(sorted(decided, key=_urgency)),
        tuple(Whole(s.way, s.percent, SIGMAS * s.sigma) for s in now.stretches),
        ratio * max(map(_within, now.true.values())) if now.true else None,
        ratio * max(now.unseen.values()) if now.unseen else None,
        _tested(groups, tuple(now.true), found),
        _untested(groups, now, photo),
    )


def _folded(name: str) -> str:
    return name.strip().casefold()


def next_photograph(build: Build, reel: ReelAnswer, finding: Finding, laid: Mapping[str, Laid]) -> str:
    """From where a photograph would tell the ways of a finding apart: like a still that shows it, well round."""
    solution = reel.solution
    seen = [laid[i].camera for i in finding.photo_ids if i in laid]
    if solution is None or not seen or seen[0] is None or len({_axis(a.way) for a in finding.amounts}) < 2:
        return ""
    middle = np.median(solution.points, axis=0)
    here = _unit(seen[0].position - middle)
    marked = {(m.still_id, m.landmark_id) for m in build.all(LandmarkMark)}
    best: tuple[float, Still] | None = None
    for still in build.all(Still):
        if still.id not in solution.layout.views or still.still_kind == "plan":
            continue
        if sum((still.id, i) in marked for i in finding.group.landmark_ids) < 2:
            continue
        angle = math.degrees(
            math.acos(float(np.clip(here @ _unit(solution.camera(still.id).position - middle), -1, 1)))
        )
        if angle > ROUND_DEG and (best is None or abs(angle - 80) < abs(best[0] - 80)):
            best = angle, still
    if best is None:
        return f"A photograph from about 60° farther round tells which: it must show {finding.group.name}."
    words = stand_words(build, reel, solution.camera(best[1].id), middle, None)
    where = words.removeprefix("To photograph the replica like this, ").rstrip(".")
    return f"Photograph it like still {best[1].number} to tell which" + (f": {where}." if where else ".")


def _axis(way: Way) -> str:
    axes = {"forward": "x", "longer": "x", "longer forward": "x", "longer aft": "x", "leaning forward": "x",
            "to port": "y", "wider": "y", "leaning to port": "y", "up": "z", "taller": "z"}  # fmt: skip
    return axes.get(way, "all")


def _unit(way: Array) -> Array:
    return np.asarray(way / np.linalg.norm(way))


def _scale(build: Build, sizes: Sizes) -> Scale | None:
    """The weighted mean of calliper readings over what is wanted; nothing without a reading of a known size."""
    known = {row.dimension_id: row.replica for row in sizes.rows if row.replica is not None}
    off, weights, ids = [], [], []
    for reading in build.all(ReplicaReading):
        wanted = known.get(reading.dimension_id)
        if wanted is None or wanted.mm <= 0:
            continue
        sigma = math.hypot(CALLIPER_SIGMA_MM, wanted.sigma_mm) / wanted.mm
        off.append(reading.length_mm / wanted.mm - 1.0)
        weights.append(1.0 / sigma**2)
        ids.append(reading.dimension_id)
    if not off:
        return None
    mean = float(np.average(off, weights=weights))
    return Scale(100 * mean, 100 * SIGMAS / math.sqrt(sum(weights)), tuple(ids))


def _judged(
    build: Build,
    subject: Subject,
    groups: tuple[Group, ...],
    photos: list[ReplicaPhoto],
    laid: Mapping[str, Laid],
    photographs: Photographs,
) -> Judged:
    """What the photographs of one stage say together.

    Raises
    ------
    RefusedError
        None of them is laid by clicks.
    """
    clicked = [p for p in photos if laid[p.id].how.startswith("clicks") and not laid[p.id].other_side]
    if not clicked:
        said = (laid[photo.id].problem for photo in photos if laid[photo.id].problem)
        raise RefusedError(next(said, "Click landmarks on the photograph: then what is out of true can be told."))
    gone = {name for photo in photos for name in photo.not_built}
    members = {group.key: group.landmark_ids for group in groups if not {group.name, group.called} & gone}
    return photographs.judged(build, subject, clicked, members)


def _followed(
    before: Mapping[str, Finding], now: Judged, groups: tuple[Group, ...], photos: list[ReplicaPhoto], factor: float
) -> dict[str, Finding]:
    """Findings of a stage, with what has become of those of the stage before."""
    by_key = {group.key: group for group in groups}
    ids = tuple(photo.id for photo in photos)
    found: dict[str, Finding] = {}
    for deviation in now.deviations:
        key = deviation.assembly
        found[key] = _told(by_key[key], deviation, _like(before, by_key[key]), factor, ids)
    for name in dict.fromkeys(name for photo in photos for name in photo.missing):
        group = next((g for g in groups if g.called == name), Group(name, "", ()))
        found[group.key] = Finding(group, "missing", photo_ids=ids)
    for key, old in before.items():
        if key in found or old.click or any(_same(old.group, f.group) for f in found.values()):
            continue
        if old.state != "perhaps":
            found[key] = _since(old, now, factor)
    for doubtful in now.perhaps:
        group = by_key[doubtful.assembly]
        if not any(_same(group, f.group) for f in found.values()):
            found[group.key] = replace(_told(group, doubtful, None, factor, ids), state="perhaps")
    return found


def _told(group: Group, deviation: Deviation, old: Finding | None, factor: float, ids: tuple[str, ...]) -> Finding:
    amounts = tuple(Amount(d.way, factor * d.mm, SIGMAS * factor * d.sigma_mm) for d in deviation.doubts)
    state: State = "click" if deviation.click else "new"
    was = _size(old) if old is not None else None
    if was is not None and amounts and not deviation.click:
        change = abs(amounts[0].mm) - abs(was)
        doubt = math.hypot(amounts[0].half_mm, old.amounts[0].half_mm if old is not None and old.amounts else 0.0)
        state = "same" if abs(change) <= doubt else "worse" if change > 0 else "better"
    return Finding(group, state, amounts, was, photo_ids=ids, click=deviation.click)


def _like(before: Mapping[str, Finding], group: Group) -> Finding | None:
    return next((f for f in before.values() if _same(f.group, group)), None)


def _same(one: Group, other: Group) -> bool:
    return one.name == other.name and (one.side == other.side or not one.side or not other.side)


def _size(finding: Finding) -> float | None:
    return finding.amounts[0].mm if finding.amounts and finding.state != "missing" else None


def _since(old: Finding, now: Judged, factor: float) -> Finding:
    """What has become of a finding that is none now: fixed where it cannot be as far off in the way it was."""
    seen = now.true.get(old.group.key) or now.true.get(f"{old.group.name}|") or ()
    was = _size(old)
    if was is None:
        # What was missing is there when it is clicked on.
        return replace(old, state="fixed" if seen else "not seen", was_mm=None)
    limits = [factor * (abs(d.mm) + SIGMAS * d.sigma_mm) for d in seen if d.way == old.amounts[0].way]
    fixed = bool(limits) and limits[0] < abs(was)
    return replace(old, state="fixed" if fixed else "not seen", was_mm=was, within_mm=limits[0] if fixed else None)


def _within(ways: tuple[Doubt, ...]) -> float:
    """How far (95 %) an assembly may be from its place along the axis that is seen best."""
    return min(abs(d.mm) + SIGMAS * d.sigma_mm for d in ways if d.way in SHIFTS)


def _decided(build: Build, finding: Finding) -> Finding:
    """With what was decided about it; what was accepted comes back when it has grown."""
    own = (finding.group.name, finding.group.side)
    decision = next((d for d in build.all(FindingDecision) if (d.assembly, d.side) == own), None)
    if decision is None:
        return finding
    grown = bool(finding.amounts) and abs(finding.amounts[0].mm) > abs(decision.mm) + finding.amounts[0].half_mm
    if decision.decision == "accepted" and finding.is_open and not grown:
        return replace(finding, decision=decision, state="accepted")
    return replace(finding, decision=decision)


def _urgency(finding: Finding) -> tuple[int, float]:
    order = ("missing", "worse", "new", "same", "better", "click", "perhaps", "not seen", "accepted", "fixed")
    return order.index(finding.state), -abs(finding.amounts[0].mm) if finding.amounts else 0.0


def _tested(groups: tuple[Group, ...], keys: tuple[str, ...], found: Mapping[str, Finding]) -> tuple[str, ...]:
    """What was judged and not named; of an assembly with one side named, or missing, the other side."""
    named = {f.group.name for f in found.values() if f.state not in ("fixed", "not seen")}
    own = (g for g in groups if g.key in keys and bool(g.side) == (g.name in named))
    return tuple(dict.fromkeys(g.called for g in own))


def _untested(groups: tuple[Group, ...], now: Judged, photo: ReplicaPhoto) -> tuple[str, ...]:
    seen = {key.rpartition("|")[0] for key in (*now.true, *(d.assembly for d in now.deviations))}
    gone = {*photo.not_built, *photo.missing}
    return tuple(dict.fromkeys(g.name for g in groups if not g.side and g.name not in seen | gone))


def landmark_name(build: Build, landmark_id: str) -> str:
    """What a landmark is called."""
    landmark = build.get(Landmark, landmark_id)
    return landmark.name if landmark is not None else "a landmark"
