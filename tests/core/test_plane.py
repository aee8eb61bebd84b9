"""Sizes in one plane: exact data come back exactly, stated errors cover real ones, faults are named."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.combine import Size, combine_sizes
from chalkreel.core.measure.marks import Mark, Segment, click_sigma_px
from chalkreel.core.measure.plane import PlaneRuler, SquaredUp, SquareOn, apply_homography, homographies, measure_plane
from chalkreel.core.measure.verdict import judge_part

FACING = SquareOn(tilt_sigma_deg=1.0, focal_px=2000.0, centre_px=(640.0, 400.0))


def segment(x0: float, y0: float, x1: float, y1: float, sigma: float = 0.5) -> Segment:
    return Segment(Mark(x0, y0, sigma), Mark(x1, y1, sigma))


def camera(tilt: float, turn: float, distance: float = 900.0, focal: float = 1500.0) -> np.ndarray:
    """Homography from a plane in mm to a picture of 1280 × 800."""
    ca, sa, cb, sb = math.cos(tilt), math.sin(tilt), math.cos(turn), math.sin(turn)
    rotation = np.array([[1, 0, 0], [0, ca, -sa], [0, sa, ca]]) @ np.array([[cb, 0, sb], [0, 1, 0], [-sb, 0, cb]])
    outer = np.column_stack([rotation[:, 0], rotation[:, 1], [0, 0, distance]])
    return np.array([[focal, 0, 640], [0, focal, 400], [0, 0, 1]]) @ outer


def seen(plane_mm: list[tuple[float, float]], view: np.ndarray) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in apply_homography(view[None], np.array([plane_mm]))[0]]


RECTANGLE = [(-100.0, -60.0), (100.0, -60.0), (100.0, 60.0), (-100.0, 60.0)]


def squared(view: np.ndarray, noise: np.ndarray | None = None, sigma: float = 0.6) -> SquaredUp:
    points = np.array(seen(RECTANGLE, view)) + (0 if noise is None else noise)
    a, b, c, d = (Mark(float(x), float(y), sigma) for x, y in points)
    return SquaredUp((a, b, c, d), 200.0, 1.0, 120.0, 0.6)


def test_square_on_is_a_plain_ratio() -> None:
    found = measure_plane(
        FACING, (PlaneRuler("plan", segment(440, 400, 840, 400), 775.0, 4.0),), (segment(540, 300, 540, 400),)
    )
    assert found.lengths_mm[0] == pytest.approx(775 / 4)
    assert found.scale_sigma >= 4.0 / 775


def test_pixel_aspect_corrects_the_shape() -> None:
    rulers = (PlaneRuler("r", segment(100, 100, 100, 200), 100.0, 0.1),)
    found = measure_plane(FACING, rulers, (segment(100, 100, 200, 100),), pixel_aspect=16 / 15)
    assert found.lengths_mm[0] == pytest.approx(100 * 16 / 15)


@settings(max_examples=40)
@given(st.floats(-0.7, 0.7), st.floats(-0.7, 0.7))
def test_a_squared_up_plane_gives_true_lengths_from_any_side(tilt: float, turn: float) -> None:
    view = camera(tilt, turn)
    (x0, y0), (x1, y1) = seen([(-80.0, 10.0), (30.0, 45.0)], view)
    found = measure_plane(squared(view), (), (segment(x0, y0, x1, y1),))
    assert found.lengths_mm[0] == pytest.approx(math.hypot(110, 35), rel=1e-6)


def test_a_known_ratio_needs_a_ruler_for_its_scale() -> None:
    view = camera(0.4, -0.3)
    by_ratio = SquaredUp(squared(view).corners, 200 / 120, 0.01)
    wanted = segment(*seen([(0.0, 0.0)], view)[0], *seen([(50.0, 0.0)], view)[0])
    with pytest.raises(RefusedError, match="ruler"):
        measure_plane(by_ratio, (), (wanted,))
    (a, b) = seen([(-90.0, 0.0), (-90.0, 50.0)], view)
    found = measure_plane(by_ratio, (PlaneRuler("r", segment(*a, *b), 50.0, 0.2),), (wanted,))
    assert found.lengths_mm[0] == pytest.approx(50.0, rel=1e-6)


def test_intervals_cover_the_truth_over_repeats() -> None:
    """95 % intervals hold 90–98 % of the time, with clicks, sides and ruler all in error."""
    rng = np.random.default_rng(7)
    view, inside, trials = camera(0.5, 0.35), 0, 600
    line = np.array(seen([(-70.0, -20.0), (85.0, 40.0)], view))
    true = math.hypot(155, 60)
    for _ in range(trials):
        plane = squared(view, rng.normal(0, 0.6, (4, 2)))
        plane = SquaredUp(plane.corners, 200 + rng.normal(0, 1.0), 1.0, 120 + rng.normal(0, 0.6), 0.6)
        ends = line + rng.normal(0, 0.6, (2, 2))
        found = measure_plane(plane, (), (segment(*ends[0], *ends[1], sigma=0.6),))  # type: ignore[misc]
        inside += abs(found.lengths_mm[0] - true) <= 1.96 * found.sigma_mm[0]
    assert 0.90 <= inside / trials <= 0.98


def test_square_on_errors_cover_a_real_tilt() -> None:
    rng = np.random.default_rng(3)
    inside, trials = 0, 400
    for _ in range(trials):
        view = camera(math.radians(rng.normal(0, 1.5)), math.radians(rng.normal(0, 1.5)), focal=1600)
        points = np.array(seen([(-180.0, 0.0), (-40.0, 0.0), (90.0, -80.0), (90.0, 70.0)], view))
        points += rng.normal(0, 0.5, points.shape)
        (a, b, c, d) = points
        facing = SquareOn(1.5, 1600.0, (640.0, 400.0))
        ruler = PlaneRuler("r", segment(*a, *b), 140.0 + rng.normal(0, 0.3), 0.3)
        found = measure_plane(facing, (ruler,), (segment(*c, *d),))
        inside += abs(found.lengths_mm[0] - 150.0) <= 1.96 * found.sigma_mm[0]
    assert 0.90 <= inside / trials <= 0.985


def test_the_surer_ruler_weighs_more_and_contradiction_widens_the_error() -> None:
    sure = PlaneRuler("sure", segment(200, 300, 900, 300, 0.3), 700.0, 0.5)
    vague = PlaneRuler("vague", segment(200, 500, 900, 500, 0.3), 735.0, 35.0)
    wanted = (segment(300, 400, 600, 400, 0.3),)
    still = SquareOn(0.01, 2000.0, (640.0, 400.0))
    both = measure_plane(still, (sure, vague), wanted)
    assert both.lengths_mm[0] == pytest.approx(300.0, rel=2e-3)
    assert {a.name: a.disagrees for a in both.agreement} == {"sure": False, "vague": False}
    wrong = PlaneRuler("wrong", segment(200, 500, 900, 500, 0.3), 735.0, 0.5)
    fight = measure_plane(still, (sure, wrong), wanted)
    assert all(a.disagrees for a in fight.agreement)
    assert next(a.deviation for a in fight.agreement if a.name == "wrong") == pytest.approx(0.05, abs=0.005)
    assert fight.sigma_mm[0] > 5 * both.sigma_mm[0]


@pytest.mark.parametrize("corners", [[(0, 0), (50, 0), (100, 0), (100, 80)], [(5, 5)] * 4])
def test_corners_on_a_line_are_refused(corners: list[tuple[float, float]]) -> None:
    a, b, c, d = (Mark(x, y) for x, y in corners)
    with pytest.raises(RefusedError, match="rectangle"):
        measure_plane(SquaredUp((a, b, c, d), 2.0, 0.1, 1.0, 0.1), (), (segment(0, 0, 10, 10),))


def test_two_marks_on_one_spot_are_refused() -> None:
    with pytest.raises(RefusedError, match="same spot"):
        measure_plane(FACING, (PlaneRuler("r", segment(5, 5, 5, 5), 1.0, 0.1),), ())


@settings(max_examples=30)
@given(st.floats(-0.6, 0.6), st.floats(-0.6, 0.6), st.floats(500, 3000))
def test_homography_round_trip(tilt: float, turn: float, distance: float) -> None:
    view = camera(tilt, turn, distance)
    there = np.array([seen(RECTANGLE, view)])
    back = homographies(there, np.array([RECTANGLE]))
    assert apply_homography(back, there)[0] == pytest.approx(np.array(RECTANGLE), abs=1e-6)


def test_readings_combine_by_weight_and_scatter_widens() -> None:
    size, birge = combine_sizes((Size(10.0, 0.1), Size(10.2, 0.2)))
    assert size.mm == pytest.approx((10.0 / 0.01 + 10.2 / 0.04) / (1 / 0.01 + 1 / 0.04))
    assert birge == 1.0 and size.sigma_mm == pytest.approx(math.sqrt(1 / 125))
    far, ratio = combine_sizes((Size(10.0, 0.1), Size(11.0, 0.1)))
    assert ratio > 5 and far.sigma_mm > 0.4


def test_zooming_in_makes_a_click_surer_but_never_perfect() -> None:
    assert click_sigma_px(0.5) > click_sigma_px(1) > click_sigma_px(8) > 0.3


@pytest.mark.parametrize(
    ("wanted", "kit", "missing", "action"),
    [(Size(30.2, 0.1), 30.1, False, "leave"), (Size(61.3, 0.1), 63.0, False, "correct"),
     (Size(44.0, 0.2), None, True, "make new"), (Size(44.0, 0.2), 30.0, False, "make new"),
     (Size(90.0, 4.0), 93.0, False, "unsure"), (Size(44.0, 0.2), None, False, "unsure")],
)  # fmt: skip
def test_verdicts(wanted: Size, kit: float | None, missing: bool, action: str) -> None:
    assert judge_part(wanted, kit, missing).action == action
