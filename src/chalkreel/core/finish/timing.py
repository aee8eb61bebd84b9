"""Whether each step comes at its time: not too early, not too late, and not into paint that is still wet."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

from chalkreel.core.finish.airbrush import DEEP_CLEAN, METALLIC, cup
from chalkreel.core.finish.drying import Room
from chalkreel.core.finish.limits import Limit
from chalkreel.core.finish.rules import special
from chalkreel.core.finish.steps import Step

Spans = Mapping[str, tuple[datetime, datetime]]
# What touches a coat sooner than this prints in it: boxes, stands, fingers.
CURING_HOURS, SLOW_CURING_HOURS = 24.0, 72.0
# Plans are told to the minute.
_MINUTE = 1 / 60


@dataclass(frozen=True)
class Untimely:
    """A step that begins `hours` after another ended: sooner than `least`, or later than `most`, as a rule allows.

    With both given it is the stretch between them that is not allowed. `rescue` is what to do when it is too late.
    """

    rule: str
    number: int
    first: str
    then: str
    hours: float
    least: float | None
    most: float | None
    reason: str
    rescue: str = ""


def untimely(steps: tuple[Step, ...], spans: Spans, limits: tuple[Limit, ...], room: Room) -> tuple[Untimely, ...]:
    """What is wrong with the times of steps (begin and end by id); pairs in the wrong order are not told here."""
    return (*_waits(spans, limits), *_wet(steps, spans, room), *_after_metal(steps, spans))


def uncured(steps: tuple[Step, ...], spans: Spans, deadline: datetime) -> tuple[Untimely, ...]:
    """Layers that have not cured for a day (enamel and oil three) when the model is packed or shown."""
    rule, found = special(81), []
    for step in steps:
        least = cures_for(step)
        if step.id in spans and least:
            hours = _hours(spans[step.id][1], deadline)
            if hours < least - _MINUTE:
                found.append(Untimely(rule.name, rule.number, step.id, "", hours, least, None, rule.reason))
    return tuple(found)


def cures_for(step: Step) -> float:
    """Hours before what a step leaves may be packed: a day, enamel and oil three; none where it leaves nothing wet."""
    if not step.leaves_wet:
        return 0.0
    return SLOW_CURING_HOURS if step.medium in ("enamel", "oil") else CURING_HOURS


def _waits(spans: Spans, limits: tuple[Limit, ...]) -> Iterator[Untimely]:
    for c in limits:
        if c.first not in spans or c.then not in spans or spans[c.then][0] < spans[c.first][0]:
            continue
        hours = _hours(spans[c.first][1], spans[c.then][0])
        if hours < c.min_hours - _MINUTE:
            yield Untimely(c.rule, c.number, c.first, c.then, hours, c.min_hours, None, c.reason)
        elif c.max_hours is not None and hours > c.max_hours + _MINUTE:
            yield Untimely(c.rule, c.number, c.first, c.then, hours, None, c.max_hours, c.reason, c.rescue)
        elif c.closed is not None and c.closed[0] + _MINUTE < hours < c.closed[1] - _MINUTE:
            yield Untimely(c.rule, c.number, c.first, c.then, hours, *c.closed, c.reason)


def _wet(steps: tuple[Step, ...], spans: Spans, room: Room) -> Iterator[Untimely]:
    """Steps that take something in the hand which is not touch-dry."""
    timed = sorted((step for step in steps if step.id in spans), key=lambda s: spans[s.id])
    wet = [(step, step.dries("touch", room)[1]) for step in timed if step.leaves_wet]
    begins = [spans[step.id][0] for step in timed]
    for first, least in wet:
        end = spans[first.id][1]
        dry = end + timedelta(hours=least - _MINUTE)
        for then in timed[bisect_left(begins, end) : bisect_left(begins, dry)]:
            begin = spans[then.id][0]
            if _handles(then, first):
                rule = special(68) if first.kind == "chrome" else special(79)
                hours = _hours(end, begin)
                yield Untimely(rule.name, rule.number, first.id, then.id, hours, least, None, rule.reason)


def _handles(then: Step, first: Step) -> bool:
    if then.touches_soft or (then.spares_own_zone and then.zone == first.zone and then.assembly == first.assembly):
        return False
    return then.handles_all or then.assembly == first.assembly


def _after_metal(steps: tuple[Step, ...], spans: Spans) -> Iterator[Untimely]:
    """Sprays that follow metal with less than the minutes of a deep clean between."""
    rule = special(78)
    sprays = sorted((s for s in steps if s.spray and s.id in spans), key=lambda s: spans[s.id])
    for first, then in pairwise(sprays):
        hours = _hours(spans[first.id][1], spans[then.id][0])
        if first.kind in METALLIC and cup(first) != cup(then) and hours < DEEP_CLEAN / 60 - _MINUTE:
            yield Untimely(rule.name, rule.number, first.id, then.id, hours, DEEP_CLEAN / 60, None, rule.reason)


def _hours(first: datetime, then: datetime) -> float:
    return (then - first).total_seconds() / 3600
