"""When each step happens: a forward schedule over bench sessions (serial list scheduling).

While one assembly cures, the next step in order that is ready is taken from another.
Reference: Kelley 1963, serial schedule generation.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

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
class Schedule:
    """Slots in time order, and the steps whose latest start was missed with the reason."""

    slots: tuple[Slot, ...]
    late: tuple[tuple[str, str], ...]

    @property
    def finish(self) -> datetime | None:
        """When the last step ends."""
        return self.slots[-1].end if self.slots else None


def schedule(
    steps: tuple[Step, ...], limits: tuple[Constraint, ...], sessions: tuple[BenchSession, ...], first_day: date
) -> Schedule:
    """Place every step in its order, waiting as the limits say; a limit that the order breaks is not waited for.

    Raises
    ------
    RefusedError
        No usable bench session, or no end within two years.
    """
    if not any(s.start < s.end for s in sessions):
        raise RefusedError("No bench evening yet. Give at least one weekday with a start and an end.")
    place = {step.id: number for number, step in enumerate(steps)}
    kept = tuple(c for c in limits if place[c.first] < place[c.then])
    work = _Bench(steps, kept)
    for start, end in _windows(sessions, first_day):
        work.fill(start, end)
        if not work.left:
            return Schedule(tuple(work.slots), tuple(work.late))
    raise RefusedError("This plan does not end within two years of bench evenings. Add evenings or shorten it.")


def _windows(sessions: tuple[BenchSession, ...], first_day: date) -> Iterator[tuple[datetime, datetime]]:
    for offset in range(HORIZON_DAYS):
        day = first_day + timedelta(days=offset)
        for session in sorted(sessions, key=lambda s: s.start):
            if session.weekday == day.weekday() and session.start < session.end:
                yield datetime.combine(day, session.start), datetime.combine(day, session.end)


class _Bench:
    def __init__(self, steps: tuple[Step, ...], limits: tuple[Constraint, ...]) -> None:
        self.left = {step.id: step for step in steps}
        self.minutes = {step.id: step.minutes for step in steps}
        self.waits: dict[str, list[Constraint]] = {step.id: [] for step in steps}
        self.followers: dict[str, list[Constraint]] = {step.id: [] for step in steps}
        for limit in limits:
            self.waits[limit.then].append(limit)
            self.followers[limit.first].append(limit)
        self.done: dict[str, datetime] = {}
        self.slots: list[Slot] = []
        self.late: list[tuple[str, str]] = []

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
            self._note_late(name, now)
        stop = min(end, now + timedelta(minutes=self.minutes[name]))
        self.minutes[name] -= round((stop - now).total_seconds() / 60)
        self.slots.append(Slot(name, now, stop))
        if self.minutes[name] <= 0:
            self.done[name] = stop
            del self.left[name]
        return stop

    def _note_late(self, name: str, now: datetime) -> None:
        for limit in self.waits[name]:
            if limit.max_hours is not None and now > self.done[limit.first] + timedelta(hours=limit.max_hours):
                self.late.append((name, f"{limit.reason} The evenings given leave no time for it soon enough."))
