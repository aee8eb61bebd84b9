"""Tonight's sheet in words, for the window and for paper."""

from __future__ import annotations

from datetime import datetime, timedelta

from chalkreel.answers.plan import Closing, SurfaceAt
from chalkreel.answers.tonight import Work
from chalkreel.core.finish.airbrush import setting
from chalkreel.core.finish.calendar import Window
from chalkreel.core.finish.steps import Step
from chalkreel.core.lengths import LengthUnit

# What cannot be taped within a month is not taped at all.
FAR = timedelta(days=30)
CM_PER_INCH = 2.54


def evening_words(window: Window) -> str:
    """'Tuesday 1 December, 19:30 to 22:00'."""
    return f"{window.start:%A} {window.start.day} {window.start:%B}, {window.start:%H:%M} to {window.end:%H:%M}"


def setting_words(step: Step, unit: LengthUnit) -> str:
    """Where to begin with the airbrush; needles go by their size, whatever the unit of the build. Empty without one."""
    begin = setting(step)
    if begin is None:
        return ""
    near, far = begin.distance_cm
    if unit == "mm":
        needle, away = f"needle {begin.needle_mm} mm", f"{near:g}–{far:g} cm away"
    else:
        inches = [round(2 * cm / CM_PER_INCH) / 2 for cm in (near, far)]
        needle, away = f"needle size {begin.needle_mm}", f"{inches[0]:g}–{inches[1]:g} in away"
    return f"{needle}, {begin.bar} bar, {begin.thinner}, {away}"


def how_words(work: Work, unit: LengthUnit) -> str:
    """How long, and where to begin with the airbrush."""
    minutes = round((work.end - work.start).total_seconds() / 60)
    if work.step is None:
        return f"{minutes} min"
    parts = [f"{minutes} min of {work.step.minutes}" if minutes < work.step.minutes else f"{minutes} min"]
    if work.step.spray:
        parts += [work.step.colour, f"yours last time: {work.yours}" if work.yours else setting_words(work.step, unit)]
    return ", ".join(part for part in parts if part)


def timer_words(timer: Closing) -> str:
    """'Tape off: band: from 20:50, by Thu 22:30'."""
    return f"{timer.then.title}: from {timer.opens:%H:%M}, by {timer.closes:%a %H:%M}"


def until_words(until: datetime, evening: Window) -> str:
    """The hour, with its day where that is another."""
    return _hour(until, evening.start)


def surface_words(surface: SurfaceAt, at: datetime) -> str:
    """'base 2: wet until 21:35, tape from Wed 2 Dec, 20:35' or 'primer: dry'."""
    top = surface.top
    if top is None:
        return "bare"
    name = f"{top.kind} {top.coat}" if top.coats > 1 else top.kind
    if surface.touch is None or surface.tape is None or surface.over is None:
        return f"{name}: laid, not said when"
    if at < surface.touch:
        return f"{name}: wet until {_hour(surface.touch, at)}"
    if at < surface.over:
        tape = f", tape from {_hour(surface.tape, at)}" if at < surface.tape < at + FAR else ""
        return f"{name}: touch-dry{tape}, next layer from {_hour(surface.over, at)}"
    return f"{name}: dry"


def _hour(at: datetime, now: datetime) -> str:
    return f"{at:%H:%M}" if at.date() == now.date() else f"{at:%a} {at.day} {at:%b, %H:%M}"
