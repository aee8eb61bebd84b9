"""Where the find box and an undo can take one (no Qt)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Final

from chalkreel.answers.stages import STAGES, StageName
from chalkreel.app.commands import COMMANDS
from chalkreel.document.bench_entities import FindingDecision, LogEntry, ReplicaMark, ReplicaPhoto, ReplicaReading
from chalkreel.document.convert_entities import CutPiece, Cutting, KitRecord, Order, StockPiece
from chalkreel.document.entities import (
    AnyEntity,
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
from chalkreel.document.finish_entities import Assembly, Evening, KeptFinish
from chalkreel.document.light_entities import BranchReading, Lamp, LightBranch, LightDriver, LightPlan, PowerSupply
from chalkreel.document.paint_entities import ColourPatch, FinishChip, PaintPot, ShelfPaint, Stripe, Surface, Zone
from chalkreel.document.snapshot import Build

# Which stage works on which entities; a mark comes before what it marks.
WORKED_ON: Final[dict[StageName, tuple[type, ...]]] = {
    "Gather": (KitPart,),
    "Measure": (
        LandmarkMark, Plane, RulerMark, Reading, EdgeMark, StraightEdge, RimMark, Outline, Spot, RepeatedParts,
        Landmark, Dimension, KnownLength, FlatSet, SkinFace, RoundShape, Tie, Collar,
    ),
    "Convert": (Feature, FeatureInVersion, Version, CutPiece, StockPiece, Cutting, Order, KitRecord),
    "Light": (Lamp, LightBranch, PowerSupply, LightDriver, BranchReading, LightPlan),
    "Colour": (ColourPatch, Surface, ShelfPaint, Stripe, FinishChip, PaintPot),
    "Finish": (Zone, Evening, Assembly, KeptFinish),
    "Bench": (LogEntry, ReplicaMark, ReplicaPhoto, ReplicaReading, FindingDecision),
}  # fmt: skip


# On which pages of its stage a kind is to be seen, the best first; what is seen on all of them is not named.
SEEN_ON: Final[dict[type, tuple[str, ...]]] = {
    **dict.fromkeys((Landmark, Dimension, KnownLength), ("Stills", "Landmarks", "Sizes", "Three views")),
    **dict.fromkeys(
        (LandmarkMark, Plane, RulerMark, Reading, EdgeMark, StraightEdge, RimMark, FlatSet, Tie), ("Stills",)
    ),
    **dict.fromkeys((Outline, Collar, RepeatedParts), ("Templates", "Stills")),
    Spot: ("Stills", "Mark map"), SkinFace: ("Stills", "Drawing", "All round", "Templates"), RoundShape: ("Stills",),
    KitPart: ("Box",), KitRecord: ("Box",), Order: ("Orders",), StockPiece: ("Stock",),
    **dict.fromkeys((CutPiece, Cutting), ("Cuts",)), **dict.fromkeys((Feature, FeatureInVersion), ("Versions", "Jobs")),
    Lamp: ("Lamps", "Circuit"), LightBranch: ("Circuit",), LightDriver: ("Circuit",), BranchReading: ("Tests",),
    ShelfPaint: ("Shelf",), Stripe: ("Stripes",), FinishChip: ("Layers",), PaintPot: ("Pots",),
    **dict.fromkeys((Zone, Assembly, KeptFinish), ("Zones",)), Evening: ("Evenings",),
    **dict.fromkeys((ReplicaPhoto, ReplicaMark, FindingDecision), ("Compare",)), ReplicaReading: ("By calliper",),
    LogEntry: ("Log",),
}  # fmt: skip
STEP_PAGES: Final = ("Plan", "Tonight")


@dataclass(frozen=True)
class Place:
    """A stage, perhaps with a still and something on it; no stage means the present one. Or a command's id.

    `pages` are those of the stage that show it, none if all do.
    """

    words: str
    stage: StageName | None
    still_id: str = ""
    entity_id: str = ""
    command: str = ""
    pages: tuple[str, ...] = ()


# What is found by its name, and what kind it is called by in the list.
_NAMED: Final[tuple[tuple[type[Entity], str], ...]] = (
    (KitPart, "part"), (Landmark, "landmark"), (Dimension, ""), (KnownLength, "ruler"), (SkinFace, "face"),
    (Feature, "feature"), (StockPiece, "stock"), (CutPiece, "piece"), (Order, "order"), (Lamp, "lamp"),
    (LightBranch, "branch"), (Surface, ""), (ShelfPaint, "paint"), (PaintPot, "pot"), (Zone, "zone"),
)  # fmt: skip
LONGEST = 64


def places(build: Build, steps: tuple[tuple[str, str], ...] = ()) -> tuple[Place, ...]:
    """All that can be found: stages, stills, named things, steps (id and title), log entries, commands."""
    found = [Place(stage, stage) for stage in STAGES]
    found += [Place(f"still {s.number}: {s.title}", None, s.id) for s in build.all(Still)]
    for kind, called in _NAMED:
        stage = next(name for name, kinds in WORKED_ON.items() if kind in kinds)
        for entity in build.all(kind):
            name = getattr(entity, "name", "") or getattr(entity, "label", "")
            words = f"{called}: {name}" if called else name
            found.append(Place(words, stage, _seen_on(build, entity), entity.id, pages=SEEN_ON.get(kind, ())))
    found += [Place(f"step: {title}", "Finish", "", step_id, pages=STEP_PAGES) for step_id, title in steps]
    found += [
        Place(f"photograph {p.number}: {p.title}", "Bench", p.still_id, p.id, pages=SEEN_ON[ReplicaPhoto])
        for p in build.all(ReplicaPhoto)
    ]
    found += [
        Place(f"log: {e.words[:LONGEST]}", "Bench", "", e.id, pages=SEEN_ON[LogEntry]) for e in build.all(LogEntry)
    ]
    commands = (c for c in COMMANDS if c.id not in ("goto",) and not c.id.startswith("stage-"))
    return (*found, *(Place(f"do: {c.words}", None, command=c.id) for c in commands))


def _seen_on(build: Build, entity: Entity) -> str:
    """A still on which something is marked."""
    if isinstance(entity, Landmark):
        return next((m.still_id for m in build.all(LandmarkMark) if m.landmark_id == entity.id), "")
    if isinstance(entity, Dimension):
        return next((r.still_id for r in build.all(Reading) if r.dimension_id == entity.id), "")
    return ""


def best_place(found: tuple[Place, ...], words: str) -> Place | None:
    """The place meant by words: its whole name, its beginning, or any part of it, in this order."""
    wanted = words.strip().casefold()
    if not wanted:
        return None
    names = [(place, place.words.casefold()) for place in found]
    for fits in (str.__eq__, str.startswith, str.__contains__):
        for place, name in names:
            if fits(name, wanted) or (fits is not str.__contains__ and fits(name.partition(": ")[2], wanted)):
                return place
    return None


def changed_place(before: Mapping[str, AnyEntity], after: Mapping[str, AnyEntity], present: StageName) -> Place | None:
    """Where to look at what an undo or redo has changed; None where no stage shows it better than the present one."""
    changed = [i for i in dict.fromkeys((*after, *before)) if before.get(i) != after.get(i)]
    found = [place_of(after.get(i) or before[i], present) for i in changed]
    place = next((place for place in found if place is not None), None)
    return replace(place, entity_id="") if place is not None and place.entity_id not in after else place


def place_of(entity: AnyEntity, present: StageName) -> Place | None:
    """The stage that works on an entity, and its still; the present stage where it shows stills and this is one."""
    stage = next((name for name, kinds in WORKED_ON.items() if isinstance(entity, kinds)), None)
    pages = SEEN_ON.get(type(entity), ())
    if isinstance(entity, KitPart) and present == "Convert":
        return Place("", present, "", entity.id, pages=pages)
    if isinstance(entity, Still):
        return Place("", present if present in ("Measure", "Colour") else "Gather", entity.id, "")
    still_id = getattr(entity, "still_id", "")
    return Place("", stage, still_id, entity.id, pages=pages) if stage is not None else None
