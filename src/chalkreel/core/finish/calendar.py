"""When somebody is at the bench: weekly evenings, single ones, and days without any."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from chalkreel.core.errors import RefusedError

HORIZON_DAYS = 730
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


@dataclass(frozen=True)
class BenchSession:
    """A weekly time at the bench (Monday is 0), or one on a `day` only.

    One that ends before it starts ends on the next day.
    """

    weekday: int
    start: time
    end: time
    day: date | None = None


@dataclass(frozen=True)
class Window:
    """One stretch of time at the bench."""

    start: datetime
    end: datetime

    @property
    def minutes(self) -> int:
        """Its length."""
        return round((self.end - self.start).total_seconds() / 60)


def windows(
    sessions: tuple[BenchSession, ...], begin: datetime, days_off: tuple[tuple[date, date], ...] = ()
) -> Iterator[Window]:
    """Every stretch at the bench from `begin` on, for two years; overlapping ones are one.

    Raises
    ------
    RefusedError
        No session has any length.
    """
    if not any(session.start != session.end for session in sessions):
        raise RefusedError("No bench evening yet. Give at least one weekday with a start and an end.")
    last: Window | None = None
    for window in sorted(_all(sessions, begin, days_off), key=lambda w: w.start):
        if last is not None and window.start <= last.end:
            last = Window(last.start, max(last.end, window.end))
            continue
        if last is not None:
            yield last
        last = window
    if last is not None:
        yield last


def _all(
    sessions: tuple[BenchSession, ...], begin: datetime, days_off: tuple[tuple[date, date], ...]
) -> Iterator[Window]:
    # A session of the evening before may still be running after midnight.
    for offset in range(-1, HORIZON_DAYS):
        day = begin.date() + timedelta(days=offset)
        if any(first <= day <= last for first, last in days_off):
            continue
        for session in sessions:
            if session.start == session.end or (session.day or day) != day:
                continue
            if session.day is None and session.weekday != day.weekday():
                continue
            past_midnight = session.end < session.start
            start = max(datetime.combine(day, session.start), begin)
            end = datetime.combine(day + timedelta(days=past_midnight), session.end)
            if start < end:
                yield Window(start, end)
