"""When each step happens: a forward schedule over bench sessions (serial list scheduling).

While one assembly cures, the next step in order that is ready is taken from another.
Reference: Kelley 1963, serial schedule generation.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from types import MappingProxyType

from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.rules import Constraint
from chalkreel.core.finish.steps import Step

HORIZON_DAYS = 730


@dataclass(frozen=True)
class BenchSession:
    """A weekly time at the bench: Monday is 0."""

    weekday: int
    start: time
    end: time


@dataclass(frozen=True)
class Slot:
    """A stretch of work on a step; a long step has several."""

    step_id: str
    start: datetime
    end: datetime


@dataclass(frozen=True)
class Missed:
    """A longest wait that is not kept: `then` begins `hours` after `first` ended, at most `max_hours` are allowed."""

    first: str
    then: str
    hours: float
    max_hours: float
    reason: str


@dataclass(frozen=True)
class Schedule:
    """Slots in time order, and the longest waits that they do not keep."""

    slots: tuple[Slot, ...]
    missed: tuple[Missed, ...]

    @property
    def finish(self) -> datetime | None:
        """When the last step ends."""
        return self.slots[-1].end if self.slots else None


def schedule(
    steps: tuple[Step, ...], limits: tuple[Constraint, ...], sessions: tuple[BenchSession, ...], begin: datetime,
    done: Mapping[str, datetime] = MappingProxyType({}),
) -> Schedule:  # fmt: skip
    """Place every step in its order from `begin` on, waiting as the limits say.

    A limit that the order breaks is not waited for. `done` says when steps that are no longer among `steps` ended:
    what they began to cure goes on.

    Raises
    ------
    RefusedError
        No usable bench session, or no end within two years.
    """
    if not any(s.start < s.end for s in sessions):
        raise RefusedError("No bench evening yet. Give at least one weekday with a start and an end.")
    place = {step.id: number for number, step in enumerate(steps)}
    kept = tuple(
        c for c in limits
        if c.then in place and (c.first in done or (c.first in place and place[c.first] < place[c.then]))
    )  # fmt: skip
    work = _Bench(steps, kept, done)
    for start, end in _windows(sessions, begin):
        work.fill(start, end)
        if not work.left:
            return Schedule(tuple(work.slots), tuple(work.missed))
    raise RefusedError("This plan does not end within two years of bench evenings. Add evenings or shorten it.")


def _windows(sessions: tuple[BenchSession, ...], begin: datetime) -> Iterator[tuple[datetime, datetime]]:
    for offset in range(HORIZON_DAYS):
        day = begin.date() + timedelta(days=offset)
        for session in sorted(sessions, key=lambda s: s.start):
            start, end = datetime.combine(day, session.start), datetime.combine(day, session.end)
            if session.weekday == day.weekday() and max(start, begin) < end:
                yield max(start, begin), end


class _Bench:
    def __init__(self, steps: tuple[Step, ...], limits: tuple[Constraint, ...], done: Mapping[str, datetime]) -> None:
        self.left = {step.id: step for step in steps}
        self.minutes = {step.id: step.minutes for step in steps}
        self.waits: dict[str, list[Constraint]] = {step.id: [] for step in steps}
        self.followers: dict[str, list[Constraint]] = {step.id: [] for step in steps}
        for limit in limits:
            self.waits[limit.then].append(limit)
            if limit.first in self.followers:
                self.followers[limit.first].append(limit)
        self.done = dict(done)
        self.slots: list[Slot] = []
        self.missed: list[Missed] = []

    def fill(self, now: datetime, end: datetime) -> None:
        """Work through one session."""
        length = end - now
        while now < end and self.left:
            name = self._next(now, end, length)
            if name is None:
                ready = [t for n in self.left if (t := self._ready(n)) is not None and now < t < end]
                if not ready:
                    return
                now = min(ready)
                continue
            now = self._work(name, now, end)

    def _next(self, now: datetime, end: datetime, length: timedelta) -> str | None:
        ready = [name for name in self.left if (t := self._ready(name)) is not None and t <= now]
        # What must not wait goes first, then the user's order.
        ready.sort(key=lambda name: not any(c.max_hours is not None for c in self.waits[name]))
        for name in ready:
            need = min(timedelta(minutes=self._chain(name)), length)
            if now + need <= end:
                return name
        return None

    def _chain(self, name: str) -> float:
        """Minutes for a step and whatever must follow within the same session."""
        urgent = [
            c for c in self.followers[name] if c.max_hours is not None and c.max_hours < 12 and c.then in self.left
        ]
        tail = max((c.min_hours * 60 + self._chain(c.then) for c in urgent), default=0.0)
        whole_chain = self.minutes[name] + tail
        return whole_chain if urgent or self.minutes[name] <= 120 else 30.0

    def _ready(self, name: str) -> datetime | None:
        ready = datetime.min
        for limit in self.waits[name]:
            if limit.first not in self.done:
                return None
            ready = max(ready, self.done[limit.first] + timedelta(hours=limit.min_hours))
        return ready

    def _work(self, name: str, now: datetime, end: datetime) -> datetime:
        if self.minutes[name] == self.left[name].minutes:
            self._note_missed(name, now)
        stop = min(end, now + timedelta(minutes=self.minutes[name]))
        self.minutes[name] -= round((stop - now).total_seconds() / 60)
        self.slots.append(Slot(name, now, stop))
        if self.minutes[name] <= 0:
            self.done[name] = stop
            del self.left[name]
        return stop

    def _note_missed(self, name: str, now: datetime) -> None:
        for limit in self.waits[name]:
            hours = (now - self.done[limit.first]).total_seconds() / 3600
            if limit.max_hours is not None and hours > limit.max_hours:
                self.missed.append(Missed(limit.first, name, hours, limit.max_hours, limit.reason))
