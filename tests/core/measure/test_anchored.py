"""A picture of a plane finds its place in a world that has moved."""

from __future__ import annotations

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.anchored import anchored


@pytest.mark.parametrize("seed", range(6))
def test_any_turn_shift_and_scale_is_found(seed: int) -> None:
    rng = np.random.default_rng(seed)
    turn, shift, scale = np.linalg.qr(rng.normal(size=(3, 3)))[0], rng.normal(0, 500, 3), rng.uniform(0.1, 2)
    turn = turn * np.sign(np.linalg.det(turn))
    places = rng.uniform(0, 900, (3 + seed, 2))
    points = np.column_stack([places, np.zeros(len(places))]) @ turn.T * scale + shift
    found = anchored(points, places)
    assert found.mm_per_px == pytest.approx(scale) and found.corner == pytest.approx(shift)
    assert found.right == pytest.approx(turn[:, 0]) and found.down == pytest.approx(turn[:, 1])
    above = points + 5.0 * scale * turn[:, 2]
    again, off = found.on_picture(above)
    assert again == pytest.approx(places) and off == pytest.approx(np.full(len(places), 5.0))


def test_clicks_half_a_pixel_off_move_it_by_less() -> None:
    rng = np.random.default_rng(5)
    places = rng.uniform(0, 900, (8, 2))
    points = np.column_stack([places, np.zeros(8)]) * 0.4
    found = anchored(points, places + rng.normal(0, 0.5, places.shape))
    assert np.abs(found.on_picture(points)[0] - places).max() < 1.5
    assert found.mm_per_px == pytest.approx(0.4, rel=0.005)


def test_too_few_or_a_line_say_nothing() -> None:
    with pytest.raises(RefusedError, match="three"):
        anchored(np.zeros((2, 3)), np.zeros((2, 2)))
    line = np.array([[0.0, 0, 0], [1, 0, 0], [2, 0, 0], [5, 0, 0]])
    with pytest.raises(RefusedError, match="line"):
        anchored(line, line[:, :2])
