"""Cameras there and back again."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from chalkreel.core.measure.camera import rotation_of, unbent
from tests.core.measure.reels import camera_at

angles = st.floats(-179, 179)


@given(angles, st.floats(-70, 70), st.floats(900, 4000), st.floats(-0.15, 0.15), st.sampled_from([1.0, 16 / 15, 8 / 9]))
def test_a_ray_through_a_projected_point_meets_the_point(azimuth, elevation, focal, bend, aspect):
    camera = camera_at(azimuth, elevation, 2500, focal, aspect=aspect, bend=bend, offset=(30.0, -12.0))
    points = np.array([[0.0, 0, 0], [300, 80, 120], [-250, -90, 40]])
    stored = camera.project(points)
    to_point = points - camera.position
    to_point /= np.linalg.norm(to_point, axis=1, keepdims=True)
    assert np.abs(np.cross(camera.rays(stored), to_point)).max() < 1e-9


@given(st.floats(-0.2, 0.2), st.floats(0, 0.9), angles)
def test_bending_what_was_straightened_gives_it_back(bend, radius, angle):
    straight = radius * np.array([[np.cos(np.radians(angle)), np.sin(np.radians(angle))]])
    bent = straight * (1 + bend * radius**2)
    assert np.allclose(unbent(bent, bend), straight, atol=1e-9)


def test_the_fold_of_a_barrel_lens_is_no_nonsense():
    assert np.isfinite(unbent(np.array([[5.0, 5.0]]), -0.2)).all()


@given(st.tuples(*[st.floats(-3, 3)] * 3))
def test_rotations_keep_lengths_and_handedness(vector):
    turn = rotation_of(np.array(vector))
    assert np.allclose(turn @ turn.T, np.eye(3), atol=1e-12)
    assert np.isclose(np.linalg.det(turn), 1.0)


def test_behind_the_camera_is_nowhere():
    camera = camera_at(0, 0, 1000, 1500)
    assert np.isnan(camera.project(camera.position[None] * 2 - np.array([[0, 0, 80.0]]))).any()
