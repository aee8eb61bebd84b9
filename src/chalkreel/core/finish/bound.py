"""The day before which no plan can end, whatever the order: a bound that is proven, not searched for.

Every step gets the earliest begin and the latest end that waits and bench evenings leave it, and all work must fit
between them if it might be interrupted at will: earliest deadline first decides that (Horn 1974; on a calendar,
Carlier 1982). Cleaning the airbrush and paint that is still wet only make it later.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from heapq import heappop, heappush

from chalkreel.core.finish.airbrush import SET_UP, STRIP_DOWN
from chalkreel.core.finish.problem import Problem, Task

Sessions = tuple[tuple[int, int], ...]


def earliest_finish(problem: Problem, sessions: Sessions) -> int | None:
    """The first minute at which a plan might end, None where the sessions never suffice."""
    if not problem.count:
        return None
    starts = tuple(begin for begin, _ in sessions)
    heads = _heads(problem, sessions, starts)
    if heads is None:
        return None
    low = max(end for _, end in heads)
    high = sessions[-1][1]
    if not _fits(problem, heads, sessions, starts, high):
        return None
    while high - low > 1:
        middle = (low + high) // 2
        if _fits(problem, heads, sessions, starts, middle):
            high = middle
        else:
            low = middle
    return high if not _fits(problem, heads, sessions, starts, low) else low


def latest_first(problem: Problem, sessions: Sessions, finish: int) -> tuple[int, ...]:
    """How long before a finish each task must have begun at the latest, by waits and evenings: what is urgent."""
    starts = tuple(begin for begin, _ in sessions)
    latest = _latest_ends(problem, sessions, starts, finish)
    if latest is None:
        return problem.tails
    return tuple(finish - end + task.minutes for end, task in zip(latest, problem.tasks, strict=True))


def time_windows(problem: Problem, sessions: Sessions, finish: int) -> tuple[list[tuple[int, int]], list[int]]:
    """The earliest begin and end of every task, and its latest end for a plan that ends at `finish`.

    Raises
    ------
    ValueError
        No plan ends by then.
    """
    starts = tuple(begin for begin, _ in sessions)
    heads, latest = _heads(problem, sessions, starts), _latest_ends(problem, sessions, starts, finish)
    if heads is None or latest is None:
        raise ValueError(f"no plan ends by minute {finish}")
    return heads, latest


def _margins(task: Task) -> tuple[int, int]:
    """Minutes of its own session that a task needs before and after it."""
    return (SET_UP, task.flush + STRIP_DOWN) if task.spray else (0, 0)


def _heads(problem: Problem, sessions: Sessions, starts: tuple[int, ...]) -> list[tuple[int, int]] | None:
    """Earliest begin and end of every task; tasks come in an order that keeps the waits."""
    found: list[tuple[int, int]] = []
    for number, task in enumerate(problem.tasks):
        ready = max(
            [found[w.step][1] + w.least for w in problem.before[number]]
            + [end + w.least for end, w in problem.past[number]],
            default=sessions[0][0],
        )
        place = _first_place(task, ready, sessions, starts)
        if place is None:
            return None
        found.append(place)
    return found


def _first_place(task: Task, ready: int, sessions: Sessions, starts: tuple[int, ...]) -> tuple[int, int] | None:
    before, after = _margins(task)
    left, begun = task.minutes, -1
    for begin, end in sessions[max(0, bisect_right(starts, ready) - 1) :]:
        at = max(begin + before, ready)
        room = end - after - at
        if room <= 0:
            continue
        if task.split:
            begun = at if begun < 0 else begun
            if room >= left:
                return begun, at + left
            left -= room
        elif room >= task.minutes:
            return at, at + task.minutes
    return None


def _latest_ends(problem: Problem, sessions: Sessions, starts: tuple[int, ...], finish: int) -> list[int] | None:
    """The latest end of every task for a plan that ends at `finish`."""
    latest = [finish] * problem.count
    for number in reversed(range(problem.count)):
        task = problem.tasks[number]
        begin = _last_begin(task, latest[number], sessions, starts)
        if begin is None:
            return None
        for wait in problem.before[number]:
            latest[wait.step] = min(latest[wait.step], begin - wait.least)
    return latest


def _last_begin(task: Task, end: int, sessions: Sessions, starts: tuple[int, ...]) -> int | None:
    before, after = _margins(task)
    left = task.minutes
    for begin, stop in reversed(sessions[: bisect_left(starts, end)]):
        at = min(stop - after, end)
        room = at - begin - before
        if room <= 0:
            continue
        if task.split:
            if room >= left:
                return at - left
            left -= room
        elif room >= task.minutes:
            return at - task.minutes
    return None


def _fits(
    problem: Problem, heads: list[tuple[int, int]], sessions: Sessions, starts: tuple[int, ...], finish: int
) -> bool:
    latest = _latest_ends(problem, sessions, starts, finish)
    if latest is None:
        return False
    jobs = sorted((head, latest[n], problem.tasks[n].minutes) for n, (head, _) in enumerate(heads))
    waiting: list[tuple[int, int]] = []
    following = 0
    for begin, end in sessions:
        now = begin
        while now < end:
            while following < len(jobs) and jobs[following][0] <= now:
                heappush(waiting, jobs[following][1:])
                following += 1
            until = min(end, jobs[following][0]) if following < len(jobs) else end
            if not waiting:
                now = until
                continue
            due, left = heappop(waiting)
            step = min(left, until - now)
            if now + step > due:
                return False
            now += step
            if left > step:
                heappush(waiting, (due, left - step))
        if following == len(jobs) and not waiting:
            return True
    return False
