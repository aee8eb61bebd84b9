"""Snapping finds what was drawn at a known sub-pixel place."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from chalkreel.core.media.picture import Picture
from chalkreel.core.media.snap import snap

FINE = 16


def drawn(paint) -> Picture:
    """A 60 × 60 picture, painted sixteen times as fine and averaged down, as a lens and sensor would."""
    fine = np.full((60 * FINE, 60 * FINE), 60, np.uint8)
    paint(fine)
    small = cv2.resize(cv2.GaussianBlur(fine, (0, 0), 0.6 * FINE), (60, 60), interpolation=cv2.INTER_AREA)
    return Picture(np.repeat(small[:, :, None], 3, axis=2))  # type: ignore[arg-type]


@pytest.mark.parametrize("place", [30.0, 30.3, 30.65])
def test_an_edge_is_found_across_and_kept_along(place):
    picture = drawn(lambda fine: fine.__setitem__((slice(None), slice(round(place * FINE), None)), 200))
    found = snap(picture, place + 2.2, 27.4)
    assert found is not None
    assert found.kind == "edge"
    assert found.x_px == pytest.approx(place, abs=0.15)
    assert found.y_px == pytest.approx(27.4, abs=0.15)


def test_a_corner_is_found_both_ways():
    picture = drawn(
        lambda fine: fine.__setitem__((slice(round(28.4 * FINE), None), slice(round(31.7 * FINE), None)), 210)
    )
    found = snap(picture, 33.0, 27.0)
    assert found is not None
    assert found.kind == "corner"
    assert (found.x_px, found.y_px) == pytest.approx((31.7, 28.4), abs=0.5)


def test_a_thin_dark_line_is_found_at_its_middle():
    def groove(fine):
        fine[:] = 180
        fine[round(29.2 * FINE) : round(30.8 * FINE)] = 40

    found = snap(drawn(groove), 25.0, 31.5)
    assert found is not None
    assert found.kind == "line"
    assert (found.x_px, found.y_px) == pytest.approx((25.0, 30.0), abs=0.15)


def test_plain_ground_and_the_rim_hold_nothing():
    picture = drawn(lambda fine: None)
    assert snap(picture, 30, 30) is None
    assert snap(picture, 2, 30) is None
    assert snap(picture, 1e6, -5) is None
