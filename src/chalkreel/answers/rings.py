"""The times of an evening at which somebody wants to be called: what begins, what closes, what is dry."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final

from chalkreel.answers.tonight import Tonight

# So long before a window closes there is still time to begin.
AHEAD: Final = timedelta(minutes=10)


@dataclass(frozen=True)
class Ring:
    """A time of the evening and what is told then."""

    at: datetime
    words: str


def rings(sheet: Tonight | None) -> tuple[Ring, ...]:
    """All rings of an evening, in their order; what happens at one time rings once."""
    if sheet is None:
        return ()
    window = sheet.window
    told = [(work.start, f"now: {work.words}") for work in sheet.work]
    told += [
        (timer.closes - AHEAD, f"{timer.then.title} must begin by {timer.closes:%H:%M}")
        for timer in sheet.timers if timer.closes - AHEAD > timer.planned
    ]  # fmt: skip
    told += [(wet.until, f"{wet.words} should be touch-dry") for wet in sheet.hands_off]
    by_time: dict[datetime, list[str]] = {}
    for at, words in sorted(told):
        if window.start <= at <= window.end:
            by_time.setdefault(at, []).append(words)
    return tuple(Ring(at, "; ".join(words)) for at, words in by_time.items())
