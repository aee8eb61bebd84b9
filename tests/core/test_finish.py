"""Order rules each with a case that must fail; orders, schedules, lessons."""

import itertools
from dataclasses import replace
from datetime import datetime, time, timedelta
from graphlib import TopologicalSorter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from chalkreel.core.bench.lessons import Lesson, reminders
from chalkreel.core.convert.operations import Operation
from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.order import in_wished_order, valid_order
from chalkreel.core.finish.rules import constraints, rule_book, violations
from chalkreel.core.finish.schedule import BenchSession, schedule
from chalkreel.core.finish.steps import AssemblyPlan, Step, ZonePlan, step_kinds, steps_for
from chalkreel.core.finish.wear_marks import made_with

EVENINGS = (BenchSession(1, time(19, 30), time(22, 0)), BenchSession(5, time(14, 0), time(18, 0)))
TUESDAY = datetime(2026, 12, 1)


def step(kind: str, zone: str = "z", assembly: str = "hull", **more: object) -> Step:
    return Step(f"{assembly}/{zone}/{kind}", kind, assembly, zone, kind, 20, (), **more)  # type: ignore[arg-type]


def hull(**more: object) -> AssemblyPlan:
    zones = (
        ZonePlan("sides", "hull", "grey", "water acrylic", "matte", "base", ("pre-shade", "wash", "streaks", "powders"),
                 True, 65.0),
        ZonePlan("band", "hull", "ochre", "water acrylic", "matte", "stripe", (), False, 52.0),
        ZonePlan("skirt", "hull", "dark", "water acrylic", "matte", "stripe", (), False, 25.0),
        ZonePlan("windows", "hull", "", "water acrylic", "gloss", "glass"),
    )  # fmt: skip
    return AssemblyPlan("hull", zones, **more)  # type: ignore[arg-type]


ALL_PAIRS = [(rule, a, b) for rule in rule_book().rule for a in rule.first for b in rule.then]


@pytest.mark.parametrize(("rule", "first", "then"), ALL_PAIRS, ids=[f"{r.name}: {a}/{b}" for r, a, b in ALL_PAIRS])
def test_every_rule_fails_in_the_wrong_order_and_holds_in_the_right_one(rule: object, first: str, then: str) -> None:
    a, b = step(first), step(then)
    wrong = {(v.rule, v.first, v.then) for v in violations((b, a))}
    assert (rule.name, a.id, b.id) in wrong  # type: ignore[attr-defined]
    assert all(v.rule != rule.name for v in violations((a, b)))  # type: ignore[attr-defined]


def test_there_are_enough_rules_and_each_gives_a_reason() -> None:
    book = rule_book()
    assert len(book.rule) >= 15
    assert all(len(rule.reason) > 30 and rule.reason.endswith(".") for rule in book.rule)
    known = set(step_kinds())
    assert {kind for rule in book.rule for kind in (*rule.first, *rule.then)} <= known


def test_rules_keep_to_their_assembly() -> None:
    apart = (step("base", assembly="hull"), step("prime", assembly="deck"))
    assert violations(apart) == ()


def test_lacquer_over_enamel_and_enamel_wash_over_enamel_are_named() -> None:
    crazing = violations((step("base", medium="enamel"), step("stripe", medium="lacquer")))
    assert [(v.rule, v.by_order) for v in crazing] == [("lacquer over weaker paint", False)]
    lifting = violations((step("base", medium="enamel"), step("wash", zone="", medium="enamel")))
    assert "wash carrier differs from its ground" in {v.rule for v in lifting}
    sealed = (
        step("base", medium="enamel"),
        step("gloss", zone="", medium="water acrylic"),
        step("wash", zone="", medium="enamel"),
    )
    assert violations(sealed) == ()


def test_light_stripes_go_before_dark_ones() -> None:
    dark, light = step("stripe", "skirt", lightness=25.0), step("stripe", "band", lightness=60.0)
    assert [v.rule for v in violations((dark, light))] == ["light colours before dark"]
    assert violations((light, dark)) == ()


def test_zones_and_operations_become_steps_in_a_valid_order() -> None:
    saw = Operation("roof rack", "remove", "not wanted", "saw", None, 0.5, "before primer")
    mast = Operation("mast", "add", "wanted", "rod", 90.0, 4.0, "after matte coat")
    steps = valid_order(steps_for((hull(operations=(saw, mast), lit=True),)))
    kinds = [s.kind for s in steps]
    assert violations(steps) == ()
    for earlier, later in (("clean", "prime"), ("rework", "prime"), ("wire", "close"), ("close", "prime"),
                           ("prime", "base"), ("base", "stripe"), ("gloss", "decal"), ("decal", "wash"),
                           ("matte", "add fragile parts"), ("matte", "glass"), ("glass", "pigments")):  # fmt: skip
        assert kinds.index(earlier) < kinds.index(later), (earlier, later)
    assert next(s for s in steps if "Add mast" in s.title).minutes == 240
    assert any("Respirator" in caution for s in steps if s.kind == "base" for caution in s.cautions)


def test_unlit_and_unpainted_things_get_no_such_steps() -> None:
    kinds = {s.kind for s in steps_for((AssemblyPlan("stand", ()),))}
    assert kinds == {"clean"}


@settings(max_examples=40, deadline=None)
@given(st.randoms(use_true_random=False))
def test_any_wish_is_repaired_into_a_valid_order_of_the_same_steps(random: object) -> None:
    steps = steps_for((hull(lit=True),))
    wish = [s.id for s in steps]
    random.shuffle(wish)  # type: ignore[attr-defined]
    repaired = valid_order(steps, tuple(wish))
    assert violations(repaired) == ()
    assert {s.id for s in repaired} == {s.id for s in steps}


def test_a_wish_stands_as_wished_and_new_steps_find_a_place() -> None:
    steps = valid_order(steps_for((hull(),)))
    wish = tuple(s.id for s in reversed(steps))
    assert tuple(s.id for s in in_wished_order(steps, wish)) == wish
    assert violations(in_wished_order(steps, wish))
    without = tuple(name for name in wish if not name.endswith("gloss"))
    assert {s.id for s in in_wished_order(steps, without)} == set(wish)


def test_the_rules_contradict_each_other_nowhere() -> None:
    sorter: TopologicalSorter[str] = TopologicalSorter()
    for rule in rule_book().rule:
        for kind in rule.then:
            sorter.add(kind, *rule.first)
    assert set(sorter.static_order()) <= set(step_kinds())


def test_the_schedule_waits_fills_and_stays_in_its_evenings() -> None:
    deck = AssemblyPlan("deck", (ZonePlan("plating", "deck", "grey", "water acrylic", "matte", "base"),))
    steps = valid_order(steps_for((hull(), deck)))
    limits = constraints(steps)
    found = schedule(steps, limits, EVENINGS, TUESDAY)
    assert found.missed == ()
    ends = {slot.step_id: slot.end for slot in found.slots}
    starts = {slot.step_id: slot.start for slot in reversed(found.slots)}
    for limit in limits:
        assert starts[limit.then] >= ends[limit.first] + timedelta(hours=limit.min_hours)
        if limit.max_hours is not None:
            assert starts[limit.then] <= ends[limit.first] + timedelta(hours=limit.max_hours)
    for slot in found.slots:
        session = next(s for s in EVENINGS if s.weekday == slot.start.weekday())
        assert session.start <= slot.start.time() < slot.end.time() <= session.end
    ordered = sorted(found.slots, key=lambda s: s.start)
    assert all(a.end <= b.start for a, b in itertools.pairwise(ordered))
    alone = schedule(valid_order(steps_for((hull(),))), constraints(steps_for((hull(),))), EVENINGS, TUESDAY)
    assert alone.finish is not None and found.finish is not None
    # The deck is done in the hull's curing times: both together end no later than a week after the hull alone.
    assert found.finish - alone.finish < timedelta(days=8)


def test_long_steps_are_spread_over_evenings() -> None:
    long = replace(step("rework"), minutes=380)
    found = schedule((long,), (), EVENINGS, TUESDAY)
    assert len(found.slots) == 2 and sum((s.end - s.start).seconds for s in found.slots) == 380 * 60
    assert found.slots[0].start == datetime(2026, 12, 1, 19, 30)


def test_a_missed_latest_start_is_told() -> None:
    short = (BenchSession(1, time(19, 30), time(19, 45)),)
    steps = (step("stripe"), step("unmask"))
    found = schedule(steps, constraints(steps), short, TUESDAY)
    (missed,) = found.missed
    # The tape may stay on for two hours; the next evening is a week later.
    assert (missed.first, missed.then, missed.max_hours) == ("hull/z/stripe", "hull/z/unmask", 2.0)
    assert missed.hours == pytest.approx(7 * 24 - 5 / 60, abs=0.3)


def test_what_a_finished_step_began_goes_on_curing() -> None:
    steps = (step("prime", zone=""), step("base"))
    primed = datetime(2026, 12, 1, 19, 0)
    found = schedule(steps[1:], constraints(steps), EVENINGS, primed, {steps[0].id: primed})
    # Twelve hours after the primer, so not in the same evening but on Saturday.
    assert found.slots[0].start == datetime(2026, 12, 5, 14, 0)
    long_ago = schedule(steps[1:], constraints(steps), EVENINGS, TUESDAY, {steps[0].id: datetime(2026, 11, 1)})
    assert long_ago.slots[0].start == datetime(2026, 12, 1, 19, 30)


def test_nothing_is_planned_for_an_evening_that_has_passed() -> None:
    late = datetime(2026, 12, 1, 21, 0)
    assert schedule((step("base"),), (), EVENINGS, late).slots[0].start == late
    gone = datetime(2026, 12, 1, 22, 30)
    assert schedule((step("base"),), (), EVENINGS, gone).slots[0].start == datetime(2026, 12, 5, 14, 0)


@pytest.mark.parametrize("lit", [False, True])
@pytest.mark.parametrize("wear", [(), ("wash",), ("powders",), ("chipping", "streaks")])
@pytest.mark.parametrize("decals", [False, True])
def test_no_plan_lays_its_last_coat_before_its_first(lit: bool, wear: tuple, decals: bool) -> None:
    """Whatever a build leaves out; and halves are joined before their seams are sanded."""
    zones = (ZonePlan("side", "hull", "grey", "water acrylic", "matte", "base", wear, decals, 60.0),
             ZonePlan("band", "hull", "red", "enamel", "satin", "stripe"))  # fmt: skip
    order = [s.kind for s in valid_order(steps_for((AssemblyPlan("hull", zones, lit=lit),)))]
    stack = [
        kind for kind in ("close", "seams", "prime", "base", "stripe", "unmask", "matte", "pigments") if kind in order
    ]
    assert [order.index(kind) for kind in stack] == sorted(order.index(kind) for kind in stack)


@pytest.mark.parametrize("sessions", [(), (BenchSession(0, time(20), time(19)),)])
def test_no_evening_no_schedule(sessions: tuple[BenchSession, ...]) -> None:
    with pytest.raises(RefusedError, match="bench evening"):
        schedule((step("base"),), (), sessions, TUESDAY)


def test_lessons_come_back_at_the_next_step_of_their_kind() -> None:
    ahead = (step("prime"), step("stripe", "band"), step("stripe", "skirt"))
    found = reminders((Lesson("wait a day", "stripe"), Lesson("no use now", "decal")), ahead)
    assert [(r.words, r.step_title) for r in found] == [("wait a day", "stripe")]


@pytest.mark.parametrize(
    ("name", "mm", "words"),
    [
        ("chip 3", 0.25, "pencil"), ("Chips by the hatch", 0.8, "sponge"), ("hit 1", 3.9, "liquid mask"),
        ("rust", 6.0, "chipping medium"), ("chip", 0.1, "leave it"), ("streak 2", 12.0, "drawn down"),
        ("soot", 5.0, "airbrush"), ("number 9", 20.0, ""), ("", 1.0, ""),
    ],
)  # fmt: skip
def test_a_mark_is_made_with_what_its_size_on_the_model_asks_for(name: str, mm: float, words: str) -> None:
    found = made_with(name, mm)
    assert words in found and bool(found) == bool(words)
