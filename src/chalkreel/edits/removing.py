"""Removing an entity with all that hangs on it."""

from __future__ import annotations

from typing import Final

import msgspec

from chalkreel.document.bench_entities import FindingDecision, LogEntry, ReplicaMark, ReplicaPhoto, ReplicaReading
from chalkreel.document.changes import Edits
from chalkreel.document.convert_entities import CutPiece, Order
from chalkreel.document.entities import (
    BuildInfo,
    Collar,
    Dimension,
    EdgeMark,
    Feature,
    FeatureInVersion,
    FlatSet,
    KitPart,
    KnownLength,
    Landmark,
    LandmarkMark,
    Outline,
    Plane,
    Reading,
    RepeatedParts,
    RimMark,
    RoundShape,
    RulerMark,
    SkinFace,
    Spot,
    Still,
    StraightEdge,
    Tie,
    Version,
)
from chalkreel.document.entity import Entity
from chalkreel.document.light_entities import BranchReading, Lamp, LightBranch, LightDriver, LightPlan, PowerSupply
from chalkreel.document.paint_entities import ColourPatch, PaintPot, Surface, Zone
from chalkreel.document.snapshot import Build

_ON_STILLS: Final[tuple[type[Entity], ...]] = (
    Plane, RulerMark, Reading, ColourPatch, LandmarkMark, EdgeMark, RimMark, Outline, Spot, StraightEdge,
    RepeatedParts,
)  # fmt: skip
# What goes with an entity when it is removed, and what merely forgets it.
_OWNED: Final[dict[type[Entity], tuple[tuple[type[Entity], str], ...]]] = {
    Still: tuple((kind, "still_id") for kind in _ON_STILLS),
    Landmark: (
        (LandmarkMark, "landmark_id"),
        (ReplicaMark, "landmark_id"),
        *((kind, field) for kind in (Tie, KnownLength, Dimension) for field in ("a_id", "b_id")),
        (Dimension, "corner_id"),
    ),
    RoundShape: tuple((kind, "circle_id") for kind in (RepeatedParts, RimMark, KnownLength, Dimension)),
    Plane: ((RulerMark, "plane_id"), (Reading, "plane_id")),
    Dimension: ((Reading, "dimension_id"), (ReplicaReading, "dimension_id")),
    ReplicaPhoto: ((ReplicaMark, "photo_id"),),
    LightBranch: ((BranchReading, "branch_id"),),
    Feature: ((FeatureInVersion, "feature_id"), (FindingDecision, "feature_id")),
    **dict.fromkeys((Outline, Collar, SkinFace), ((CutPiece, "source_id"),)),
    Version: ((FeatureInVersion, "version_id"),),
    Surface: ((ColourPatch, "surface_id"), (PaintPot, "surface_id")),
}
_FORGETS: Final[dict[type[Entity], tuple[tuple[type[Entity], str], ...]]] = {
    Still: ((FeatureInVersion, "still_id"), (ReplicaPhoto, "still_id")),
    KitPart: ((Dimension, "part_id"), (Feature, "part_id")),
    Dimension: ((Feature, "dimension_id"), (Zone, "length_id"), (Zone, "height_id")),
    Surface: ((Zone, "surface_id"),),
    Landmark: ((Landmark, "mirror_id"), (LightPlan, "exit_id"), (Feature, "landmark_id")),
    Feature: ((CutPiece, "feature_id"), (Order, "feature_id")),
    PowerSupply: ((LightBranch, "supply_id"),),
    LightDriver: ((LightBranch, "driver_id"),),
    PaintPot: ((LogEntry, "pot_id"),),
    Zone: ((SkinFace, "zone_id"),),
    Version: ((Still, "version_id"), (BuildInfo, "version_id"), (BuildInfo, "kit_version_id")),
}


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
    _leave_lists(build, entity, edits)
    for kind, field in _FORGETS.get(type(entity), ()):
        for other in build.all(kind):
            current = edits.get(other.id, build.entities[other.id])
            if current is not None and getattr(current, field) == entity_id:
                edits[other.id] = msgspec.structs.replace(current, **{field: ""})


def _leave_lists(build: Build, entity: Entity, edits: Edits) -> None:
    """What names it in a list goes on without it, or goes too."""
    if isinstance(entity, Landmark):
        _leave_flats(build, entity.id, edits)
    if isinstance(entity, (Landmark, Spot)):
        _leave_lamps(build, entity.id, edits)
    if isinstance(entity, Dimension):
        _leave_features(build, entity.id, edits)
    if isinstance(entity, Lamp):
        _leave_branches(build, entity.id, edits)
    if isinstance(entity, (RoundShape, Outline)):
        for face in build.all(SkinFace):
            if entity.id in (*face.circle_ids, *face.outline_ids):
                _remove(build, face.id, edits)


def _leave_lamps(build: Build, place_id: str, edits: Edits) -> None:
    """A lamp that stood at a removed landmark or mark stands nowhere."""
    for lamp in build.all(Lamp):
        current = edits.get(lamp.id, lamp)
        if isinstance(current, Lamp) and place_id in current.places:
            places = tuple(i for i in current.places if i != place_id)
            edits[lamp.id] = msgspec.structs.replace(current, places=places)


def _leave_features(build: Build, dimension_id: str, edits: Edits) -> None:
    """A feature goes on without a removed size."""
    for feature in build.all(Feature):
        if dimension_id in feature.other_dimension_ids:
            left = tuple(i for i in feature.other_dimension_ids if i != dimension_id)
            edits[feature.id] = msgspec.structs.replace(feature, other_dimension_ids=left)


def _leave_branches(build: Build, lamp_id: str, edits: Edits) -> None:
    """A branch goes on without lamps of a removed kind; one that has no other goes too."""
    for branch in build.all(LightBranch):
        strands = tuple(
            msgspec.structs.replace(strand, lamps=left)
            for strand in branch.strands
            if (left := tuple(use for use in strand.lamps if use.lamp_id != lamp_id))
        )
        if strands != branch.strands:
            edits[branch.id] = msgspec.structs.replace(branch, strands=strands) if strands else None


def _leave_flats(build: Build, landmark_id: str, edits: Edits) -> None:
    """A flat or face goes on without a removed landmark while three are left."""
    for flat in (*build.all(FlatSet), *build.all(SkinFace)):
        present = edits.get(flat.id, flat)
        if isinstance(present, (FlatSet, SkinFace)) and landmark_id in present.landmark_ids:
            left = tuple(i for i in present.landmark_ids if i != landmark_id)
            edits[flat.id] = msgspec.structs.replace(present, landmark_ids=left) if len(left) > 2 else None
