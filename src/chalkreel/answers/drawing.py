"""The three-view drawing at the replica's scale, from the solved landmarks, edges and circles."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from chalkreel.answers.faces import Faces
from chalkreel.answers.sizes import Sizes
from chalkreel.core.draft.sheet import Sheet, Words
from chalkreel.core.draft.three_view import Circle3, Line3, Named3, Size3, three_views
from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.faces.frame import frame_of
from chalkreel.core.faces.outlines import shown_pieces, sides_of
from chalkreel.core.lengths import LengthUnit, length_pm
from chalkreel.core.measure.axis import AXES
from chalkreel.document.entities import Dimension, Landmark, SkinFace, Tie
from chalkreel.document.snapshot import Build

Place = tuple[float, float, float]
Progress = Callable[[float], bool]
# The fraction of an inch that a drawing tells: a 64th.
DRAWN_WITHIN_MM = 0.2
# Which side each view of the sheet shows, and how finely what hides is found, mm of the replica.
SIDES_SHOWN = {"side": "port", "top": "top", "front": "bow"}
STEP_MM = 0.25


def three_view(build: Build, sizes: Sizes, faces: Faces, named: tuple[Named3, ...] = ()) -> Sheet:
    """Side, top and front at true size for the replica, with sizes or named places; what faces hide is left out.

    Raises
    ------
    RefusedError
        Nothing is solved yet, or nothing gives the scale.
    """
    reel = sizes.reel
    if reel.solution is None:
        raise RefusedError("Mark the same landmarks on two stills first: a drawing needs their places.")
    if not (reel.solution.scene.rulers or reel.solution.scene.gauges):
        raise RefusedError("Nothing gives the scale yet. Make one known length a ruler.")
    factor = build.chain.convert(1.0, "miniature", "replica")
    places, lines = places_on_replica(build, sizes), _joined(build)
    edges = _edges(lines, places, faces, factor)
    unit = build.info.unit
    asked = () if named else build.all(Dimension)
    drawn = wanted_sizes(asked, sizes, places, unit)
    joined = {i for pair in lines for i in pair} | _on_faces(build)
    loose = tuple(place for key, place in places.items() if key not in joined)
    name = f"{build.info.name}, three views at 1:{build.chain.replica_ratio:.4g}"
    sheet = replace(three_views(name, edges, _circles(sizes, factor), () if named else loose, drawn, named), unit=unit)
    if sizes.reel.leaning:
        x0, y0, _, _ = sheet.bounds()
        said = Words((x0, y0 - 8.0), "Nothing says which way is level: mark an edge along the length.", 3.5)
        sheet = replace(sheet, words=(*sheet.words, said))
    return sheet


def places_on_replica(build: Build, sizes: Sizes) -> dict[str, Place]:
    """Solved landmarks by id, mm of the replica."""
    solution = sizes.reel.solution
    assert solution is not None
    factor = build.chain.convert(1.0, "miniature", "replica")
    found = {}
    for landmark in build.all(Landmark):
        if landmark.id in solution.layout.blocks:
            x, y, z = (float(v) * factor for v in solution.point(landmark.id))
            found[landmark.id] = (x, y, z)
    return found


def _on_faces(build: Build) -> set[str]:
    """Landmarks at the corners of faces, and of their twins."""
    corners = {i for face in build.all(SkinFace) for i in face.landmark_ids}
    return corners | {_twin(build, i) for face in build.all(SkinFace) if face.twin for i in face.landmark_ids}


def prepare_lines(build: Build, sizes: Sizes, faces: Faces, progress: Progress) -> None:
    """Find what faces hide of the three views before anybody looks: it takes longer than a window may stand still.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    if sizes.reel.solution is not None:
        factor = build.chain.convert(1.0, "miniature", "replica")
        _edges(_joined(build), places_on_replica(build, sizes), faces, factor, progress)


def _joined(build: Build) -> tuple[tuple[str, str], ...]:
    """Landmarks joined by an edge, by id, and their twins."""
    lines = {frozenset((t.a_id, t.b_id)): (t.a_id, t.b_id) for t in build.all(Tie)}
    for a, b in tuple(lines.values()):
        twins = _twin(build, a), _twin(build, b)
        if all(twins):
            lines.setdefault(frozenset(twins), twins)
    return tuple(lines.values())


def _edges(
    lines: tuple[tuple[str, str], ...], places: dict[str, Place], faces: Faces, factor: float,
    progress: Progress = lambda _: True,
) -> tuple[Line3, ...]:  # fmt: skip
    """Lines of the drawing in mm of the replica; with faces, what each view shows of them."""
    ends = [(places[a], places[b]) for a, b in lines if a in places and b in places]
    return _shown(ends, faces, factor, progress) if faces.skin.faces else tuple(Line3(a, b) for a, b in ends)


def _shown(ends: list[tuple[Place, Place]], faces: Faces, factor: float, progress: Progress) -> tuple[Line3, ...]:
    """What each view shows of lines in mm of the replica and of the faces' own sides; kept with the faces."""
    key = (tuple(ends), factor)
    if key not in faces.shown:
        faces.shown.clear()
        faces.shown[key] = _found(ends, faces, factor, progress)
    return faces.shown[key]


def _found(ends: list[tuple[Place, Place]], faces: Faces, factor: float, progress: Progress) -> tuple[Line3, ...]:
    found = []
    for view, side in SIDES_SHOWN.items():
        if not progress(-1.0):
            raise StoppedError
        frame = frame_of(faces.skin, side, STEP_MM / factor)
        sides = np.array(sides_of(faces.skin, frame.out)).reshape(-1, 2, 3)
        lines = np.concatenate([np.array(ends).reshape(-1, 2, 3) / factor, sides])
        for piece in shown_pieces(faces.skin, frame, lines):
            a, b = (tuple(float(v) for v in place) for place in frame.to_world(piece.ends) * factor)
            found.append(Line3(a, b, view, piece.outer))  # type: ignore[arg-type]
    return tuple(found)


def _twin(build: Build, landmark_id: str) -> str:
    landmark = build.get(Landmark, landmark_id)
    return landmark.mirror_id if landmark is not None else ""


def _circles(sizes: Sizes, factor: float) -> tuple[Circle3, ...]:
    """Every circle, and its twin where it was marked on the other side."""
    solution = sizes.reel.solution
    assert solution is not None
    found = []
    for circle, values in zip(solution.scene.circles, solution.unknowns.circles, strict=True):
        centre, normal, radius = values[:3] * factor, values[3:6], math.exp(values[6]) * factor
        for sign in sorted({-1.0 if r.mirrored else 1.0 for r in solution.scene.rims if r.circle == circle.key}):
            flip = (1.0, sign, 1.0)
            cx, cy, cz = (float(v) * f for v, f in zip(centre, flip, strict=True))
            nx, ny, nz = (float(v) * f for v, f in zip(normal, flip, strict=True))
            found.append(Circle3((cx, cy, cz), (nx, ny, nz), radius))
    return tuple(found)


def _on_drawing(mm: float, unit: LengthUnit) -> str:
    """A size on the drawing: plain millimetres as drawings have them, or inches with their sign."""
    return f"{mm:.1f}" if unit == "mm" else length_pm(mm, DRAWN_WITHIN_MM, unit)[0]


def wanted_sizes(
    asked: tuple[Dimension, ...], sizes: Sizes, places: dict[str, Place], unit: LengthUnit
) -> tuple[Size3, ...]:
    """Those of the sizes that are ticked as drawn and known."""
    return tuple(size for one in asked if (size := _size(one, sizes, places, unit)) is not None)


def _size(dimension: Dimension, sizes: Sizes, places: dict[str, Place], unit: LengthUnit) -> Size3 | None:
    row = next((r for r in sizes.rows if r.dimension_id == dimension.id), None)
    between = dimension.a_id in places and dimension.b_id in places and not dimension.corner_id
    if not dimension.drawn or row is None or row.replica is None or not between:
        return None
    words = _on_drawing(row.replica.mm * dimension.steps, unit)
    if dimension.steps > 1:
        words = f"{words} = {dimension.steps} × {_on_drawing(row.replica.mm, unit)}"
    along = AXES.index(dimension.along) if dimension.along else None
    return Size3(places[dimension.a_id], places[dimension.b_id], words, along)
