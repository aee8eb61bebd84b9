"""What lies between the steps of a plan: curing that passes by itself, and windows that close."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from chalkreel.answers.sequence import Sequence
from chalkreel.core.finish.steps import Step

# Windows that close later than this after they open leave more room than one evening can lose.
WATCHED_HOURS = 96.0


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
    found: dict[str, tuple[datetime, datetime]] = {}
    for slot in sequence.timetable.slots if sequence.timetable else ():
        begin = found[slot.step_id][0] if slot.step_id in found else slot.start
        found[slot.step_id] = (begin, slot.end)
    return found


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
