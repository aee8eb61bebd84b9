"""Faces by hand: areas, triangles, twist and refusals; what a box hides, against its own geometry."""

from __future__ import annotations

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.face import face_of, mirrored
from chalkreel.core.faces.frame import frame_of
from chalkreel.core.faces.loops import flat_loops
from chalkreel.core.faces.outlines import shown_pieces, shown_sides
from chalkreel.core.faces.skin import Skin
from chalkreel.core.measure.camera import Camera, looking

ABOVE = np.array([0.0, 0.0, 500.0])
# A letter L of 3 × 3 less 2 × 2, and a star whose outline turns in and out.
ELL = np.array([[0, 0], [30, 0], [30, 10], [10, 10], [10, 30], [0, 30]], float)
STAR = np.array([[r * np.cos(a), r * np.sin(a)]
                 for r, a in zip([40, 14] * 5, np.radians(np.arange(0, 360, 36)), strict=True)])  # fmt: skip


def lifted(flat: np.ndarray, seed: int = 2) -> np.ndarray:
    """A flat outline somewhere in space."""
    turn = np.linalg.qr(np.random.default_rng(seed).normal(size=(3, 3)))[0]
    return np.column_stack([flat, np.zeros(len(flat))]) @ turn.T + [5.0, -7.0, 11.0]


@pytest.mark.parametrize(("flat", "area"), [(ELL, 500.0), (STAR, 5 * 40 * 14 * np.sin(np.radians(36)))])
@pytest.mark.parametrize("backwards", [False, True])
def test_triangles_fill_a_face_exactly_and_look_outwards(flat, area, backwards):
    corners = lifted(flat[::-1] if backwards else flat)
    outside = corners.mean(axis=0) + 100 * np.cross(corners[1] - corners[0], corners[2] - corners[0])
    face = face_of("f", corners, outside)
    a, b, c = face.corners[face.triangles].transpose(1, 0, 2)
    across = np.cross(b - a, c - a)
    assert face.area_mm2 == pytest.approx(area) and len(face.triangles) == len(flat) - 2
    # None is turned over, so that their areas can only add up if they do not overlap.
    assert np.all(across @ face.normal >= -1e-9)
    assert np.linalg.norm(across, axis=1).sum() / 2 == pytest.approx(area)
    assert face.normal @ (outside - corners.mean(axis=0)) > 0 and np.abs(face.off_mm).max() < 1e-9


def test_a_twin_is_its_mirror_image_and_looks_the_other_way():
    corners = np.array([[0, 30, 0], [100, 30, 0], [100, 34, 50], [0, 34, 50]], float)
    face = face_of("port", corners, np.array([50.0, 900, 20]))
    twin = mirrored(face, "starboard")
    assert twin.normal[1] == pytest.approx(-face.normal[1]) and twin.area_mm2 == face.area_mm2
    a, b, c = twin.corners[twin.triangles].transpose(1, 0, 2)
    assert np.all(np.cross(b - a, c - a) @ twin.normal > 0)
    assert set(map(tuple, twin.corners * [1, -1, 1])) == set(map(tuple, face.corners))


def test_what_is_no_face_is_refused_and_a_twisted_one_says_how_far():
    with pytest.raises(RefusedError, match="three corners"):
        face_of("f", np.zeros((2, 3)), ABOVE)
    with pytest.raises(RefusedError, match="one line"):
        face_of("f", np.array([[0, 0, 0], [10, 0, 0], [25, 0.001, 0.0]]), ABOVE)
    with pytest.raises(RefusedError, match="cross"):
        face_of("f", np.array([[0, 0, 0], [10, 10, 0], [10, 0, 0], [0, 10, 0]], float), ABOVE)
    bent = np.array([[0, 0, 2], [100, 0, -2], [100, 100, 2], [0, 100, -2]], float)
    face = face_of("f", bent, ABOVE)
    assert np.abs(face.off_mm) == pytest.approx([2, 2, 2, 2])


def box_skin(x, y, z):
    corners = np.array([[i, j, k] for i in (-x, x) for j in (-y, y) for k in (-z, z)], float)
    sides = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    faces = [face_of(str(n), corners[list(s)], 10 * corners[list(s)].mean(axis=0)) for n, s in enumerate(sides)]
    return Skin(tuple(faces)), corners, sides


def test_a_box_hides_the_corners_whose_three_faces_are_all_turned_away():
    skin, corners, sides = box_skin(100, 40, 30)
    rng, seen_some = np.random.default_rng(4), 0
    for _ in range(80):
        place = rng.normal(size=3)
        place = place / np.linalg.norm(place) * rng.uniform(300, 2000)
        camera = camera_at(place)
        off = np.array([f.normal @ (place - f.corners.mean(axis=0)) for f in skin.faces])
        # Faces count as a mm larger: what is seen along one of them is left out.
        if np.abs(off).min() < 40:
            continue
        facing = (off > 0).tolist()
        truly = [not any(facing[n] for n, s in enumerate(sides) if i in s) for i in range(8)]
        assert skin.hidden(camera, corners).tolist() == truly
        seen_some += sum(truly)
    assert seen_some > 60


def camera_at(place: np.ndarray) -> Camera:
    turn = looking(-place, np.array([0.0, 0.0, 1.0]))
    return Camera(turn, -turn @ place, 1500.0, 0.0, (0.0, 0.0), (1280, 800), 1.0)


def test_sides_behind_a_box_are_left_out_and_the_outline_is_told_apart():
    skin, _, _ = box_skin(100, 40, 30)
    frame = frame_of(skin, "port", 0.5)
    behind = np.array(
        [[[-50.0, -90, 0], [50, -90, 0]], [[-50.0, 90, 0], [50, 90, 0]], [[-150.0, -90, 0], [150, -90, 0]]]
    )

    def span(pieces):
        return sorted(round(float(np.ptp(frame.to_world(p.ends)[:, 0])), 0) for p in pieces)

    # What lies behind it is not seen, what lies before it is, and what reaches past it on both sides is cut.
    assert span(shown_pieces(skin, frame, behind[:1])) == []
    assert span(shown_pieces(skin, frame, behind[1:2])) == [100]
    assert span(shown_pieces(skin, frame, behind[2:])) == pytest.approx([50, 50], abs=2)
    # From port a box is one rectangle, all of it outline.
    sides = shown_sides(skin, frame)
    lengths = sorted(round(float(np.linalg.norm(np.diff(frame.to_world(p.ends), axis=0))), 0) for p in sides)
    assert all(p.outer for p in sides) and set(lengths) <= {60, 200} and len(lengths) >= 4


def test_a_ray_finds_the_nearest_face_and_where():
    skin, _, _ = box_skin(100, 40, 30)
    far, which = skin.first_hits(np.array([[0, 500.0, 0], [0, 0, 900.0], [0, 0, 900.0]]),
                                 np.array([[0, -1.0, 0], [0, 0, -2.0], [0, 5.0, 0]]))  # fmt: skip
    assert far == pytest.approx([460, 435, np.inf]) and which.tolist() == [3, 5, -1]


def lattice() -> tuple[np.ndarray, tuple[tuple[int, int], ...]]:
    """A box of 2 × 1 panels a side along its length, all edges joined: ten panels, and a frame within."""
    points = np.array([[x, y, z] for x in (0.0, 80, 200) for y in (0.0, 60) for z in (0.0, 40)])
    number = {tuple(p): n for n, p in enumerate(points)}
    edges = []
    for p in points:
        for q in points:
            apart = np.flatnonzero(p != q)
            if len(apart) == 1 and (apart[0] > 0 or {p[0], q[0]} != {0.0, 200.0}) and tuple(p) < tuple(q):
                edges.append((number[tuple(p)], number[tuple(q)]))
    return points, tuple(edges)


def test_joined_points_enclose_their_panels_once_and_no_two_together() -> None:
    points, edges = lattice()
    rng = np.random.default_rng(3)
    loops = flat_loops(points + rng.normal(0, 0.05, points.shape), edges)
    # Two panels on each of four sides, two ends, and the frame between the panels.
    assert len(loops) == 11 and all(len(loop) == 4 for loop in loops)
    for loop in loops:
        assert len({tuple(points[n, k] for n in loop) for k in range(3)}) >= 2
        assert any(np.ptp(points[list(loop), k]) == 0 for k in range(3))
        # In order round it: each side is an edge.
        assert all((min(a, b), max(a, b)) in edges for a, b in zip(loop, (*loop[1:], loop[0]), strict=True))


def test_a_loop_round_a_joined_point_is_none_and_what_is_bent_is_none() -> None:
    ring = [(0, 1), (1, 2), (2, 3), (0, 3)]
    square = np.array([[0.0, 0, 0], [100, 0, 0], [100, 100, 0], [0, 100, 0], [50, 50, 0]])
    assert len(flat_loops(square, tuple(ring))) == 1
    spokes = [(n, 4) for n in range(4)]
    assert sorted(len(loop) for loop in flat_loops(square, tuple(ring + spokes))) == [3, 3, 3, 3]
    bent = square.copy()
    bent[2, 2] = 8.0
    assert flat_loops(bent, tuple(ring)) == ()
    assert flat_loops(square, ((0, 1), (1, 2))) == () and flat_loops(np.zeros((0, 3)), ()) == ()


def test_pieces_round_a_corner_are_not_taken_together() -> None:
    """Three squares that make an L: three pieces, and not the L."""
    cells = [(0, 0), (1, 0), (0, 1)]
    points = np.array([[10.0 * x, 10.0 * y, 0] for x in range(3) for y in range(3) if (x, y) != (2, 2)])
    number = {(int(x / 10), int(y / 10)): n for n, (x, y, _) in enumerate(points)}
    edges = set()
    for x, y in cells:
        ring = [number[x, y], number[x + 1, y], number[x + 1, y + 1], number[x, y + 1]]
        edges |= {(min(a, b), max(a, b)) for a, b in zip(ring, (*ring[1:], ring[0]), strict=True)}
    assert [len(loop) for loop in flat_loops(points, tuple(edges))] == [4, 4, 4]


def test_hundreds_of_joined_points_do_not_take_long() -> None:
    """A grid of 20 × 20: every square and nothing else."""
    side = 20
    points = np.array([[10.0 * x, 10.0 * y, 0] for x in range(side) for y in range(side)])
    edges = [(x * side + y, x * side + y + 1) for x in range(side) for y in range(side - 1)]
    edges += [(x * side + y, (x + 1) * side + y) for x in range(side - 1) for y in range(side)]
    loops = flat_loops(points, tuple(edges))
    assert sum(len(loop) == 4 for loop in loops) == (side - 1) ** 2 == len(loops)
