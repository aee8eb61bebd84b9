"""A build's marks as the solver's scene; keys are the ids of entities."""

from __future__ import annotations

from functools import lru_cache

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure import scene as core
from chalkreel.core.measure.bend import Bend, bend_from_lines
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.quantities import Across, Angle, Distance, Quantity
from chalkreel.core.scale import Link
from chalkreel.document.entities import (
    Dimension,
    EdgeMark,
    FlatSet,
    KnownLength,
    Landmark,
    LandmarkMark,
    RimMark,
    RoundShape,
    Still,
    StraightEdge,
    Tie,
)
from chalkreel.document.snapshot import Build

LEAST_RIM = 3


def scene_of(build: Build) -> core.Scene:
    """All that was marked for the whole reel, on the miniature's link.

    Raises
    ------
    RefusedError
        A ruler of no length.
    """
    chain = build.chain
    # What the program itself proposed is no observation.
    marks = tuple(m for m in build.all(LandmarkMark) if not m.unconfirmed)
    rims = tuple(r for r in build.all(RimMark) if len(r.marks) >= LEAST_RIM)
    edges = build.all(EdgeMark)
    used = {m.still_id for m in marks} | {r.still_id for r in rims} | {e.still_id for e in edges}
    known = build.all(KnownLength)
    seen = {r.circle_id for r in rims}

    def on_miniature(mm: float, link: Link) -> float:
        return chain.convert(mm, link, "miniature")

    return core.Scene(
        views=tuple(_view(build, s) for s in build.all(Still) if s.id in used),
        landmarks=tuple(_landmark(m, build) for m in build.all(Landmark)),
        sightings=tuple(core.Sighting(m.still_id, m.landmark_id, m.mark) for m in marks),
        edges=tuple(core.Edge(e.still_id, e.a, e.b, e.direction) for e in edges),
        parallels=tuple(core.Parallel(t.a_id, t.b_id, t.direction) for t in build.all(Tie) if t.direction),
        flats=tuple(
            core.Flat(f.id, f.landmark_ids, across=f.across) for f in build.all(FlatSet)
        ),
        circles=tuple(core.Circle(c.id, c.across) for c in build.all(RoundShape) if c.id in seen),
        rims=tuple(core.Rim(r.still_id, r.circle_id, r.marks, r.mirrored) for r in rims),
        rulers=tuple(
            core.Ruler(
                k.id, k.a_id, k.b_id, on_miniature(k.length_mm, k.link),
                on_miniature(k.sigma_mm, k.link), k.along,
            )
            for k in known
            if not k.circle_id
        ),
        gauges=tuple(
            core.Gauge(
                k.id, k.circle_id, on_miniature(k.length_mm, k.link), on_miniature(k.sigma_mm, k.link)
            )
            for k in known
            if k.circle_id in seen
        ),
    )  # fmt: skip


def bend_of(build: Build, still: Still) -> Bend | None:
    """What straight edges marked on a still say of its lens; None without any, or where they say nothing."""
    lines = tuple(e.marks for e in build.all(StraightEdge) if e.still_id == still.id)
    return _bend(lines, (still.width_px, still.height_px), still.pixel_aspect) if lines else None


@lru_cache(maxsize=256)
def _bend(lines: tuple[tuple[Mark, ...], ...], size_px: tuple[int, int], pixel_aspect: float) -> Bend | None:
    try:
        return bend_from_lines(lines, size_px, pixel_aspect)
    except RefusedError:
        return None


def quantity_of(dimension: Dimension) -> Quantity | None:
    """What a dimension is of, or None where it is read off single stills."""
    if dimension.circle_id:
        return Across(dimension.circle_id)
    if dimension.a_id and dimension.b_id and dimension.corner_id:
        return Angle(dimension.a_id, dimension.corner_id, dimension.b_id)
    if dimension.a_id and dimension.b_id:
        return Distance(dimension.a_id, dimension.b_id, dimension.along, dimension.steps)
    return None


def _view(build: Build, still: Still) -> core.View:
    return core.View(
        key=still.id,
        size_px=(still.width_px, still.height_px),
        pixel_aspect=still.pixel_aspect,
        cropped=still.cropped,
        side=still.side,
        lens="" if still.still_kind == "plan" else still.lens,
        bend=None if still.still_kind == "plan" else bend_of(build, still),
        orthographic=still.still_kind == "plan",
    )


def _landmark(landmark: Landmark, build: Build) -> core.Landmark:
    twin = build.get(Landmark, landmark.mirror_id)
    mirror = twin.id if twin is not None and twin.mirror_id == landmark.id else ""
    if landmark.place_mm is None:
        return core.Landmark(landmark.id, mirror)
    factor = build.chain.convert(1.0, landmark.link, "miniature")
    x, y, z = (v * factor for v in landmark.place_mm)
    return core.Landmark(landmark.id, mirror, (x, y, z), landmark.place_sigma_mm * factor)
