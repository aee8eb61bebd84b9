"""Flat pieces between landmarks that are joined by edges: faces to be offered."""

from __future__ import annotations

import numpy as np

from chalkreel.answers.reel import ReelAnswer
from chalkreel.core.arrays import Array
from chalkreel.core.faces.face import Face, face_of, mirrored
from chalkreel.core.faces.loops import flat_loops
from chalkreel.core.faces.skin import TOUCH_MM, Skin
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.document.entities import Landmark, SkinFace, Tie
from chalkreel.document.snapshot import Build

Ring = tuple[str, ...]
# A face is there on both.
BOTH_SIDES = ("port", "starboard")
# How far from the corners to the middle of a triangle another look is taken: something may stand on the middle.
INWARDS = 0.4


def enclosed(build: Build, reel: ReelAnswer, skin: Skin) -> tuple[Ring, ...]:
    """Rings of landmarks that edges and their twins join round a flat piece of the skin; of a pair of twins one, since
    the other comes by itself.

    Not where a face is or lies beneath, nor where no still sees it past all others: that is a frame within.
    """
    solution = reel.solution
    if solution is None:
        return ()
    pieces = {ring: _piece(solution, ring) for ring in _new_rings(build, solution)}
    whole = Skin((*skin.faces, *pieces.values(), *(mirrored(piece, "") for piece in pieces.values())))
    cameras = [solution.camera(view) for view in solution.layout.views]
    found: dict[Ring, Face] = {}
    # The largest first: a window within a side is no face of its own.
    for ring, piece in sorted(pieces.items(), key=lambda item: -item[1].area_mm2):
        spots = _inside(piece)
        covered = any(_covered(laid, spots[0], piece.normal) for laid in (skin, Skin(tuple(found.values()))))
        if not covered and any(not whole.hidden(camera, spots).all() for camera in cameras):
            found[ring] = piece
    return tuple(found)


def ring_name(build: Build, ring: Ring) -> str:
    """The words that are in the names of all its landmarks, but for the side; empty where there are none."""
    names = [m.name.replace(",", " ").split() for i in ring if (m := build.get(Landmark, i)) is not None]
    common = dict.fromkeys(names[0]) if names else {}
    return " ".join(word for word in common if word not in BOTH_SIDES and all(word in other for other in names))


def _new_rings(build: Build, solution: Solution) -> list[Ring]:
    mirror = {m.id: m.mirror_id for m in build.all(Landmark)}
    keys = [m.id for m in build.all(Landmark) if m.id in solution.layout.blocks]
    number = {key: n for n, key in enumerate(keys)}
    pairs = [(tie.a_id, tie.b_id) for tie in build.all(Tie)]
    pairs += [(mirror.get(a, ""), mirror.get(b, "")) for a, b in pairs]
    joined = {(number[a], number[b]) for a, b in pairs if a in number and b in number}
    points = np.array([solution.point(key) for key in keys]).reshape(-1, 3)
    known = {frozenset(face.landmark_ids) for face in build.all(SkinFace)}
    known |= {frozenset(mirror.get(i, "") for i in ring) for ring in known}
    found = []
    for loop in flat_loops(points, tuple(sorted({(min(ends), max(ends)) for ends in joined}))):
        ring = tuple(keys[n] for n in loop)
        if frozenset(ring) not in known:
            found.append(ring)
            known |= {frozenset(ring), frozenset(mirror.get(i, "") for i in ring)}
    return found


def _piece(solution: Solution, ring: Ring) -> Face:
    corners = np.array([solution.point(i) for i in ring])
    return face_of("", corners, solution.points.mean(axis=0))


def _inside(piece: Face) -> Array:
    """Places (N, 3) within a face, the middle of its largest triangle first, then others nearer to its corners."""
    triangles = piece.corners[piece.triangles]
    doubled = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    middles = triangles.mean(axis=1)
    first = middles[int(np.argmax(np.linalg.norm(doubled, axis=1)))]
    outer = triangles + INWARDS * (middles[:, None] - triangles)
    return np.concatenate([first[None], outer.reshape(-1, 3)])


def _covered(skin: Skin, spot: Array, normal: Array) -> bool:
    """Whether a face lies at a place, as near as the face's own landmarks do."""
    reach = skin.first_hits((spot + TOUCH_MM * normal)[None], -normal[None])[0][0]
    return bool(reach <= 2 * TOUCH_MM)
