"""The steps that are left, as numbers: minutes, waits, and what must fit into one session."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from math import ceil, floor

from chalkreel.core.finish.airbrush import cup, flush_minutes
from chalkreel.core.finish.drying import Room
from chalkreel.core.finish.limits import Limit
from chalkreel.core.finish.steps import Step

# A longest wait up to this many hours ties two steps so closely that the first is not begun before the second is sure.
TIED_HOURS = 96.0


@dataclass(frozen=True)
class Wait:
    """Minutes between the end of a step and the begin of another: at least, at most, and not between `closed`."""

    step: int
    least: int
    most: int | None
    closed: tuple[int, int] | None


@dataclass(frozen=True)
class Task:
    """A step in minutes: how long it keeps its assembly from being touched, what is in the cup, how long to clean.

    One that `touches_soft` minds no wet paint; one that `spares_own_zone` not that of its zone, over which it sprays;
    one that `handles_all` that of every assembly.
    """

    minutes: int
    spray: bool
    split: bool
    assembly: str
    zone: str
    lock: int
    touches_soft: bool
    spares_own_zone: bool
    handles_all: bool
    cup: tuple[str, str]
    flush: int


@dataclass(frozen=True)
class Problem:
    """Tasks, what each waits for and what waits for it (both by number), and ends of steps already done.

    `held` says before which minute a task is not begun, so that what must follow it within days finds its time.
    """

    steps: tuple[Step, ...]
    tasks: tuple[Task, ...]
    before: tuple[tuple[Wait, ...], ...]
    after: tuple[tuple[Wait, ...], ...]
    past: tuple[tuple[tuple[int, Wait], ...], ...]
    locked: dict[tuple[str, str], int]
    tails: tuple[int, ...]
    held: tuple[int, ...]

    @property
    def count(self) -> int:
        """How many steps are left."""
        return len(self.tasks)


def problem_of(
    steps: tuple[Step, ...], limits: tuple[Limit, ...], room: Room, begin: datetime, done: dict[Step, datetime],
) -> Problem:  # fmt: skip
    """What is left to do; a limit that the order of `steps` breaks is not waited for. Minutes count from `begin`."""
    place = {step.id: number for number, step in enumerate(steps)}
    ends = {step.id: _minutes(at, begin) for step, at in done.items()}
    kept = [
        c for c in limits if c.then in place and (c.first in ends or place.get(c.first, len(place)) < place[c.then])
    ]
    before = _merged([c for c in kept if c.first in place and c.first not in ends], place)
    past: list[list[tuple[int, Wait]]] = [[] for _ in steps]
    for c in kept:
        if c.first in ends:
            past[place[c.then]].append((ends[c.first], _wait(c, -1)))
    after: list[list[Wait]] = [[] for _ in steps]
    for then, found in enumerate(before):
        for wait in found:
            after[wait.step].append(Wait(then, wait.least, wait.most, wait.closed))
    tasks = tuple(_task(step, room) for step in steps)
    locked: dict[tuple[str, str], int] = {}
    for step, at in done.items():
        place_of, until = (step.assembly, step.zone), _minutes(at, begin) + _task(step, room).lock
        locked[place_of] = max(locked.get(place_of, until), until)
    return Problem(
        steps, tasks, before, tuple(map(tuple, after)), tuple(map(tuple, past)), locked, _tails(tasks, after),
        (-(10**9),) * len(tasks),
    )  # fmt: skip


def _minutes(at: datetime, begin: datetime) -> int:
    return round((at - begin).total_seconds() / 60)


def _wait(c: Limit, step: int) -> Wait:
    most = None if c.max_hours is None else floor(c.max_hours * 60)
    closed = None if c.closed is None else (ceil(c.closed[0] * 60), ceil(c.closed[1] * 60))
    return Wait(step, ceil(c.min_hours * 60), most, closed)


def _merged(kept: list[Limit], place: dict[str, int]) -> tuple[tuple[Wait, ...], ...]:
    """One wait a pair: the longest least, the shortest most."""
    found: list[dict[int, Wait]] = [{} for _ in place]
    for c in kept:
        new, there = _wait(c, place[c.first]), found[place[c.then]]
        old = there.get(new.step)
        if old is not None:
            most = [m for m in (old.most, new.most) if m is not None]
            new = Wait(new.step, max(old.least, new.least), min(most) if most else None, old.closed or new.closed)
        there[new.step] = new
    return tuple(tuple(one.values()) for one in found)


def _task(step: Step, room: Room) -> Task:
    lock = ceil(step.dries("touch", room)[1] * 60) if step.leaves_wet else 0
    return Task(
        step.minutes, step.spray, step.split, step.assembly, step.zone, lock, step.touches_soft, step.spares_own_zone,
        step.handles_all,
        cup(step), flush_minutes(step),
    )  # fmt: skip


def _tails(tasks: tuple[Task, ...], after: list[list[Wait]]) -> tuple[int, ...]:
    """Minutes from the begin of each task to the end of all that waits for it, bench evenings left out."""
    tails = [-1] * len(tasks)

    def tail(number: int) -> int:
        if tails[number] < 0:
            rest = max((wait.least + tail(wait.step) for wait in after[number]), default=0)
            tails[number] = tasks[number].minutes + rest
        return tails[number]

    # Steps come in an order that keeps the waits, so the last ones are known first and nothing recurses deeply.
    for number in reversed(range(len(tasks))):
        tail(number)
    return tuple(tails)
