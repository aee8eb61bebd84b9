"""Tonight's sheet in words, for the window and for paper."""

from __future__ import annotations

from datetime import datetime

from chalkreel.answers.plan import Closing
from chalkreel.answers.tonight import Work
from chalkreel.core.finish.airbrush import setting
from chalkreel.core.finish.calendar import Window


def evening_words(window: Window) -> str:
    """'Tuesday 1 December, 19:30 to 22:00'."""
    return f"{window.start:%A} {window.start.day} {window.start:%B}, {window.start:%H:%M} to {window.end:%H:%M}"


def how_words(work: Work) -> str:
    """How long, and where to begin with the airbrush."""
    minutes = round((work.end - work.start).total_seconds() / 60)
    if work.step is None:
        return f"{minutes} min"
    parts = [f"{minutes} min of {work.step.minutes}" if minutes < work.step.minutes else f"{minutes} min"]
    begin = setting(work.step)
    if begin is not None:
        parts += [work.step.colour, f"needle {begin.needle_mm} mm", f"{begin.bar} bar", begin.thinner,
                  f"{begin.distance_cm} cm away"]  # fmt: skip
    return ", ".join(part for part in parts if part)


def timer_words(timer: Closing) -> str:
    """'Tape off: band: from 20:50, by Thu 22:30'."""
    return f"{timer.then.title}: from {timer.opens:%H:%M}, by {timer.closes:%a %H:%M}"


def until_words(until: datetime, evening: Window) -> str:
    """The hour, with its day where that is another."""
    return f"{until:%H:%M}" if until.date() == evening.start.date() else f"{until:%a} {until.day} {until:%b, %H:%M}"
