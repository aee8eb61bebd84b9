"""A plan as a constraint problem: one pair of hands, bench evenings, waits, wet paint, and what is in the airbrush.

Interval variables over minutes, with alternatives for the evening in which something is sprayed (Baptiste, Le Pape and
Nuijten 2001). It keeps every rule that a forward pass keeps, but not every plan: work by hand is left and taken
up again only where the plan it begins from does so, or once a step; and a cup is filled once an evening, or as often as
that plan fills it. So its best need not be the best of all.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Final

from ortools.sat.python.cp_model import CpModel, Domain, IntervalVar, IntVar, LinearExprT

from chalkreel.core.finish.airbrush import LEFT_IN_CUP, SET_UP, STRIP_DOWN
from chalkreel.core.finish.bound import Sessions, time_windows
from chalkreel.core.finish.forward import LEAST_PIECE, Piece
from chalkreel.core.finish.problem import Problem, Task, Wait

# Paint that waits for its next coat in the cup, minutes a step.
_WAITING: Final = 60
Cup = tuple[str, str]
# By session and cup.
Fillings = dict[tuple[int, Cup], "list[Filling]"]


@dataclass
class Filling:
    """A cup filled once in a plan: what is sprayed from it, and when it is washed out."""

    sprayed: list[int] = field(default_factory=list)
    wash: int = 0


@dataclass(frozen=True)
class Part:
    """A stretch of a task; `size` and `end` follow from it where it is never split."""

    start: IntVar
    size: LinearExprT
    end: LinearExprT


@dataclass(frozen=True)
class Run:
    """One cup in one session, if it is `there`: sprayed from `begin`, washed out from `wash` till `out`."""

    there: IntVar
    begin: IntVar
    wash: IntVar
    out: IntVar
    last: IntVar


@dataclass(frozen=True)
class Brush:
    """The airbrush in one session, if it is used: ready at `ready`, put away from `away`."""

    used: IntVar
    ready: IntVar
    away: IntVar
    runs: tuple[Run, ...]


class PlanModel:
    """The model of a problem, with a plan to begin from.

    Parameters
    ----------
    sessions
        Begin and end of every session, in minutes from the begin of the plan.
    plan
        Pieces of a plan of this problem that keeps its waits, but for those `relaxed` (pairs of tasks).
    finish
        The last minute at which all must be done.
    """

    def __init__(
        self, problem: Problem, sessions: Sessions, plan: list[Piece], finish: int, relaxed: frozenset[tuple[int, int]]
    ) -> None:  # fmt: skip
        self.problem, self.relaxed = problem, relaxed
        self.sessions = tuple((begin, min(end, finish)) for begin, end in sessions if begin < finish)
        self.heads, self.latest = time_windows(problem, self.sessions, finish)
        self.own = _by_task(problem, plan)
        self.model = CpModel()
        # What takes the hands, and what must not happen while paint waits in the cup.
        self._hands: list[IntervalVar] = []
        self._cups: list[IntervalVar] = []
        self.parts = [self._parts(n, task) for n, task in enumerate(problem.tasks)]
        self.brushes = self._brushes(_fillings(problem, plan, self.sessions))
        for (_, end), (begin, _) in zip(self.sessions, self.sessions[1:], strict=False):
            self._hands.append(self.model.new_fixed_size_interval_var(end, begin - end, ""))
        self.model.add_no_overlap(self._hands)
        self.model.add_no_overlap(self._cups)
        self._following = _following(problem)
        self._keep_waits()
        self._keep_off_wet()
        self.finish = self._int(max(end for _, end in self.heads), finish, max(own[-1].end for own in self.own))
        self.model.add_max_equality(self.finish, [parts[-1].end for parts in self.parts])

    @property
    def starts(self) -> list[IntVar]:
        """When each task begins."""
        return [parts[0].start for parts in self.parts]

    @property
    def weights(self) -> list[int]:
        """How many wait for each task, however far, and itself."""
        return [1 + following.bit_count() for following in self._following]

    @property
    def runs(self) -> list[IntVar]:
        """One for each cup that may be filled in a session: whether it is."""
        return [run.there for brush in self.brushes.values() for run in brush.runs]

    def _int(self, low: int, high: int, hint: int) -> IntVar:
        return self._hinted(self.model.new_int_var(low, high, ""), hint)

    def _bool(self, hint: bool) -> IntVar:
        return self._hinted(self.model.new_bool_var(""), hint)

    def _hinted(self, variable: IntVar, hint: int) -> IntVar:
        self.model.add_hint(variable, int(hint))
        return variable

    def _parts(self, number: int, task: Task) -> tuple[Part, ...]:
        own = self.own[number]
        count = max(len(own), 2 if task.split and task.minutes >= 2 * LEAST_PIECE else 1)
        if count == 1:
            part = self._whole(number, task)
            interval = self.model.new_fixed_size_interval_var(part.start, task.minutes, "")
            self._hands.append(interval)
            if not task.spray and task.minutes > LEFT_IN_CUP:
                self._cups.append(interval)
            return (part,)
        low, high = self.heads[number][0], self.latest[number]
        parts: list[Part] = []
        for place in range(count):
            here = own[place] if place < len(own) else Piece(number, own[-1].end, own[-1].end)
            start, end = self._int(low, high, here.start), self._int(low, high, here.end)
            sizes = Domain.from_intervals([[0, 0], [LEAST_PIECE, task.minutes]])
            size = self._hinted(self.model.new_int_var_from_domain(sizes, ""), here.end - here.start)
            there = self._bool(here.end > here.start)
            self.model.add(size >= LEAST_PIECE).only_enforce_if(there)
            self.model.add(size == 0).only_enforce_if(~there)
            self._hands.append(self.model.new_optional_interval_var(start, size, end, there, ""))
            long = self._bool(here.end - here.start > LEFT_IN_CUP)
            self.model.add(size <= LEFT_IN_CUP).only_enforce_if(~long)
            self._cups.append(self.model.new_optional_interval_var(start, size, end, long, ""))
            if parts:
                self.model.add(start >= parts[-1].end)
                self.model.add(start == parts[-1].end).only_enforce_if(~there)
                self.model.add(end == start).only_enforce_if(~there)
            else:
                self.model.add(there == 1)
            parts.append(Part(start, size, end))
        self.model.add(sum(part.size for part in parts) == task.minutes)
        return tuple(parts)

    def _whole(self, number: int, task: Task) -> Part:
        before, after = (SET_UP, task.flush + STRIP_DOWN) if task.spray else (0, 0)
        spans = [
            (max(self.heads[number][0], begin + before), min(self.latest[number], end - after) - task.minutes)
            for begin, end in self.sessions
        ]
        domain = Domain.from_intervals([[low, high] for low, high in spans if low <= high])
        start = self._hinted(self.model.new_int_var_from_domain(domain, ""), self.own[number][0].start)
        return Part(start, task.minutes, start + task.minutes)

    def _brushes(self, filled: Fillings) -> dict[int, Brush]:
        """Every spray in just one run of its cup, and every run between setting up and putting away."""
        chosen: dict[tuple[int, Cup, int], list[tuple[int, IntVar]]] = {}
        for number, task in enumerate(self.problem.tasks):
            if task.spray:
                for key, literal in self._evenings(number, task, filled):
                    chosen.setdefault(key, []).append((number, literal))
        runs: dict[int, list[tuple[Run, tuple[int, int] | None]]] = {}
        for (session, cup, copy), members in chosen.items():
            known = filled.get((session, cup), [])
            filling = known[copy] if copy < len(known) else Filling()
            runs.setdefault(session, []).append(self._run(session, members, filling))
        return {session: self._brush(session, found) for session, found in runs.items()}

    def _evenings(self, number: int, task: Task, filled: Fillings) -> list[tuple[tuple[int, Cup, int], IntVar]]:
        start, found = self.parts[number][0].start, []
        for session, (begin, end) in enumerate(self.sessions):
            low = max(self.heads[number][0], begin + SET_UP)
            high = min(self.latest[number], end - task.flush - STRIP_DOWN) - task.minutes
            known = filled.get((session, task.cup), [Filling()])
            for copy in range(len(known) if low <= high else 0):
                literal = self._bool(number in known[copy].sprayed)
                self.model.add_linear_constraint(start, low, high).only_enforce_if(literal)
                found.append(((session, task.cup, copy), literal))
        self.model.add_exactly_one([literal for _, literal in found])
        return found

    def _run(
        self, session: int, members: list[tuple[int, IntVar]], filling: Filling
    ) -> tuple[Run, tuple[int, int] | None]:
        """One run, and from when to when the plan has it, if it does."""
        model, tasks = self.model, self.problem.tasks
        (low, high), flushes = self.sessions[session], {tasks[n].flush for n, _ in members}
        washed = max([min(flushes), *(tasks[n].flush for n in filling.sprayed)])
        first = min((self.own[n][0].start for n in filling.sprayed), default=low + SET_UP)
        final = max([low + SET_UP, filling.wash, *(self.own[n][0].end for n in filling.sprayed)])
        there = self._bool(bool(filling.sprayed))
        begin = self._int(low + SET_UP, high, first)
        wash = self._int(low + SET_UP, high - STRIP_DOWN, final)
        # Metal of a colour takes longer to wash out than other paint of its name.
        flush = self._int(min(flushes), max(flushes), washed)
        out = self._int(low + SET_UP, high, final + washed)
        size = self._int(0, high - low, final + washed - first)
        self._cups.append(model.new_optional_interval_var(begin, size, out, there, ""))
        self._hands.append(model.new_optional_interval_var(wash, flush, out, there, ""))
        minutes = sum(tasks[n].minutes * literal for n, literal in members)
        model.add(size >= minutes + flush).only_enforce_if(there)
        model.add(size <= minutes + flush + _WAITING * sum(literal for _, literal in members)).only_enforce_if(there)
        for number, literal in members:
            part = self.parts[number][0]
            model.add_implication(literal, there)
            model.add(part.start >= begin).only_enforce_if(literal)
            model.add(part.end <= wash).only_enforce_if(literal)
            if tasks[number].flush > min(flushes):
                model.add(flush >= tasks[number].flush).only_enforce_if(literal)
        model.add_bool_or([~there, *(literal for _, literal in members)])
        run = Run(there, begin, wash, out, model.new_bool_var(""))
        return run, (first, final + washed) if filling.sprayed else None

    def _brush(self, session: int, found: list[tuple[Run, tuple[int, int] | None]]) -> Brush:
        model, (low, high) = self.model, self.sessions[session]
        planned = [times for _, times in found if times is not None]
        begun, ended = min((t for t, _ in planned), default=low + SET_UP), max((t for _, t in planned), default=low)
        used = self._bool(bool(planned))
        ready, away = self._int(low + SET_UP, high, begun), self._int(low, high - STRIP_DOWN, ended)
        self._hands.append(model.new_optional_fixed_size_interval_var(ready - SET_UP, SET_UP, used, ""))
        self._hands.append(model.new_optional_fixed_size_interval_var(away, STRIP_DOWN, used, ""))
        firsts = []
        for run, times in found:
            first = self._bool(times is not None and times[0] == begun)
            self._hinted(run.last, times is not None and times[1] == ended)
            model.add_implication(run.there, used)
            model.add_implication(first, run.there)
            model.add_implication(run.last, run.there)
            model.add(run.begin >= ready).only_enforce_if(run.there)
            model.add(run.out <= away).only_enforce_if(run.there)
            # Set up just before the first is sprayed, and put away as soon as the last is washed out.
            model.add(run.begin == ready).only_enforce_if(first)
            model.add(run.out == away).only_enforce_if(run.last)
            firsts.append(first)
        model.add(sum(firsts) == used)
        model.add(sum(run.last for run, _ in found) == used)
        return Brush(used, ready, away, tuple(run for run, _ in found))

    def _keep_waits(self) -> None:
        for number, waits in enumerate(self.problem.before):
            start = self.parts[number][0].start
            for wait in waits:
                end = self.parts[wait.step][-1].end
                self.model.add(start >= end + wait.least)
                if wait.most is not None and (wait.step, number) not in self.relaxed:
                    self.model.add(start <= end + wait.most)
                self._keep_out(number, end, self.own[wait.step][-1].end, wait)
            for ended, wait in self.problem.past[number]:
                self.model.add(start >= ended + wait.least)
                if wait.most is not None and self.own[number][0].start <= ended + wait.most:
                    self.model.add(start <= ended + wait.most)
                self._keep_out(number, ended, ended, wait)

    def _keep_out(self, number: int, end: LinearExprT, planned: int, wait: Wait) -> None:
        """A task begins before the closed stretch of a wait, or after it; that began when something `planned` ended."""
        if wait.closed is not None:
            start = self.parts[number][0].start
            early = self._bool(self.own[number][0].start <= planned + wait.closed[0])
            self.model.add(start <= end + wait.closed[0]).only_enforce_if(early)
            self.model.add(start >= end + wait.closed[1]).only_enforce_if(~early)

    def _keep_off_wet(self) -> None:
        """Nothing takes a part in the hand that is not touch-dry."""
        tasks, following = self.problem.tasks, self._following
        for number, task in enumerate(tasks):
            for (assembly, zone), until in self.problem.locked.items():
                if handles(task, assembly, zone):
                    self.model.add(self.parts[number][0].start >= until)
        for wet, task in enumerate(tasks):
            for number, other in enumerate(tasks):
                if task.lock and number != wet and handles(other, task.assembly, task.zone):
                    self._keep_off(wet, number, bool(following[wet] >> number & 1), bool(following[number] >> wet & 1))

    def _keep_off(self, wet: int, number: int, later: bool, earlier: bool) -> None:
        lock = self.problem.tasks[wet].lock
        if earlier or self.latest[wet] + lock <= self.heads[number][0]:
            return
        begin, end = self.parts[wet][0].start, self.parts[wet][-1].end
        if later:
            self.model.add(self.parts[number][0].start >= end + lock)
            return
        dry = self.own[wet][-1].end + lock
        for place, part in enumerate(self.parts[number]):
            here = self.own[number][min(place, len(self.own[number]) - 1)]
            after = self._bool(here.start >= dry)
            self.model.add(part.start >= end + lock).only_enforce_if(after)
            self.model.add(part.start <= begin).only_enforce_if(~after)


def handles(task: Task, assembly: str, zone: str) -> bool:
    """Whether a task takes what is wet on a zone in the hand."""
    if task.touches_soft or (task.spares_own_zone and (task.assembly, task.zone) == (assembly, zone)):
        return False
    return task.handles_all or task.assembly == assembly


def _by_task(problem: Problem, plan: list[Piece]) -> list[list[Piece]]:
    found: list[list[Piece]] = [[] for _ in range(problem.count)]
    for piece in plan:
        if piece.task >= 0:
            found[piece.task].append(piece)
    return found


def _fillings(problem: Problem, plan: list[Piece], sessions: Sessions) -> Fillings:
    """The sprays of a plan by session and cup, one filling for every time that it is filled."""
    found: Fillings = {}
    for session, (begin, end) in enumerate(sessions):
        filled: Filling | None = None
        for piece in sorted((p for p in plan if begin <= p.start < end), key=lambda p: p.start):
            if piece.task < 0:
                if filled is not None:
                    filled.wash = piece.start
                filled = None
            elif problem.tasks[piece.task].spray:
                if filled is None:
                    filled = Filling()
                    found.setdefault((session, problem.tasks[piece.task].cup), []).append(filled)
                filled.sprayed.append(piece.task)
    return found


def _following(problem: Problem) -> list[int]:
    """For every task the set of those that wait for it, however far, as bits."""
    found = [0] * problem.count
    for number in reversed(range(problem.count)):
        for wait in problem.after[number]:
            found[number] |= 1 << wait.step | found[wait.step]
    return found
