"""A build's marks as the solver's scene. Keys are the names that people read, made unique."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure import scene as core
from chalkreel.core.measure.bend import Bend, bend_from_lines
from chalkreel.core.measure.quantities import Across, Angle, Distance, Quantity
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
from chalkreel.document.entity import Entity
from chalkreel.document.snapshot import Build

INPUTS = (StraightEdge, Still, Landmark, LandmarkMark, EdgeMark, Tie, FlatSet, RoundShape, RimMark, KnownLength)
LEAST_RIM = 3


@dataclass(frozen=True)
class Names:
    """Keys of the scene by entity id, for stills, landmarks, circles and rulers."""

    keys: dict[str, str]

    def ids(self) -> dict[str, str]:
        """Entity ids by key."""
        return {key: entity_id for entity_id, key in self.keys.items()}


def names_of(build: Build) -> Names:
    """Stills by number, everything else by its own name; a second one of a name gets a number."""
    keys: dict[str, str] = {still.id: f"still {still.number}" for still in build.all(Still)}
    taken = set(keys.values())
    kinds: tuple[type[Entity], ...] = (Landmark, RoundShape, KnownLength, FlatSet)
    for kind in kinds:
        for entity in build.all(kind):
            name = str(getattr(entity, "name", ""))
            key, number = name, 2
            while key in taken:
                key, number = f"{name} ({number})", number + 1
            taken.add(key)
            keys[entity.id] = key
    return Names(keys)


def scene_of(build: Build, names: Names) -> core.Scene:
    """All that was marked for the whole reel, on the miniature's link.

    Raises
    ------
    RefusedError
        A ruler of no length, a pair that does not agree.
    """
    keys, chain = names.keys, build.chain
    marks = build.all(LandmarkMark)
    rims = tuple(r for r in build.all(RimMark) if len(r.marks) >= LEAST_RIM)
    edges = build.all(EdgeMark)
    used = {m.still_id for m in marks} | {r.still_id for r in rims} | {e.still_id for e in edges}
    known = build.all(KnownLength)
    seen = {r.circle_id for r in rims}

    def on_miniature(mm: float, link: core.Axis | str) -> float:
        return chain.convert(mm, link, "miniature")  # type: ignore[arg-type]

    return core.Scene(
        views=tuple(_view(build, s, keys) for s in build.all(Still) if s.id in used),
        landmarks=tuple(_landmark(m, build, keys) for m in build.all(Landmark)),
        sightings=tuple(core.Sighting(keys[m.still_id], keys[m.landmark_id], m.mark) for m in marks),
        edges=tuple(core.Edge(keys[e.still_id], e.a, e.b, e.direction) for e in edges),
        parallels=tuple(core.Parallel(keys[t.a_id], keys[t.b_id], t.direction) for t in build.all(Tie) if t.direction),
        flats=tuple(
            core.Flat(keys[f.id], tuple(keys[i] for i in f.landmark_ids), across=f.across) for f in build.all(FlatSet)
        ),
        circles=tuple(core.Circle(keys[c.id], c.across) for c in build.all(RoundShape) if c.id in seen),
        rims=tuple(core.Rim(keys[r.still_id], keys[r.circle_id], r.marks, r.mirrored) for r in rims),
        rulers=tuple(
            core.Ruler(
                keys[k.id], keys[k.a_id], keys[k.b_id], on_miniature(k.length_mm, k.link),
                on_miniature(k.sigma_mm, k.link), k.along,
            )
            for k in known
            if not k.circle_id
        ),
        gauges=tuple(
            core.Gauge(
                keys[k.id], keys[k.circle_id], on_miniature(k.length_mm, k.link), on_miniature(k.sigma_mm, k.link)
            )
            for k in known
            if k.circle_id in seen
        ),
    )  # fmt: skip


def bend_of(build: Build, still: Still) -> Bend | None:
    """What straight edges marked on a still say of its lens; None without any, or where they say nothing."""
    lines = tuple(e.marks for e in build.all(StraightEdge) if e.still_id == still.id)
    try:
        return bend_from_lines(lines, (still.width_px, still.height_px), still.pixel_aspect) if lines else None
    except RefusedError:
        return None


def quantity_of(dimension: Dimension, names: Names) -> Quantity | None:
    """What a dimension is of, or None where it is read off single stills."""
    keys = names.keys
    if dimension.circle_id:
        return Across(keys[dimension.circle_id])
    if dimension.a_id and dimension.b_id and dimension.corner_id:
        return Angle(keys[dimension.a_id], keys[dimension.corner_id], keys[dimension.b_id])
    if dimension.a_id and dimension.b_id:
        return Distance(keys[dimension.a_id], keys[dimension.b_id], dimension.along, dimension.steps)
    return None


def _view(build: Build, still: Still, keys: dict[str, str]) -> core.View:
    return core.View(
        key=keys[still.id],
        size_px=(still.width_px, still.height_px),
        pixel_aspect=still.pixel_aspect,
        cropped=still.cropped,
        side=still.side,
        lens=still.lens,
        bend=bend_of(build, still),
    )


def _landmark(landmark: Landmark, build: Build, keys: dict[str, str]) -> core.Landmark:
    twin = build.get(Landmark, landmark.mirror_id)
    mirror = keys[twin.id] if twin is not None and twin.mirror_id == landmark.id else ""
    if landmark.place_mm is None:
        return core.Landmark(keys[landmark.id], mirror)
    factor = build.chain.convert(1.0, landmark.link, "miniature")
    x, y, z = (v * factor for v in landmark.place_mm)
    return core.Landmark(keys[landmark.id], mirror, (x, y, z), landmark.place_sigma_mm * factor)
