"""Edits that need more than one entity: new builds, added stills, removals with all that hangs on them."""

from __future__ import annotations

from typing import Final

import msgspec

from chalkreel.build.entities import (
    BUILD_ID,
    SUPPLY_ID,
    AnyEntity,
    BuildInfo,
    Dimension,
    EdgeMark,
    Evening,
    Feature,
    FeatureInVersion,
    FlatSet,
    KitPart,
    KnownLength,
    Landmark,
    LandmarkMark,
    Outline,
    Plane,
    PowerSupply,
    Reading,
    RepeatedParts,
    RimMark,
    RoundShape,
    RulerMark,
    Spot,
    Still,
    StraightEdge,
    Tie,
    Version,
)
from chalkreel.build.entity import Entity, new_id
from chalkreel.build.paint_entities import ColourPatch, PaintPot, Surface, Zone
from chalkreel.build.snapshot import Build
from chalkreel.core.media.aspect import likely_shapes
from chalkreel.core.media.picture import Picture

Edits = dict[str, AnyEntity | None]

_ON_STILLS: Final[tuple[type[Entity], ...]] = (
    Plane, RulerMark, Reading, ColourPatch, LandmarkMark, EdgeMark, RimMark, Outline, Spot, StraightEdge,
    RepeatedParts,
)  # fmt: skip
# What goes with an entity when it is removed, and what merely forgets it.
_OWNED: Final[dict[type[Entity], tuple[tuple[type[Entity], str], ...]]] = {
    Still: tuple((kind, "still_id") for kind in _ON_STILLS),
    Landmark: (
        (LandmarkMark, "landmark_id"),
        *((kind, field) for kind in (Tie, KnownLength, Dimension) for field in ("a_id", "b_id")),
        (Dimension, "corner_id"),
    ),
    RoundShape: tuple((kind, "circle_id") for kind in (RepeatedParts, RimMark, KnownLength, Dimension)),
    Plane: ((RulerMark, "plane_id"), (Reading, "plane_id")),
    Dimension: ((Reading, "dimension_id"),),
    Feature: ((FeatureInVersion, "feature_id"),),
    Version: ((FeatureInVersion, "version_id"),),
    Surface: ((ColourPatch, "surface_id"), (PaintPot, "surface_id")),
}
_FORGETS: Final[dict[type[Entity], tuple[tuple[type[Entity], str], ...]]] = {
    Still: ((FeatureInVersion, "still_id"),),
    KitPart: ((Dimension, "part_id"), (Feature, "part_id")),
    Dimension: ((Feature, "dimension_id"), (Zone, "length_id"), (Zone, "height_id")),
    Surface: ((Zone, "surface_id"),),
    Landmark: ((Landmark, "mirror_id"),),
    Version: ((Still, "version_id"), (BuildInfo, "version_id"), (BuildInfo, "kit_version_id")),
}


def new_build(name: str) -> dict[str, AnyEntity]:
    """The first entities of an empty build: a 1:48 replica of something 12 m long, filmed at 1:24, one version."""
    version = Version(id=new_id(), name="First version")
    info = BuildInfo(
        id=BUILD_ID, name=name, story_mm=12_000.0, miniature_mm=500.0, replica_mm=250.0,
        version_id=version.id, kit_version_id=version.id,
    )  # fmt: skip
    evening = Evening(id=new_id(), weekday=5, start="14:00", end="18:00")
    return {e.id: e for e in (info, version, PowerSupply(id=SUPPLY_ID), evening)}


def still_from(build: Build, title: str, blob: str, picture: Picture) -> Still:
    """A new still at the end of the reel; a stored size known from video is taken as shown at 4:3."""
    number = max((s.number for s in build.all(Still)), default=0) + 1
    shapes = likely_shapes(picture.width, picture.height)
    return Still(
        id=new_id(), title=title, blob=blob, width_px=picture.width, height_px=picture.height, number=number,
        version_id=build.info.version_id, pixel_aspect=shapes[0].aspect if shapes else 1.0,
        still_kind="screen frame" if shapes else "other",
    )  # fmt: skip


def removal(build: Build, entity_id: str) -> Edits:
    """Remove an entity with all that hangs on it; what only refers to it forgets it."""
    edits: Edits = {}
    _remove(build, entity_id, edits)
    return edits


def _remove(build: Build, entity_id: str, edits: Edits) -> None:
    entity = build.entities.get(entity_id)
    if entity is None or entity_id in edits:
        return
    edits[entity_id] = None
    for kind, field in _OWNED.get(type(entity), ()):
        for owned in build.all(kind):
            if getattr(owned, field) == entity_id:
                _remove(build, owned.id, edits)
    if isinstance(entity, Landmark):
        _leave_flats(build, entity.id, edits)
    for kind, field in _FORGETS.get(type(entity), ()):
        for other in build.all(kind):
            current = edits.get(other.id, build.entities[other.id])
            if current is not None and getattr(current, field) == entity_id:
                edits[other.id] = msgspec.structs.replace(current, **{field: ""})


def _leave_flats(build: Build, landmark_id: str, edits: Edits) -> None:
    """A flat goes on without a removed landmark while three are left."""
    for flat in build.all(FlatSet):
        present = edits.get(flat.id, flat)
        if isinstance(present, FlatSet) and landmark_id in present.landmark_ids:
            left = tuple(i for i in present.landmark_ids if i != landmark_id)
            edits[flat.id] = msgspec.structs.replace(present, landmark_ids=left) if len(left) > 2 else None


def moved_step(order: tuple[str, ...], step_id: str, by: int) -> tuple[str, ...]:
    """The order with one step moved up (negative) or down."""
    at = order.index(step_id)
    rest = [name for name in order if name != step_id]
    rest.insert(min(max(0, at + by), len(rest)), step_id)
    return tuple(rest)
