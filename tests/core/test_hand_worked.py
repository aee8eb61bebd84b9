"""Small sums worked by hand, each of which a plausible slip in the program would get wrong."""

import itertools
from statistics import NormalDist

import numpy as np
import pytest

from chalkreel.core.colour.batch import LOSS_ML, Habits, batch_for
from chalkreel.core.colour.characterise import guessed
from chalkreel.core.colour.cielab import lab_of_xyz, xyz_of_lab
from chalkreel.core.colour.joint import joint_colours
from chalkreel.core.colour.joint_values import Known, Seen
from chalkreel.core.colour.kubelka_munk import film_over
from chalkreel.core.colour.layers import Layer, looks
from chalkreel.core.colour.mixing import pot_lab, pot_of
from chalkreel.core.colour.paint import Paint
from chalkreel.core.colour.recipe import predict_recipe
from chalkreel.core.colour.sampling import box, sample_region
from chalkreel.core.colour.spectra import BANDS, white_xyz
from chalkreel.core.colour.surface_terms import SURFACE
from chalkreel.core.colour.verdict import worth
from chalkreel.core.convert.stock import METRIC, nearest_stock, sold
from chalkreel.core.measure import profile
from chalkreel.core.measure.combine import Size
from chalkreel.core.measure.ghosts import Ghost
from chalkreel.core.measure.profile import measured_with_profile
from chalkreel.core.measure.quantities import Distance, measure
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.spread import Spread
from chalkreel.core.measure.start.cold import solve_reel
from chalkreel.core.measure.verdict import judge_part
from chalkreel.core.media.picture import Picture
from tests.core.measure.reels import reel


@pytest.mark.parametrize(("kit", "says"), [(54.0, "take off 2.0 mm"), (50.0, "build up 2.0 mm")])
def test_what_is_too_long_is_filed_and_what_is_too_short_is_built_up(kit: float, says: str) -> None:
    assert says in judge_part(Size(52.0, 0.05), kit).words


def test_losses_make_the_batch_larger() -> None:
    # 300 cm² at 100 cm² a millilitre are 3 ml on the model; if half is lost, 6 ml have to be mixed.
    plain, lossy = (
        batch_for(300.0, 1, (("grey", 1),), (), Habits(100.0, share, 1.0, 0.0)).millilitres for share in (0.0, 0.5)
    )
    assert plain == pytest.approx(3.0 + LOSS_ML, abs=0.06) and lossy == pytest.approx(6.0 + LOSS_ML, abs=0.06)


def flat_paint(name: str, k: float, s: float) -> Paint:
    return Paint(name, np.full(BANDS, k), np.full(BANDS, s), coat=1.0)


def test_light_crosses_a_film_twice() -> None:
    # Down and up again through a film that only absorbs: exp(-2 · 0.1 · 3).
    ground = np.full(BANDS, 0.8)
    assert film_over(ground, np.full(BANDS, 0.1), np.full(BANDS, 1e-7), 3.0) == pytest.approx(
        0.8 * np.exp(-0.6), rel=1e-4
    )
    tint = flat_paint("smoke", 0.3, 1e-7)
    silver = Layer("silver", "metal", lab=(76.0, 0.0, 0.0), sheen="gloss")
    first, tinted = looks((silver, Layer("tint", "clear tint", pot_of((("smoke", 1),), (tint,)))))
    bare, seen = (float(xyz_of_lab(np.array(look.lab))[1]) for look in (first, tinted))
    # K counts diffuse light, twice Lambert's coefficient; seen at 45°/0° the way is 1.13 thicknesses in and 1 out.
    assert seen / bare == pytest.approx(np.exp(-0.15 * 2.13), rel=0.01)


def test_a_mix_is_judged_under_the_lamp_that_lights_its_target() -> None:
    """A paint whose spectrum is the target's own differs from it under no lamp."""
    for lab in ((55.0, 30.0, 20.0), (45.0, -10.0, -35.0)):
        made = guessed(np.array(lab), SURFACE["matte"])
        paint = Paint("own", made.absorption, made.scattering)
        target = tuple(float(v) for v in pot_lab(pot_of((("own", 1),), (paint,))))
        recipe = predict_recipe((("own", 4),), (paint,), target)  # type: ignore[arg-type]
        assert recipe is not None
        found = worth(recipe, (paint,), target)  # type: ignore[arg-type]
        assert {lamp for lamp, _ in found.by_lamp} == {"D65", "A", "LED-B2"}
        assert max(error for _, error in found.by_lamp) < 1.0


def test_the_interval_of_a_profile_is_ninety_five_in_a_hundred() -> None:
    # One degree of freedom: χ² is the square of a normal deviate.
    assert pytest.approx(NormalDist().inv_cdf(0.975) ** 2, rel=1e-3) == profile.CHI_SQUARE_95


def test_a_profile_gives_one_sigma_where_errors_are_straight(monkeypatch: pytest.MonkeyPatch) -> None:
    """Forced on a reel that needs none, it finds the σ that straight error propagation finds."""
    marked = reel(3, 30, 4)
    solution = solve_reel(marked.scene).solution
    spread = Spread(Equations(solution.layout), solution)
    names = sorted(marked.points, key=lambda n: marked.points[n][0])
    wanted = tuple(Distance(a, b) for a, b in itertools.islice(zip(names, names[::-1], strict=True), 6))
    plain = measure(solution, spread, wanted)
    monkeypatch.setattr(profile, "STRAIGHT", 0.0)
    for narrow, wide in zip(plain, measured_with_profile(solution, spread, wanted), strict=True):
        assert narrow.sigma <= wide.sigma < 1.5 * narrow.sigma


def test_a_ghosts_ellipse_holds_it_nineteen_times_in_twenty() -> None:
    covariance = np.array([[90.0, 35.0], [35.0, 60.0]])
    outline = np.array(Ghost("v", "p", 100.0, 80.0, covariance).outline()) - (100.0, 80.0)
    reach = np.sqrt(np.einsum("ni,ij,nj->n", outline, np.linalg.inv(covariance), outline))
    drawn = np.random.default_rng(1).multivariate_normal((0.0, 0.0), covariance, 40_000)
    apart = np.sqrt(np.einsum("ni,ij,nj->n", drawn, np.linalg.inv(covariance), drawn))
    assert np.ptp(reach) < 1e-6
    assert float(np.mean(apart < reach.mean())) == pytest.approx(0.95, abs=0.005)


@pytest.mark.parametrize("wanted", [2.88, 4.63, 5.25])
def test_three_sheets_are_laminated_where_neither_one_nor_two_come_near(wanted: float) -> None:
    choice = nearest_stock(wanted, 48.0, sold("mm"), form="sheet")
    assert choice is not None and len(choice.pieces_mm) == 3
    # Each joint holds some 0.01 mm of glue.
    sheets = METRIC["sheet"]
    best = {n: min(abs(sum(c) + 0.01 * (n - 1) - wanted) for c in itertools.combinations_with_replacement(sheets, n))
            for n in (1, 2, 3)}  # fmt: skip
    assert abs(choice.error_mm) == pytest.approx(best[3]) and best[3] + 0.07 < best[2]


def test_highlights_in_a_patch_do_not_pull_its_colour() -> None:
    rng = np.random.default_rng(2)
    pixels = np.clip(rng.normal(120.0, 2.0, (60, 60, 3)), 0, 255).astype(np.uint8)
    clean = sample_region(Picture(pixels.copy()), box(5.0, 5.0, 50.0, 50.0))
    pixels[10:25, 10:30] = 250
    glaring = sample_region(Picture(pixels), box(5.0, 5.0, 50.0, 50.0))
    assert glaring.rgb == pytest.approx(clean.rgb, rel=0.01) and glaring.left_out_share > 0.1


def test_a_colour_seen_by_stills_that_scatter_is_as_unsure_as_it_scatters() -> None:
    """Twelve surfaces on four stills, all ties known: what the estimate says of itself holds for chroma."""
    rng = np.random.default_rng(8)
    truth = np.stack([np.array([light, a, b]) for light, a, b in rng.uniform((35, -20, -20), (80, 20, 20), (12, 3))])
    inside, wide = 0, 0
    for trial in range(12):
        draw = np.random.default_rng(trial)
        seen = []
        xyz = np.concatenate([0.3 * white_xyz()[None], xyz_of_lab(truth)])
        rgb_of = np.linalg.inv(np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]))
        for still in range(4):
            light = np.exp(draw.normal(0.0, 0.3, 3))
            for surface, colour in enumerate(xyz):
                shade = np.exp(draw.normal(0.0, 0.15)) if surface else 1.0
                spread = np.exp(draw.normal(0.0, 0.03, 3))
                linear = np.maximum(rgb_of @ colour, 1e-3) * light * shade * spread
                seen.append(Seen(still, surface, linear, np.diag((0.01 * linear) ** 2), ""))
        found = joint_colours(tuple(seen), (Known(0, 0.3 * white_xyz()),), 4, 13, np.ones(4))
        for surface, lab in enumerate(truth, start=1):
            one = found.surfaces[surface]
            miss = np.hypot(*(one.lab[1:] - lab[1:])) / (one.sigma_ab * np.sqrt(2.0))
            inside += miss < 2.0
            wide += miss < 0.35
    # Nineteen in twenty lie inside; if more than a third lay near the middle the ± would be far too wide.
    assert inside >= 0.85 * 144
    assert wide <= 0.5 * 144
    assert lab_of_xyz(white_xyz()) == pytest.approx((100.0, 0.0, 0.0), abs=1e-6)
