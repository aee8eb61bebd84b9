"""The subject's skin: each face in space, with its area and twist, and what it hides."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
from shapely import MultiPoint, Polygon

from chalkreel.answers.reel import ReelAnswer
from chalkreel.answers.traced import profile_of
from chalkreel.core.arrays import Array
from chalkreel.core.draft.three_view import Line3
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.face import LEAST_CORNERS, Face, face_of, mirrored
from chalkreel.core.faces.landing import Landing, landings
from chalkreel.core.faces.loft import simplified, stretched
from chalkreel.core.faces.panel import FacePanel, Lay, panel_of
from chalkreel.core.faces.round import Rim, disc, wall
from chalkreel.core.faces.skin import Skin
from chalkreel.core.faces.unrolled import unrolled
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.document.entities import Landmark, Outline, RoundShape, SkinFace
from chalkreel.document.snapshot import Build

# The twin of a face is told by this behind its id.
TWIN = "⇋"
# A face whose corners lie farther off one plane, as a share of its size, is said to be twisted.
TWISTED_SHARE = 0.02
# A round part whose middle lies nearer to the subject's than this share of its size has no twin.
MIDDLE_SHARE = 0.05
# A traced curve is followed within this, mm of the miniature.
WITHIN_MM = 0.05
# Half round a tube it is π / 2 times as far as straight through: what lies farther apart on paper lies beyond the cut.
AROUND = 1.6


@dataclass(frozen=True)
class FaceRow:
    """A face by id: its area in mm² of the miniature, how far it is twisted, or why it is none."""

    id: str
    area_mm2: float = 0.0
    off_mm: float = 0.0
    twisted: bool = False
    problem: str = ""


@dataclass(frozen=True, eq=False)
class Faces:
    """All faces, in mm of the miniature; twins are in the skin, not among the rows.

    `shown` keeps the lines of the three views that were found to be in sight.
    """

    rows: tuple[FaceRow, ...] = ()
    skin: Skin = field(default_factory=lambda: Skin(()))
    shown: dict[object, tuple[Line3, ...]] = field(default_factory=dict, repr=False)
    _hidden: dict[str, frozenset[str]] = field(default_factory=dict, repr=False)
    _panels: dict[str, FacePanel] = field(default_factory=dict, repr=False)

    def pieces(self, key: str) -> tuple[Face, ...]:
        """The flat pieces of one face in order: one, or those of a wall."""
        return tuple(face for face in self.skin.faces if face.key == key)

    def sides(self, face_id: str) -> tuple[Face, ...]:
        """The flat pieces of a face and of its twin."""
        return tuple(face for face in self.skin.faces if face.key in (face_id, face_id + TWIN))

    def panel(self, key: str) -> FacePanel:
        """A face as it lies on paper: as it is, or a wall unrolled."""
        if key not in self._panels:
            pieces = self.pieces(key)
            self._panels[key] = panel_of(pieces[0]) if len(pieces) == 1 else unrolled(pieces)
        return self._panels[key]

    def lay(self, number: int) -> Lay:
        """How a piece of the skin lies on its face's panel."""
        key = self.skin.faces[number].key
        return self.panel(key).lays[number - next(n for n, face in enumerate(self.skin.faces) if face.key == key)]

    def is_across_cut(self, a: Landing, b: Landing) -> bool:
        """Whether a mark from one end to the other runs over the line along which its wall was cut open."""
        flat = np.linalg.norm(self.lay(a.face).flat(a.place) - self.lay(b.face).flat(b.place))
        return bool(flat > AROUND * np.linalg.norm(a.place - b.place))

    def hidden_on(self, reel: ReelAnswer, view: str) -> frozenset[str]:
        """Landmarks that a face stands before on a still."""
        solution = reel.solution
        if solution is None or view not in solution.layout.views or not self.skin.faces:
            return frozenset()
        if view not in self._hidden:
            keys = [m.key for m in solution.scene.landmarks]
            behind = self.skin.hidden(solution.camera(view), solution.points)
            self._hidden[view] = frozenset(key for key, is_behind in zip(keys, behind, strict=True) if is_behind)
        return self._hidden[view]


def solved_faces(build: Build, reel: ReelAnswer) -> Faces:
    """Every face whose landmarks or circles are solved; the others say what they lack."""
    rows: list[FaceRow] = []
    made: list[Face] = []
    for outline in build.all(SkinFace):
        try:
            pieces = pieces_of(build, outline, reel)
        except RefusedError as refusal:
            rows.append(FaceRow(outline.id, problem=str(refusal)))
            continue
        made += pieces
        if outline.twin and _has_twin(build, outline, pieces):
            made += [mirrored(face, outline.id + TWIN) for face in pieces]
        area = sum(face.area_mm2 for face in pieces)
        off = max(float(np.abs(face.off_mm).max()) for face in pieces)
        rows.append(FaceRow(outline.id, area, off, off > TWISTED_SHARE * math.sqrt(area)))
    return Faces(tuple(rows), Skin(tuple(made)))


def _has_twin(build: Build, outline: SkinFace, pieces: tuple[Face, ...]) -> bool:
    """Whether the other side has it too: one that is its own mirror image is there but once."""
    if not outline.landmark_ids:
        corners = np.concatenate([face.corners for face in pieces])
        return abs(float(corners[:, 1].mean())) > MIDDLE_SHARE * float(np.ptp(corners, axis=0).max())
    landmarks = (build.get(Landmark, i) for i in outline.landmark_ids)
    others = [m.mirror_id if m is not None else "" for m in landmarks]
    return all(others) and set(others) != set(outline.landmark_ids)


def face_name(build: Build, key: str) -> str:
    """A face's name; its twin's with "other side"."""
    outline = build.get(SkinFace, key.removesuffix(TWIN))
    name = outline.name if outline is not None else ""
    return f"{name}, other side" if key.endswith(TWIN) else name


def check_corners(reel: ReelAnswer, landmark_ids: tuple[str, ...]) -> None:
    """Refuse corners that make no face, as far as they are solved.

    Raises
    ------
    RefusedError
        They lie on one line, or its sides cross.
    """
    solution = reel.solution
    if solution is not None and all(i in solution.layout.blocks for i in landmark_ids):
        corners = np.array([solution.point(i) for i in landmark_ids])
        face_of("", corners, 2 * corners.mean(axis=0))


def round_the_middle(reel: ReelAnswer, landmark_ids: tuple[str, ...]) -> tuple[str, ...]:
    """Landmarks of a flat in order round it; those inside the outermost ones are left out.

    Raises
    ------
    RefusedError
        Fewer than three are solved, or they lie on one line.
    """
    solution = reel.solution
    known = [i for i in landmark_ids if solution is not None and i in solution.layout.blocks]
    if solution is None or len(known) < LEAST_CORNERS:
        raise RefusedError("Fewer than three of its landmarks are placed: mark them on another still.")
    points = np.array([solution.point(i) for i in known])
    middle = points.mean(axis=0)
    right, up = np.linalg.svd(points - middle)[2][:2]
    hull = MultiPoint([(float(p @ right), float(p @ up)) for p in points - middle]).convex_hull
    if not isinstance(hull, Polygon):
        raise RefusedError("These landmarks lie on one line: a face needs one more beside it.")
    at = {(float(p @ right), float(p @ up)): i for p, i in zip(points - middle, known, strict=True)}
    return tuple(at[corner] for corner in list(hull.exterior.coords)[:-1])


def check_on_face(faces: Faces, reel: ReelAnswer, view: str, marks: tuple[Mark, Mark]) -> None:
    """Refuse a mark whose ends do not lie on one face.

    Raises
    ------
    RefusedError
        The view is not solved, or an end lies on no face or another one.
    """
    solution = reel.solution
    if solution is None or view not in solution.layout.views:
        raise RefusedError("This still is not tied in: mark its landmarks first, or mark on a squared-up still.")
    clicks = np.array([(m.x_px, m.y_px) for m in marks])
    a, b = landings(faces.skin, solution.camera(view), clicks, np.array([m.sigma_px for m in marks]))
    if a is None or b is None:
        raise RefusedError("There is no face behind this. Make one of landmarks round it (W), then mark on it.")
    if faces.skin.faces[a.face].key != faces.skin.faces[b.face].key:
        raise RefusedError("The two ends lie on different faces. Mark what is on each by itself.")
    if faces.is_across_cut(a, b):
        raise RefusedError("Here this part is cut open for its map. Mark what is on either side by itself.")


def pieces_of(build: Build, outline: SkinFace, reel: ReelAnswer) -> tuple[Face, ...]:
    """The flat pieces of a face.

    Raises
    ------
    RefusedError
        It lacks something, in words.
    """
    if outline.outline_ids:
        return _traced(build, outline, reel)
    return (_round if outline.circle_ids else _flat)(build, outline, reel.solution)


def _traced(build: Build, outline: SkinFace, reel: ReelAnswer) -> tuple[Face, ...]:
    """What lies within a traced outline, or the wall from it to another or to its mirror image."""
    traced = [one for i in outline.outline_ids if (one := build.get(Outline, i)) is not None]
    profiles = [profile_of(build, reel, one) for one in traced]
    solution = reel.solution
    assert solution is not None
    middle = solution.points.mean(axis=0)
    if outline.across or len(profiles) > 1:
        return stretched(outline.id, profiles[0], profiles[-1].mirrored() if outline.across else profiles[-1], middle)
    if not profiles[0].closed:
        raise RefusedError("This outline is open: it encloses nothing. Close it, or stretch a wall from it.")
    points = simplified(profiles[0].points, WITHIN_MM)
    return (face_of(outline.id, points, 2 * points.mean(axis=0) - middle),)


def _flat(build: Build, outline: SkinFace, solution: Solution | None) -> tuple[Face, ...]:
    lost = [i for i in outline.landmark_ids if solution is None or i not in solution.layout.blocks]
    if solution is None or lost:
        names = ", ".join(m.name for i in lost[:2] if (m := build.get(Landmark, i)) is not None)
        raise RefusedError(f"Not placed yet: {names}{' and more' if len(lost) > 2 else ''}. Mark it on another still.")
    corners = np.array([solution.point(i) for i in outline.landmark_ids])
    return (face_of(outline.id, corners, _outside(solution, outline, corners), solution.points),)


def _round(build: Build, outline: SkinFace, solution: Solution | None) -> tuple[Face, ...]:
    """The disc or the wall of its circles."""
    lost = [i for i in outline.circle_ids if solution is None or i not in solution.layout.circles]
    if solution is None or lost:
        names = ", ".join(c.name for i in lost if (c := build.get(RoundShape, i)) is not None)
        raise RefusedError(f"Not placed yet: {names}. Mark its rim (O) on a still that is tied in.")
    values = [solution.unknowns.circles[solution.layout.circles[i]] for i in outline.circle_ids]
    rims = [Rim(v[:3], v[3:6], math.exp(v[6])) for v in values]
    if len(rims) > 1:
        return wall(outline.id, *rims)
    seeing = [r.view for r in solution.scene.rims if r.circle in outline.circle_ids and not r.mirrored]
    places = [solution.camera(view).position for view in seeing]
    return (disc(outline.id, rims[0], np.mean(places, axis=0) if places else 2 * rims[0].centre),)


def _outside(solution: Solution, outline: SkinFace, corners: Array) -> Array:
    """Where the cameras stand that its landmarks were marked from; the subject's middle lies the other way."""
    marking = [s.view for s in solution.scene.sightings if s.landmark in outline.landmark_ids]
    counts = {view: marking.count(view) for view in dict.fromkeys(marking)}
    seeing = [view for view, count in counts.items() if count == max(counts.values())]
    places = [solution.camera(view).position for view in seeing]
    return np.asarray(np.mean(places, axis=0) if places else 2 * corners.mean(axis=0))
