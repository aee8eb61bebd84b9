"""Planes laid flat: what was drawn on a plane in space comes back at its true size."""

from __future__ import annotations

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.rectify import blended, flat_through, flatten, flatten_corners, sharpness
from tests.core.measure.reels import camera_at

CORNERS = np.array([[-200.0, 90, 20], [200, 90, 20], [200, 90, 140], [-200, 90, 140]])

OUTSIDE = np.array([0.0, 900, 50])


def photographed(camera, grid_mm: float = 20.0):
    """A checked plane y = 90, by ray casting."""
    width, height = camera.size_px
    x, y = np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5)
    rays = camera.rays(np.stack([x.ravel(), y.ravel()], axis=1))
    depth = (90.0 - camera.position[1]) / rays[:, 1]
    hit = camera.position + depth[:, None] * rays
    checks = (np.floor(hit[:, 0] / grid_mm) + np.floor(hit[:, 2] / grid_mm)) % 2
    on = (depth > 0) & (np.abs(hit[:, 0]) < 200) & (hit[:, 2] > 20) & (hit[:, 2] < 140)
    grey = np.where(on, 60 + 140 * checks, 119).reshape(height, width).astype(np.uint8)
    return np.repeat(grey[..., None], 3, axis=2)


@pytest.mark.parametrize("bend", [0.0, -0.1])
def test_squares_come_back_square_and_true_to_size(bend):
    camera = camera_at(60, 25, 900, 1500, bend=bend)
    flat = flat_through(CORNERS, OUTSIDE)
    picture, inside = flatten(photographed(camera), camera, flat, 0.5)
    assert inside.all()
    # Port side seen from port: the bow (x = 200) lies to the left.
    assert np.allclose(flat.right, [-1, 0, 0]) and np.allclose(flat.down, [0, 0, -1])
    grey = picture[..., 0].astype(float)
    row, column = (round(v / 0.5) for v in ((140 - 75) + 0.06 * 400, (200 + 0.06 * 400)))
    along = np.flatnonzero(np.abs(np.diff(grey[row, 60:-60])) > 35)
    runs = np.diff([np.mean(run) for run in np.split(along, np.flatnonzero(np.diff(along) > 4) + 1)])
    assert np.median(runs) * 0.5 == pytest.approx(20.0, abs=0.25)
    down = np.flatnonzero(np.abs(np.diff(grey[55:-55, column - 20])) > 35)
    runs = np.diff([np.mean(run) for run in np.split(down, np.flatnonzero(np.diff(down) > 4) + 1)])
    assert np.median(runs) * 0.5 == pytest.approx(20.0, abs=0.25)


def test_the_sharpest_view_wins_and_views_from_behind_show_nothing():
    flat = flat_through(CORNERS, OUTSIDE)
    near, slanting, behind = (camera_at(a, 10, d, 1500) for a, d in ((90, 800), (20, 800), (-90, 800)))
    assert sharpness(flat, near) > sharpness(flat, slanting) > 0
    assert sharpness(flat, behind) == 0
    with pytest.raises(RefusedError, match="from outside"):
        blended([(photographed(near), behind)], flat, 1.0)


def test_a_blend_of_two_exposures_has_no_seam():
    flat = flat_through(CORNERS, OUTSIDE)
    cameras = [camera_at(a, 15, 900, 1500) for a in (85, 120)]
    bright, dark = photographed(cameras[0]), (photographed(cameras[1]) * 0.6).astype(np.uint8)
    single, _ = flatten(bright, cameras[0], flat, 1.0)
    both = blended([(dark, cameras[1]), (bright, cameras[0])], flat, 1.0)
    gap = np.abs(both[40:-40, 40:-40].astype(int) - single[40:-40, 40:-40].astype(int))
    assert np.median(gap) < 12


def test_four_corners_will_do_without_a_camera():
    camera = camera_at(75, 20, 900, 1500)
    stored = camera.project(CORNERS[[1, 0, 3, 2]][::-1][[1, 0, 3, 2]])
    picture = flatten_corners(photographed(camera), stored, 400.0, 120.0, 0.5)
    assert picture.shape == (240, 800, 3)
    along = np.flatnonzero(np.abs(np.diff(picture[100, 10:-10, 0].astype(float))) > 35)
    runs = np.diff([np.mean(run) for run in np.split(along, np.flatnonzero(np.diff(along) > 4) + 1)])
    assert np.median(runs) * 0.5 == pytest.approx(20.0, abs=0.25)


def test_nonsense_is_refused():
    with pytest.raises(RefusedError, match="three landmarks"):
        flat_through(CORNERS[:2], OUTSIDE)
    with pytest.raises(RefusedError, match="one line"):
        flat_through(np.array([[0.0, 0, 0], [1, 1, 1], [2, 2, 2]]), OUTSIDE)
    with pytest.raises(RefusedError, match="pixels"):
        flat_through(CORNERS, OUTSIDE).places(0.01)
