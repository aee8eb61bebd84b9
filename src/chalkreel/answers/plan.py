"""What lies between the steps of a plan: curing that passes by itself, and windows that close."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from chalkreel.answers.sequence import Sequence
from chalkreel.core.finish.drying import State
from chalkreel.core.finish.steps import Step

# Windows that close later than this after they open leave more room than one evening can lose.
WATCHED_HOURS = 96.0
_STATES: tuple[State, ...] = ("touch", "tape", "over")
_NOT_ON_TOP = ("black inside", "silver inside", "edge seal")


@dataclass(frozen=True)
class Curing:
    """What a step left dries until `touch`, and until something else may go over it."""

    step: Step
    start: datetime
    touch: datetime
    over: datetime


@dataclass(frozen=True)
class Closing:
    """A longest wait: `then` may begin from `opens` until `closes`, and is planned at `planned`."""

    first: Step
    then: Step
    opens: datetime
    closes: datetime
    planned: datetime
    reason: str

    @property
    def spare(self) -> timedelta:
        """How much later it could begin; negative where it is too late."""
        return self.closes - self.planned


def planned_spans(sequence: Sequence) -> dict[str, tuple[datetime, datetime]]:
    """When each step that is left begins and ends."""
    return sequence.timetable.spans if sequence.timetable else {}


def ends_of(sequence: Sequence) -> dict[str, datetime]:
    """When each step ended or will."""
    return dict(sequence.ends) | {name: end for name, (_, end) in planned_spans(sequence).items()}


def curings(sequence: Sequence) -> tuple[Curing, ...]:
    """What dries when, of steps done and planned, at the slow end of the usual times."""
    ends, room = ends_of(sequence), sequence.room
    return tuple(
        Curing(
            step, ends[step.id], ends[step.id] + timedelta(hours=step.dries("touch", room)[1]),
            ends[step.id] + timedelta(hours=step.dries("over", room)[1]),
        )
        for step in sequence.steps
        if step.medium and step.id in ends
    )  # fmt: skip


def closings(sequence: Sequence) -> tuple[Closing, ...]:
    """The windows of what is left, the one with least room first; one for each step that has to be in time."""
    ends, spans = ends_of(sequence), planned_spans(sequence)
    steps = {step.id: step for step in sequence.steps}
    found: dict[str, Closing] = {}
    for limit in sequence.limits:
        if limit.max_hours is None or limit.max_hours > WATCHED_HOURS:
            continue
        if limit.first not in ends or limit.then not in spans:
            continue
        end = ends[limit.first]
        one = Closing(
            steps[limit.first], steps[limit.then], end + timedelta(hours=limit.min_hours),
            end + timedelta(hours=limit.max_hours), spans[limit.then][0], limit.reason,
        )  # fmt: skip
        if one.then.id not in found or one.closes < found[one.then.id].closes:
            found[one.then.id] = one
    return tuple(sorted(found.values(), key=lambda c: c.spare))


@dataclass(frozen=True)
class SurfaceAt:
    """What lies on top of a zone at a time, and from when it may be touched, taped and laid over; None where unknown.

    `top` is None on bare material; the times are None where nobody said when it was laid.
    """

    assembly: str
    zone: str
    top: Step | None
    touch: datetime | None = None
    tape: datetime | None = None
    over: datetime | None = None


def surfaces(sequence: Sequence, done: tuple[str, ...], at: datetime) -> tuple[SurfaceAt, ...]:
    """Every zone as it is at a time, by what is done and what is planned until then."""
    ends = ends_of(sequence)
    layers = tuple(
        s for s in sequence.steps
        if s.leaves_wet and s.kind not in _NOT_ON_TOP and (ends[s.id] <= at if s.id in ends else s.id in done)
    )  # fmt: skip
    zones = dict.fromkeys((s.assembly, s.zone) for s in sequence.steps if s.zone)
    return tuple(_surface(sequence, assembly, zone, layers, ends) for assembly, zone in zones)


def _surface(
    sequence: Sequence, assembly: str, zone: str, layers: tuple[Step, ...], ends: dict[str, datetime]
) -> SurfaceAt:
    top = next((s for s in reversed(layers) if s.assembly == assembly and s.zone in ("", zone)), None)
    if top is None or top.id not in ends:
        return SurfaceAt(assembly, zone, top)
    touch, tape, over = (
        ends[top.id] + timedelta(hours=min(top.dries(state, sequence.room)[1], 8760.0)) for state in _STATES
    )
    return SurfaceAt(assembly, zone, top, touch, tape, over)
