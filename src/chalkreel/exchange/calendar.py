"""The schedule as an iCalendar file (RFC 5545): one event a stretch of work, in floating local time."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path

from icalendar import Calendar, Event

from chalkreel.answers.sequence import Sequence
from chalkreel.core.errors import RefusedError


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
    calendar = Calendar()
    calendar.add("prodid", "-//Chalk Reel//build schedule//EN")
    calendar.add("version", "2.0")
    for number, slot in enumerate(sequence.timetable.slots):
        step, event = steps[slot.step_id], Event()
        event.add("uid", f"{number}-{slot.start:%Y%m%dT%H%M}@chalkreel")
        event.add("dtstamp", datetime.now(UTC))
        event.add("dtstart", slot.start)
        event.add("dtend", slot.end)
        event.add("summary", f"{build_name}: {step.title}")
        event.add("description", "\n".join((*step.materials, *step.cautions)))
        calendar.add_component(event)
    path.write_bytes(calendar.to_ical())
    return len(sequence.timetable.slots)
