"""Colour against published values, an independent library and hand-worked Kubelka–Munk cases."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from chalkreel.core.colour.batch import COVERAGE_CM2_PER_ML, DROP_ML, batch_for
from chalkreel.core.colour.cielab import RGB_TO_XYZ, lab_of_xyz, rgb8_of_lab, xyz_of_lab
from chalkreel.core.colour.consensus import consensus
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kubelka_munk import (
    mix_reflectance,
    ratio_of,
    reflectance_of,
)
from chalkreel.core.colour.recipe import Paint, SearchStoppedError, find_recipes, predict_recipe
from chalkreel.core.colour.sampling import Patch, Sample, sample_patch
from chalkreel.core.colour.spectra import BANDS, WAVELENGTHS_NM, white_xyz, xyz_of_reflectance
from chalkreel.core.colour.still_light import Vote, light_from_neutral, vote
from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture
from chalkreel.demo.evidence import bench_range

# Pairs and ΔE00 from Sharma, Wu & Dalal 2005, table 1 (a choice that covers its special cases).
SHARMA = [
    ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425), ((50, -1.3802, -84.2814), (50, 0, -82.7485), 1.0000),
    ((50, 0, 0), (50, -1, 2), 2.3669), ((50, 2.49, -0.001), (50, -2.49, 0.0009), 7.1792),
    ((50, 2.49, -0.001), (50, -2.49, 0.0011), 7.2195), ((50, -0.001, 2.49), (50, 0.0011, -2.49), 4.7461),
    ((50, 2.5, 0), (50, 0, -2.5), 4.3065), ((50, 2.5, 0), (73, 25, -18), 27.1492),
    ((50, 2.5, 0), (58, 24, 15), 19.4535), ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((22.7233, 20.0904, -46.694), (23.0331, 14.973, -42.5619), 2.0373),
    ((90.8027, -2.0831, 1.441), (91.1528, -1.6435, 0.0447), 1.4441),
    ((2.0776, 0.0795, -1.135), (0.9033, -0.0636, -0.5514), 0.9082),
]  # fmt: skip

SHELF = tuple(Paint(p.name, np.array(p.absorption), np.array(p.scattering)) for p in bench_range())


@pytest.mark.parametrize(("one", "other", "expected"), SHARMA)
def test_ciede2000_matches_the_published_pairs(one: tuple, other: tuple, expected: float) -> None:
    assert float(delta_e_2000(np.array(one), np.array(other))) == pytest.approx(expected, abs=1e-4)
    assert float(delta_e_2000(np.array(other), np.array(one))) == pytest.approx(expected, abs=1e-4)


def test_spectra_and_lab_agree_with_an_independent_library() -> None:
    colour = pytest.importorskip("colour")
    chart = colour.SDS_COLOURCHECKERS["ISO 17321-1"]
    shape = colour.SpectralShape(380, 730, 10)
    cmfs = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape)
    light = colour.SDS_ILLUMINANTS["D65"].copy().align(shape)
    for sd in list(chart.values())[:24]:
        values = sd.copy().align(shape).values
        plain = colour.SpectralDistribution(values, shape.wavelengths)
        theirs = colour.sd_to_XYZ(plain, cmfs, light, method="Integration") / 100
        ours = xyz_of_reflectance(values)
        assert ours == pytest.approx(theirs, abs=2e-4)
        white = colour.XYZ_to_xy(white_xyz())
        assert lab_of_xyz(ours) == pytest.approx(colour.XYZ_to_Lab(theirs, white), abs=0.05)


@given(st.floats(1, 99), st.floats(-60, 60), st.floats(-60, 60))
def test_lab_round_trip(light: float, a: float, b: float) -> None:
    lab = np.array([light, a, b])
    assert lab_of_xyz(xyz_of_lab(lab)) == pytest.approx(lab, abs=1e-8)


def test_neutral_lab_is_exactly_neutral_on_the_screen() -> None:
    # L* = 50 is sRGB 119 (published); neutrals must not be tinted by the program's own white.
    r, g, b = rgb8_of_lab(np.array([50.0, 0.0, 0.0]))
    assert abs(r - 119) <= 1 and abs(g - 119) <= 1 and abs(b - 119) <= 1


def test_kubelka_munk_by_hand() -> None:
    # K/S = 0.5: R = 1.5 − √(1.5² − 1) = 0.381966; and back.
    assert float(reflectance_of(np.array(0.5))) == pytest.approx(0.381966, abs=1e-6)
    assert float(ratio_of(np.array(0.381966))) == pytest.approx(0.5, abs=1e-5)
    # Two drops of (K 1, S 1) and one of (K 4, S 0.5): K/S = 6 / 2.5 = 2.4, R = 3.4 − √10.56.
    mixed = mix_reflectance(np.array([2.0, 1.0]), np.array([[1.0], [4.0]]), np.array([[1.0], [0.5]]))
    assert mixed[0] == pytest.approx(3.4 - np.sqrt(10.56))


@settings(max_examples=20, deadline=None)
@given(st.permutations(range(4)), st.lists(st.integers(0, 9), min_size=4, max_size=4).filter(any))
def test_a_mix_knows_no_order_and_no_nothing(order: list[int], drops: list[int]) -> None:
    counts = np.array(drops, float)
    k, s = np.stack([p.absorption for p in SHELF[:4]]), np.stack([p.scattering for p in SHELF[:4]])
    plain = mix_reflectance(counts, k, s)
    assert mix_reflectance(counts[order], k[order], s[order]) == pytest.approx(plain)
    assert mix_reflectance(np.append(counts, 0.0), np.vstack([k, k[:1]]), np.vstack([s, s[:1]])) == pytest.approx(plain)


def exhaustive(target: tuple[float, float, float], shelf: tuple[Paint, ...], most: int) -> float:
    best = np.inf
    for count in (1, 2, 3):
        drops = np.array([d for d in itertools.product(range(1, most + 1), repeat=count) if sum(d) <= most], float)
        for paints in itertools.combinations(shelf, count):
            spectra = mix_reflectance(
                drops, np.stack([p.absorption for p in paints]), np.stack([p.scattering for p in paints])
            )
            best = min(best, float(delta_e_2000(lab_of_xyz(xyz_of_reflectance(spectra)), np.array(target)).min()))
    return best


@pytest.mark.parametrize("target", [(65.0, -0.6, 9.2), (52.0, 6.0, 44.0), (40.0, -20.0, 10.0), (45.0, 40.0, 25.0)])
def test_the_search_comes_within_a_tenth_of_exhaustive(target: tuple[float, float, float]) -> None:
    shelf = SHELF[:9]
    found = find_recipes(target, shelf, most_paints=3, most_drops=12)
    assert min(r.delta_e for r in found) <= exhaustive(target, shelf, 12) + 0.1


def test_recipes_obey_their_limits_and_predict_what_they_mix() -> None:
    target = (60.0, 5.0, 20.0)
    for recipe in find_recipes(target, SHELF):
        assert len(recipe.drops) <= 4 and sum(n for _, n in recipe.drops) <= 24 and all(n >= 1 for _, n in recipe.drops)
        again = predict_recipe(recipe.drops, SHELF, target)
        assert again is not None and again.delta_e == pytest.approx(recipe.delta_e)
    assert predict_recipe((("no such paint", 3),), SHELF, target) is None


def test_a_paint_of_the_shelf_is_found_as_itself() -> None:
    for paint in SHELF[::5]:
        lab = lab_of_xyz(xyz_of_reflectance(reflectance_of(paint.absorption / paint.scattering)))
        best = find_recipes((float(lab[0]), float(lab[1]), float(lab[2])), SHELF)[0]
        assert best.drops == ((paint.name, 1),)


def test_the_search_stops_when_asked_and_refuses_an_empty_shelf() -> None:
    with pytest.raises(SearchStoppedError):
        find_recipes((50.0, 0.0, 0.0), SHELF, progress=lambda share: share < 0.5)
    with pytest.raises(RefusedError, match="shelf"):
        find_recipes((50.0, 0.0, 0.0), ())


def picture(values: np.ndarray) -> Picture:
    return Picture(values.astype(np.uint8))


def test_a_sample_leaves_glints_out_and_tells_of_clipping() -> None:
    rng = np.random.default_rng(5)
    pixels = rng.normal(128, 2, (60, 80, 3)).clip(0, 255)
    pixels[10:14, 10:20] = 255
    found = sample_patch(picture(pixels), Patch(0, 0, 80, 60))
    assert found.rgb == pytest.approx((0.2159,) * 3, abs=0.003)
    assert found.clipped_share == pytest.approx(40 / 4800)
    for bad in (Patch(500, 500, 10, 10), Patch(0, 0, 1, 1), Patch(-50, -50, 20, 20)):
        with pytest.raises(RefusedError):
            sample_patch(picture(pixels), bad)


def seen_under(lab: tuple[float, float, float], gains: tuple[float, float, float]) -> Sample:
    rgb = np.linalg.inv(RGB_TO_XYZ) @ xyz_of_lab(np.array(lab)) * np.array(gains)
    return Sample((float(rgb[0]), float(rgb[1]), float(rgb[2])), (0.001,) * 3, 0.0, 0.0, 1000)


def test_a_neutral_takes_the_light_out() -> None:
    warm = (0.9, 0.6, 0.3)
    card = seen_under((50.0, 0.0, 0.0), warm)
    light = light_from_neutral(card, 0.1842)
    assert vote(card, light).lab == pytest.approx((50.0, 0.0, 0.0), abs=0.05)
    grey = vote(seen_under((70.0, 0.0, 0.0), warm), light)
    assert grey.lab == pytest.approx((70.0, 0.0, 0.0), abs=0.1)
    tinted = vote(seen_under((60.0, 8.0, 30.0), warm), light)
    uncorrected = lab_of_xyz(RGB_TO_XYZ @ np.array(seen_under((60.0, 8.0, 30.0), warm).rgb))
    true = np.array([60.0, 8.0, 30.0])
    assert delta_e_2000(np.array(tinted.lab), true) < 0.35 * delta_e_2000(uncorrected, true)


def test_useless_neutrals_are_refused() -> None:
    with pytest.raises(RefusedError, match="clipped"):
        light_from_neutral(Sample((1.0, 1.0, 1.0), (0.0,) * 3, 0.9, 0.0, 50), None)
    with pytest.raises(RefusedError, match="reflectance"):
        light_from_neutral(Sample((0.4, 0.4, 0.4), (0.0,) * 3, 0.0, 0.0, 50), 1.7)


def test_consensus_weighs_votes_and_widens_on_contradiction() -> None:
    calm = consensus((Vote((60, 0, 10), 6.0, 1.0), Vote((62, 1, 11), 6.0, 1.0)))
    assert calm.lab == pytest.approx((61, 0.5, 10.5))
    assert calm.sigma_ab == pytest.approx(1 / np.sqrt(2))
    assert calm.sigma_l >= 5.0  # shading is shared by all stills
    torn = consensus((Vote((60, 0, 10), 6.0, 1.0), Vote((62, 20, 11), 6.0, 1.0)))
    assert torn.sigma_ab > 5 * calm.sigma_ab and torn.delta_e > calm.delta_e
    with pytest.raises(RefusedError):
        consensus(())


def test_a_batch_covers_area_coats_and_losses() -> None:
    made = batch_for(180.0, 3, (("a", 5), ("b", 1)))
    assert made.millilitres >= 180 * 3 / COVERAGE_CM2_PER_ML
    assert made.drops == (("a", 5 * made.repeats), ("b", made.repeats))
    assert made.millilitres == pytest.approx(6 * made.repeats * DROP_ML)
    with pytest.raises(RefusedError):
        batch_for(0.0, 2, (("a", 1),))


def test_the_bench_range_is_physical() -> None:
    assert len(SHELF) >= 16 and len(WAVELENGTHS_NM) == BANDS == 36
    for paint in SHELF:
        reflectance = reflectance_of(paint.absorption / paint.scattering)
        assert ((reflectance > 0) & (reflectance < 1)).all()
