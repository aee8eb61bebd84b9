"""How far plans are from the best that is found, on builds made by chance, and how long the window waits for them.

python -m benchmarks.plans small FIRST COUNT     builds of at most 60 steps, refined as they are unasked
python -m benchmarks.plans large FIRST COUNT     whole builds, refined for a minute
python -m benchmarks.plans gap SEED              the longest wait of a thread that wants the interpreter meanwhile

A second bench (three short evenings, a Sunday morning) stands beside the makers' own.
"""

from __future__ import annotations

import sys
import threading
import time as clock
from collections.abc import Callable, Sequence
from datetime import time
from functools import partial
from statistics import fmean

from tests.core.finish.made_builds import MONDAY, made_build, small_build
from tests.core.finish.surface_judge import faults

from chalkreel.answers.apart import apart
from chalkreel.answers.sequence import AT_ONCE, SMALL, SequenceInputs, sequence
from chalkreel.core.finish.calendar import BenchSession, windows
from chalkreel.core.finish.drying import USUAL_ROOM
from chalkreel.core.finish.limits import limits
from chalkreel.core.finish.order import valid_order
from chalkreel.core.finish.refining import refined
from chalkreel.core.finish.schedule import Effort, Schedule, schedule
from chalkreel.core.finish.stacks import AssemblyPlan, Schools, steps_for
from chalkreel.document.finish_entities import Evening

SHORT = (*(BenchSession(day, time(20), time(21, 45)) for day in (0, 2, 3)), BenchSession(6, time(9), time(12, 30)))
MINUTE = 60.0


def days(plan: Schedule) -> int:
    return (plan.finish.date() - MONDAY.date()).days if plan.finish else 0


def refine(
    plans: tuple[AssemblyPlan, ...], schools: Schools, bench: tuple[BenchSession, ...], seconds: float
) -> tuple[int, Schedule, Schedule, int, float]:
    """Steps, plan, refined plan, faults found by the judge, seconds."""
    steps = steps_for(plans, schools)
    found = limits(steps, USUAL_ROOM)
    order, evenings = valid_order(steps, found), tuple(windows(bench, MONDAY))
    plan = schedule(order, found, evenings, MONDAY)
    if seconds < MINUTE and len(order) > SMALL:
        return len(order), plan, plan, 0, 0.0
    begun = clock.perf_counter()
    better = refined(plan, order, found, evenings, MONDAY, {}, USUAL_ROOM, Effort(seconds), lambda _: True)
    took = clock.perf_counter() - begun
    return len(order), plan, better, len(faults(order, better)) + len(better.missed), took


def report(seeds: Sequence[int], small: bool) -> None:
    for name in ("maker's bench", "short evenings"):
        rows = []
        for seed in seeds:
            if small:
                plans, bench, schools = *small_build(seed), Schools()
            else:
                plans, schools, bench = made_build(seed)
            rows.append(
                refine(
                    plans, schools, bench if name == "maker's bench" else SHORT, AT_ONCE.seconds if small else MINUTE
                )
            )
        tell(name, [row for row in rows if not small or row[0] <= SMALL])


def tell(name: str, rows: list[tuple[int, Schedule, Schedule, int, float]]) -> None:
    bounds = [(plan.bound.date() - MONDAY.date()).days if plan.bound else 0 for _, plan, *_ in rows]
    print(
        f"{name}: {len(rows)} builds, {rows[0][0]} … {max(r[0] for r in rows)} steps, faults {sum(r[3] for r in rows)}"
    )
    for what, which in (("plan", 1), ("refined", 2)):
        later = [days(row[which]) / bound - 1 for row, bound in zip(rows, bounds, strict=True)]  # type: ignore[arg-type]
        on = sum(share <= 0 for share in later)
        print(f"  {what}: {on} on the bound's day, {100 * fmean(later):.1f} % later, at worst {100 * max(later):.0f} %")
    late = [days(plan) / days(better) - 1 for _, plan, better, *_ in rows]
    more = [plan.cleanings / better.cleanings - 1 for _, plan, better, *_ in rows]
    earlier, over = sum(share > 0 for share in late), sum(share > 0.05 for share in late)
    print(f"  plan against refined: {100 * fmean(late):.1f} % later, at worst {100 * max(late):.0f} %;", end=" ")
    print(f"{earlier} end earlier, {over} by over 5 %;", end=" ")
    print(f"cleanings {100 * fmean(more):+.1f} %, at worst {100 * max(more):+.0f} %;", end=" ")
    print(f"{fmean(r[4] for r in rows):.2f} s, at most {max(r[4] for r in rows):.1f} s")


def gap(seed: int) -> None:
    """The longest time between two turns of a thread that asks for one every 2 ms, with the plan made here or apart."""
    plans, schools, bench = made_build(seed)
    evenings = tuple(
        Evening(id=f"e{n}", weekday=s.weekday, start=f"{s.start:%H:%M}", end=f"{s.end:%H:%M}")
        for n, s in enumerate(bench)
    )
    asked = SequenceInputs(
        plans, schools, (), (), (), "", evenings, (), "", USUAL_ROOM, (), (), (), (), (), None, MONDAY
    )  # fmt: skip
    work = partial(sequence, asked)
    apart(work, lambda _: True)
    for name, run in (("in a thread", work), ("apart", lambda: apart(work, lambda _: True))):
        longest, turns, took = turns_beside(run)
        print(f"{name}: longest wait {1000 * longest:.0f} ms, {turns} turns in {took:.2f} s")


def turns_beside(run: Callable[[], object]) -> tuple[float, int, float]:
    worker = threading.Thread(target=run)
    longest, turns, begun = 0.0, 0, clock.perf_counter()
    worker.start()
    while worker.is_alive():
        before = clock.perf_counter()
        # Twenty calls into the toolkit, each of which lets go of the interpreter.
        for _ in range(20):
            clock.sleep(0)
        longest, turns = max(longest, clock.perf_counter() - before), turns + 1
        clock.sleep(0.002)
    return longest, turns, clock.perf_counter() - begun


if __name__ == "__main__":
    if sys.argv[1] == "gap":
        sys.setswitchinterval(0.0005)
        gap(int(sys.argv[2]))
    else:
        first, count = int(sys.argv[2]), int(sys.argv[3])
        report(range(first, first + count), sys.argv[1] == "small")
