"""Orthographic pictures of boxes whose pattern is known at every place."""

from __future__ import annotations

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.faces.frame import VIEWS, frame_of
from chalkreel.core.faces.orthographic import Orthographic, orthographic
from chalkreel.core.faces.skin import Skin
from tests.core.faces.textured import box_faces, camera_from, pattern, photographed


@pytest.fixture(scope="module")
def skin() -> Skin:
    return Skin(box_faces())


@pytest.fixture(scope="module")
def stills():
    """Port bow, port aft, starboard, above; two of them through bent lenses, each in a light of its own."""
    return [
        photographed("a", camera_from(55, 20, bend=-0.06), (1.0, 0.9, 0.75), 1),
        photographed("b", camera_from(120, 15), (0.8, 0.8, 0.9), 2),
        photographed("c", camera_from(-75, 25, bend=0.05), (0.9, 1.0, 1.0), 3),
        photographed("d", camera_from(10, 88, focal=2200), (1.1, 1.0, 0.9), 4),
    ]


def truth(found: Orthographic, skin: Skin) -> np.ndarray:
    """The pattern (H, W, 3) at the place that each pixel shows, by the faces' own planes."""
    frame = found.frame
    width, height = frame.size_px
    x = frame.left_mm + (np.arange(width) + 0.5) * frame.mm_per_px
    y = frame.top_mm + (np.arange(height) + 0.5) * frame.mm_per_px
    flat = x[None, :, None] * frame.right + y[:, None, None] * frame.down
    light = np.zeros((height, width, 3))
    for n, face in enumerate(skin.faces):
        here = found.face == n
        depth = ((face.corners[0] - flat[here]) @ face.normal) / (frame.out @ face.normal)
        light[here] = pattern(flat[here] + depth[:, None] * frame.out)
    return light


def light_of(found: Orthographic) -> np.ndarray:
    v = found.pixels / 255.0
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


@pytest.mark.parametrize("view", ["port", "starboard", "top", "bow"])
def test_a_view_is_true_to_the_pattern_wherever_a_still_shows_it(skin, stills, view):
    found = orthographic(skin, stills, frame_of(skin, view, 1.0))
    shown = found.still >= 0
    assert found.share_seen > 0.97
    off = light_of(found)[shown] / np.maximum(truth(found, skin)[shown], 1e-3)
    # One light for all: whatever it is, each channel is off by the same factor everywhere.
    off = off / np.median(off, axis=0)
    assert np.median(np.abs(off - 1)) < 0.03
    # Nothing that stands before it is smeared over a face: that would be off by tens of per cent.
    assert np.mean(np.abs(off - 1).max(axis=1) > 0.25) < 0.008


def test_the_drawing_lies_where_the_faces_are_to_a_pixel(skin, stills):
    frame = frame_of(skin, "port", 1.0)
    found = orthographic(skin, stills, frame)
    # The waves along x run through their middle at x = 23 (k π − 1): crossings of the red channel tell the place.
    row = found.pixels[int((-45.0 - frame.top_mm) / frame.mm_per_px), :, 0].astype(float)
    x = -(frame.left_mm + (np.arange(frame.size_px[0]) + 0.5))
    inside = np.abs(x) < 290
    values, places = row[inside] - np.mean([row[inside].max(), row[inside].min()]), x[inside]
    # Where red is brightest or darkest the wave's slope is 0: 23 (π / 2 + k π − 1).
    wanted = 23 * (np.pi / 2 + np.pi * np.arange(-4, 4) - 1)
    smooth = np.convolve(values, np.ones(9) / 9, "same")
    for place in wanted[np.abs(wanted) < 270]:
        near = np.abs(places - place) < 25
        fit = np.polyfit(places[near] - place, smooth[near], 2)
        assert -fit[1] / (2 * fit[0]) == pytest.approx(0, abs=1.0)


def test_what_no_still_sees_is_a_gap_and_never_made_up(skin, stills):
    below = orthographic(skin, stills, frame_of(skin, "bottom", 2.0))
    assert below.share_seen == 0.0 and np.all(below.pixels == 119)
    lone = orthographic(skin, stills[:1], frame_of(skin, "port", 2.0))
    aft = orthographic(skin, stills[:1], frame_of(skin, "aft", 2.0))
    assert lone.share_seen > 0.8 and aft.share_seen == 0.0


def test_bad_frames_and_stop(skin, stills):
    with pytest.raises(RefusedError, match="no face yet"):
        frame_of(Skin(()), "port", 1.0)
    with pytest.raises(RefusedError, match="fewer dots"):
        frame_of(skin, "port", 0.01)
    with pytest.raises(StoppedError):
        orthographic(skin, stills, frame_of(skin, "port", 2.0), lambda _: False)


def test_views_are_true_rotations():
    for right, down in VIEWS.values():
        assert np.dot(right, down) == 0 and np.abs(np.cross(down, right)).sum() == 1
