"""The finishing sequence: steps, their order, what is wrong with it, and when each happens."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import date, datetime, time
from itertools import takewhile
from typing import Final

from chalkreel.core.bench.lessons import Lesson, Reminder, reminders
from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.calendar import BenchSession, Window, windows
from chalkreel.core.finish.drying import USUAL_ROOM, Dried, Room, check_room, learnt
from chalkreel.core.finish.limits import Limit, limits
from chalkreel.core.finish.odds import Odds, odds
from chalkreel.core.finish.order import in_wished_order, valid_order, violations
from chalkreel.core.finish.pace import Took, minutes_at, paces
from chalkreel.core.finish.problem import problem_of
from chalkreel.core.finish.redone import WrongLayer, sanding_limits, with_sanding, wrong_id
from chalkreel.core.finish.risks import Risk, risks
from chalkreel.core.finish.schedule import Effort, Schedule, schedule
from chalkreel.core.finish.stacks import JOBS, AssemblyPlan, Schools, steps_for
from chalkreel.core.finish.steps import Step, step_kinds
from chalkreel.core.finish.surface import Violation
from chalkreel.core.finish.timing import Untimely, uncured
from chalkreel.document.finish_entities import Evening

Progress = Callable[[float], bool]
# Builds with so few steps left are refined unasked, and for so long.
SMALL: Final = 60
AT_ONCE: Final = Effort(2.0)


@dataclass(frozen=True)
class Sequence:
    """Steps in the order that stands, broken rules, the schedule of what is left, and lessons for it.

    `limits` are the waits that the rules ask for; `ends` says when steps that are done ended, where that is known;
    `evenings` are the stretches at the bench from `now` until all is done; `better` is what a search found that keeps
    no order. `likely` and `better_likely` are how sure their ends are, `uncured` what is not dry for the deadline.
    """

    steps: tuple[Step, ...]
    repaired: tuple[str, ...]
    broken: tuple[Violation, ...]
    timetable: Schedule | None
    problem: str
    reminders: tuple[Reminder, ...]
    limits: tuple[Limit, ...] = ()
    ends: tuple[tuple[str, datetime], ...] = ()
    evenings: tuple[Window, ...] = ()
    better: Schedule | None = None
    better_likely: Odds | None = None
    likely: Odds | None = None
    uncured: tuple[Untimely, ...] = ()
    risks: tuple[Risk, ...] = ()
    asked: SequenceInputs | None = None
    now: datetime = datetime.min
    room: Room = USUAL_ROOM

    @property
    def by_plan(self) -> tuple[Step, ...]:
        """Steps as they are worked: what is done, then by the plan's hours, then what has no hour."""
        starts = {slot.step_id: slot.start for slot in reversed(self.timetable.slots if self.timetable else ())}
        done = frozenset(self.asked.done if self.asked else ())
        planned = sorted((step for step in self.steps if step.id in starts), key=lambda step: starts[step.id])
        rest = [step for step in self.steps if step.id not in starts]
        return (*(s for s in rest if s.id in done), *planned, *(s for s in rest if s.id not in done))

    @property
    def checked(self) -> int:
        """How many pairs of steps the order rules speak of."""
        return len(self.limits)


@dataclass(frozen=True)
class SequenceInputs:
    """All that the sequence depends on; nothing can be done before `now`.

    `taken` is the plan that the user took from those that were offered.
    """

    assemblies: tuple[AssemblyPlan, ...]
    schools: Schools
    order: tuple[str, ...]
    done: tuple[str, ...]
    done_at: tuple[tuple[str, datetime], ...]
    first_bench_day: str
    evenings: tuple[Evening, ...]
    days_off: tuple[tuple[str, str], ...]
    deadline: str
    room: Room
    lessons: tuple[Lesson, ...]
    took: tuple[tuple[str, int], ...]
    dried: tuple[tuple[str, float, Room], ...]
    minutes_left: tuple[tuple[str, int], ...]
    wrong: tuple[WrongLayer, ...]
    taken: Schedule | None
    now: datetime


def sequence(inputs: SequenceInputs, progress: Progress = lambda _: True, kept: Schedule | None = None) -> Sequence:
    """Steps for all assemblies; the user's order where there is one, else a valid order.

    The plan keeps the user's order, else order and days of the plan before (`kept`), so that only what must move does.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    steps = with_sanding(tuple(_timed(inputs, steps_for(inputs.assemblies, inputs.schools))), inputs.wrong)
    laid = {wrong_id(one.step_id): one.ended for one in inputs.wrong if wrong_id(one.step_id) not in inputs.done}
    inputs = replace(inputs, done=(*inputs.done, *laid), done_at=(*inputs.done_at, *laid.items()))
    mediums = {step.id: step.medium for step in steps}
    own = learnt(Dried(mediums.get(step_id, ""), hours, room) for step_id, hours, room in inputs.dried)
    inputs = replace(inputs, room=replace(inputs.room, own=own))
    problem, room = "", inputs.room
    try:
        check_room(room)
    except RefusedError as refusal:
        # The order can still be told; the times cannot.
        problem, room = str(refusal), USUAL_ROOM
    found = (*limits(steps, room), *sanding_limits(steps, inputs.wrong, room))
    valid = valid_order(steps, found, inputs.order)
    before = tuple(dict.fromkeys(slot.step_id for slot in kept.slots)) if kept is not None else ()
    if not {step.id for step in steps} - set(inputs.done) <= set(before):
        # There is something new to be done: nothing is gained by keeping days that did not know of it.
        kept, before = None, ()
    standing = in_wished_order(valid, inputs.order) if inputs.order else valid_order(steps, found, before)
    timetable = None
    if not problem:
        try:
            wished = bool(inputs.order) or kept is not None
            timetable = _timetable(inputs, standing, found, wished, progress, None if inputs.order else kept)
        except RefusedError as refusal:
            problem = str(refusal)
    left = tuple(step for step in standing if step.id not in inputs.done)
    plain = Sequence(
        standing, tuple(s.id for s in valid), violations(standing, found), None, problem,
        reminders(inputs.lessons, left), found, inputs.done_at, now=inputs.now, room=room, asked=inputs,
    )  # fmt: skip
    return _planned(plain, timetable) if timetable is not None else plain


def to_search(found: Sequence, fresh: bool) -> bool:
    """Whether a search without an order to keep may find something better, unasked."""
    inputs, table = found.asked, found.timetable
    return inputs is not None and table is not None and (bool(inputs.order) or not fresh or len(table.spans) <= SMALL)


def searched(found: Sequence, fresh: bool, progress: Progress = lambda _: True) -> Sequence:
    """A plan beside that which a search without any order to keep finds; taken at once where it keeps more windows.

    A `fresh` plan kept none; that of a small build is refined as far as that goes in two seconds.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    inputs, table = found.asked, found.timetable
    if inputs is None or table is None:
        return found
    free = table
    if inputs.order or not fresh:
        free = _without_order(inputs, found, progress)
    if len(table.spans) <= SMALL:
        free = _refined(found, free, AT_ONCE, progress)
    if len(free.missed) < len(table.missed) and not inputs.order:
        return _planned(found, free)
    return _beside(found, free)


def searched_on(found: Sequence, effort: Effort, progress: Progress = lambda _: True) -> Sequence:
    """A plan beside a better one, where the constraint solver finds one, from the best that is known.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    inputs, table = found.asked, found.timetable
    if inputs is None or table is None:
        return found
    known = found.better or table
    if inputs.order and found.better is None:
        # An order of one's own may break rules, which the solver would keep.
        known = _without_order(inputs, found, progress)
    return _beside(found, _refined(found, known, effort, progress))


def _without_order(inputs: SequenceInputs, found: Sequence, progress: Progress) -> Schedule:
    return _timetable(inputs, valid_order(found.steps, found.limits), found.limits, False, progress)


def _beside(found: Sequence, better: Schedule) -> Sequence:
    inputs = found.asked
    assert inputs is not None
    return replace(found, better=better, better_likely=_likely(inputs, found.steps, found.limits, better))


def _refined(found: Sequence, plan: Schedule, effort: Effort, progress: Progress) -> Schedule:
    from chalkreel.core.finish.refining import refined  # noqa: PLC0415 - slow to load, and not every build needs it

    inputs = found.asked
    if inputs is None or not plan.slots:
        return plan
    left, done = _left_and_done(inputs, valid_order(found.steps, found.limits))
    return refined(
        plan, left, found.limits, tuple(bench_windows(inputs)), _begin(inputs), done, inputs.room, effort, progress
    )  # fmt: skip


def _planned(found: Sequence, timetable: Schedule) -> Sequence:
    """A sequence with a plan, and what follows from that."""
    inputs = found.asked
    assert inputs is not None
    evenings = _evenings(inputs, timetable)
    return replace(
        found, timetable=timetable, better=None, better_likely=None, evenings=evenings,
        likely=_likely(inputs, found.steps, found.limits, timetable), uncured=_uncured(inputs, found.steps, timetable),
        risks=risks(found.steps, timetable, evenings, found.room),
    )  # fmt: skip


def _timed(inputs: SequenceInputs, steps: tuple[Step, ...]) -> Iterator[Step]:
    """Steps with the minutes this modeller takes, and what is left of those half done; jobs keep their own hours."""
    kinds = step_kinds()
    usual, by_kind = paces(Took(kind, kinds[kind].minutes, real) for kind, real in inputs.took if kind in kinds)
    left = dict(inputs.minutes_left)
    for step in steps:
        learnt = step.minutes if step.kind in JOBS else minutes_at(step.minutes, by_kind.get(step.kind, usual))
        yield replace(step, minutes=min(learnt, left.get(step.id, learnt)))


def _timetable(
    inputs: SequenceInputs, order: tuple[Step, ...], found: tuple[Limit, ...], wished: bool, progress: Progress,
    kept: Schedule | None = None,
) -> Schedule:  # fmt: skip
    left, done = _left_and_done(inputs, order)
    return schedule(
        left, found, bench_windows(inputs), _begin(inputs), done, inputs.room, wished, kept, progress
    )  # fmt: skip


def _likely(
    inputs: SequenceInputs, order: tuple[Step, ...], found: tuple[Limit, ...], timetable: Schedule
) -> Odds | None:
    if not timetable.slots:
        return None
    begin = _begin(inputs)
    left, done = _left_and_done(inputs, order)
    problem = problem_of(left, found, inputs.room, begin, done)
    return odds(problem, timetable, tuple(bench_windows(inputs)), begin, packed(inputs))


def _left_and_done(inputs: SequenceInputs, order: tuple[Step, ...]) -> tuple[tuple[Step, ...], dict[Step, datetime]]:
    """The steps that are left, in order, and when those that are done ended."""
    ends = dict(inputs.done_at)
    left = tuple(step for step in order if step.id not in inputs.done)
    return left, {step: ends[step.id] for step in order if step.id in inputs.done and step.id in ends}


def packed(inputs: SequenceInputs) -> datetime | None:
    """When it must be dry: at the beginning of the day of the deadline."""
    return datetime.combine(_day(inputs.deadline), time()) if inputs.deadline else None


def _uncured(inputs: SequenceInputs, order: tuple[Step, ...], timetable: Schedule) -> tuple[Untimely, ...]:
    by = packed(inputs)
    if by is None:
        return ()
    return uncured(order, timetable.spans, by)


def bench_windows(inputs: SequenceInputs) -> Iterator[Window]:
    """The stretches at the bench from now on."""
    off = tuple((_day(first), _day(last)) for first, last in inputs.days_off)
    return windows(tuple(map(_session, inputs.evenings)), _begin(inputs), off)


def _evenings(inputs: SequenceInputs, timetable: Schedule) -> tuple[Window, ...]:
    if timetable.finish is None:
        return ()
    finish = timetable.finish
    return tuple(takewhile(lambda window: window.start < finish, bench_windows(inputs)))


def _begin(inputs: SequenceInputs) -> datetime:
    """The first bench day, while it lies ahead; now from then on."""
    if not inputs.first_bench_day:
        return inputs.now
    return max(datetime.combine(_day(inputs.first_bench_day), time()), inputs.now)


def _day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise RefusedError(f"“{text}” is not a day of the calendar. Type it like 2026-12-01.") from error


def _session(evening: Evening) -> BenchSession:
    start, end = time.fromisoformat(evening.start), time.fromisoformat(evening.end)
    return BenchSession(evening.weekday, start, end, _day(evening.day) if evening.day else None)
