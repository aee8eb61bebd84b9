"""The finishing sequence: steps, their order, what is wrong with it, and when each happens."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, time

from chalkreel.answers.colours import Colours
from chalkreel.answers.conversion import Conversion
from chalkreel.core.bench.lessons import Lesson, Reminder, reminders
from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.order import in_wished_order, valid_order
from chalkreel.core.finish.rules import Violation, constraints, violations
from chalkreel.core.finish.schedule import BenchSession, Schedule, schedule
from chalkreel.core.finish.steps import AssemblyPlan, Step, ZonePlan, steps_for
from chalkreel.document.entities import Evening, Lamp, LogEntry
from chalkreel.document.paint_entities import Zone
from chalkreel.document.snapshot import Build


@dataclass(frozen=True)
class Sequence:
    """Steps in the order that stands, broken rules, the schedule of what is left, and lessons for it."""

    steps: tuple[Step, ...]
    repaired: tuple[str, ...]
    broken: tuple[Violation, ...]
    timetable: Schedule | None
    problem: str
    reminders: tuple[Reminder, ...]


def sequence(build: Build, conversion: Conversion, colours: Colours | None) -> Sequence:
    """Steps for all assemblies; the user's order where there is one, else a valid order."""
    steps = steps_for(_assemblies(build, conversion, colours))
    info = build.info
    valid = valid_order(steps, info.order)
    standing = in_wished_order(valid, info.order) if info.order else valid
    left = tuple(step for step in standing if step.id not in info.done)
    timetable, problem = None, ""
    try:
        timetable = schedule(left, constraints(left), _sessions(build), _first_day(info.first_bench_day))
    except RefusedError as refusal:
        problem = str(refusal)
    lessons = tuple(Lesson(e.words, e.step_kind) for e in build.all(LogEntry) if e.lesson)
    return Sequence(
        standing, tuple(s.id for s in valid), violations(standing), timetable, problem, reminders(lessons, left)
    )


def _first_day(text: str) -> date:
    return date.fromisoformat(text) if text else datetime.now(UTC).astimezone().date()


def _sessions(build: Build) -> tuple[BenchSession, ...]:
    return tuple(
        BenchSession(e.weekday, time.fromisoformat(e.start), time.fromisoformat(e.end)) for e in build.all(Evening)
    )


def _assemblies(build: Build, conversion: Conversion, colours: Colours | None) -> tuple[AssemblyPlan, ...]:
    zones = build.all(Zone)
    names = dict.fromkeys([z.assembly for z in zones] + [row.assembly for row in conversion.rows])
    lit = {lamp.assembly for lamp in build.all(Lamp)}
    return tuple(
        AssemblyPlan(
            name,
            tuple(_zone(zone, colours) for zone in zones if zone.assembly == name),
            tuple(row.operation for row in conversion.rows if row.assembly == name),
            name in lit,
        )
        for name in names
    )


def _zone(zone: Zone, colours: Colours | None) -> ZonePlan:
    row = next((s for s in colours.surfaces if s.surface_id == zone.surface_id), None) if colours else None
    words = "colour still to be found"
    if row is not None:
        words = row.name
        if row.best is not None:
            words += ": " + ", ".join(f"{count} {name}" for name, count in row.best[0].drops)
    return ZonePlan(
        zone.name, zone.assembly, words, zone.medium, zone.sheen, zone.role, zone.wear, zone.decals,
        row.colour.lab[0] if row is not None and row.colour else None, zone.coats,
    )  # fmt: skip
