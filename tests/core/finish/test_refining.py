"""Plans refined by the constraint solver: earlier where that can be, sound by the judge, and stopped when told to."""

import time
from datetime import timedelta

import pytest

from chalkreel.core.errors import StoppedError
from chalkreel.core.finish.calendar import windows
from chalkreel.core.finish.drying import USUAL_ROOM
from chalkreel.core.finish.limits import limits
from chalkreel.core.finish.order import valid_order
from chalkreel.core.finish.refining import refined
from chalkreel.core.finish.schedule import Effort, Schedule, schedule
from chalkreel.core.finish.stacks import Schools, steps_for
from chalkreel.core.finish.steps import Step
from tests.core.finish.made_builds import MONDAY, made_build, small_build
from tests.core.finish.surface_judge import faults

# The best is found in a tenth of a second; what follows is spent on cleanings.
EFFORT = Effort(2.0)


def best_of(seed: int, effort: Effort = EFFORT) -> tuple[tuple[Step, ...], Schedule, Schedule]:
    """The steps of a small build, its plan, and that refined."""
    plans, sessions = small_build(seed)
    steps = steps_for(plans, Schools())
    found = limits(steps, USUAL_ROOM)
    order, evenings = valid_order(steps, found), tuple(windows(sessions, MONDAY))
    plan = schedule(order, found, evenings, MONDAY)
    return order, plan, refined(plan, order, found, evenings, MONDAY, {}, USUAL_ROOM, effort, lambda _: True)


def days(plan: Schedule) -> int:
    assert plan.finish is not None
    return (plan.finish.date() - MONDAY.date()).days


@pytest.mark.parametrize(("seed", "gained"), [(6006, 1), (6020, 1), (6105, 0), (6119, 0)])
def test_a_refined_plan_is_sound_and_never_later_and_earlier_where_a_pass_loses_an_evening(
    seed: int, gained: int
) -> None:
    order, plan, better = best_of(seed)
    assert faults(order, better) == [] and better.missed == ()
    assert plan.bound is not None and better.bound == plan.bound
    assert (plan.bound.date() - MONDAY.date()).days <= days(better) <= days(plan)
    assert days(plan) - days(better) >= gained
    assert days(better) < days(plan) or better.cleanings <= plan.cleanings


def test_what_is_done_goes_on_drying_and_opens_windows_that_are_kept() -> None:
    plans, schools, sessions = made_build(7004)
    steps = steps_for(plans, schools)
    found = limits(steps, USUAL_ROOM)
    order = valid_order(steps, found)
    plan = schedule(order, found, tuple(windows(sessions, MONDAY)), MONDAY)
    spans = plan.spans
    # In the middle of an evening, with paint still wet and windows open.
    last = plan.slots[len(plan.slots) // 2]
    begin = last.end + timedelta(minutes=1)
    done = {step: spans[step.id][1] for step in order if spans[step.id][1] < begin}
    left, evenings = tuple(step for step in order if step not in done), tuple(windows(sessions, begin))
    rest = schedule(left, found, evenings, begin, done)
    better = refined(rest, left, found, evenings, begin, done, USUAL_ROOM, Effort(3.0), lambda _: True)
    assert rest.missed == better.missed == ()
    assert set(better.spans) == {step.id for step in left}
    minutes = dict.fromkeys(better.spans, 0)
    for slot in better.slots:
        minutes[slot.step_id] += round((slot.end - slot.start).total_seconds() / 60)
        assert any(window.start <= slot.start and slot.end <= window.end for window in evenings)
    assert minutes == {step.id: step.minutes for step in left}


def test_it_stops_when_told_to() -> None:
    plans, schools, sessions = made_build(7000)
    steps = steps_for(plans, schools)
    found = limits(steps, USUAL_ROOM)
    order, evenings = valid_order(steps, found), tuple(windows(sessions, MONDAY))
    plan = schedule(order, found, evenings, MONDAY)
    begun = time.monotonic()
    with pytest.raises(StoppedError):
        refined(plan, order, found, evenings, MONDAY, {}, USUAL_ROOM, Effort(60.0), lambda share: share == 0.0)
    assert time.monotonic() - begun < 20
