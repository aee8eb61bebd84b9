"""Every dimension on every link of the scale chain, from the readings on the stills."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from chalkreel.answers.reel import Basis, Lack, ReelAnswer, ReelSize
from chalkreel.answers.scene_of import bend_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.measure.combine import Size, combine_sizes
from chalkreel.core.measure.marks import Mark, Segment
from chalkreel.core.measure.plane import (
    PlaneRuler,
    PlaneSizes,
    RulerAgreement,
    SquaredUp,
    SquareOn,
    measure_plane,
)
from chalkreel.core.measure.verdict import Action, Verdict, judge_part
from chalkreel.core.scale import Fit, ScaleChain, fit_in_space
from chalkreel.core.scale_effects import DerivedRatio, derived_ratio
from chalkreel.document.entities import Dimension, KitPart, KnownLength, Plane, Reading, RulerMark, Still, StraightEdge
from chalkreel.document.snapshot import Build

# Focal length guessed for a still that is taken as square on: 1.6 times its longer side.
USUAL_FOCAL = 1.6
# How surely the scale of a squared-up still is known, as a share.
SQUARED_SHARE = 0.006


@dataclass(frozen=True)
class AngleSize:
    """An angle with its 1 σ, in degrees."""

    degrees: float
    sigma_deg: float

    @property
    def half_width_deg(self) -> float:
        """Half the 95 % interval."""
        return NORMAL_95 * self.sigma_deg


@dataclass(frozen=True)
class SizeRow:
    """One dimension. Sizes are None with the reason in `lack` while nothing determines them.

    An angle has no sizes but `angle`.
    """

    dimension_id: str
    miniature: Size | None
    replica: Size | None
    story: Size | None
    verdict: Verdict
    basis: Basis
    clicks_share: float
    rulers_share: float
    lack: Lack | None = None
    angle: AngleSize | None = None


@dataclass(frozen=True)
class PlaneRow:
    """One plane of one still (square on where no plane is named): its rulers' agreement, each reading's size on the
    miniature."""

    still_id: str
    plane_id: str
    agreement: tuple[RulerAgreement, ...]
    readings: dict[str, Size]
    problem: str


@dataclass(frozen=True)
class Sizes:
    """All dimensions and planes, and whether the replica fits the space given."""

    rows: tuple[SizeRow, ...]
    planes: tuple[PlaneRow, ...]
    fit: Fit | None
    reel: ReelAnswer
    ratio: DerivedRatio | None = None

    def largest_doubt(self) -> SizeRow | None:
        """The size with the largest relative error."""
        known = [row for row in self.rows if row.replica is not None]
        return max(known, key=lambda row: _relative(row.replica), default=None)


def _relative(size: Size | None) -> float:
    return size.sigma_mm / size.mm if size else 0.0


INPUTS = (StraightEdge, Plane, RulerMark, Dimension, Reading, KitPart, KnownLength)


def sizes(build: Build, reel: ReelAnswer) -> Sizes:
    """Every dimension: from the solved reel where it hangs on landmarks, else from readings in single planes."""
    planes, shares = [], {}
    for still in build.all(Still):
        ids = {r.plane_id for r in build.all(RulerMark) if r.still_id == still.id}
        ids |= {r.plane_id for r in build.all(Reading) if r.still_id == still.id}
        ids |= {plane.id for plane in build.all(Plane) if plane.still_id == still.id}
        for plane_id in sorted(ids):
            row, found = _measure(build, still, plane_id)
            planes.append(row)
            shares.update(found)
    rows = tuple(_row(build, dimension, planes, shares, reel) for dimension in build.all(Dimension))
    info = build.info
    fit = fit_in_space(build.chain, info.space_mm) if info.space_mm else None
    return Sizes(rows, tuple(planes), fit, reel, _ratio(build, reel))


def _ratio(build: Build, reel: ReelAnswer) -> DerivedRatio | None:
    """The scale between story and miniature, where both have rulers."""
    link = {k.id: k.link for k in build.all(KnownLength)}
    known = [(link[c.key], (c.residual, c.own_sigma)) for c in reel.rulers if math.isfinite(c.residual)]
    story = tuple(pair for which, pair in known if which == "story")
    miniature = tuple(pair for which, pair in known if which == "miniature")
    return derived_ratio(story, miniature, build.chain.convert(1.0, "miniature", "story"))


def _measure(build: Build, still: Still, plane_id: str) -> tuple[PlaneRow, dict[str, tuple[float, float]]]:
    readings = [r for r in build.all(Reading) if r.still_id == still.id and r.plane_id == plane_id]
    plane = build.get(Plane, plane_id)
    bend = bend_of(build, still)

    def undistorted(mark: Mark) -> Mark:
        return bend.straightened(mark, (still.width_px, still.height_px), still.pixel_aspect) if bend else mark

    known = tuple(_ruler(r, build.chain, undistorted) for r in rulers_on(build, still.id, plane_id))
    try:
        found = measure_plane(
            _view(still, plane, build.chain, undistorted),
            (*known, *_own_scale(still, plane_id)),
            tuple(Segment(undistorted(r.a), undistorted(r.b)) for r in readings),
            still.pixel_aspect,
        )
    except RefusedError as refusal:
        return PlaneRow(still.id, plane_id, (), {}, str(refusal)), {}
    by_reading = {r.id: Size(*pair) for r, pair in zip(readings, _pairs(found), strict=True)}
    shares = {r.id: (float(ratio), found.scale_sigma) for r, ratio in zip(readings, found.ratio_sigma, strict=True)}
    return PlaneRow(still.id, plane_id, found.agreement, by_reading, ""), shares


def _pairs(found: PlaneSizes) -> list[tuple[float, float]]:
    return [(float(mm), float(sigma)) for mm, sigma in zip(found.lengths_mm, found.sigma_mm, strict=True)]


def _own_scale(still: Still, plane_id: str) -> tuple[PlaneRuler, ...]:
    """A squared-up still is its own ruler."""
    if still.squared is None or plane_id:
        return ()
    width = still.width_px * still.squared.mm_per_px
    across = Segment(Mark(0.0, 0.0, 0.01), Mark(still.width_px, 0.0, 0.01))
    return (PlaneRuler("scale of the squared-up still", across, width, SQUARED_SHARE * width),)


def rulers_on(build: Build, still_id: str, plane_id: str) -> tuple[RulerMark, ...]:
    """The rulers in one plane of one still."""
    return tuple(r for r in build.all(RulerMark) if r.still_id == still_id and r.plane_id == plane_id)


def _ruler(mark: RulerMark, chain: ScaleChain, undistorted: Callable[[Mark], Mark]) -> PlaneRuler:
    factor = chain.convert(1.0, mark.link, "miniature")
    return PlaneRuler(
        mark.name, Segment(undistorted(mark.a), undistorted(mark.b)), mark.length_mm * factor, mark.sigma_mm * factor
    )


def _view(
    still: Still, plane: Plane | None, chain: ScaleChain, undistorted: Callable[[Mark], Mark]
) -> SquareOn | SquaredUp:
    if plane is None:
        focal = USUAL_FOCAL * max(still.width_px * still.pixel_aspect, still.height_px)
        return SquareOn(still.tilt_sigma_deg, focal, (still.width_px / 2, still.height_px / 2))
    a, b, c, d = (undistorted(corner) for corner in plane.corners)
    if plane.height_mm is None:
        return SquaredUp((a, b, c, d), plane.width_mm, plane.width_sigma_mm)
    factor = chain.convert(1.0, plane.link, "miniature")
    return SquaredUp(
        (a, b, c, d), plane.width_mm * factor, plane.width_sigma_mm * factor,
        plane.height_mm * factor, plane.height_sigma_mm * factor,
    )  # fmt: skip


def _row(
    build: Build, dimension: Dimension, planes: list[PlaneRow], shares: dict[str, tuple[float, float]], reel: ReelAnswer
) -> SizeRow:
    solved = reel.sizes.get(dimension.id)
    if solved is not None:
        return _solved_row(build, dimension, solved)
    return _plane_row(build, dimension, planes, shares)


def _solved_row(build: Build, dimension: Dimension, solved: ReelSize) -> SizeRow:
    part = build.get(KitPart, dimension.part_id)
    missing = part is not None and part.state == "missing"
    found = solved.measured
    if found is None or solved.is_angle:
        action: Action = "make new" if missing else "unsure"
        words = "missing: make new" if missing else "" if found else "not measured"
        angle = AngleSize(found.value, found.sigma) if found else None
        return SizeRow(dimension.id, None, None, None, Verdict(action, None, words), solved.basis, 0, 0,
                       solved.lack, angle)  # fmt: skip
    size = Size(found.value, found.sigma)
    return _sized_row(build, dimension, size, solved.basis, (found.ratio_sigma, found.scale_sigma))


def _sized_row(build: Build, dimension: Dimension, size: Size, basis: Basis, shares: tuple[float, float]) -> SizeRow:
    part = build.get(KitPart, dimension.part_id)
    chain = build.chain
    replica = size.scaled(chain.convert(1.0, "miniature", "replica"))
    verdict = Verdict("unsure", None, "")
    if part is not None:
        verdict = judge_part(replica, part.calliper_mm, part.state == "missing", build.info.unit)
    return SizeRow(
        dimension.id, size, replica, size.scaled(chain.convert(1.0, "miniature", "story")), verdict, basis, *shares,
    )  # fmt: skip


def _plane_row(
    build: Build, dimension: Dimension, planes: list[PlaneRow], shares: dict[str, tuple[float, float]]
) -> SizeRow:
    part = build.get(KitPart, dimension.part_id)
    readings = [r.id for r in build.all(Reading) if r.dimension_id == dimension.id]
    found = [(plane, i) for plane in planes for i in readings if i in plane.readings]
    missing = part is not None and part.state == "missing"
    if not found:
        verdict = Verdict("make new" if missing else "unsure", None, "missing: make new" if missing else "not measured")
        lack = _why_unknown(build, dimension, planes)
        return SizeRow(dimension.id, None, None, None, verdict, Basis(), 0, 0, lack)
    size, birge = combine_sizes(tuple(plane.readings[i] for plane, i in found))
    places = tuple(dict.fromkeys((plane.still_id, plane.plane_id) for plane, _ in found))
    basis = Basis(planes=places, widened=max(1.0, birge))
    least = min(shares[i][0] for _, i in found), min(shares[i][1] for _, i in found)
    return _sized_row(build, dimension, size, basis, least)


def _why_unknown(build: Build, dimension: Dimension, planes: list[PlaneRow]) -> Lack:
    readings = [r for r in build.all(Reading) if r.dimension_id == dimension.id]
    if not readings:
        return Lack("ends")
    places = {(r.still_id, r.plane_id) for r in readings}
    refused = next((p.problem for p in planes if (p.still_id, p.plane_id) in places and p.problem), "")
    return Lack("refused", words=refused) if refused else Lack("ruler")
