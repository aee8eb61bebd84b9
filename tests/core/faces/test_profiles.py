"""Walls between traced profiles, and walls laid flat, against shapes whose areas and distances are known."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest

from chalkreel.core.draft.node import Node, NodeKind
from chalkreel.core.draft.template import edges_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.face import face_of
from chalkreel.core.faces.loft import MOST_PIECES, ROUND_PIECES, RUN_PIECES, Profile, simplified, stretched
from chalkreel.core.faces.outlines import sides_of
from chalkreel.core.faces.round import Rim, wall
from chalkreel.core.faces.unrolled import unrolled

UP = np.array([0.0, 0, 1])
INSIDE = np.zeros(3)


def ring(radius: float, z: float, start: float = 0.0, way: int = 1) -> Profile:
    turn = start + way * np.linspace(0, 2 * np.pi, 181)
    return Profile((np.stack([radius * np.cos(turn), radius * np.sin(turn), np.full(181, z)], axis=1),), True, False)


def section(x: float, half: float, high: float, turned: bool = False) -> Profile:
    """A hull section to port: flat keel, a round bilge of the radius `high` / 2, straight side."""
    bilge = high / 2
    turn = np.linspace(-np.pi / 2, 0, 40)
    arc = np.stack([np.full(40, x), half - bilge + bilge * np.cos(turn), bilge + bilge * np.sin(turn)], axis=1)
    keel, side = np.array([[x, 0, 0], arc[0]]), np.array([arc[-1], [x, half, high]])
    profile = Profile((keel, arc, side), False)
    return profile.turned() if turned else profile


@pytest.mark.parametrize(("start", "way"), [(0.0, 1), (2.1, -1)])
def test_rings_traced_from_anywhere_make_the_cone_between_them(start: float, way: int) -> None:
    faces = stretched("cone", ring(40, 0), ring(25, 60, start, way), INSIDE)
    # The lateral area of a frustum.
    assert sum(f.area_mm2 for f in faces) == pytest.approx(math.pi * 65 * math.hypot(60, 15), rel=0.006)
    for face in faces:
        assert face.normal[:2] @ face.corners.mean(axis=0)[:2] > 0


@pytest.mark.parametrize("turned", [False, True])
def test_hull_sections_make_the_hull_between_them(turned: bool) -> None:
    """Two like sections: the area is the section's length times how far they stand apart."""
    faces = stretched("hull", section(0, 60, 40), section(-150, 60, 40, turned), np.array([-75.0, 0, 60]))
    assert sum(f.area_mm2 for f in faces) == pytest.approx(150 * (40 + 10 * math.pi + 20), rel=1e-3)
    # Down and out to port.
    assert all(face.normal[1] > -1e-9 and face.normal[2] < 1e-9 for face in faces)
    assert len(faces) == 1 + RUN_PIECES + 1
    # Corners of the section are lines along the hull, the bilge's pieces are not.
    along = [a for a, b in sides_of_lines(faces) if abs(a[0] - b[0]) > 100]
    heights = sorted(round(float(a[2])) for a in along)
    assert heights == [0, 40]


def sides_of_lines(faces):
    from chalkreel.core.faces.skin import Skin

    return sides_of(Skin(faces), np.array([0.1, 0.9, -0.4]))


def test_a_crease_is_drawn_and_a_bend_is_not() -> None:
    """A box of four corners, seen from a corner: its standing edges are lines."""
    corners = np.array([[0.0, 0, 0], [100, 0, 0], [100, 60, 0], [0, 60, 0]])
    runs = tuple(np.stack([a, b]) for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True))
    box = Profile(runs, True)
    roof = Profile(tuple(run * 0.8 + np.array([10.0, 6, 50]) for run in runs[2:] + runs[:2]), True)
    faces = stretched("house", box, roof, INSIDE)
    assert len(faces) == 4
    standing = [a for a, b in sides_of_lines(faces) if abs(a[2] - b[2]) > 1]
    assert len(standing) == 4


def test_a_twisted_wall_closes_up() -> None:
    """Sections that do not lie in one plane with each other are joined by triangles: no slits, none missing."""
    first = Profile((np.array([[0.0, 0, 0], [0, 80, 0]]),), False)
    second = Profile((np.array([[100.0, 0, 0], [100, 60, 50]]),), False)
    faces = stretched("twist", first, second, np.array([50.0, 40, 300]))
    assert [len(f.corners) for f in faces] == [3, 3]
    assert all(face.normal[2] < 0 for face in faces)


def test_profiles_that_meet_at_their_ends_leave_no_slivers() -> None:
    """A canopy: its crest and its sill run together fore and aft."""
    x = np.linspace(-50, 50, 41)
    crest = Profile((np.stack([x, 0 * x, 30 * np.cos(x / 100 * np.pi)], axis=1),), False)
    sill = Profile((np.stack([x, 25 * np.cos(x / 100 * np.pi), 0 * x], axis=1),), False)
    faces = stretched("canopy", crest, sill, np.array([0.0, 0, -40]))
    assert all(f.area_mm2 > 1 for f in faces)
    assert all(f.normal[1] > 0 and f.normal[2] > 0 for f in faces)


def test_profiles_of_other_corners_meet_by_their_length() -> None:
    turn = np.linspace(-np.pi / 2, 0, 50)
    bow = Profile((np.stack([np.full(50, 80.0), 40 * np.cos(turn), 40 + 40 * np.sin(turn)], axis=1),), False)
    faces = stretched("bow", section(0, 60, 40), bow, np.array([40.0, 0, 60]))
    assert len(faces) < 2 * ROUND_PIECES + 1
    # Between both girths, times the way along.
    girths = (40 + 10 * math.pi + 20, 20 * math.pi)
    assert 80 * min(girths) < sum(f.area_mm2 for f in faces) < 1.3 * 80 * max(girths)


def test_profiles_of_very_many_corners_still_make_few_pieces() -> None:
    """A hundred scallops round a rim, each bent: not a hundred times sixteen pieces."""

    def scalloped(z: float) -> Profile:
        turns = np.linspace(0, 2 * np.pi, 101)
        runs = []
        for a, b in itertools.pairwise(turns):
            t = np.linspace(a, b, 9)
            r = 50 + 3 * np.sin((t - a) / (b - a) * np.pi)
            runs.append(np.stack([r * np.cos(t), r * np.sin(t), np.full(9, z)], axis=1))
        return Profile(tuple(runs), True)

    faces = stretched("cake", scalloped(0), scalloped(40), INSIDE)
    assert len(faces) <= 2 * MOST_PIECES
    assert sum(f.area_mm2 for f in faces) == pytest.approx(40 * 2 * math.pi * 52, rel=0.05)


def test_what_makes_no_wall_is_said() -> None:
    with pytest.raises(RefusedError, match="same place"):
        stretched("none", ring(40, 0), ring(40, 0.001, 1.0), INSIDE)
    with pytest.raises(RefusedError, match="open"):
        stretched("none", ring(40, 0), section(0, 60, 40), INSIDE)


def test_a_tube_unrolls_to_its_circumference() -> None:
    panel = unrolled(wall("tube", Rim(np.zeros(3), UP, 40.0), Rim(50 * UP, UP, 40.0)))
    wide, high = panel.outline.max(axis=0)
    assert (wide, high) == pytest.approx((2 * math.pi * 40, 50), rel=1e-3)
    # Told by the nearer rim, and by the line along which it was cut open, at the bow.
    assert panel.nearest(100.0, 20.0) == ((pytest.approx(20.0), "foot edge"), (pytest.approx(100.0), "bow cut"))
    (up, edge), (along, cut) = panel.nearest(240.0, 40.0)
    assert (up, along) == pytest.approx((10.0, 80 * math.pi - 240.0), abs=0.5) and (edge, cut) == (
        "top edge",
        "bow cut",
    )


def test_places_on_an_unrolled_wall_keep_their_distances() -> None:
    """Round a quarter of a tube it is a quarter of its circumference; straight up it is straight."""
    faces = wall("tube", Rim(np.zeros(3), UP, 40.0), Rim(50 * UP, UP, 40.0))
    panel = unrolled(faces)

    def place(degrees: float, z: float):
        at = np.array([40 * math.cos(math.radians(degrees)), 40 * math.sin(math.radians(degrees)), z])
        number = min(range(len(faces)), key=lambda n: float(np.linalg.norm(faces[n].corners.mean(axis=0) - at)))
        return panel.lays[number].flat(at[None])[0]

    assert np.linalg.norm(place(120, 10) - place(30, 10)) == pytest.approx(20 * math.pi, rel=0.01)
    assert np.linalg.norm(place(75, 5) - place(75, 45)) == pytest.approx(40, rel=1e-3)
    assert np.linalg.norm(place(120, 0) - place(30, 50)) == pytest.approx(math.hypot(20 * math.pi, 50), rel=0.01)


def test_a_cone_unrolls_to_a_sector() -> None:
    panel = unrolled(wall("cone", Rim(np.zeros(3), UP, 40.0), Rim(30 * UP, UP, 10.0)))
    x, y = panel.outline.T
    # Shoelace area against the frustum's.
    area = abs(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2
    assert area == pytest.approx(math.pi * 50 * math.hypot(30, 30), rel=0.006)
    # A place in the middle of a piece: the edges are bent, and it is told by one of them and by the cut.
    piece = wall("cone", Rim(np.zeros(3), UP, 40.0), Rim(30 * UP, UP, 10.0))[9]
    (gap, rim), (_, cut) = panel.nearest(*panel.lays[9].flat(piece.corners.mean(axis=0)[None])[0])
    assert gap == pytest.approx(math.hypot(30, 30) / 2, rel=0.01) and rim in ("foot edge", "top edge")
    assert cut == "bow cut"


def test_an_outline_comes_in_edges_from_corner_to_corner() -> None:
    kinds: tuple[NodeKind, ...] = ("corner", "smooth", "corner", "corner")
    nodes = tuple(Node(x, y, kind) for (x, y), kind in zip([(0, 0), (5, 3), (10, 0), (10, 9)], kinds, strict=True))
    bent, straight = edges_of(nodes, closed=False)
    assert bent[0] == (0, 0) and bent[-1] == (10, 0) and len(bent) > 5 and (5, 3) in bent
    assert straight == ((10, 0), (10, 9))
    assert [edge[0] for edge in edges_of(nodes)] == [(0, 0), (10, 0), (10, 9)]


def test_a_traced_curve_is_followed_by_few_corners() -> None:
    turn = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    round_part = np.stack([200 + 30 * np.cos(turn), np.full(400, 7.0), 50 + 30 * np.sin(turn)], axis=1)
    kept = simplified(round_part, 0.05)
    assert len(kept) < 80
    assert face_of("port", kept, np.array([200.0, 90, 50])).area_mm2 == pytest.approx(math.pi * 900, rel=0.005)
