"""Photographs laid by clicks: on a made-up wagon through lenses that are not the program's own."""

import numpy as np
import pytest

from chalkreel.core.bench.equations import Shot
from chalkreel.core.bench.other_side import shows_other_side
from chalkreel.core.bench.places import Places
from chalkreel.core.bench.proposals import proposed
from chalkreel.core.bench.resect import Lens, linearised, moved, resected
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.camera import Camera, looking
from tests.core.bench.made_replicas import SIZE, TRUE, Taken, clicked, solved, taken


def misses(photo: Taken, places: Places, count: int, rng: np.random.Generator) -> np.ndarray:
    """How far the other landmarks lie from where a camera found by so many proposed clicks has them."""
    names = list(photo.places_px)
    rough = resected(clicked(photo, places, rng).clicks(places), SIZE).camera
    rows = [places.index[n] for n in names]
    chosen = [names[i] for i in proposed(rough, places.points[rows], (), count)]
    shot = clicked(photo, places, rng, chosen)
    camera = resected(shot.clicks(places), SIZE).camera
    others = [n for n in names if n not in chosen]
    found = camera.project(places.points[[places.index[n] for n in others]])
    return np.linalg.norm(found - np.stack([photo.places_px[n] for n in others]), axis=1)


# Of pictures 1600 pixels wide the yardsticks' pixels are larger by half.
@pytest.mark.parametrize(("count", "median"), [(6, 1.5), (8, 1.2), (12, 1.05)])
def test_clicks_lay_every_photograph(count: int, median: float) -> None:
    found = []
    for seed in range(25):
        rng = np.random.default_rng([count, seed])
        found.append(misses(taken(rng), solved(rng), count, rng))
    assert np.median([np.median(f) for f in found]) < median
    assert all(np.median(f) < 4.5 and np.percentile(f, 95) < 12 for f in found)


def test_slopes_are_those_of_the_projection() -> None:
    camera = Camera(looking(np.array([0.3, -1.0, -0.4]), np.array([0.0, 0.0, 1.0])), np.array([5.0, 8.0, 900.0]), 700.0,
                    -0.08, (12.0, -7.0), (720, 576), 16 / 15)  # fmt: skip
    points = np.random.default_rng(3).normal(0, 120, (6, 3))
    stored, by_unknowns, by_point = linearised(camera, points)
    assert stored == pytest.approx(camera.project(points))
    for k in range(8):
        step = 1e-6 * np.eye(8)[k]
        change = (moved(camera, step).project(points) - moved(camera, -step).project(points)) / 2e-6
        assert by_unknowns[:, :, k] == pytest.approx(change, rel=1e-4, abs=1e-3)
    for k in range(3):
        step = 1e-4 * np.eye(3)[k]
        change = (camera.project(points + step) - camera.project(points - step)) / 2e-4
        assert by_point[:, :, k] == pytest.approx(change, rel=1e-5, abs=1e-6)


def test_one_wild_click_among_ten_does_not_turn_the_camera() -> None:
    rng = np.random.default_rng(5)
    photo, places = taken(rng), solved(rng)
    names = list(photo.places_px)
    shot = clicked(photo, places, rng)
    stored = shot.stored.copy()
    stored[3] += (60.0, -45.0)
    pose = resected(Shot(shot.rows, stored, shot.sigma, SIZE).clicks(places), SIZE)
    assert np.argmin(pose.weights) == 3
    found = pose.camera.project(places.points[shot.rows])
    exact = np.stack([photo.places_px[n] for n in names])
    assert np.median(np.linalg.norm(found - exact, axis=1)) < 2.5


def test_what_the_camera_wrote_down_of_its_lens_counts() -> None:
    """Four clicks on one flat hardly tell a near short lens from a far long one."""
    rng = np.random.default_rng(11)
    photo, places = taken(rng), solved(rng)
    flat = [n for n in photo.places_px if TRUE[n][2] == 70.0]
    names = [flat[i] for i in (0, 3, len(flat) // 2, -1)]
    clicks = clicked(photo, places, rng, names).clicks(places)
    told = resected(clicks, SIZE, Lens(0.85, 0.05)).camera
    assert told.focal_px / SIZE[0] == pytest.approx(0.85, rel=0.12)


def test_too_few_clicks_and_clicks_in_a_line_are_refused() -> None:
    rng = np.random.default_rng(2)
    photo, places = taken(rng), solved(rng)
    with pytest.raises(RefusedError, match="Click 1 more"):
        resected(clicked(photo, places, rng, list(photo.places_px)[:3]).clicks(places), SIZE)
    shot = clicked(photo, places, rng, list(photo.places_px)[:6])
    line = np.column_stack([np.linspace(100, 900, 6), np.linspace(200, 640, 6)])
    with pytest.raises(RefusedError, match="in one line"):
        resected(Shot(shot.rows, line, shot.sigma, SIZE).clicks(places), SIZE)


def test_landmarks_named_for_the_other_side_are_found_out() -> None:
    rng = np.random.default_rng(21)
    places = solved(rng)
    mirror = {n: next(m for m in TRUE if np.allclose(TRUE[m], TRUE[n] * (1, -1, 1))) for n in TRUE}
    twins = {places.index[a]: places.index[b] for a, b in mirror.items()}
    wrong = right = 0
    for _ in range(8):
        shot = clicked(taken(rng), places, rng)
        other = Shot(np.array([twins[int(r)] for r in shot.rows]), shot.stored, shot.sigma, SIZE)
        right += shows_other_side(places, shot, resected(shot.clicks(places), SIZE), twins)
        wrong += shows_other_side(places, other, resected(other.clicks(places), SIZE), twins)
    assert (right, wrong) == (0, 8)
