"""A plan made better by a constraint solver: it ends on an earlier evening, or with less cleaning on the same.

First the earliest finish, then, within that evening, the fewest fillings of a cup and every step as early as may be,
the more so the more wait for it, so that what goes wrong finds time. The solver is CP-SAT: lazy clause generation with
large neighbourhoods (Stuckey 2010; Shaw 1998).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date, datetime
from threading import Event, Thread
from time import monotonic
from typing import Final

from ortools.sat.python.cp_model import FEASIBLE, OPTIMAL, CpSolver, LinearExpr, LinearExprT

from chalkreel.core.errors import StoppedError
from chalkreel.core.finish.airbrush import SET_UP, STRIP_DOWN
from chalkreel.core.finish.bound import Sessions
from chalkreel.core.finish.calendar import Window
from chalkreel.core.finish.constraint_model import Brush, PlanModel
from chalkreel.core.finish.drying import Room
from chalkreel.core.finish.forward import Piece
from chalkreel.core.finish.limits import Limit
from chalkreel.core.finish.problem import Problem, problem_of
from chalkreel.core.finish.schedule import Effort, Schedule, minute_at, stretch_of, told
from chalkreel.core.finish.steps import Step

# Minutes of one step, for which nothing else waits, that a filling of a cup is worth.
_FILLING: Final = 6000
# What the second search gets of the time.
_SECOND: Final = 0.3
_ASKED_EVERY: Final = 0.05
Progress = Callable[[float], bool]


def refined(
    plan: Schedule, steps: tuple[Step, ...], limits: tuple[Limit, ...], sessions: tuple[Window, ...], begin: datetime,
    done: dict[Step, datetime], room: Room, effort: Effort, progress: Progress,
) -> Schedule:  # fmt: skip
    """A plan that ends on an earlier day, or on the same with fewer cleanings; the plan itself where none is found.

    `steps` are those that are left, in an order that keeps the limits; the rest is as in `schedule`.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    problem = problem_of(steps, limits, room, begin, done)
    place = {step.id: number for number, step in enumerate(steps)}
    pieces = [
        Piece(place.get(s.step_id, -1), minute_at(s.start, begin), minute_at(s.end, begin), s.what)
        for s in (*plan.slots, *plan.airbrush)
    ]
    relaxed = frozenset(
        (place[one.first], place[one.then]) for one in plan.missed if one.first in place and one.then in place
    )
    found = told(
        problem, _refined(problem, tuple(stretch_of(w, begin) for w in sessions), pieces, relaxed, effort, progress),
        limits, done, begin, room,
    )  # fmt: skip
    return replace(found, bound=plan.bound) if _cost(found, begin) < _cost(plan, begin) else plan


def _cost(plan: Schedule, begin: datetime) -> tuple[int, date, int, int]:
    """Windows missed, the last day, cleanings, and the sum of all begins."""
    late = sum(minute_at(start, begin) for start, _ in plan.spans.values())
    return len(plan.missed), plan.finish.date() if plan.finish else date.min, plan.cleanings, late


def _refined(
    problem: Problem, sessions: Sessions, plan: list[Piece], relaxed: frozenset[tuple[int, int]], effort: Effort,
    progress: Progress,
) -> list[Piece]:  # fmt: skip
    end = max(piece.end for piece in plan if piece.task >= 0)
    model = PlanModel(problem, sessions, plan, _evening_of(end, sessions), relaxed)
    first = _Search(model, effort, progress)
    if first.run(model.finish, effort.seconds * (1 - _SECOND), 0.0):
        end = first.solver.value(model.finish)
    model.model.add(model.finish <= _evening_of(end, sessions))
    second = _Search(model, effort, progress)
    second.begin_from(first)
    late = LinearExpr.weighted_sum([*model.starts, *model.runs], [*model.weights, *[_FILLING] * len(model.runs)])
    if second.run(late, effort.seconds * _SECOND, 1 - _SECOND):
        return _pieces(model, second.solver)
    return _pieces(model, first.solver) if first.found else plan


def _evening_of(minute: int, sessions: Sessions) -> int:
    """The end of the session in which a minute lies."""
    return next(end for begin, end in sessions if begin < minute <= end)


class _Search:
    """One search for the least of something; it asks `progress` now and then whether to go on."""

    def __init__(self, model: PlanModel, effort: Effort, progress: Progress) -> None:
        self.model, self.progress, self.found = model, progress, False
        self.solver = CpSolver()
        self.solver.parameters.num_workers = effort.workers
        self.solver.parameters.random_seed = effort.seed
        # Measured: these take longer than they save.
        self.solver.parameters.cp_model_probing_level = 0
        self.solver.parameters.symmetry_level = 0
        self.solver.parameters.linearization_level = 0
        self._seconds = effort.seconds

    def begin_from(self, other: _Search) -> None:
        """Begin from what another search has found."""
        if other.found:
            model = self.model.model
            model.clear_hints()  # type: ignore[no-untyped-call]
            for place, value in enumerate(other.solver.response_proto.solution):
                model.add_hint(model.get_int_var_from_proto_index(place), value)

    def run(self, least: LinearExprT, seconds: float, done: float) -> bool:
        """Whether anything was found."""
        self.solver.parameters.max_time_in_seconds = max(seconds, _ASKED_EVERY)
        self.model.model.minimize(least)
        begun, over, stopped = monotonic(), Event(), Event()

        def ask() -> None:
            while not over.wait(_ASKED_EVERY):
                share = done + (monotonic() - begun) / self._seconds
                if not self.progress(min(share, 1.0)):
                    stopped.set()
                    self.solver.stop_search()

        watch = Thread(target=ask, daemon=True)
        watch.start()
        self.found = self.solver.solve(self.model.model) in (OPTIMAL, FEASIBLE)
        over.set()
        watch.join()
        if stopped.is_set():
            raise StoppedError
        return self.found


def _pieces(model: PlanModel, solver: CpSolver) -> list[Piece]:
    found = [
        Piece(number, start, start + size)
        for number, parts in enumerate(model.parts)
        for part in parts
        if (size := solver.value(part.size)) > 0
        for start in (solver.value(part.start),)
    ]
    for brush in model.brushes.values():
        if solver.boolean_value(brush.used):
            found += _cleaning(brush, solver)
    return sorted(found, key=lambda piece: piece.start)


def _cleaning(brush: Brush, solver: CpSolver) -> list[Piece]:
    ready = solver.value(brush.ready)
    found = [Piece(-1, ready - SET_UP, ready, "set up")]
    for run in brush.runs:
        if solver.boolean_value(run.there):
            last = solver.boolean_value(run.last)
            end = solver.value(run.out) + (STRIP_DOWN if last else 0)
            found.append(Piece(-1, solver.value(run.wash), end, "clean" if last else "flush"))
    return found
