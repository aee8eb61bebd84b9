"""When each step happens: the best of several forward passes through the bench evenings.

While one assembly cures, work goes on at another; every longest wait is kept wherever an evening allows it.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from types import MappingProxyType

from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.finish.bound import earliest_finish, latest_first
from chalkreel.core.finish.calendar import Window
from chalkreel.core.finish.drying import USUAL_ROOM, Room
from chalkreel.core.finish.forward import ForwardPass, Piece, StuckError, Style
from chalkreel.core.finish.limits import Limit
from chalkreel.core.finish.problem import TIED_HOURS, Problem, problem_of
from chalkreel.core.finish.steps import Step
from chalkreel.core.finish.timing import Untimely, untimely

# Passes are counted and not timed, so that the same build gives the same plan on every machine.
_STEPS_TRIED = 2400
_MOST_PASSES, _FEWEST_PASSES = 24, 4
_FIRST = (Style(), Style(), Style(3000.0))


@dataclass(frozen=True)
class Slot:
    """A stretch of work on a step; a long step has several. Without a step it is the airbrush: `what` says what."""

    step_id: str
    start: datetime
    end: datetime
    what: str = ""


@dataclass(frozen=True)
class Schedule:
    """Slots of steps in time order, those of the airbrush, and the steps that do not come at their time.

    No plan of these steps can end before `bound`.
    """

    slots: tuple[Slot, ...]
    missed: tuple[Untimely, ...]
    airbrush: tuple[Slot, ...] = ()
    bound: datetime | None = None

    @property
    def finish(self) -> datetime | None:
        """When the last step ends."""
        return self.slots[-1].end if self.slots else None

    @property
    def spans(self) -> dict[str, tuple[datetime, datetime]]:
        """Begin and end of every step, by id."""
        found: dict[str, tuple[datetime, datetime]] = {}
        for slot in self.slots:
            found[slot.step_id] = (found[slot.step_id][0] if slot.step_id in found else slot.start, slot.end)
        return found

    @property
    def cleanings(self) -> int:
        """How often the airbrush is flushed or put away."""
        return sum(slot.what != "set up" for slot in self.airbrush)


@dataclass(frozen=True)
class Effort:
    """How many seconds to search, on how many processors; another `seed` searches elsewhere first."""

    seconds: float
    seed: int = 0
    workers: int = 2


def schedule(
    steps: tuple[Step, ...], limits: tuple[Limit, ...], sessions: Iterable[Window], begin: datetime,
    done: Mapping[Step, datetime] = MappingProxyType({}), room: Room = USUAL_ROOM, wished: bool = False,
    kept: Schedule | None = None, progress: Callable[[float], bool] = lambda _: True,
) -> Schedule:  # fmt: skip
    """Place every step from `begin` on, waiting as the limits say.

    A limit that the order of the steps breaks is not waited for. `done` says when steps that are no longer among
    `steps` ended: what they began to cure goes on. With `wished` the steps keep close to the order given, and none
    begins sooner than in a plan that is to be `kept`; where that still holds, it stands as it is.

    Raises
    ------
    RefusedError
        No end within two years.
    StoppedError
        `progress` said to stop.
    """
    sessions = tuple(sessions)
    problem = problem_of(steps, limits, room, begin, dict(done))
    stretches = tuple(stretch_of(window, begin) for window in sessions)
    bound = earliest_finish(problem, stretches)
    proven = None if bound is None else begin + timedelta(minutes=bound)
    if kept is not None and (same := _still_holding(kept, problem, sessions, limits, dict(done), begin, room)):
        return replace(same, bound=proven)
    if wished:
        problem = replace(problem, tails=_in_turn(problem, kept is not None), held=_as_before(problem, kept, begin))
    best: tuple[tuple[int, datetime, int], Schedule] | None = None
    enough = 1 if wished else _passes(problem.count)
    for number in range(_MOST_PASSES):
        if number >= enough and (wished or (best is not None and not best[1].missed)):
            break
        if not progress(min(number / enough, 1.0)):
            raise StoppedError
        # What one pass had to give up another may keep.
        pieces = _kept(problem, stretches, _style(number, wished))
        found = told(problem, pieces, limits, dict(done), begin, room)
        cost = (len(found.missed), found.finish or begin, found.cleanings)
        if best is None or cost < best[0]:
            best = (cost, found)
        problem = replace(problem, held=_held(problem, found, begin))
        if number == 0 and pieces and not wished:
            problem = replace(problem, tails=latest_first(problem, stretches, pieces[-1].end))
    assert best is not None
    return replace(best[1], bound=proven)


def _in_turn(problem: Problem, kept: bool) -> tuple[int, ...]:
    """Steps as ordered; of a kept plan those that were left and taken up again fill the time between the others."""
    count = problem.count
    return tuple(
        count - number - (count if kept and task.split else 0) for number, task in enumerate(problem.tasks)
    )  # fmt: skip


def _as_before(problem: Problem, kept: Schedule | None, begin: datetime) -> tuple[int, ...]:
    """The minute at which each step began in the plan before, for it not to begin sooner."""
    starts = {slot.step_id: slot.start for slot in reversed(kept.slots)} if kept is not None else {}
    return tuple(
        minute_at(starts[step.id], begin) if step.id in starts else held
        for step, held in zip(problem.steps, problem.held, strict=True)
    )


def _still_holding(
    kept: Schedule, problem: Problem, sessions: tuple[Window, ...], limits: tuple[Limit, ...],
    done: dict[Step, datetime], begin: datetime, room: Room,
) -> Schedule | None:  # fmt: skip
    """The plan before without what is done since; None where a step, an evening or a wait has changed."""
    left = {step.id: step.minutes for step in problem.steps}
    slots = tuple(slot for slot in kept.slots if slot.step_id in left)
    minutes = dict.fromkeys(left, 0)
    for slot in slots:
        minutes[slot.step_id] += minute_at(slot.end, slot.start)
    sprayed = {step.id for step in problem.steps if step.spray}
    days = {slot.start.date() for slot in slots if slot.step_id in sprayed}
    brush = tuple(slot for slot in kept.airbrush if slot.start.date() in days and slot.start >= begin)
    inside = _inside((*slots, *brush), sessions)
    if minutes != left or not inside:
        return None
    plan = Schedule(slots, (), brush)
    missed = _missed(plan, problem, limits, done, room)
    return replace(plan, missed=missed) if all(one in kept.missed for one in missed) else None


def _inside(slots: tuple[Slot, ...], sessions: tuple[Window, ...]) -> bool:
    starts = [window.start for window in sessions]
    found = [(slot, bisect_right(starts, slot.start) - 1) for slot in slots]
    return all(number >= 0 and slot.end <= sessions[number].end for slot, number in found)


def minute_at(at: datetime, begin: datetime) -> int:
    """Minutes from the begin of the plan."""
    return round((at - begin).total_seconds() / 60)


def _held(problem: Problem, found: Schedule, begin: datetime) -> tuple[int, ...]:
    """Steps begun so early that what must follow within days came too late are held back in the next pass."""
    place = {step.id: number for number, step in enumerate(problem.steps)}
    starts = {slot.step_id: slot.start for slot in reversed(found.slots)}
    held = list(problem.held)
    for one in found.missed:
        if one.most is not None and one.least is None and one.most > TIED_HOURS and one.first in place:
            number = place[one.first]
            latest = starts[one.then] - timedelta(hours=one.most) - begin
            held[number] = max(held[number], round(latest.total_seconds() / 60) - problem.tasks[number].minutes)
    return tuple(held)


def stretch_of(window: Window, begin: datetime) -> tuple[int, int]:
    """Begin and end of a session, in minutes from the begin of the plan."""
    start = minute_at(window.start, begin)
    return start, start + window.minutes


def _passes(count: int) -> int:
    return min(_MOST_PASSES, max(_FEWEST_PASSES, _STEPS_TRIED // max(count, 1)))


def _style(number: int, wished: bool) -> Style:
    """The first passes as they are, then with chance in them; a cup already filled is prized more or less."""
    if wished:
        return Style(same_cup=0.0)
    if number < len(_FIRST):
        return _FIRST[number]
    return Style((300.0, 3000.0, 1000.0)[number % 3], 0.04 * (1 + number % 4), number, (0, 0, 0, 40)[number % 4])


def _kept(problem: Problem, stretches: tuple[tuple[int, int], ...], style: Style) -> list[Piece]:
    """One pass; a longest wait for which no session has room is given up, and told of afterwards."""
    for _ in range(problem.count + 1):
        try:
            return ForwardPass(problem, stretches, style).run()
        except StuckError as found:
            stuck = found
            tied = {(stuck.task, w.step) for w in problem.after[stuck.task] if w.most is not None} - style.relaxed
            if not tied:
                break
            style = replace(style, relaxed=style.relaxed | tied)
    raise RefusedError(
        "This plan does not end within two years of bench evenings. Add evenings, make one long enough for "
        f"“{problem.steps[stuck.task].title}”, or shorten the plan."
    )


def told(
    problem: Problem, pieces: list[Piece], limits: tuple[Limit, ...], done: dict[Step, datetime], begin: datetime,
    room: Room,
) -> Schedule:  # fmt: skip
    """A plan as dates, with what of it does not come at its time."""
    slots = [
        Slot(
            problem.steps[p.task].id if p.task >= 0 else "",
            begin + timedelta(minutes=p.start),
            begin + timedelta(minutes=p.end),
            p.what,
        )
        for p in pieces
    ]
    plan = Schedule(tuple(s for s in slots if s.step_id), (), tuple(s for s in slots if not s.step_id))
    return replace(plan, missed=_missed(plan, problem, limits, done, room))


def _missed(
    plan: Schedule, problem: Problem, limits: tuple[Limit, ...], done: dict[Step, datetime], room: Room
) -> tuple[Untimely, ...]:
    """Planned steps that do not come at their time; of those done only the end is known."""
    planned = plan.spans
    ended = {step.id: (at, at) for step, at in done.items()}
    found = untimely((*done, *problem.steps), ended | planned, limits, room)
    return tuple(one for one in found if one.then in planned)
