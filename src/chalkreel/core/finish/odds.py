"""How likely a plan ends by when: the plan played through many times, with what goes wrong at benches.

Steps keep the order of the plan; evenings are filled as they come. All runs are computed at once.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array, Flags
from chalkreel.core.finish.calendar import Window
from chalkreel.core.finish.problem import Problem
from chalkreel.core.finish.schedule import Schedule
from chalkreel.core.finish.timing import cures_for

RUNS: Final = 1000
# Spread of one duration and of a modeller's own pace (log-normal), of curing times; chances of what goes wrong.
DURATION_SPREAD, PACE_SPREAD, CURING_SPREAD = 0.35, 0.2, 0.15
EVENING_MISSED, SPRAY_REDONE = 0.1, 0.03


@dataclass(frozen=True)
class Odds:
    """Days by which half and four in five of the runs had ended, and the share that was dry in time for a deadline."""

    half: datetime
    four_in_five: datetime
    in_time: float | None


def odds(
    problem: Problem, plan: Schedule, sessions: tuple[Window, ...], begin: datetime, deadline: datetime | None = None,
    seed: int = 1,
) -> Odds:  # fmt: skip
    """Play a plan of a problem through; `sessions` go on for much longer than the plan, `begin` is where both begin."""
    random = np.random.default_rng(seed)
    number = {step.id: n for n, step in enumerate(problem.steps)}
    order = list(dict.fromkeys(number[slot.step_id] for slot in plan.slots))
    planned = np.array([task.minutes for task in problem.tasks], dtype=float) + _brush(plan, number)
    pace = np.exp(random.normal(0, PACE_SPREAD, (RUNS, 1)))
    minutes = planned * pace * np.exp(random.normal(0, DURATION_SPREAD, (RUNS, problem.count)))
    sprays = np.array([task.spray for task in problem.tasks])
    minutes *= 1 + (sprays & (random.random(minutes.shape) < SPRAY_REDONE))
    curing = np.clip(random.normal(1, CURING_SPREAD, minutes.shape), 0.5, 2.0)
    times = np.array([[_minutes(w.start, begin), _minutes(w.end, begin)] for w in sessions])
    clock = _Clock(times, random.random((RUNS, len(times))) >= EVENING_MISSED)
    ends, dry = np.zeros(minutes.shape), np.zeros(RUNS)
    for task in order:
        ready = np.full(RUNS, times[0, 0])
        for wait in problem.before[task]:
            ready = np.maximum(ready, ends[:, wait.step] + wait.least * curing[:, wait.step])
        for end, wait in problem.past[task]:
            ready = np.maximum(ready, end + wait.least)
        ends[:, task] = clock.work(ready, minutes[:, task], problem.tasks[task].split)
        dry = np.maximum(dry, ends[:, task] + 60 * cures_for(problem.steps[task]))
    half, most = np.quantile(ends.max(axis=1), (0.5, 0.8))
    in_time = None if deadline is None else float((dry <= _minutes(deadline, begin)).mean())
    return Odds(begin + timedelta(minutes=float(half)), begin + timedelta(minutes=float(most)), in_time)


def _minutes(at: datetime, begin: datetime) -> float:
    return (at - begin).total_seconds() / 60


def _brush(plan: Schedule, number: dict[str, int]) -> Array:
    """Minutes at the airbrush that go with each task: those since the one before it; the last ones go with the last."""
    found = np.zeros(len(number))
    waiting, last = 0.0, 0
    for slot in sorted((*plan.slots, *plan.airbrush), key=lambda s: s.start):
        if not slot.step_id:
            waiting += _minutes(slot.end, slot.start)
            continue
        last = number[slot.step_id]
        found[last] += waiting
        waiting = 0.0
    found[last] += waiting
    return found


class _Clock:
    """For every run the session it is in and the minute; hands are busy from one step to the next."""

    def __init__(self, sessions: Array, kept: Flags) -> None:
        self._begins, self._ends, self._kept = sessions[:, 0], sessions[:, 1], kept
        self._session = np.zeros(len(kept), dtype=int)
        self._now = np.full(len(kept), float(sessions[0, 0]))

    def work(self, ready: Array, minutes: Array, split: bool) -> Array:
        """Do one step in every run, no earlier than it is ready, and say when it ended."""
        left = minutes.copy()
        begin = np.maximum(self._now, ready)
        open_runs = np.ones(len(left), dtype=bool)
        ended: Array = begin.copy()
        while open_runs.any():
            session = np.minimum(self._session, len(self._begins) - 1)
            begin = np.maximum(np.maximum(self._begins[session], self._now), ready)
            room = np.where(self._kept[np.arange(len(left)), session], self._ends[session] - begin, 0.0)
            # A step longer than any evening is done in one all the same, as far as it goes.
            whole = self._ends[session] - self._begins[session]
            enough = (room >= left) | ((room >= whole - 1) & ~np.array(split) & (left > whole))
            last = self._session >= len(self._begins) - 1
            finished = open_runs & (enough | last)
            ended = np.where(finished, begin + left, ended)
            self._now = np.where(finished, ended, self._now)
            part = open_runs & ~finished & split & (room > 0)
            left = np.where(part, left - room, left)
            self._session = np.where(open_runs & ~finished, self._session + 1, self._session)
            open_runs &= ~finished
        return ended
