"""Where the find box and an undo can take one (no Qt)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from chalkreel.answers.stages import STAGES, StageName
from chalkreel.document.entities import (
    AnyEntity,
    Collar,
    Dimension,
    EdgeMark,
    Evening,
    Feature,
    FeatureInVersion,
    FlatSet,
    KitPart,
    KnownLength,
    Lamp,
    Landmark,
    LandmarkMark,
    LogEntry,
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
from chalkreel.document.paint_entities import ColourPatch, PaintPot, ShelfPaint, Surface, Zone
from chalkreel.document.snapshot import Build

# Which stage works on which entities; a mark comes before what it marks.
WORKED_ON: Final[dict[StageName, tuple[type, ...]]] = {
    "Gather": (KitPart,),
    "Measure": (
        LandmarkMark, Plane, RulerMark, Reading, EdgeMark, StraightEdge, RimMark, Outline, Spot, RepeatedParts,
        Landmark, Dimension, KnownLength, FlatSet, RoundShape, Tie, Collar,
    ),
    "Convert": (Feature, FeatureInVersion, Version),
    "Light": (Lamp, PowerSupply),
    "Colour": (ColourPatch, Surface, ShelfPaint, PaintPot),
    "Finish": (Zone, Evening),
    "Bench": (LogEntry,),
}  # fmt: skip


@dataclass(frozen=True)
class Place:
    """A stage, perhaps with a still and something on it; no stage means the present one."""

    words: str
    stage: StageName | None
    still_id: str = ""
    entity_id: str = ""


def places(build: Build) -> tuple[Place, ...]:
    """Stages, stills, sizes and surfaces."""
    found = [Place(stage, stage) for stage in STAGES]
    found += [Place(f"still {s.number}: {s.title}", None, s.id) for s in build.all(Still)]
    for dimension in build.all(Dimension):
        reading = next((r for r in build.all(Reading) if r.dimension_id == dimension.id), None)
        found.append(Place(dimension.name, "Measure", reading.still_id if reading else "", dimension.id))
    return (*found, *(Place(s.name, "Colour", "", s.id) for s in build.all(Surface)))


def changed_place(before: Mapping[str, AnyEntity], after: Mapping[str, AnyEntity], present: StageName) -> Place | None:
    """Where to look at what an undo or redo has changed; None where no stage shows it better than the present one."""
    changed = [i for i in dict.fromkeys((*after, *before)) if before.get(i) != after.get(i)]
    found = [place_of(after.get(i) or before[i], present) for i in changed]
    return next((place for place in found if place is not None), None)


def place_of(entity: AnyEntity, present: StageName) -> Place | None:
    """The stage that works on an entity, and its still; the present stage where it shows stills and this is one."""
    stage = next((name for name, kinds in WORKED_ON.items() if isinstance(entity, kinds)), None)
    if isinstance(entity, Still):
        return Place("", present if present in ("Measure", "Colour") else "Gather", entity.id, "")
    return Place("", stage, getattr(entity, "still_id", ""), entity.id) if stage is not None else None
