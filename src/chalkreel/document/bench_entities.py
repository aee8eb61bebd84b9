"""Entities of the Bench: photographs of the replica, clicks on them, what was decided, and the log."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from chalkreel.core.measure.marks import Mark
from chalkreel.document.entity import Count, Entity, Length, Name, Positive, Text

Decision = Literal["accepted", "job", "step"]
Fraction = Annotated[float, Meta(ge=-1e9, le=1e9)]


class LaidPose(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Where a photograph was found to be taken from without a click: turn and shift from the world's axes to the
    camera's, focal length in widths of the picture, bend."""

    turn: tuple[Fraction, Fraction, Fraction]
    shift: tuple[Fraction, Fraction, Fraction]
    focal_widths: Positive
    bend: Annotated[float, Meta(ge=-1, le=1)] = 0.0


class ReplicaPhoto(Entity, tag="replica photograph", frozen=True, kw_only=True):
    """A photograph of the replica, at a stage of the build; `still_id` is the still that it answers.

    `not_built` names assemblies that do not exist yet, `missing` those that should and are not there. `focal_widths` is
    what the camera wrote down of its lens.
    """

    title: Name
    blob: str
    width_px: Count
    height_px: Count
    number: Count
    taken_at: Name
    stage: Text = ""
    still_id: str = ""
    not_built: tuple[Name, ...] = ()
    missing: tuple[Name, ...] = ()
    focal_widths: Positive | None = None
    laid: LaidPose | None = None


class ReplicaMark(Entity, tag="replica mark", frozen=True, kw_only=True):
    """A landmark clicked on a photograph of the replica."""

    photo_id: str
    landmark_id: str
    mark: Mark


class ReplicaReading(Entity, tag="replica reading", frozen=True, kw_only=True):
    """A size of the replica by calliper: it makes what photographs say of proportions a matter of millimetres."""

    dimension_id: str
    length_mm: Length


class FindingDecision(Entity, tag="finding", frozen=True, kw_only=True):
    """What was decided about an assembly that is out of true: accepted as it was then, made the job of a feature, or a
    step is done again (`again` is what that was called).

    `side` is empty where both sides are meant.
    """

    assembly: Name
    side: Text = ""
    decision: Decision
    mm: Annotated[float, Meta(ge=-1e6, le=1e6)] = 0.0
    feature_id: str = ""
    again: Text = ""


class LogEntry(Entity, tag="log", frozen=True, kw_only=True):
    """What happened, when, at which step, with photographs; structured where a later build asks: the mix and its pot,
    coats, bar, needle, parts of thinner to one of paint, the hours until it was touch-dry, the room. 0 or None where it
    was not said.
    """

    at: Name
    words: Text
    step_id: str = ""
    step_kind: str = ""
    photo: str = ""
    minutes: Annotated[int, Meta(ge=0, le=100_000)] = 0
    cost: Annotated[float, Meta(ge=-1e6, le=1e6)] = 0.0
    lesson: bool = False
    photos: tuple[str, ...] = ()
    pot_id: str = ""
    mix: Text = ""
    coats: Annotated[int, Meta(ge=0, le=50)] = 0
    bar: Annotated[float, Meta(ge=0, le=20)] = 0.0
    needle_mm: Annotated[float, Meta(ge=0, le=5)] = 0.0
    thinner_parts: Annotated[float, Meta(ge=0, le=50)] = 0.0
    dry_hours: Annotated[float, Meta(ge=0, le=1000)] = 0.0
    room_c: Annotated[float, Meta(ge=-30, le=60)] | None = None
    room_humidity: Annotated[float, Meta(ge=0, le=100)] | None = None
