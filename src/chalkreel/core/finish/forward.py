"""One forward pass through the bench evenings: at every moment the best step that can be begun.

Parallel schedule generation (Kelley 1963; priority by the longest way to the end, Kolisch & Hartmann 1999). What must
follow within hours is looked ahead for: a step is not begun unless what it forces can be kept in time.
"""

from __future__ import annotations

from dataclasses import dataclass
from random import Random

from chalkreel.core.finish.airbrush import LEFT_IN_CUP, SET_UP, STRIP_DOWN
from chalkreel.core.finish.problem import TIED_HOURS, Problem, Wait

LEAST_PIECE = 15
_TIED = round(TIED_HOURS * 60)
_FAR = 10**9
# A long wait that ends within this many minutes lets its step go before others.
_SOON = 5 * 1440
# No chain of steps that force one another is longer than this; beyond it a step is taken not to fit.
_LOOKED_AHEAD = 16
Supposed = dict[int, tuple[int, int]]


@dataclass(frozen=True)
class Piece:
    """A stretch of a task (by number), or of cleaning the airbrush (task -1, with what was in the cup)."""

    task: int
    start: int
    end: int
    what: str = ""


@dataclass(frozen=True)
class Style:
    """What a pass prefers: minutes of delay that one cleaning is worth, how random it is, and steps held back.

    `relaxed` are pairs whose longest wait is not looked at, since no session can keep it.
    """

    same_cup: float = 600.0
    noise: float = 0.0
    seed: int = 0
    spray_from: int = 0
    relaxed: frozenset[tuple[int, int]] = frozenset()


class StuckError(Exception):
    """No session ever has room for this task with all that it forces."""

    def __init__(self, task: int) -> None:
        super().__init__(task)
        self.task = task


class ForwardPass:
    """The state of one pass; `run` gives its pieces in time order.

    Parameters
    ----------
    sessions
        Begin and end of every session, in minutes from the begin of the plan, in order.
    """

    def __init__(self, problem: Problem, sessions: tuple[tuple[int, int], ...], style: Style) -> None:
        self.problem, self.sessions, self.style = problem, sessions, style
        self.tasks = problem.tasks
        count = problem.count
        self.ends: list[int | None] = [None] * count
        self.left = [task.minutes for task in self.tasks]
        # What is known of the time of each task from the ends of what it waits for: ready from, not between, due by.
        self.ready, self.due = list(problem.held), [_FAR] * count
        self.shut: list[list[tuple[int, int]]] = [[] for _ in range(count)]
        for task, past in enumerate(problem.past):
            for end, wait in past:
                self._learn(task, end, wait, tied=wait.most is not None)
        # Only these can ever come under a deadline.
        self.timed = [
            n for n in range(count) if problem.past[n] or any(w.most is not None for w in problem.before[n])
        ]  # fmt: skip
        self.unmet = [len(waits) for waits in problem.before]
        self.available = [n for n in range(count) if not self.unmet[n]]
        self.locked: dict[str, dict[str, int]] = {}
        for (assembly, zone), until in problem.locked.items():
            self.locked.setdefault(assembly, {})[zone] = until
        self.session = self.now = 0
        # The last way that was found to keep every deadline.
        self.witness: Supposed = {}
        self.pieces: list[Piece] = []
        self.cup: tuple[str, str] | None = None
        self.flush = 0
        random = Random(style.seed)
        self.rank = [tail * (1 + style.noise * random.uniform(-1, 1)) for tail in problem.tails]

    def run(self) -> list[Piece]:
        """Place every task.

        Raises
        ------
        StuckError
            A task with what it forces fits no session.
        """
        idle = 0
        for number, (start, end) in enumerate(self.sessions):
            if not self.available:
                break
            before = len(self.pieces)
            self._work_through(number, start, end)
            idle = 0 if len(self.pieces) > before else idle + 1
            if idle > 20 and all(self.open_at(n, start) <= start for n in self.available):
                raise StuckError(max(self.available, key=lambda n: self.rank[n]))
        if self.available:
            raise StuckError(max(self.available, key=lambda n: self.rank[n]))
        return self.pieces

    def _work_through(self, number: int, now: int, end: int) -> None:
        self.session = number
        while now < end and self.available:
            self.now = now
            task = self._choose(number, now, end)
            if task is None:
                later = [t for n in self.available if now < (t := self._begin_at(n, now)) < end]
                if not later:
                    break
                wake = min(later)
                if self.cup is not None and (wake - now > LEFT_IN_CUP or wake + self.flush + STRIP_DOWN > end):
                    # Setting up again takes longer than going on: when to wake is asked anew.
                    now = self._clean(now)
                else:
                    now = wake
                continue
            now = self._place(task, now, end)
        if self.cup is not None:
            self._clean(now)

    def open_at(self, task: int, now: int) -> int:
        """The first minute from `now` on at which an available task may begin."""
        at = max(now, self.ready[task], self._untouchable(task))
        for begin, end in self.shut[task]:
            if begin < at < end:
                at = end
        return at

    def _begin_at(self, task: int, now: int) -> int:
        """When to turn to a task: the airbrush is made ready, or put away, while something still dries."""
        ready = self._cleaning(task, self.left[task])
        return self.open_at(task, now + ready) - ready

    def _untouchable(self, task: int) -> int:
        """Until when the assembly of a task is too wet for it; a spray minds only the zones beside its own."""
        one = self.tasks[task]
        if one.touches_soft:
            return -_FAR
        if one.handles_all:
            return max((until for zones in self.locked.values() for until in zones.values()), default=-_FAR)
        found = -_FAR
        for zone, until in self.locked.get(one.assembly, {}).items():
            if until > found and not (one.spares_own_zone and zone == one.zone):
                found = until
        return found

    def _due(self, task: int) -> int:
        """The last minute at which a task may begin, by what is done; a wait that is over already binds no more."""
        due = self.due[task]
        return due if due >= self.now else _FAR

    def _choose(self, number: int, now: int, end: int) -> int | None:
        open_now = [n for n in self.available if self._begin_at(n, now) <= now]
        urgent = self._urgent()
        open_now.sort(key=lambda n: self._order(n, urgent))
        if not self._worth_spraying(open_now):
            # Few minutes of spraying wait until there is nothing else to do.
            open_now.sort(key=lambda n: self.tasks[n].spray and n not in urgent)
        for task in open_now:
            if self._fits(task, now, end) and self._keeps(task, number, now, urgent):
                return task
        # What was found possible before is followed where looking anew finds nothing.
        planned = [n for n in open_now if n in self.witness and self.witness[n][0] <= now and self._fits(n, now, end)]
        return min(planned, key=lambda n: self.witness[n], default=None)

    def _order(self, task: int, urgent: list[int]) -> tuple[bool, bool, float]:
        """What is under a deadline first, the nearest before the rest; then what soon will be; then the longest way."""
        if task in urgent:
            return False, False, self._due(task)
        one = self.tasks[task]
        worth = self.style.same_cup if one.spray and one.cup == self.cup else 0.0
        return True, not self._pressing(task), -(self.rank[task] + worth)

    def _pressing(self, task: int) -> bool:
        return any(
            wait.most is not None and (end := self.ends[wait.step]) is not None and end + wait.most - self.now < _SOON
            for wait in self.problem.before[task]
        )

    def _worth_spraying(self, open_now: list[int]) -> bool:
        """The airbrush is at hand already, or enough waits to be sprayed."""
        waiting = sum(self.tasks[n].minutes for n in open_now if self.tasks[n].spray)
        return self.cup is not None or waiting >= self.style.spray_from

    def _cleaning(self, task: int, minutes: int) -> int:
        """Minutes at the airbrush before a task: none, a flush, setting up, or putting it away."""
        one = self.tasks[task]
        if one.spray:
            return SET_UP if self.cup is None else (0 if one.cup == self.cup else self.flush)
        return self.flush + STRIP_DOWN if self.cup is not None and minutes > LEFT_IN_CUP else 0

    def _piece(self, task: int, room: int) -> int:
        """How much of a task is done in so many minutes; 0 where it does not fit."""
        left = self.left[task]
        if left <= room:
            return left
        if not self.tasks[task].split or room < LEAST_PIECE or left < 2 * LEAST_PIECE:
            return 0
        return min(room, left - LEAST_PIECE)

    def _fits(self, task: int, now: int, end: int) -> bool:
        """Whether a task, or a piece of it, can be begun now and the airbrush put away before the session ends."""
        one = self.tasks[task]
        if one.spray:
            after = one.flush + STRIP_DOWN
        else:
            after = self.flush + STRIP_DOWN if self.cup is not None and self.left[task] <= LEFT_IN_CUP else 0
        start = now + self._cleaning(task, self.left[task])
        if start > now and (self.open_at(task, start) > start or start > self._due(task)):
            return False
        return self._piece(task, end - start - after) > 0

    def _keeps(self, task: int, number: int, now: int, urgent: list[int]) -> bool:
        """Whether all that is under a deadline, and all that the task forces, can be kept with it begun now.

        Of several under a deadline the nearest goes first; it need not spare those after it.
        """
        start = now + self._cleaning(task, self.left[task])
        supposed: Supposed | None = {task: (now, start + self.left[task])}
        for other in urgent[: urgent.index(task)] if task in urgent else urgent:
            if supposed is not None and other not in supposed:
                supposed = self._laid(other, number, supposed)
        found = self._followed(task, number, supposed) if supposed is not None else None
        if found is not None:
            self.witness = found
        return found is not None

    def _followed(self, task: int, number: int, supposed: Supposed) -> Supposed | None:
        """All laid that must follow a task in time, or None where that cannot be."""
        found: Supposed | None = supposed
        for wait in self.problem.after[task]:
            if found is None or len(found) > _LOOKED_AHEAD:
                return None
            if self._ties(task, wait.step, wait) and wait.step not in found:
                found = self._laid(wait.step, number, found)
        return found

    def _closing(self, number: int, supposed: Supposed) -> int:
        """Minutes to put the airbrush away in a session, if something is supposed to be sprayed in it."""
        begin, end = self.sessions[number]
        sprayed = [self.tasks[n].flush for n, at in supposed.items() if begin <= at[0] < end and self.tasks[n].spray]
        if number == self.session and self.cup is not None:
            sprayed.append(self.flush)
        return max(sprayed) + STRIP_DOWN if sprayed else 0

    def _ties(self, first: int, then: int, wait: Wait) -> bool:
        return wait.most is not None and wait.most <= _TIED and (first, then) not in self.style.relaxed

    def _laid(self, task: int, number: int, supposed: Supposed) -> Supposed | None:
        """A task laid as early as it can be from a session on, all it waits for before it; None if it is too late."""
        for wait in self.problem.before[task]:
            if self.ends[wait.step] is None and wait.step not in supposed:
                found = self._laid(wait.step, number, supposed) if len(supposed) <= _LOOKED_AHEAD else None
                if found is None:
                    return None
                supposed = found
        earliest, latest = self._span(task, supposed)
        for later in range(number, len(self.sessions)):
            if self.sessions[later][0] > latest:
                return None
            place = self._gap(task, later, earliest, supposed)
            if place is not None and place[1] - self.left[task] <= latest:
                found = self._followed(task, later, {**supposed, task: place})
                if found is not None:
                    return found
        return None

    def _gap(self, task: int, number: int, earliest: int, supposed: Supposed) -> tuple[int, int] | None:
        """The first free stretch of a session for a task, with the airbrush made ready before and put away after."""
        one, (begin, end) = self.tasks[task], self.sessions[number]
        closing = one.flush + STRIP_DOWN if one.spray else self._closing(number, supposed)
        before = max(SET_UP, self.flush) if one.spray else (closing if self.left[task] > LEFT_IN_CUP else 0)
        at = max(begin, earliest - before, self.now)
        for start, stop in sorted([*supposed.values(), *self._closed(task, supposed, before)]):
            if start < at + before + self.left[task] and at < stop:
                at = stop
        finish = at + before + self.left[task]
        return (at, finish) if finish + (closing if one.spray or not before else 0) <= end else None

    def _closed(self, task: int, supposed: Supposed, before: int) -> list[tuple[int, int]]:
        """Stretches that a task must not begin in, as if something else were done then."""
        left, found = self.left[task], []
        for wait in self.problem.before[task]:
            if wait.closed is not None:
                end = self._end(wait.step, supposed)
                found.append((end + wait.closed[0] + left, end + wait.closed[1] - before))
        return found

    def _end(self, task: int, supposed: Supposed) -> int:
        known = self.ends[task]
        return known if known is not None else supposed[task][1]

    def _span(self, task: int, supposed: Supposed) -> tuple[int, int]:
        """The first and the last minute at which a task may begin, with some supposed to be done."""
        one = self.tasks[task]
        earliest, latest = max(self.now, self._untouchable(task)), self._due(task)
        if not one.touches_soft:
            for n, (_, end) in supposed.items():
                other = self.tasks[n]
                if other.assembly == one.assembly and not (one.spares_own_zone and other.zone == one.zone):
                    earliest = max(earliest, end + other.lock)
        for wait in self.problem.before[task]:
            end = self._end(wait.step, supposed)
            earliest = max(earliest, end + wait.least)
            if wait.most is not None and self._ties(wait.step, task, wait):
                latest = min(latest, end + wait.most)
        return earliest, latest

    def _urgent(self) -> list[int]:
        """Tasks that something done has put under a deadline, the nearest first."""
        found = [(due, n) for n in self.timed if self.ends[n] is None and (due := self._due(n)) < _FAR]
        return [n for _, n in sorted(found)]

    def _clean(self, now: int) -> int:
        assert self.cup is not None
        end = now + self.flush + STRIP_DOWN
        self.pieces.append(Piece(-1, now, end, "clean"))
        self.cup = None
        return end

    def _place(self, task: int, now: int, end: int) -> int:
        one = self.tasks[task]
        before = self._cleaning(task, self.left[task])
        if before:
            if one.spray:
                self.pieces.append(Piece(-1, now, now + before, "set up" if self.cup is None else "flush"))
            else:
                self._clean(now)
        now += before
        after = one.flush + STRIP_DOWN if one.spray else (self.flush + STRIP_DOWN if self.cup is not None else 0)
        minutes = self._piece(task, end - now - after)
        if one.spray:
            self.cup, self.flush = one.cup, one.flush
        self.pieces.append(Piece(task, now, now + minutes))
        self.left[task] -= minutes
        now += minutes
        if not self.left[task]:
            self._finish(task, now)
        return now

    def _finish(self, task: int, now: int) -> None:
        one = self.tasks[task]
        self.ends[task] = now
        self.available.remove(task)
        zones = self.locked.setdefault(one.assembly, {})
        zones[one.zone] = max(zones.get(one.zone, -_FAR), now + one.lock)
        for wait in self.problem.after[task]:
            self._learn(wait.step, now, wait, self._ties(task, wait.step, wait))
            self.unmet[wait.step] -= 1
            if not self.unmet[wait.step]:
                self.available.append(wait.step)

    def _learn(self, task: int, end: int, wait: Wait, tied: bool) -> None:
        """What the end of one step says of the time of another that waits for it."""
        self.ready[task] = max(self.ready[task], end + wait.least)
        if wait.closed is not None:
            self.shut[task].append((end + wait.closed[0], end + wait.closed[1]))
        if tied and wait.most is not None:
            self.due[task] = min(self.due[task], end + wait.most)
