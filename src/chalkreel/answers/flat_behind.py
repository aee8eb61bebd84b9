"""What a click inside a flat piece means: the face that is there, or the flat whose landmarks lie all round it."""

from __future__ import annotations

import numpy as np

from chalkreel.answers.faces import TWIN, Faces, round_the_middle
from chalkreel.answers.reel import ReelAnswer
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.face import Face, face_of
from chalkreel.core.faces.landing import Landing, landings
from chalkreel.core.faces.skin import Skin
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
    met = [(made, ring, there) for made, ring in _flats(build, reel, solution, camera)
           if (there := _landing(Skin((made,)), camera, click_px)) is not None]  # fmt: skip
    landing = _landing(faces.skin, camera, click_px)
    face = faces.skin.faces[landing.face] if landing is not None else None
    told = _told_ring(build, face.key) if face is not None else ()
    if face is not None and told:
        on_it = [(made.area_mm2, ring) for made, ring, _ in met if _lies_on(made, face)]
        return min([*on_it, (face.area_mm2, told)])[1]
    reaches = [(float(np.linalg.norm(there.place - camera.position)), ring) for _, ring, there in met]
    return min(reaches, default=(0.0, ()))[1]


def _flats(build: Build, reel: ReelAnswer, solution: Solution, camera: Camera) -> list[tuple[Face, Ring]]:
    """Every flat as a face of its outermost landmarks, and these in order."""
    found = []
    for flat in build.all(FlatSet):
        try:
            ring = round_the_middle(reel, flat.landmark_ids)
            corners = np.array([solution.point(i) for i in ring])
            found.append((face_of(flat.id, corners, camera.position), ring))
        except RefusedError:
            # One that is not solved, or is a line, bounds nothing.
            continue
    return found


def _landing(skin: Skin, camera: Camera, click_px: tuple[float, float]) -> Landing | None:
    return landings(skin, camera, np.array([click_px]), np.array([1.0]))[0]


def _told_ring(build: Build, key: str) -> Ring:
    """The landmarks of a face of the skin, on the side that its key says; none where it is round."""
    face = build.get(SkinFace, key.removesuffix(TWIN))
    if face is None:
        return ()
    other_side = key.endswith(TWIN)
    marks = (build.get(Landmark, i) for i in face.landmark_ids)
    return tuple(m.mirror_id if other_side else m.id for m in marks if m is not None)


def _lies_on(made: Face, face: Face) -> bool:
    off = np.abs((made.corners - face.corners.mean(axis=0)) @ face.normal)
    return bool(off.max() <= OFF_SHARE * float(np.linalg.norm(np.ptp(face.corners, axis=0))))
