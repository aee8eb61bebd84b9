"""The search for drops: against exhaustive search, its limits and its invariances; amounts and verdicts."""

import contextlib
import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from chalkreel.core.colour import recipe
from chalkreel.core.colour.batch import COVERAGE_CM2_PER_ML, Habits, batch_for
from chalkreel.core.colour.characterise import guessed
from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kubelka_munk import mix_reflectance
from chalkreel.core.colour.mixing import Mixer, metric_at
from chalkreel.core.colour.paint import Paint
from chalkreel.core.colour.recipe import Limits, find_recipes, nearest_single, predict_recipe
from chalkreel.core.colour.rescue import rescue
from chalkreel.core.colour.screening import nearest_pairs, nearest_triples, nearest_with_first
from chalkreel.core.colour.spectra import xyz_of_reflectance
from chalkreel.core.colour.surface_terms import SURFACE, seen
from chalkreel.core.colour.target import lightened, picture_lab
from chalkreel.core.colour.verdict import lacking, worth
from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.demo.evidence import bench_range

SHELF = tuple(Paint(p.name, np.array(p.absorption), np.array(p.scattering)) for p in bench_range())
TARGETS = [(65.0, -0.6, 9.2), (52.0, 6.0, 44.0), (40.0, -20.0, 10.0), (45.0, 40.0, 25.0), (30.0, 2.0, -6.0)]


def exhaustive(target: tuple[float, float, float], shelf: tuple[Paint, ...], most: int) -> float:
    best = np.inf
    for count in (1, 2, 3):
        drops = np.array([d for d in itertools.product(range(1, most + 1), repeat=count) if sum(d) <= most], float)
        for paints in itertools.combinations(shelf, count):
            spectra = mix_reflectance(
                drops, np.stack([p.absorption for p in paints]), np.stack([p.scattering for p in paints])
            )
            lab = lab_of_xyz(xyz_of_reflectance(seen(spectra, SURFACE["matte"])))
            best = min(best, float(delta_e_2000(lab, np.array(target)).min()))
    return best


@pytest.mark.parametrize("target", TARGETS)
def test_the_search_comes_within_a_tenth_of_exhaustive(target: tuple[float, float, float]) -> None:
    shelf = SHELF[::2]
    found = find_recipes(target, shelf, Limits(paints=3, drops=16))
    assert min(r.delta_e for r in found) <= exhaustive(target, shelf, 16) + 0.1


def test_the_lean_of_a_mix_is_its_derivative() -> None:
    mixer, sets, amounts = Mixer(SHELF), np.array([[0, 5, 9]]), np.array([[6.0, 2.0, 0.4]])
    lab, jacobian = mixer.lab_and_jacobian(sets, amounts)
    for paint in range(3):
        more = amounts * np.exp(1e-5 * np.eye(3)[paint])
        assert jacobian[0, :, paint] == pytest.approx((mixer.lab(sets, more)[0] - lab[0]) / 1e-5, rel=1e-3, abs=1e-3)


def test_the_metric_is_ciede2000_nearby() -> None:
    here = np.array([55.0, 20.0, -30.0])
    for step in np.eye(3) * 0.3:
        assert np.linalg.norm(metric_at(here) @ step) == pytest.approx(delta_e_2000(here + step, here), rel=0.05)


def test_recipes_obey_their_limits_and_predict_what_they_mix() -> None:
    target = (60.0, 5.0, 20.0)
    limits = Limits(paints=5, drops=30, without=frozenset({"yellow ochre"}))
    for found in find_recipes(target, SHELF, limits):
        assert len(found.drops) <= 5 and found.total <= 30 and all(n >= 1 for _, n in found.drops)
        assert "yellow ochre" not in dict(found.drops)
        again = predict_recipe(found.drops, SHELF, target)
        assert again is not None and again.delta_e == pytest.approx(found.delta_e)
    assert predict_recipe((("no such paint", 3),), SHELF, target) is None
    for bad in (Limits(paints=0), Limits(paints=6), Limits(drops=0)):
        with pytest.raises(RefusedError):
            find_recipes(target, SHELF, bad)


@settings(max_examples=5, deadline=None)
@given(st.permutations(range(9)))
def test_the_order_of_the_shelf_does_not_matter(order: list[int]) -> None:
    shelf = SHELF[:9]
    plain = find_recipes(TARGETS[0], shelf)
    assert find_recipes(TARGETS[0], tuple(shelf[i] for i in order)) == plain


@pytest.mark.parametrize("target", TARGETS[:3])
def test_more_paints_are_never_worse(target: tuple[float, float, float]) -> None:
    best = [min(r.delta_e for r in find_recipes(target, SHELF[:12], Limits(paints=n))) for n in (1, 2, 3, 4, 5)]
    assert all(more <= fewer + 1e-9 for fewer, more in itertools.pairwise(best))


def test_a_trade_off_gives_up_nothing_for_nothing() -> None:
    found = find_recipes(TARGETS[0], SHELF)
    for one, other in itertools.permutations(found, 2):
        simpler = len(one.drops) <= len(other.drops) and one.total <= other.total
        assert not (simpler and one.delta_e < other.delta_e - 0.01)
    assert len({len(r.drops) for r in found}) >= 2


def test_a_paint_of_the_shelf_is_found_as_itself() -> None:
    for paint in SHELF[::5]:
        lab = Mixer((paint,)).lab(np.array([[0]]), np.array([[1.0]]))[0]
        target = (float(lab[0]), float(lab[1]), float(lab[2]))
        assert find_recipes(target, SHELF)[0].drops == ((paint.name, 1),)
        assert nearest_single(target, SHELF)[0].drops == ((paint.name, 1),)


def test_the_search_stops_when_asked_and_refuses_an_empty_shelf() -> None:
    with pytest.raises(StoppedError):
        find_recipes((50.0, 0.0, 0.0), SHELF, progress=lambda _: False)
    with pytest.raises(RefusedError, match="shelf"):
        find_recipes((50.0, 0.0, 0.0), ())


def test_empty_and_metal_bottles_are_not_proposed() -> None:
    target = (60.0, 0.0, 0.0)
    grey = next(p for p in SHELF if p.name == "neutral grey")
    empty = Paint(grey.name, grey.absorption, grey.scattering, ml_left=0.0)
    metal = Paint("silver", grey.absorption, grey.scattering, metallic=True)
    others = tuple(p for p in SHELF if p is not grey)
    names = {name for r in find_recipes(target, (*others, empty, metal)) for name, _ in r.drops}
    assert not names & {"neutral grey", "silver"}


def test_a_verdict_tells_touchiness_lamps_and_what_is_lacking() -> None:
    target = TARGETS[1]
    best_one = find_recipes(target, SHELF)[0]
    found = worth(best_one, SHELF, target)
    by_hand = predict_recipe(tuple((n, c + (i == 0)) for i, (n, c) in enumerate(best_one.drops)), SHELF, target)
    assert by_hand is not None
    moved = delta_e_2000(np.array(by_hand.lab), np.array(best_one.lab))
    assert found.touches[0].more == pytest.approx(float(moved))
    assert [lamp for lamp, _ in found.by_lamp] == ["D65", "A", "LED-B2"]
    assert found.by_lamp[0][1] == pytest.approx(best_one.delta_e, abs=0.1)
    dull = tuple(p for p in SHELF if p.name in ("titanium white", "lamp black", "neutral grey", "yellow ochre"))
    blue = (45.0, -12.0, -30.0)
    best = min(r.delta_e for r in find_recipes(blue, dull))
    name, error = lacking(blue, dull, best) or ("", 99.0)
    assert "blue" in name and error < 0.5 * best


def test_a_batch_covers_area_coats_losses_and_counts_its_cost() -> None:
    bottles = (
        Paint("a", SHELF[0].absorption, SHELF[0].scattering, price_per_ml=0.2),
        Paint("b", SHELF[1].absorption, SHELF[1].scattering, drop_ml=0.03, price_per_ml=0.1, ml_left=0.1),
    )
    made = batch_for(180.0, 3, (("a", 6), ("b", 2)), bottles, Habits(thinner_parts=1.5))
    assert made.millilitres >= 180 * 3 / COVERAGE_CM2_PER_ML
    assert [(x.drops, x.parts) for x in made.amounts] == [(6 * made.repeats, 3), (2 * made.repeats, 1)]
    assert made.millilitres == pytest.approx((6 * 0.05 + 2 * 0.03) * made.repeats)
    assert made.thinned_ml == pytest.approx(2.5 * made.millilitres)
    assert sum(x.percent for x in made.amounts) == pytest.approx(100)
    assert made.cost == pytest.approx((6 * 0.05 * 0.2 + 2 * 0.03 * 0.1) * made.repeats)
    assert made.short == ("b",)
    for area, coats, drops in ((0.0, 2, (("a", 1),)), (10.0, 0, (("a", 1),)), (10.0, 2, ())):
        with pytest.raises(RefusedError):
            batch_for(area, coats, drops, bottles)


def test_targets_of_the_picture_and_lightened() -> None:
    # sRGB mid grey (119 of 255 is 0.1845 linear) is L* 50 on the screen.
    assert picture_lab(((0.1842, 0.1842, 0.1842),)) == pytest.approx((50.0, 0.0, 0.0), abs=0.1)
    none, some = lightened((40.0, 30.0, 20.0), 0.0), lightened((40.0, 30.0, 20.0), 0.15)
    assert none.moved == pytest.approx(0.0, abs=1e-9)
    assert some.lab[0] > 45 and some.lab[1] < 30 and some.moved > 3
    with pytest.raises(RefusedError):
        lightened((40.0, 30.0, 20.0), 0.9)


def typed_shelf(count: int, seed: int) -> tuple[Paint, ...]:
    """Made-up paints all over what paints can be."""
    rng, found = np.random.default_rng(seed), []
    while len(found) < count:
        lab = np.array([rng.uniform(12, 95), rng.normal(0, 25), rng.normal(5, 28)])
        with contextlib.suppress(RefusedError):
            constants, strength = guessed(lab, SURFACE["matte"]), np.exp(rng.normal(0, 0.4))
            found.append(Paint(f"p{len(found)}", constants.absorption * strength, constants.scattering * strength))
    return tuple(found)


@pytest.mark.parametrize("seed", [1000, 1001, 1002])
def test_screening_a_large_shelf_loses_nothing(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    shelf, rng = typed_shelf(70, seed), np.random.default_rng(seed)
    target = (rng.uniform(25, 85), rng.normal(0, 15), rng.normal(5, 20))
    screened = find_recipes(target, shelf, Limits(paints=3))
    monkeypatch.setattr(recipe, "MOST_SETS", 10**9)
    every = find_recipes(target, shelf, Limits(paints=3))
    assert min(r.delta_e for r in screened) <= min(r.delta_e for r in every) + 0.1


def test_segments_and_triangles_are_as_far_from_the_origin_as_their_nearest_points() -> None:
    points = np.random.default_rng(1000).normal(0.4, 1, (9, 3))
    shares = np.array([(a, b, 40 - a - b) for a in range(41) for b in range(41 - a)]) / 40
    near = {
        rows: np.linalg.norm(shares @ points[list(rows)], axis=1).min() for rows in itertools.combinations(range(9), 3)
    }
    found = [tuple(row) for row in nearest_triples(points, 10, lambda _: True)]
    # Of the ten nearest by a fine grid all but one at the border are found.
    assert len(set(found) & set(sorted(near, key=near.__getitem__)[:10])) >= 9
    with_first = [tuple(row) for row in nearest_with_first(points, 5)]
    assert len(set(with_first) & set(sorted((r for r in near if r[0] == 0), key=near.__getitem__)[:5])) >= 4
    line = {rows: np.linalg.norm(shares[shares[:, 2] == 0][:, :2] @ points[list(rows)], axis=1).min()
            for rows in itertools.combinations(range(9), 2)}  # fmt: skip
    pairs = [tuple(row) for row in nearest_pairs(points, 6)]
    assert len(set(pairs) & set(sorted(line, key=line.__getitem__)[:6])) >= 5


def test_clears_and_metals_stay_out_of_opaque_mixes_and_are_named() -> None:
    clear = replace(SHELF[0], name="clear", clear=True)
    metal = replace(SHELF[1], name="silver", metallic=True)
    names = {name for r in find_recipes(TARGETS[0], (*SHELF, clear)) for name, _ in r.drops}
    assert "clear" not in names and nearest_single(TARGETS[0], (clear, SHELF[3]))[0].drops == ((SHELF[3].name, 1),)
    with pytest.raises(RefusedError, match="Only clear and metallic"):
        find_recipes(TARGETS[0], (clear, metal))
    with pytest.raises(RefusedError, match="left out"):
        find_recipes(TARGETS[0], SHELF[:2], Limits(without=frozenset(p.name for p in SHELF[:2])))


def test_what_is_lacking_is_nothing_that_is_there() -> None:
    # A shelf with a weak black and no other dark paint: another black would help, but its name would not say how.
    black = next(p for p in SHELF if p.name == "lamp black")
    dull = tuple(p for p in SHELF if p.name in ("titanium white", "yellow ochre"))
    target = (14.0, 0.5, 0.0)
    best = min(r.delta_e for r in find_recipes(target, (*dull, black)))
    found = lacking(target, (*dull, black), best + 5)
    assert found is None or found[0] != "black"


def test_a_pot_that_stays_far_off_is_given_up_for_one_that_does_not() -> None:
    white = next(p.name for p in SHELF if p.name == "titanium white")
    target = (35.0, 45.0, 25.0)
    fresh = find_recipes(target, SHELF)[0]
    # A full cup of white but for ten drops, to become a deep red.
    pot = predict_recipe(((white, 150),), SHELF, target)
    assert pot is not None
    way = rescue(((white, 150),), pot.lab, target, SHELF, 160, fresh, needed_drops=200)
    assert way.steps and way.steps[-1].delta_e > 10
    assert "Start again" in way.start_again and f"{way.steps[-1].delta_e:.1f} off" in way.start_again


def test_a_pot_is_saved_from_a_shelf_of_two_hundred() -> None:
    shelf = typed_shelf(200, 1003)
    target = (55.0, 5.0, 20.0)
    best = find_recipes(target, shelf)[0]
    pot = predict_recipe(best.drops, shelf, (70.0, 0.0, 10.0))
    assert pot is not None
    way = rescue(best.drops, pot.lab, (62.0, 3.0, 16.0), shelf, 200)
    assert way.steps[-1].delta_e < 1.5 < way.now
