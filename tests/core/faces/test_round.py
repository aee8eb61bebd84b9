"""Discs and walls against the areas of circles, cylinders and cones, and what they hide."""

from __future__ import annotations

import math

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.outlines import sides_of
from chalkreel.core.faces.round import RIM_SIDES, Rim, disc, wall
from chalkreel.core.faces.skin import Skin
from tests.core.faces.textured import camera_from

TILT = np.array([0.3, -0.2, 0.93])
AXIS = TILT / np.linalg.norm(TILT)
FOOT = np.array([10.0, -20.0, 30.0])


def rim(along: float, radius: float, flipped: bool = False) -> Rim:
    return Rim(FOOT + along * AXIS, -AXIS if flipped else AXIS, radius)


def test_a_disc_has_the_circles_area_and_looks_at_whoever_saw_it() -> None:
    face = disc("lamp", rim(0, 12), FOOT - 100 * AXIS)
    assert face.area_mm2 == pytest.approx(math.pi * 144, rel=1e-6)
    assert face.normal == pytest.approx(-AXIS)


@pytest.mark.parametrize(("low", "high", "along"), [(20, 20, 50), (30, 12, 25), (10, 22, 0), (5, 40, 8)])
@pytest.mark.parametrize("flipped", [False, True])
def test_a_wall_has_the_cones_area_and_looks_outwards(low: float, high: float, along: float, flipped: bool) -> None:
    faces = wall("bell", rim(0, low), rim(along, high, flipped))
    slant = math.hypot(along, high - low)
    # The lateral area of a cone's frustum.
    assert sum(f.area_mm2 for f in faces) == pytest.approx(math.pi * (low + high) * slant, rel=0.006)
    for face in faces:
        middle = face.corners.mean(axis=0) - FOOT
        outwards = middle - (middle @ AXIS) * AXIS
        assert face.normal @ (AXIS if along == 0 else outwards) > 0
        # Flat, and no bow tie.
        assert np.abs(face.off_mm).max() < 1e-9


def test_the_same_rim_twice_is_no_wall() -> None:
    with pytest.raises(RefusedError, match="same place"):
        wall("none", rim(0, 20), rim(0.05, 20.05, True))


def test_a_wall_hides_what_stands_behind_it() -> None:
    up = np.array([0.0, 0, 1])
    skin = Skin(wall("tube", Rim(np.zeros(3), up, 40.0), Rim(120 * up, up, 40.0)))
    camera = camera_from(0, 0)
    behind, before, beside = [-60.0, 0, 60], [60.0, 0, 60], [-60.0, 80, 60]
    assert list(skin.hidden(camera, np.array([behind, before, beside]))) == [True, False, False]


def test_a_tube_is_drawn_by_its_rims_and_two_lines() -> None:
    up = np.array([0.0, 0, 1])
    skin = Skin(wall("tube", Rim(np.zeros(3), up, 40.0), Rim(120 * up, up, 40.0)))
    lines = np.array(sides_of(skin, np.array([0.12, 0.99, 0.0])))
    standing = lines[np.abs(lines[:, 0, 2] - lines[:, 1, 2]) > 1]
    assert len(standing) == 2 and len(lines) == 2 * RIM_SIDES + 2
    # Where the wall turns away from the eye.
    assert standing[:, 0, 0] == pytest.approx([40, -40], abs=4) or standing[:, 0, 0] == pytest.approx([-40, 40], abs=4)
