"""The finishing sequence: steps, their order, what is wrong with it, and when each happens."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, time

from chalkreel.answers.colours import Colours
from chalkreel.answers.conversion import Conversion
from chalkreel.answers.log import in_time
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
    """Steps in the order that stands, broken rules, the schedule of what is left, and lessons for it.

    `checked` is how many pairs of steps the order rules speak of.
    """

    steps: tuple[Step, ...]
    repaired: tuple[str, ...]
    broken: tuple[Violation, ...]
    timetable: Schedule | None
    problem: str
    reminders: tuple[Reminder, ...]
    checked: int = 0


@dataclass(frozen=True)
class SequenceInputs:
    """All that the sequence depends on; nothing can be done before `now`."""

    assemblies: tuple[AssemblyPlan, ...]
    order: tuple[str, ...]
    done: tuple[str, ...]
    done_at: tuple[tuple[str, datetime], ...]
    first_bench_day: str
    sessions: tuple[BenchSession, ...]
    lessons: tuple[Lesson, ...]
    now: datetime


def sequence_inputs(build: Build, conversion: Conversion, colours: Colours | None, now: datetime) -> SequenceInputs:
    """What a build says of its sequence."""
    info = build.info
    lessons = tuple(Lesson(e.words, e.step_kind) for e in build.all(LogEntry) if e.lesson)
    assemblies = _assemblies(build, conversion, colours)
    return SequenceInputs(
        assemblies, info.order, info.done, _done_at(build), info.first_bench_day, _sessions(build), lessons, now
    )


def _done_at(build: Build) -> tuple[tuple[str, datetime], ...]:
    """When steps ended: as ticked, else as the log has it."""
    logged = {e.step_id: datetime.fromisoformat(e.at) for e in in_time(build.all(LogEntry)) if e.step_id}
    found = logged | {step_id: datetime.fromisoformat(at) for step_id, at in build.info.done_at}
    # Times are kept as the clock on the wall had them.
    return tuple((i, at.replace(tzinfo=None)) for i, at in found.items() if i in build.info.done)


def sequence(inputs: SequenceInputs) -> Sequence:
    """Steps for all assemblies; the user's order where there is one, else a valid order."""
    steps = steps_for(inputs.assemblies)
    valid = valid_order(steps, inputs.order)
    standing = in_wished_order(valid, inputs.order) if inputs.order else valid
    left = tuple(step for step in standing if step.id not in inputs.done)
    timetable, problem, limits = None, "", constraints(standing)
    try:
        timetable = schedule(left, limits, inputs.sessions, _begin(inputs), dict(inputs.done_at))
    except RefusedError as refusal:
        problem = str(refusal)
    return Sequence(
        standing, tuple(s.id for s in valid), violations(standing), timetable, problem,
        reminders(inputs.lessons, left), len(limits),
    )  # fmt: skip


def _begin(inputs: SequenceInputs) -> datetime:
    """The first bench day, while it lies ahead; now from then on."""
    if not inputs.first_bench_day:
        return inputs.now
    return max(datetime.combine(date.fromisoformat(inputs.first_bench_day), time()), inputs.now)


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
