"""Plans of builds made up by chance: judged by the surface, kept to the bench, and no later than they must be."""

import itertools
from dataclasses import replace
from datetime import datetime, time, timedelta

import pytest

from chalkreel.core.finish.bound import earliest_finish
from chalkreel.core.finish.calendar import BenchSession, windows
from chalkreel.core.finish.drying import USUAL_ROOM, Room
from chalkreel.core.finish.limits import limits
from chalkreel.core.finish.order import valid_order, violations
from chalkreel.core.finish.problem import problem_of
from chalkreel.core.finish.schedule import Schedule, schedule
from chalkreel.core.finish.stacks import AssemblyPlan, Schools, Wash, ZonePlan, steps_for
from chalkreel.core.finish.steps import NOT_FIRST, Step
from tests.core.finish.made_builds import MONDAY, made_build, small_build
from tests.core.finish.surface_judge import faults

USUAL = Schools()
SATURDAYS = (BenchSession(5, time(10), time(18)),)
CHIPPED = ZonePlan("side", "hull", "grey", "water acrylic", "matte", "base", ("chipping", "wash"), True, 60.0)
BAND = ZonePlan("band", "hull", "red", "alcohol acrylic", "matte", "stripe", lightness=40.0)


def planned(
    plans: tuple[AssemblyPlan, ...], sessions: tuple[BenchSession, ...], schools: Schools = USUAL,
    room: Room = USUAL_ROOM, begin: datetime = MONDAY,
) -> tuple[tuple[Step, ...], Schedule]:  # fmt: skip
    steps = steps_for(plans, schools)
    found = limits(steps, room)
    order = valid_order(steps, found)
    assert violations(order, found) == ()
    return order, schedule(order, found, windows(sessions, begin), begin, room=room)


@pytest.mark.parametrize("seed", range(2000, 2012))
def test_a_plan_breaks_nothing_on_the_surface_and_misses_no_window(seed: int) -> None:
    plans, schools, sessions = made_build(seed)
    order, plan = planned(plans, sessions, schools)
    assert faults(order, plan) == []
    assert plan.missed == ()


@pytest.mark.parametrize("seed", range(9100, 9106))
def test_nor_does_one_that_masks_its_clear_parts(seed: int) -> None:
    plans, schools, sessions = made_build(seed)
    order, plan = planned(plans, sessions, replace(schools, canopy="masked"))
    assert not plan.missed and faults(order, plan) == []
    masked = [s for s in order if s.kind == "mask glass"]
    glazed = [zone for one in plans for zone in one.zones if zone.role == "glass"]
    # Every assembly here is painted.
    assert len(masked) == len(glazed) and not any(s.kind == "glass" for s in order)


@pytest.mark.parametrize(("seed", "wash"), [(9300, "oil"), (9301, "acrylic"), (9304, "oil"), (9305, "acrylic")])
def test_nor_does_one_that_washes_with_oil_or_acrylic(seed: int, wash: Wash) -> None:
    plans, schools, sessions = made_build(seed)
    order, plan = planned(plans, sessions, replace(schools, wash=wash))
    assert not plan.missed and faults(order, plan) == []
    usual, _ = planned(plans, sessions, schools)
    kinds, usually = {s.kind for s in order}, {s.kind for s in usual}
    assert {"wash", "wipe"} <= usually and "acrylic wash" not in usually
    if wash == "oil":
        # Oil takes days where enamel takes one, and the judge knows.
        assert {s.medium for s in order if s.kind == "wash"} == {"oil"} and "wipe" in kinds
    else:
        assert "acrylic wash" in kinds and not kinds & {"wash", "wipe"}


def test_a_window_that_one_pass_gives_up_is_kept_by_another() -> None:
    """Three evenings of 105 minutes and a Sunday morning: most passes find no room for one tape or other, some do."""
    plans, schools, _ = made_build(7102)
    bench = (*(BenchSession(day, time(20), time(21, 45)) for day in (0, 2, 3)), BenchSession(6, time(9), time(12, 30)))
    order, plan = planned(plans, bench, schools)
    assert plan.missed == () and faults(order, plan) == []


@pytest.mark.parametrize("seed", [9500, 9501, 9603, 9618])
def test_nor_does_one_whose_stripes_come_first(seed: int) -> None:
    plans, schools, sessions = made_build(seed)

    def exchanged(one: AssemblyPlan) -> AssemblyPlan:
        stripes = [z.name for z in one.zones if z.role == "stripe"]
        return replace(
            one, zones=tuple(replace(z, role="stripe first") if z.name in stripes[::2] else z for z in one.zones)
        )

    plans = tuple(exchanged(one) for one in plans)
    order, plan = planned(plans, sessions, schools)
    assert not plan.missed and faults(order, plan) == []
    spans, told = plan.spans, [s for s in order if NOT_FIRST in s.facts]
    for one in plans:
        first = [z.name for z in one.zones if z.role == "stripe first"]
        ground = next(z for z in one.zones if z.role in ("base", "metal"))
        if ground.role == "metal" or ("chipping" in ground.wear and schools.chipping != "sponge"):
            assert {s.zone for s in told if s.assembly == one.name} == set(first)
            continue
        # The tape would have to stay until it has cured.
        slow = {z.name for z in one.zones if z.name in first and z.medium == "enamel" != ground.medium}
        assert {s.zone for s in told if s.assembly == one.name} == slow
        first = [name for name in first if name not in slow]
        coats = {z: [s for s in order if s.assembly == one.name and s.zone == z and s.kind in ("base", "stripe")]
                 for z in (*first, ground.name)}  # fmt: skip
        tape = [s for s in order if s.assembly == one.name and s.zone == ground.name and s.kind == "mask"]
        assert len(tape) == bool(first)
        for zone in first:
            assert spans[coats[zone][-1].id][1] < spans[tape[0].id][0] < spans[coats[ground.name][0].id][0]


@pytest.mark.parametrize("seed", range(9400, 9405))
def test_nor_does_one_with_soft_edges_sprayed_freehand(seed: int) -> None:
    plans, schools, sessions = made_build(seed)

    def softened(one: AssemblyPlan) -> AssemblyPlan:
        stripes = [z.name for z in one.zones if z.role == "stripe"]
        soft = [replace(z, role="freehand") if z.name in stripes[::2] else z for z in one.zones]
        return replace(one, zones=tuple(soft))

    soft = tuple(map(softened, plans))
    order, plan = planned(soft, sessions, schools)
    assert not plan.missed and faults(order, plan) == []
    names = {z.name for one in soft for z in one.zones if z.role == "freehand"}
    here = [s for s in order if s.zone in names]
    assert names and {s.kind for s in here} <= {"stripe", "white stripe", "decal", "post-shade", "shine"}
    assert all("edges soft" in s.title for s in here if s.kind == "stripe")


@pytest.mark.parametrize("seed", [9200, 9203, 9204, 9207])
def test_nor_does_one_that_lays_decals_on_glossy_paint(seed: int) -> None:
    plans, schools, sessions = made_build(seed)
    # Out of the tin and without wear, as toys and vehicles are; jobs of some paint over it.
    glossy = tuple(replace(one, zones=tuple(replace(z, shiny=True, wear=()) for z in one.zones)) for one in plans)
    order, plan = planned(glossy, sessions, replace(schools, gloss="on matte paint"))
    assert not plan.missed and faults(order, plan) == []
    always, _ = planned(glossy, sessions, schools)
    glossed = [{s.assembly for s in steps if s.kind == "gloss"} for steps in (order, always)]
    assert glossed[0] < glossed[1]
    # The judge would see decals on paint that has not cured.
    bare = {s.assembly for s in order if s.kind == "decal"} - glossed[0]
    assert bare
    early = min(slot.start for slot in plan.slots if slot.step_id.split("/")[0] in bare)
    decals = {s.id for s in order if s.kind == "decal" and s.assembly in bare}
    moved = tuple(replace(s, start=early, end=early) if s.step_id in decals else s for s in plan.slots)
    assert any("on no hard gloss" in words for words in faults(order, replace(plan, slots=moved)))


@pytest.mark.parametrize("seed", [2001, 2004, 2009])
def test_nor_does_one_that_seals_its_powders(seed: int) -> None:
    plans, schools, sessions = made_build(seed)
    order, plan = planned(plans, sessions, replace(schools, powders="sealed"))
    assert any(step.kind == "fix" for step in order) and faults(order, plan) == [] and plan.missed == ()
    # The judge would see a mist that comes last of all, over what was fitted by then.
    late = max(slot.end for slot in plan.slots)
    fix = {step.id for step in order if step.kind == "fix"}
    moved = tuple(replace(s, start=late, end=late + (s.end - s.start)) if s.step_id in fix else s for s in plan.slots)
    assert any("loose powders handled" in words for words in faults(order, replace(plan, slots=moved)))


def test_small_plans_mostly_end_on_the_day_before_which_none_can() -> None:
    met = 0
    for seed in range(6026, 6036):
        order, plan = planned(*small_build(seed))
        assert faults(order, plan) == [] and plan.finish is not None and plan.bound is not None
        assert plan.finish >= plan.bound
        met += plan.finish.date() == plan.bound.date()
    assert met >= 5


def test_the_judge_sees_what_is_wrong() -> None:
    """A judge that lets everything pass would prove nothing: a plan pulled together is full of faults."""
    plans, schools, sessions = made_build(2000)
    order, plan = planned(plans, sessions, schools)
    hurried = tuple(
        type(s)(s.step_id, MONDAY + (s.start - MONDAY) / 3, MONDAY + (s.start - MONDAY) / 3 + (s.end - s.start), s.what)
        for s in plan.slots
    )
    assert len(faults(order, Schedule(hurried, ()))) > 20


@pytest.mark.parametrize("seed", [2003, 2007])
def test_work_stays_in_its_evenings_and_no_plan_beats_the_bound(seed: int) -> None:
    plans, schools, sessions = made_build(seed)
    order, plan = planned(plans, sessions, schools)
    stretches = list(itertools.islice(windows(sessions, MONDAY), 120))
    for slot in (*plan.slots, *plan.airbrush):
        assert any(w.start <= slot.start < slot.end <= w.end for w in stretches)
    minutes: dict[str, float] = {}
    for slot in plan.slots:
        minutes[slot.step_id] = minutes.get(slot.step_id, 0) + (slot.end - slot.start).total_seconds() / 60
    assert minutes == {step.id: step.minutes for step in order}
    numbered = tuple((int((w.start - MONDAY).total_seconds() / 60), int((w.end - MONDAY).total_seconds() / 60))
                     for w in stretches)  # fmt: skip
    bound = earliest_finish(problem_of(order, limits(order), USUAL_ROOM, MONDAY, {}), numbered)
    assert bound is not None and plan.finish is not None
    assert plan.finish >= MONDAY + timedelta(minutes=bound)


def test_the_bound_is_met_by_a_chain_that_nothing_else_disturbs() -> None:
    """Primer, a day, a coat, a day: three Saturdays, and the bound knows it."""
    order, plan = planned((AssemblyPlan("stand", ()),), SATURDAYS)
    assert [s.kind for s in order] == ["clean"] and plan.finish == datetime(2027, 3, 6, 10, 20)
    zone = ZonePlan("plate", "stand", "grey", "water acrylic", "gloss", "base", coats=1)
    order, plan = planned((AssemblyPlan("stand", (zone,)),), SATURDAYS)
    # Clean and fill; sand and prime a week later; inspect and paint; compare.
    assert plan.finish is not None and plan.finish.date() == datetime(2027, 3, 20).date()


def test_a_plan_that_cannot_keep_a_window_says_which_and_goes_on() -> None:
    short = (BenchSession(1, time(20), time(21, 15)),)
    _, plan = planned((AssemblyPlan("hull", (CHIPPED, BAND)),), short)
    assert plan.finish is not None
    assert {one.rule for one in plan.missed} >= {"top colour the same day"}
    assert all(one.rescue for one in plan.missed if one.rule != "colour while the primer takes it")
    assert all(one.most is not None and one.hours > one.most for one in plan.missed)


def test_a_stripe_finds_room_in_the_one_afternoon_that_just_suffices() -> None:
    """Mask, edge, two coats an hour apart and the tape off take 3 h 35; with the airbrush cleaned, 3 h 50 of four."""
    plain = ZonePlan("planking", "gig", "grey", "water acrylic", "matte", "base")
    strake = ZonePlan("strake", "gig", "blue", "water acrylic", "matte", "stripe")
    _, plan = planned((AssemblyPlan("gig", (plain, strake)),), (BenchSession(5, time(14), time(18)),))
    assert plan.missed == ()
    assert plan.spans["gig/strake/mask"][0].date() == plan.spans["gig/strake/unmask"][0].date()


def test_an_evening_may_pass_midnight_be_a_single_one_or_fall_out() -> None:
    sessions = (
        BenchSession(0, time(22), time(1)),
        BenchSession(0, time(9), time(10), day=datetime(2027, 3, 3).date()),
        BenchSession(0, time(23), time(23, 30)),
    )
    off = ((datetime(2027, 3, 8).date(), datetime(2027, 3, 9).date()),)
    found = list(itertools.islice(windows(sessions, datetime(2027, 3, 1, 23), off), 3))
    assert [(w.start, w.minutes) for w in found] == [
        (datetime(2027, 3, 1, 23), 120), (datetime(2027, 3, 3, 9), 60), (datetime(2027, 3, 15, 22), 180)
    ]  # fmt: skip
    # Begun after midnight, the evening of the day before is still on.
    assert next(windows(sessions, datetime(2027, 3, 2, 0, 30))).minutes == 30


def test_a_cold_room_takes_longer() -> None:
    build = (AssemblyPlan("hull", (CHIPPED, BAND)),)
    daily = tuple(BenchSession(day, time(18), time(23)) for day in range(7))
    warm, cold = (planned(build, daily, room=Room(c, h))[1].finish for c, h in ((20.0, 0.5), (12.0, 0.7)))
    assert warm is not None and cold is not None and cold - warm > timedelta(days=2)


def test_what_is_done_goes_on_curing_and_what_is_missed_does_not_stop_the_plan() -> None:
    order, _ = planned((AssemblyPlan("hull", (BAND,)),), SATURDAYS)
    coat = next(s for s in order if s.id == "hull/band/stripe/2")
    left = order[order.index(coat) + 1 :]
    done = {s: MONDAY - timedelta(days=9) for s in order[: order.index(coat)]}
    sprayed = datetime(2027, 3, 6, 12)
    plan = schedule(left, limits(order), windows(SATURDAYS, sprayed), sprayed, done | {coat: sprayed})
    assert (left[0].kind, plan.slots[0].start) == ("unmask", sprayed + timedelta(minutes=12))
    late = schedule(left, limits(order), windows(SATURDAYS, MONDAY), MONDAY, done | {coat: MONDAY})
    assert "tape off while soft" in {one.rule for one in late.missed} and late.finish is not None
