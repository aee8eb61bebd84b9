"""What a click inside a flat piece means: the face that is there, or the flat whose landmarks lie all round it."""

from __future__ import annotations

import numpy as np
from shapely import Point, Polygon

from chalkreel.answers.faces import TWIN, Faces, round_the_middle
from chalkreel.answers.reel import ReelAnswer
from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.landing import landings
from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.document.entities import FlatSet, Landmark, SkinFace
from chalkreel.document.snapshot import Build

Ring = tuple[str, ...]
# A flat no farther off a face's plane than this, as a share of the face's extent, lies on it.
OFF_SHARE = 0.01


def flat_behind(build: Build, faces: Faces, reel: ReelAnswer, view: str, click_px: tuple[float, float]) -> Ring:
    """The landmarks, in order, of the flat piece that a click in stored pixels meets; none where there is none.

    That is the face in sight there or a smaller flat that lies on it; where there is no face, the foremost flat. Only
    what was told counts: planes guessed from the landmarks alone were mostly wrong ones.
    """
    solution = reel.solution
    if solution is None or view not in solution.layout.views:
        return ()
    camera = solution.camera(view)
    face = _face_at(build, faces, solution, view, click_px)
    met = [(_seen_area(camera, _corners(solution, ring)), ring) for ring in _flats_round(build, reel)
           if _meets(camera, _corners(solution, ring), click_px)]  # fmt: skip
    if face:
        on_it = [(area, ring) for area, ring in met if _lies_on(_corners(solution, ring), _corners(solution, face))]
        return min([*on_it, (_seen_area(camera, _corners(solution, face)), face)])[1]
    reaches = [(_reach(camera, click_px, _corners(solution, ring)), ring) for _, ring in met]
    return min(reaches, default=(0.0, ()))[1]


def _flats_round(build: Build, reel: ReelAnswer) -> list[Ring]:
    found = []
    for flat in build.all(FlatSet):
        try:
            found.append(round_the_middle(reel, flat.landmark_ids))
        except RefusedError:
            # One that is not solved, or is a line, bounds nothing.
            continue
    return found


def _face_at(build: Build, faces: Faces, solution: Solution, view: str, click_px: tuple[float, float]) -> Ring:
    (landing,) = landings(faces.skin, solution.camera(view), np.array([click_px]), np.array([1.0]))
    key = faces.skin.faces[landing.face].key if landing is not None else ""
    face = build.get(SkinFace, key.removesuffix(TWIN))
    if face is None:
        return ()
    return _mirrored(build, face.landmark_ids) if key.endswith(TWIN) else face.landmark_ids


def _mirrored(build: Build, ring: Ring) -> Ring:
    """The landmarks on the other side."""
    return tuple(m.mirror_id for i in ring if (m := build.get(Landmark, i)) is not None)


def _corners(solution: Solution, ring: Ring) -> Array:
    return np.array([solution.point(i) for i in ring])


def _seen_area(camera: Camera, corners: Array) -> float:
    return float(Polygon(camera.project(corners)).area)


def _meets(camera: Camera, corners: Array, click_px: tuple[float, float]) -> bool:
    shape = Polygon(camera.project(corners))
    return bool(shape.is_valid and shape.contains(Point(click_px)))


def _lies_on(corners: Array, face: Array) -> bool:
    middle = face.mean(axis=0)
    off = np.abs((corners - middle) @ _normal(face))
    return bool(off.max() <= OFF_SHARE * float(np.linalg.norm(np.ptp(face, axis=0))))


def _reach(camera: Camera, click_px: tuple[float, float], corners: Array) -> float:
    """How far along the click's ray the plane of some corners (N, 3) lies."""
    normal, way = _normal(corners), camera.rays(np.array([click_px]))[0]
    return float((corners.mean(axis=0) - camera.position) @ normal / (way @ normal))


def _normal(corners: Array) -> Array:
    return np.asarray(np.linalg.svd(corners - corners.mean(axis=0))[2][2])
