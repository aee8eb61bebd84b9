"""Bend from straight edges, against a lens whose bend is known."""

from __future__ import annotations

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.bend import bend_from_lines
from chalkreel.core.measure.marks import Mark
from tests.core.measure.reels import camera_at


def edges(bend: float, click_px: float, rng: np.random.Generator, aspect: float = 1.0):
    camera = camera_at(20, 15, 900, 800, bend=bend, aspect=aspect)
    found = []
    for a, b in (
        ((-300, 200, 150), (300, 200, 150)),
        ((-300, -200, 0), (250, -200, 0)),
        ((200, -250, -60), (200, 250, -60)),
    ):
        places = np.linspace(a, b, 7)
        stored = camera.project(places) + (rng.normal(0, click_px, (7, 2)) if click_px else 0)
        found.append(tuple(Mark(float(x), float(y), click_px or 0.1) for x, y in stored))
    return tuple(found), camera


@pytest.mark.parametrize(("bend", "aspect"), [(-0.12, 1.0), (0.05, 1.0), (-0.08, 16 / 15)])
def test_exact_lines_give_the_exact_bend(bend, aspect):
    lines, camera = edges(bend, 0.0, np.random.default_rng(0), aspect)
    found = bend_from_lines(lines, camera.size_px, aspect)
    assert found.per_px2 * camera.focal_px**2 == pytest.approx(bend, rel=1e-3)
    middle = found.straightened(lines[0][3], camera.size_px, aspect)
    ends = [found.straightened(lines[0][i], camera.size_px, aspect) for i in (0, 6)]
    across = (ends[1].x_px - ends[0].x_px) * (middle.y_px - ends[0].y_px) - (ends[1].y_px - ends[0].y_px) * (
        middle.x_px - ends[0].x_px
    )
    assert abs(across) / np.hypot(ends[1].x_px - ends[0].x_px, ends[1].y_px - ends[0].y_px) < 0.02


def test_its_error_is_what_it_says():
    scores = []
    for seed in range(60):
        lines, camera = edges(-0.1, 0.7, np.random.default_rng(seed))
        found = bend_from_lines(lines, camera.size_px)
        scores.append((found.per_px2 * camera.focal_px**2 + 0.1) / (found.sigma_per_px2 * camera.focal_px**2))
    assert 0.85 <= np.mean(np.abs(scores) < 1.96) <= 1.0


def test_lines_that_say_nothing_are_refused():
    through = tuple(Mark(100.0 + 200 * n, 400.0) for n in range(5))
    with pytest.raises(RefusedError, match="near the rim"):
        bend_from_lines((through,), (1280, 800))
    with pytest.raises(RefusedError, match="three points"):
        bend_from_lines(((Mark(1, 1), Mark(2, 2)),), (1280, 800))


def test_edges_that_are_straight_already_say_that_nothing_bends():
    line = tuple(Mark(100.0 + 300 * n, 120.0) for n in range(4))
    found = bend_from_lines((line,), (1280, 800))
    assert found.per_px2 == pytest.approx(0.0, abs=1e-10)
    assert found.sigma_per_px2 * 640**2 < 0.05
