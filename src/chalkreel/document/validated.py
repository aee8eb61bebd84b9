"""What a build must be, whether it comes from a file or from a gesture; anything else is refused in words."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date, datetime
from typing import Any, Final, cast

import msgspec

from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.drying import DRYING
from chalkreel.document.bench_entities import FindingDecision, LogEntry, ReplicaMark, ReplicaPhoto, ReplicaReading
from chalkreel.document.convert_entities import CutPiece, Order
from chalkreel.document.entities import (
    BUILD_ID,
    AnyEntity,
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
from chalkreel.document.finish_entities import Evening
from chalkreel.document.light_entities import Lamp, LightBranch, LightDriver, LightPlan, PowerSupply
from chalkreel.document.paint_entities import ColourPatch, PaintPot, Surface, Zone

# No length in mm, pixel or price of a model is larger.
LARGEST: Final = 1e9
_ENTITY: Final = msgspec.json.Decoder(AnyEntity)
_ON_STILL: Final = (("still_id", Still),)
_BETWEEN: Final = (("a_id", Landmark), ("b_id", Landmark))
# Fields that name another entity; these must, those in `_MAY` may be empty.
_MUST: Final[dict[type[Entity], tuple[tuple[str, type[Entity]], ...]]] = {
    **dict.fromkeys((Plane, RulerMark, EdgeMark, StraightEdge, Outline, RepeatedParts, Spot, ColourPatch), _ON_STILL),
    LandmarkMark: (*_ON_STILL, ("landmark_id", Landmark)),
    RimMark: (*_ON_STILL, ("circle_id", RoundShape)),
    Reading: (*_ON_STILL, ("dimension_id", Dimension)),
    Tie: _BETWEEN,
    FeatureInVersion: (("feature_id", Feature), ("version_id", Version)),
    PaintPot: (("surface_id", Surface),),
    ReplicaMark: (("photo_id", ReplicaPhoto), ("landmark_id", Landmark)),
    ReplicaReading: (("dimension_id", Dimension),),
}
_MAY: Final[dict[type[Entity], tuple[tuple[str, type[Entity]], ...]]] = {
    BuildInfo: (("version_id", Version), ("kit_version_id", Version)),
    Still: (("version_id", Version),),
    RulerMark: (("plane_id", Plane),),
    Reading: (("plane_id", Plane),),
    Landmark: (("mirror_id", Landmark),),
    KnownLength: (*_BETWEEN, ("circle_id", RoundShape)),
    Dimension: (*_BETWEEN, ("corner_id", Landmark), ("circle_id", RoundShape), ("part_id", KitPart)),
    RepeatedParts: (("circle_id", RoundShape),),
    Feature: (("part_id", KitPart), ("dimension_id", Dimension), ("landmark_id", Landmark)),
    CutPiece: (("feature_id", Feature),),
    Order: (("feature_id", Feature),),
    LogEntry: (("pot_id", PaintPot),),
    FeatureInVersion: (("still_id", Still),),
    ReplicaPhoto: (("still_id", Still),),
    FindingDecision: (("feature_id", Feature),),
    ColourPatch: (("surface_id", Surface),),
    LightBranch: (("supply_id", PowerSupply), ("driver_id", LightDriver)),
    LightPlan: (("exit_id", Landmark),),
    Zone: (("surface_id", Surface), ("length_id", Dimension), ("height_id", Dimension)),
    SkinFace: (("zone_id", Zone),),
}


class InvalidBuildError(RefusedError):
    """Entities that are no build."""


def decoded(data: str) -> AnyEntity:
    """An entity from its JSON.

    Raises
    ------
    InvalidBuildError
        Types, ranges, dates or lengths of lists are wrong.
    """
    try:
        entity = cast(AnyEntity, _ENTITY.decode(data))
        _check_numbers(msgspec.json.decode(data))
        _check_dates(entity)
    except (msgspec.DecodeError, RecursionError, ValueError) as error:
        raise InvalidBuildError("a text is too long" if "of length <=" in str(error) else str(error)) from error
    if isinstance(entity, Outline) and len(entity.bends) != len(entity.points):
        raise InvalidBuildError("an outline's points and bends differ in number")
    return entity


def kept_as_is(entity: AnyEntity) -> str:
    """An entity's JSON, after it was read back as the same entity.

    Raises
    ------
    InvalidBuildError
        It cannot be read back, or comes back as another.
    """
    text = msgspec.json.encode(entity).decode()
    if decoded(text) != entity:
        raise InvalidBuildError(f"{type(entity).__name__} does not come back as it was")
    return text


def check_references(entities: Mapping[str, AnyEntity], touched: Iterable[str] | None = None) -> None:
    """Refuse a build in which something refers to what is not there; `touched` limits the look to those ids.

    Raises
    ------
    InvalidBuildError
        A reference leads nowhere, or there is no description of the build.
    """
    if not isinstance(entities.get(BUILD_ID), BuildInfo):
        raise InvalidBuildError("it does not say what is being built")
    for entity_id in entities if touched is None else touched:
        entity = entities.get(entity_id)
        if entity is not None:
            _check(entity, entity_id, entities)


def _check(entity: AnyEntity, entity_id: str, entities: Mapping[str, AnyEntity]) -> None:
    kind = type(entity)
    if entity.id != entity_id:
        raise InvalidBuildError(f"{kind.__name__} {entity_id} calls itself {entity.id}")
    wanted = [(getattr(entity, field), target, True) for field, target in _MUST.get(kind, ())]
    wanted += [(getattr(entity, field), target, False) for field, target in _MAY.get(kind, ())]
    if isinstance(entity, (FlatSet, SkinFace)):
        wanted += [(landmark_id, Landmark, True) for landmark_id in entity.landmark_ids]
    if isinstance(entity, Lamp):
        wanted += [(key, Spot if isinstance(entities.get(key), Spot) else Landmark, True) for key in entity.places]
    if isinstance(entity, LightBranch):
        wanted += [(lamp.lamp_id, Lamp, True) for strand in entity.strands for lamp in strand.lamps]
    if isinstance(entity, Feature):
        wanted += [(dimension_id, Dimension, True) for dimension_id in entity.other_dimension_ids]
    if isinstance(entity, CutPiece) and entity.source_id:
        source = entities.get(entity.source_id)
        if not isinstance(source, (Outline, Collar, SkinFace)):
            raise InvalidBuildError(f"piece {entity_id} is of a template that is not there")
    if isinstance(entity, BuildInfo) and any(one.medium not in DRYING for one in entity.wrong):
        raise InvalidBuildError("a layer that went wrong is of a stuff that nobody knows")
    if isinstance(entity, SkinFace):
        wanted += [(circle_id, RoundShape, True) for circle_id in entity.circle_ids]
        wanted += [(outline_id, Outline, True) for outline_id in entity.outline_ids]
        of = [ids for ids in (entity.landmark_ids, entity.circle_ids, entity.outline_ids) if ids]
        if len(of) != 1 or (not entity.landmark_ids and len(of[0]) > 2):
            raise InvalidBuildError(f"face {entity_id} lies between nothing")
    for key, target, must in wanted:
        if (key or must) and not isinstance(entities.get(key), target):
            raise InvalidBuildError(f"{kind.__name__} {entity_id} speaks of a {target.__name__} that is not there")


def _check_numbers(value: Any) -> None:
    """Every number within reason, every click with an error above nothing."""
    if isinstance(value, (int, float)) and not -LARGEST <= value <= LARGEST:
        raise ValueError("a number is beyond reason")
    if isinstance(value, dict):
        if not value.get("sigma_px", 1.0) > 0:
            raise ValueError("a mark's error is not above nothing")
        value = list(value.values())
    if isinstance(value, list):
        for part in value:
            _check_numbers(part)


def _check_dates(entity: AnyEntity) -> None:
    if isinstance(entity, Evening) and entity.day:
        date.fromisoformat(entity.day)
    if isinstance(entity, BuildInfo):
        days = [day for day in (entity.first_bench_day, entity.deadline) if day]
        for day in (*days, *(day for pair in entity.days_off for day in pair)):
            date.fromisoformat(day)
        plan = [at for one in entity.plan for at in (one.start, one.end)]
        for at in (*(at for _, at in entity.done_at), *(one.at for one in entity.wrong), *plan):
            datetime.fromisoformat(at)
    if isinstance(entity, Order):
        for day in (entity.ordered_on, entity.came_on):
            if day:
                date.fromisoformat(day)
    if isinstance(entity, LogEntry):
        datetime.fromisoformat(entity.at)
    if isinstance(entity, PaintPot):
        for step in entity.steps:
            datetime.fromisoformat(step.at)
