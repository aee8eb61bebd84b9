"""The subject as an eye sees it from anywhere: faces, landmarks and marks, plain or painted from the stills."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from chalkreel.answers.face_marks import landed_ends
from chalkreel.answers.faces import TWIN, Faces
from chalkreel.answers.orthographic import painting_stills, seen_of
from chalkreel.answers.pose import stand_words
from chalkreel.answers.reel import ReelAnswer
from chalkreel.core.arrays import Array
from chalkreel.core.faces.orbit import Orbit, as_photographed, camera_on, middle_of, orbit_of
from chalkreel.core.faces.sight import Pixels
from chalkreel.core.faces.skin import Skin
from chalkreel.core.faces.texture import Texture, textures
from chalkreel.core.faces.turned import turned
from chalkreel.core.measure.camera import Camera
from chalkreel.document.entities import Landmark, Spot, Still
from chalkreel.document.gallery import Gallery
from chalkreel.document.light_entities import Lamp
from chalkreel.document.snapshot import Build

Progress = Callable[[float], bool]
# The subject's longest side in pixels of its textures: about what a window shows of it.
LONGEST_PX = 1400


@dataclass(frozen=True, eq=False)
class Subject:
    """Faces, landmarks with their places (N, 3), and marks with their ends (M, 2, 3), in mm."""

    build: Build
    reel: ReelAnswer
    skin: Skin
    landmarks: tuple[Landmark, ...]
    points: Array
    spots: tuple[Spot, ...]
    ends: Array


@dataclass(frozen=True)
class Dot:
    """A landmark in sight, in pixels, and the lamp that stands at it."""

    id: str
    name: str
    x: float
    y: float
    lamp: str = ""


@dataclass(frozen=True)
class SeenMark:
    """A mark whose ends are in sight, in pixels."""

    id: str
    name: str
    ends: tuple[tuple[float, float], tuple[float, float]]


@dataclass(frozen=True, eq=False)
class EyeView:
    """A picture (H, W, 3) with what is drawn over it, in words from where, and the face (H, W) at each pixel."""

    pixels: Pixels
    dots: tuple[Dot, ...]
    marks: tuple[SeenMark, ...]
    words: str
    _skin: Skin
    _camera: Camera
    _face: npt.NDArray[np.int16]

    def face_at(self, x: int, y: int) -> str:
        """The id of the face at a pixel; its twin's is its own. Empty for none."""
        height, width = self._face.shape
        number = int(self._face[y, x]) if 0 <= x < width and 0 <= y < height else -1
        return self._skin.faces[number].key.removesuffix(TWIN) if number >= 0 else ""

    def outlines_of(self, face_id: str) -> tuple[tuple[tuple[float, float], ...], ...]:
        """Where the corners of a face and of its twin lie, in pixels."""
        found = (self._camera.project(f.corners) for f in self._skin.faces if f.key.removesuffix(TWIN) == face_id)
        return tuple(tuple((float(x), float(y)) for x, y in at) for at in found if np.isfinite(at).all())


def subject_of(build: Build, faces: Faces, reel: ReelAnswer) -> Subject | None:
    """What there is to be seen; None without a face."""
    solution = reel.solution
    if solution is None or not faces.skin.faces:
        return None
    landmarks = tuple(m for m in build.all(Landmark) if m.id in solution.layout.blocks)
    marks = list(landed_ends(build, faces, reel))
    ends = np.array([places for _, places in marks]).reshape(-1, 2, 3)
    points = np.array([solution.point(m.id) for m in landmarks])
    return Subject(build, reel, faces.skin, landmarks, points, tuple(spot for spot, _ in marks), ends)


def painted(subject: Subject, gallery: Gallery, progress: Progress) -> tuple[Texture, ...]:
    """What the stills of this version show of each face.

    Raises
    ------
    RefusedError
        None is solved.
    StoppedError
        `progress` said to stop.
    """
    solution = subject.reel.solution
    assert solution is not None
    seen = seen_of(painting_stills(subject.build, subject.reel), solution, gallery)
    corners = np.concatenate([face.corners for face in subject.skin.faces])
    return textures(subject.skin, seen, float(np.ptp(corners, axis=0).max()) / LONGEST_PX, progress)


def view_from(subject: Subject, orbit: Orbit, size_px: tuple[int, int], laid: tuple[Texture, ...] = ()) -> EyeView:
    """The subject from a place on the orbit, and where a camera would have to stand."""
    camera = camera_on(orbit, subject.skin, size_px)
    stand = stand_words(subject.build, subject.reel, camera, middle_of(subject.skin), size_px[0])
    round_words = f"{abs(orbit.azimuth_deg):.0f}° off the bow"
    side = "" if abs(orbit.azimuth_deg) in (0, 180) else " to port" if orbit.azimuth_deg > 0 else " to starboard"
    rise = f", {abs(orbit.rise_deg):.0f}° {'above' if orbit.rise_deg > 0 else 'below'}" if orbit.rise_deg else ""
    return _view(subject, camera, laid, f"Seen from {round_words}{side}{rise}. {stand}".strip())


def view_as_on(subject: Subject, still: Still, size_px: tuple[int, int], laid: tuple[Texture, ...] = ()) -> EyeView:
    """The subject as a solved still shows it."""
    solution = subject.reel.solution
    assert solution is not None
    camera = as_photographed(solution.camera(still.id), size_px)
    return _view(subject, camera, laid, f"As on still {still.number}, without its lens's bend.")


def orbit_as_on(subject: Subject, still: Still) -> Orbit | None:
    """The place on the orbit from which a still was taken; None where it is not solved."""
    solution = subject.reel.solution
    if solution is None or still.id not in solution.layout.views:
        return None
    return orbit_of(solution.camera(still.id), subject.skin)


def _view(subject: Subject, camera: Camera, laid: tuple[Texture, ...], words: str) -> EyeView:
    found = turned(subject.skin, camera, laid)
    at, seen = found.places(subject.points)
    lamps = {place: lamp.name for lamp in subject.build.all(Lamp) for place in lamp.places}
    dots = (
        Dot(landmark.id, landmark.name, float(x), float(y), lamps.get(landmark.id, ""))
        for landmark, (x, y), here in zip(subject.landmarks, at, seen, strict=True)
        if here
    )
    ends, shown = found.places(subject.ends.reshape(-1, 3))
    marks = (
        SeenMark(spot.id, spot.name, ((float(a[0]), float(a[1])), (float(b[0]), float(b[1]))))
        for spot, (a, b), both in zip(subject.spots, ends.reshape(-1, 2, 2), shown.reshape(-1, 2), strict=True)
        if both.all()
    )
    # A skin that is open shows the backs of faces.
    in_sight = np.flatnonzero(np.bincount(found.face.ravel() + 1, minlength=1)[1:])
    backs = any(
        subject.skin.faces[n].normal @ (camera.position - subject.skin.faces[n].corners[0]) < 0 for n in in_sight
    )
    words = f"{words} Dark: a face from behind." if backs else words
    return EyeView(found.pixels, tuple(dots), tuple(marks), words, subject.skin, camera, found.face)
