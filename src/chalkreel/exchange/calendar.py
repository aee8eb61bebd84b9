"""The schedule as an iCalendar file (RFC 5545): one event a stretch of work, in floating local time."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

from icalendar import Alarm, Calendar, Event

from chalkreel.answers.plan import closings
from chalkreel.answers.sequence import Sequence
from chalkreel.core.errors import RefusedError

LAY_OUT_MINUTES = 30


def _alarm(before: timedelta, words: str) -> Alarm:
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("trigger", before)
    alarm.add("description", words)
    return alarm


def write_calendar(sequence: Sequence, build_name: str, path: Path) -> int:
    """Write the schedule and return the number of events.

    Raises
    ------
    RefusedError
        There is no schedule.
    """
    if sequence.timetable is None or not sequence.timetable.slots:
        raise RefusedError("There is no schedule yet. Give zones and bench evenings in Finish.")
    steps = {step.id: step for step in sequence.steps}
    closes = {one.then.id: one.closes for one in closings(sequence)}
    slots = sorted(sequence.timetable.slots, key=lambda slot: slot.start)
    firsts = {next((s for s in slots if w.start <= s.start < w.end), None) for w in sequence.evenings}
    calendar = Calendar()
    calendar.add("prodid", "-//Chalk Reel//build schedule//EN")
    calendar.add("version", "2.0")
    for number, slot in enumerate(slots):
        step, event = steps[slot.step_id], Event()
        event.add("uid", f"{number}-{slot.start:%Y%m%dT%H%M}@chalkreel")
        event.add("dtstamp", datetime.now(UTC))
        event.add("dtstart", slot.start)
        event.add("dtend", slot.end)
        event.add("summary", f"{build_name}: {step.title}")
        event.add("description", "\n".join((*step.materials, *step.cautions)))
        if slot in firsts:
            event.add_component(_alarm(timedelta(minutes=-LAY_OUT_MINUTES), "Lay out for the evening."))
        if slot.step_id in closes:
            event.add_component(_alarm(timedelta(0), f"{step.title}: by {closes[slot.step_id]:%H:%M}."))
        calendar.add_component(event)
    path.write_bytes(calendar.to_ical())
    return len(sequence.timetable.slots)
