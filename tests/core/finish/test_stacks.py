"""Drying times against the trade's own figures, stacks of steps, names of finishes."""

from dataclasses import replace
from datetime import datetime

import pytest

from chalkreel.core.bench.lessons import Lesson, reminders
from chalkreel.core.convert.operations import Operation
from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.airbrush import setting
from chalkreel.core.finish.drying import USUAL_ROOM, Room, slowness, waits
from chalkreel.core.finish.finishes import FINISHES, OWN_MIXTURE, Finish, finish_name
from chalkreel.core.finish.limits import limits
from chalkreel.core.finish.order import in_wished_order, valid_order, violations
from chalkreel.core.finish.redone import WrongLayer, sanding_limits, with_sanding
from chalkreel.core.finish.stacks import AssemblyPlan, Decal, Schools, ZonePlan, steps_for
from chalkreel.core.finish.undercoats import hides_badly
from chalkreel.core.finish.wear_marks import made_with

GREY = ZonePlan("side", "hull", "grey", "water acrylic", "matte", "base", ("wash",), True, 60.0)
SCHOOLS = Schools()


@pytest.mark.parametrize(
    ("material", "times"), [("lacquer", 1.7), ("water acrylic", 1.9), ("epoxy", 2.2), ("enamel", 2.6)]
)
def test_ten_degrees_colder_slows_each_carrier_by_its_own_factor(material: str, times: float) -> None:
    assert slowness(material, Room(10.0, 0.5)) == pytest.approx(times, rel=0.05)
    assert slowness(material, USUAL_ROOM) == 1.0


def test_damp_slows_water_and_quickens_what_cures_with_it() -> None:
    assert slowness("water acrylic", Room(20, 0.65)) == pytest.approx(1.43, abs=0.01)
    assert slowness("water acrylic", Room(20, 0.75)) == pytest.approx(2.0, abs=0.01)
    assert slowness("lacquer", Room(20, 0.75)) == 1.0 and slowness("CA", Room(20, 0.75)) < 0.7
    # Two wet coats in one go take about four times as long as one of the usual thickness, but no more than three told.
    assert slowness("enamel", USUAL_ROOM, film_um=60) == 3.0 and slowness("enamel", USUAL_ROOM, film_um=10) == 1.0
    assert waits("water acrylic", "touch", Room(20, 0.75)) == pytest.approx((0.66, 2.0))


@pytest.mark.parametrize(("room", "words"), [(Room(45, 0.4), "45 °C"), (Room(6, 0.4), "6 °C"), (Room(20, 0.9), "90 %")])
def test_a_room_in_which_nothing_dries_as_it_should_is_refused(room: Room, words: str) -> None:
    with pytest.raises(RefusedError, match=words):
        slowness("lacquer", room)


def kinds(plan: AssemblyPlan, schools: Schools = SCHOOLS) -> list[str]:
    return [step.kind for step in steps_for((plan,), schools)]


def test_steps_come_from_facts_lamps_and_schools() -> None:
    plain = kinds(AssemblyPlan("hull", (GREY,)))
    assert plain[:6] == ["clean", "fill", "sand", "prime", "inspect", "base"] and plain.count("base") == 2
    assert not {"wire", "close", "scribe", "seal foam", "mask faces", "white", "detail"} & set(plain)
    known = kinds(AssemblyPlan("hull", (GREY,), (), True, ("shallow lines", "foam", "glue faces", "two halves")))
    for earlier, later in (("drill", "black inside"), ("black inside", "silver inside"), ("test lights", "close"),
                           ("close", "test again"), ("test again", "fill"), ("scribe", "prime"), ("seal foam", "prime"),
                           ("mask faces", "prime"), ("wipe", "matte"), ("test on stand", "compare")):  # fmt: skip
        assert known.index(earlier) < known.index(later), (earlier, later)
    chipped = ZonePlan("side", "hull", "grey", "water acrylic", "matte", "base", ("chipping",))
    plan = AssemblyPlan("hull", (chipped,))
    assert {"under-colour", "seal coat", "chipping medium", "chip"} <= set(kinds(plan))
    assert {"salt", "rub"} <= set(kinds(plan, Schools(chipping="salt"))) and "chip" not in kinds(plan, Schools("salt"))
    dusty = replace(plan, zones=(replace(GREY, wear=("wash", "powders")),))
    left, sealed = kinds(dusty), kinds(dusty, Schools(powders="sealed"))
    assert "pigments" in left and not {"sealed powders", "fix"} & set(left)
    assert sealed.index("matte") < sealed.index("sealed powders") < sealed.index("fix") and "pigments" not in sealed
    # Clear coats lie on what they tint, whether their colour is vivid or not.
    lens = steps_for((replace(plan, zones=(replace(GREY, wear=(), clear_over="silver"),)),), SCHOOLS)
    under = tuple(s for s in lens if s.kind in ("prime", "white", "base"))
    assert [s.kind for s in valid_order(under[::-1], limits(under))] == ["prime", "white", "base", "base"]
    assert under[1].title == "Silver under the clear coats: side" and under[1].colour == "silver"
    assert under[2].title.startswith("Clear colour: side, coat 1")
    tinted = steps_for((replace(plan, zones=(replace(GREY, wear=(), role="metal", clear_over="silver"),)),), SCHOOLS)
    under = tuple(s for s in tinted if s.kind in ("gloss black", "white", "metal"))
    assert [s.kind for s in valid_order(under[::-1], limits(under))] == ["gloss black", "white", "metal", "metal"]
    # A filter lies on gloss like a wash and under matte, with a wash or without one.
    even = replace(plan, zones=(replace(GREY, wear=(), decals=False, filtered=True),))
    assert [k for k in kinds(even) if k in ("gloss", "wash", "wipe", "matte")] == ["gloss", "wash", "wipe", "matte"]
    both = replace(plan, zones=(replace(GREY, filtered=True),))
    for laid, school, words in (
        (even, SCHOOLS, "Filter, thin and even: side"),
        (even, Schools(wash="acrylic"), "Filter, thin and even: side"),
        (both, Schools(wash="oil"), "Wash into lines and corners: hull; filter, thin and even: side"),
    ):  # fmt: skip
        steps = steps_for((laid,), school)
        assert next(s for s in steps if s.kind in ("wash", "acrylic wash")).title == words
    glazed = replace(plan, zones=(GREY, ZonePlan("pane", "hull", "", "water acrylic", "gloss", "glass")))
    masked = kinds(glazed, Schools(canopy="masked"))
    assert masked.index("sand") < masked.index("mask glass") < masked.index("prime")
    assert masked.index("matte") < masked.index("unmask glass") and "glass" not in masked and "glass" in kinds(glazed)
    assert "glass" in kinds(replace(glazed, zones=glazed.zones[1:]), Schools(canopy="masked"))
    assert "sponge" in kinds(plan, Schools("sponge")) and "under-colour" not in kinds(plan, Schools("sponge"))
    assert kinds(AssemblyPlan("stand", ())) == ["clean"]
    printed = kinds(AssemblyPlan("hull", (GREY,), (), False, ("printed",)))
    assert printed.index("clean") < printed.index("smooth") < printed.index("fill") and "smooth" not in plain
    # What soft vinyl does not bear is told for every coat, and for the washes over the varnish it is not.
    soft = AssemblyPlan("hull", (replace(GREY, medium="enamel"),), (), False, ("vinyl",))
    steps = steps_for((soft,), SCHOOLS)
    wrong = [v for v in violations(steps, limits(steps)) if "vinyl" in v.rule]
    assert [v.step for v in wrong] == ["hull/side/base", "hull/side/base/2"] and wrong[0].cure == "choice"
    acrylic = steps_for((replace(soft, zones=(GREY,)),), SCHOOLS)
    assert not violations(acrylic, limits(acrylic))


def test_a_warm_cabinet_halves_the_waits_of_what_bears_it() -> None:
    warm = Room(cabinet=True)
    plain = AssemblyPlan("hull", (GREY,))

    def longest(plan: AssemblyPlan, room: Room, kind: str) -> float:
        steps = steps_for((plan,), SCHOOLS)
        return max(s.dries("over", room)[1] for s in steps if s.kind == kind)

    # Water acrylic: a day until something else goes over it, half a day in the cabinet.
    assert longest(plain, USUAL_ROOM, "base") == 24 and longest(plain, warm, "base") == 12
    for fact in ("vinyl", "foam", "printed"):
        assert longest(replace(plain, facts=(fact,)), warm, "base") == 24
    glued = replace(plain, facts=("two halves",))
    assert longest(glued, warm, "close") == 12
    # CA cures with the moisture of the air: warmth is no help.
    steps = steps_for((plain,), Schools(filler="CA"))
    assert next(s for s in steps if s.kind == "fill").dries("over", warm) == waits("CA", "over")


def test_decals_are_laid_in_sittings_those_under_parts_first() -> None:
    names = [f"mark {n}" for n in range(10)]
    marked = replace(GREY, decals=True, decal_list=(*(Decal(n) for n in names), Decal("arrow", under=True)))
    steps = steps_for((AssemblyPlan("hull", (marked,)),), SCHOOLS)
    laid = [s for s in steps if s.kind == "decal"]
    assert [s.minutes for s in laid] == [12, 96, 24] and "arrow" in laid[0].title and "under parts" in laid[0].title
    # Each is in one sitting, and all wait for the same gloss and are sealed together.
    assert sorted(n for s in laid for n in s.title.rpartition(": ")[2].split("; ")) == sorted([*names, "arrow"])
    found = limits(steps)
    assert all(max(c.min_hours for c in found if c.then == s.id and "gloss" in c.first) >= 24 for s in laid)
    assert all(any(c.first == s.id and c.then == "hull//seal" for c in found) for s in laid)
    # One sitting needs not wait for the decals of the one before to dry.
    assert not [c for c in found if {c.first, c.then} <= {s.id for s in laid} and c.min_hours]
    # A zone without a list keeps its one step beside those of another.
    plain = ZonePlan("deck", "hull", "grey", "water acrylic", "matte", "base", (), True)
    both = [s for s in steps_for((AssemblyPlan("hull", (marked, plain)),), SCHOOLS) if s.kind == "decal"]
    assert len(both) == 4 and both[0].zone == ""


def test_decals_on_glossy_paint_need_gloss_only_where_something_dulls_it() -> None:
    bare = Schools(gloss="on matte paint")
    named = replace(GREY, wear=(), decals=True, decal_list=(Decal("arrow"),), shiny=True)
    matte = replace(named, name="deck", decals=False, decal_list=(), shiny=False)

    def glossed(*zones: ZonePlan, schools: Schools = bare) -> bool:
        return any(s.kind == "gloss" for s in steps_for((AssemblyPlan("hull", zones),), schools))

    assert not glossed(named) and not glossed(named, matte) and glossed(named, schools=SCHOOLS)
    assert glossed(replace(named, shiny=False)) and glossed(replace(named, role="metal"))
    for wear in ("post-shade", "chipping", "wash"):
        assert glossed(replace(named, wear=(wear,)))
    # A decal without a name may come on the matte deck as well.
    unnamed = replace(named, decal_list=())
    assert not glossed(unnamed) and glossed(unnamed, matte)
    # Details painted over it are of another paint.
    job = Operation("rim", "add", "seen", "sheet", None, 1.0, "after base colour")
    assert any(s.kind == "gloss" for s in steps_for((AssemblyPlan("hull", (named,), (job,)),), bare))


def test_stripes_of_one_thing_are_masked_one_after_another_the_lightest_first() -> None:
    stripes = tuple(
        ZonePlan(name, "hull", name, "water acrylic", "matte", "stripe", lightness=light, coats=1)
        for name, light in (("dark", 20.0), ("unknown", None), ("light", 80.0))
    )
    order = steps_for((AssemblyPlan("hull", (GREY, *stripes)),), SCHOOLS)
    assert [s.zone for s in order if s.kind == "stripe"] == ["light", "unknown", "dark"]
    light = [s.kind for s in order if s.zone == "light"]
    assert light == ["mask", "edge seal", "stripe", "unmask"]


def test_a_late_part_is_made_early_and_fitted_late() -> None:
    mast = Operation("mast", "add", "wanted", "rod", 90.0, 4.0, "after matte coat")
    steps = steps_for((AssemblyPlan("hull", (GREY,), (mast,)),), SCHOOLS)
    made, fitted = (s for s in steps if "mast" in s.title)
    assert (made.kind, made.minutes, fitted.kind, fitted.minutes) == ("make", 220, "add fragile parts", 20)
    found = limits(steps)
    assert violations((fitted, *(s for s in steps if s is not fitted)), found)


def test_a_wish_stands_as_wished_and_is_mended_on_demand() -> None:
    steps = steps_for((AssemblyPlan("hull", (GREY,)),), SCHOOLS)
    found = limits(steps)
    wish = tuple(s.id for s in reversed(steps))
    assert tuple(s.id for s in in_wished_order(steps, wish)) == wish
    assert len(violations(in_wished_order(steps, wish), found)) > 20
    mended = valid_order(steps, found, wish)
    assert violations(mended, found) == () and set(mended) == set(steps)
    without = tuple(name for name in wish if not name.endswith("gloss"))
    assert {s.id for s in in_wished_order(steps, without)} == set(wish)


@pytest.mark.parametrize(
    ("lab", "vivid"),
    [((70, 10, 70), True), ((45, 60, 40), True), ((60, 5, 20), False), ((40, 10, -50), False), ((70, -60, 30), False)],
)
def test_only_yellow_orange_and_red_want_white_beneath(lab: tuple[float, float, float], vivid: bool) -> None:
    assert hides_badly(lab) is vivid


def test_finishes_have_one_name_each_and_own_ones_go_first() -> None:
    assert all(finish_name(f.role, f.sheen, f.wear) == f.name for f in FINISHES)
    assert finish_name("base", "matte", ("powders", "wash", "streaks", "chipping")) == "three-tone rust"
    assert finish_name("stripe", "gloss", ("wash",)) == OWN_MIXTURE
    assert finish_name("base", "satin", (), (Finish("regatta white", "base", "satin"),)) == "regatta white"


def test_where_to_begin_with_the_airbrush_follows_purpose_and_paint() -> None:
    found = {s.kind: setting(s) for s in steps_for((AssemblyPlan("hull", (GREY,)),), SCHOOLS)}
    assert found["prime"] is not None and found["prime"].needle_mm == "0.4"
    assert found["base"] is not None and found["base"].thinner == "thinner 1 : paint 2"
    assert found["wipe"] is None


def test_lessons_come_back_at_the_next_step_of_their_kind() -> None:
    ahead = steps_for((AssemblyPlan("hull", (GREY,)),), SCHOOLS)
    found = reminders((Lesson("wait a day", "gloss"), Lesson("no use now", "salt")), ahead)
    assert [(r.words, r.step_title) for r in found] == [("wait a day", "Gloss coat: hull")]


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


def test_a_wrong_coat_dries_is_sanded_back_and_only_then_laid_again() -> None:
    steps = steps_for((AssemblyPlan("hull", (GREY,)),), SCHOOLS)
    ended = datetime(2027, 3, 1, 20)
    wrong = (WrongLayer("hull/side/base/2", "enamel", ended),)
    whole = with_sanding(steps, wrong)
    added = [s for s in whole if s not in steps]
    assert [s.kind for s in added] == ["wrong layer", "sand back"] and "coat 2 of 2" in added[1].title
    found = (*limits(whole), *sanding_limits(whole, wrong, USUAL_ROOM))
    waits_for = {(c.first, c.then): c.min_hours for c in found}
    # Enamel is through after three days at the slow end, whatever is to be painted over it.
    assert waits_for[added[0].id, added[1].id] == 72
    assert waits_for[added[1].id, "hull/side/base/2"] == 0
    order = [s.id for s in valid_order(whole, found)]
    assert order.index(added[0].id) < order.index(added[1].id) < order.index("hull/side/base/2")
    assert not violations(valid_order(whole, found), found)
    # Nothing is told of it any more where nothing went wrong, or another build has no such step.
    assert with_sanding(steps, ()) == steps and not list(sanding_limits(steps, wrong, USUAL_ROOM))
