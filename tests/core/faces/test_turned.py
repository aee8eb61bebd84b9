"""The view turned by hand, against rays through the boxes and their known pattern."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from chalkreel.core.faces.light import linear
from chalkreel.core.faces.orbit import SIDE_AT, Orbit, as_photographed, camera_on, orbit_of
from chalkreel.core.faces.skin import Skin
from chalkreel.core.faces.texture import textures
from chalkreel.core.faces.turned import turned
from chalkreel.core.measure.camera import Camera
from tests.core.faces.textured import box_faces, camera_from, pattern, photographed

SIZE = (320, 220)


def cast(skin: Skin, camera: Camera) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Places, faces and depths by rays through the middles of pixels."""
    width, height = camera.size_px
    x, y = np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5)
    ways = camera.rays(np.stack([x.ravel(), y.ravel()], axis=1))
    far, which = skin.first_hits(camera.position, ways)
    with np.errstate(invalid="ignore"):
        places = camera.position + np.where(np.isfinite(far), far, 0.0)[:, None] * ways
    depth = (places @ camera.rotation.T + camera.translation)[:, 2]
    return places.reshape(height, width, 3), which.reshape(height, width), depth.reshape(height, width)


@pytest.mark.parametrize("orbit", [Orbit(), Orbit(-130, -35), Orbit(10, 70, zoom=4), Orbit(90, 90)])
def test_every_pixel_shows_the_face_that_its_ray_meets_first(orbit: Orbit) -> None:
    skin = Skin(box_faces())
    picture = turned(skin, camera_on(orbit, skin, SIZE))
    _, which, depth = cast(skin, picture.camera)
    same = picture.face == which
    # Outlines may go either way by a pixel.
    assert same.mean() > 0.98
    hit = same & (which >= 0)
    assert picture.inverse[hit] * depth[hit] == pytest.approx(np.ones(hit.sum()), rel=1e-4)


def test_an_eye_among_the_boxes_sees_what_is_before_it() -> None:
    skin = Skin(box_faces())
    inside = camera_from(0, 0, distance=150, focal=150, size=SIZE)
    picture = turned(skin, inside)
    _, which, depth = cast(skin, inside)
    # Where two boxes touch either one's face is right, at the same depth.
    assert np.mean(np.abs(picture.inverse * depth - 1)[which >= 0] < 1e-3) > 0.97 and len(np.unique(which)) > 3


def test_textures_show_the_pattern_from_where_no_camera_stood() -> None:
    skin = Skin(box_faces())
    gains = ((1.0, 1.0, 1.0), (1.2, 1.0, 0.8))
    stills = [
        photographed(str(n), camera_from(a, 25, focal=1500.0, size=(860, 580)), gains[n % 2], n)
        for n, a in enumerate((20, 70, 140, 220, 300))
    ]
    laid = textures(skin, stills, 1.5)
    picture = turned(skin, camera_on(Orbit(45, 40), skin, SIZE), laid)
    places, which, _ = cast(skin, picture.camera)
    # Away from outlines, where one pixel may show another face.
    clear = np.ones(which.shape, bool)
    for step in (-2, 2):
        clear &= (np.roll(which, step, 0) == which) & (np.roll(which, step, 1) == which)
    clear &= which >= 0
    shown = linear(picture.pixels)[clear]
    truth = pattern(places[clear])
    # Their light is evened to one of its own: channels are compared up to a factor.
    ratio = shown / truth
    ratio /= np.median(ratio, axis=0)
    assert np.mean(np.abs(ratio - 1) > 0.15) < 0.03
    # From below nothing was photographed: that is hatched, not painted.
    below = turned(skin, camera_on(Orbit(90, -90), skin, SIZE), laid)
    hull = np.ptp(below.pixels[below.face >= 0].astype(int), axis=1)
    assert hull.max() > 120 and np.mean(hull > 60) == pytest.approx(0.35, abs=0.12)


def test_points_behind_faces_are_told_from_those_in_sight() -> None:
    skin = Skin(box_faces())
    picture = turned(skin, camera_on(Orbit(0, 0), skin, SIZE))
    # Bow corner, the stern's opposite one, and one off the picture.
    at, seen = picture.places(np.array([[300.0, 100, 90], [-300.0, -100, 5], [300.0, 9000, 0]]))
    assert list(seen) == [True, False, False]
    assert at[0] == pytest.approx(picture.camera.project(np.array([[300.0, 100, 90]]))[0])


@pytest.mark.parametrize("side", SIDE_AT)
def test_the_six_views_look_straight_and_the_bow_lies_as_ships_are_drawn(side: str) -> None:
    skin = Skin(box_faces())
    camera = camera_on(Orbit(*SIDE_AT[side]), skin, SIZE)
    away = camera.position - np.array([0, 0, 95.0])
    wanted = {"port": [0, 1, 0], "starboard": [0, -1, 0], "bow": [1, 0, 0], "aft": [-1, 0, 0], "top": [0, 0, 1]}
    assert away / np.linalg.norm(away) == pytest.approx(np.array(wanted.get(side, [0, 0, -1])), abs=1e-9)
    bow = camera.project(np.array([[200.0, 0, 45.0]]))[0, 0] - SIZE[0] / 2
    assert np.sign(np.rint(bow)) == {"port": -1, "starboard": 1, "top": -1, "bottom": -1}.get(side, 0)
    # All of it is on the picture.
    corners = camera.project(np.concatenate([f.corners for f in skin.faces]))
    assert np.all(corners > 0) and np.all(corners[:, 0] < SIZE[0])


def test_the_view_of_a_still_is_found_again() -> None:
    skin = Skin(box_faces())
    still = replace(camera_from(-37, 22), offset_px=(30.0, -12.0))
    small = as_photographed(still, (750, 600))
    points = np.array([[300.0, 100, 90], [-60.0, 70, 150]])
    wanted = (still.project(points) - (750, 500)) / 2 + (375, 300)
    assert small.project(points) == pytest.approx(wanted)
    found = orbit_of(still, skin)
    assert (found.azimuth_deg, found.rise_deg) == pytest.approx((-37, 22), abs=2.5)


def test_turning_goes_round_and_stops_overhead() -> None:
    assert Orbit(170, 0).turned(20, 0).azimuth_deg == pytest.approx(-170)
    assert Orbit(0, 80).turned(0, 30).rise_deg == 90
