"""Parts round a rim, some of them not clicked."""

from __future__ import annotations

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.repeats import find_repeats


def parts(count: int, clicked: list[int], noise: float = 0.0, seed: int = 0):
    turn = np.radians(17.0) + 2 * np.pi * np.array(clicked) / count
    places = np.array([300.0, 200.0]) + 120.0 * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    return places + np.random.default_rng(seed).normal(0, noise, places.shape)


@pytest.mark.parametrize(
    ("count", "clicked"),
    [(8, list(range(8))), (12, [0, 1, 2, 3, 5, 7]), (5, [0, 1, 2, 4]), (24, list(range(0, 14))), (36, list(range(20)))],
)
def test_exact_parts_are_counted_with_some_hidden(count, clicked):
    found = find_repeats(parts(count, clicked))
    assert (found.count, found.pitch_deg) == (count, 360 / count)
    assert found.centre == pytest.approx((300, 200)) and found.radius == pytest.approx(120)
    assert found.misfit == pytest.approx(0, abs=1e-6)
    assert len(set(found.places)) == len(clicked)


@pytest.mark.parametrize("seed", range(10))
def test_a_shaky_hand_counts_the_same_and_shows_its_misfit(seed):
    found = find_repeats(parts(12, [0, 1, 2, 3, 4, 6, 7, 9], 1.5, seed))
    assert found.count == 12
    assert 0.4 < found.misfit < 3.5
    assert found.radius == pytest.approx(120, abs=4)


def test_what_is_not_regular_is_refused():
    with pytest.raises(RefusedError, match="three parts"):
        find_repeats(parts(8, [0, 1]))
    with pytest.raises(RefusedError, match="one line"):
        find_repeats(np.array([[0.0, 0], [1, 1], [2, 2], [3, 3]]))
    uneven = np.radians([0, 13.1, 47.9, 61.3, 120.7, 199.9, 207.2, 303.3, 331.9])
    with pytest.raises(RefusedError, match="not evenly"):
        find_repeats(100 * np.stack([np.cos(uneven), np.sin(uneven)], axis=1))
